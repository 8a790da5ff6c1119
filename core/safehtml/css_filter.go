package safehtml

import (
	"regexp"
	"slices"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"lucidletter/core/markup"
)

// The narrow CSS filter: of a style sheet rules and @media blocks stay, of
// declarations the safe properties below. There are no imports, no expressions,
// no scripts, no addresses but http, https, cid and pictures in the text, and no
// positions that cover something. The grammar is that of CSS Syntax Module
// Level 3.

// safeProperties are what a page of a letter may set; a property that begins
// with one of safePrefixes is safe, too.
var (
	safeProperties = strings.Fields(`color background opacity display visibility float clear width height max-width min-width max-height min-height
		box-sizing direction unicode-bidi line-height letter-spacing word-spacing word-break word-wrap white-space hyphens vertical-align table-layout
		caption-side empty-cells outline object-fit color-scheme supported-color-schemes -webkit-text-size-adjust -ms-text-size-adjust -webkit-font-smoothing
		-ms-interpolation-mode -premailer-width -premailer-cellpadding -premailer-cellspacing content gap order cursor position`)
	safePrefixes = strings.Fields("background- border margin padding font text- list-style overflow mso- v-text- flex align- justify- column- -webkit-border-")

	UnsafeCSS    = regexp.MustCompile(`(?i)expression|javascript|vbscript|behavior|-moz-binding|@import|</`)
	cssAddress   = regexp.MustCompile(`(?i)^url\(\s*["']?(https?://[^"'()\s]*|cid:[^"'()\s]*|data:image/(?:png|gif|jpeg|webp);base64,[A-Za-z0-9+/=]*)["']?\s*\)$`)
	safePosition = []string{"static", "relative"}
)

// removals counts what was taken out of a page, by what it was.
type removals map[string]int

// filterCSS gives what of a style sheet is safe: whole rules, and @media blocks of
// them. What is not closed at the end of the sheet is closed.
func filterCSS(src string, out removals) string {
	f := cssFilter{p: css.NewParser(parse.NewInputString(src), false), out: out}
	for f.next() {
	}
	if f.skip == 0 {
		f.endRule()
	}
	f.endMedia()
	return f.done.String()
}

type cssFilter struct {
	p         *css.Parser
	out       removals
	done      strings.Builder
	rules     strings.Builder // of the block that is open
	media     string          // of the block that is open
	selectors []string        // of the rule that is open
	words     strings.Builder // its declarations
	depth     int
	skip      int // the depth at which skipping began
}

func (f *cssFilter) next() bool {
	kind, _, data := f.p.Next()
	switch kind {
	case css.ErrorGrammar:
		if !f.p.HasParseError() {
			return false // the end of the sheet
		}
		f.out["a style that cannot be read"]++
	case css.AtRuleGrammar:
		f.out[markup.Clip(string(data), 30)]++
	case css.BeginAtRuleGrammar:
		f.depth++
		media := strings.TrimSpace(cssWords(f.p.Values()))
		if f.skip == 0 && (string(data) != "@media" || f.media != "" || !mediaForm.MatchString(media)) {
			f.out[markup.Clip(string(data), 30)]++
			f.skip = f.depth
		}
		if f.skip == 0 {
			f.endMedia() // the rules so far
			f.media = media
		}
	case css.EndAtRuleGrammar:
		if f.skip == 0 {
			f.endMedia()
		}
		f.leave()
	case css.QualifiedRuleGrammar:
		f.selectors = append(f.selectors, cssWords(f.p.Values()))
	case css.BeginRulesetGrammar:
		f.depth++
		f.selectors = append(f.selectors, cssWords(f.p.Values()))
	case css.EndRulesetGrammar:
		if f.skip == 0 {
			f.endRule()
		}
		f.leave()
	case css.DeclarationGrammar, css.CustomPropertyGrammar:
		if f.skip == 0 {
			f.words.WriteString(safeDeclaration(string(data), cssWords(f.p.Values()), f.out))
		}
	}
	return true
}

func (f *cssFilter) leave() {
	if f.skip == f.depth {
		f.skip = 0
	}
	f.depth--
	f.selectors = nil
	f.words.Reset()
}

var selectorForm = regexp.MustCompile(`^[^{}<;@\\]+$`)

func (f *cssFilter) endRule() {
	for i, s := range f.selectors {
		f.selectors[i] = strings.TrimSpace(s)
	}
	selector := strings.Join(f.selectors, ",")
	if f.words.Len() > 0 && selectorForm.MatchString(selector) && !slices.Contains(f.selectors, "") && balancedSelector(selector) && !slowSelector.MatchString(selector) && !UnsafeCSS.MatchString(selector) {
		f.rules.WriteString(selector + "{" + strings.TrimSuffix(f.words.String(), ";") + "}\n")
	}
	f.selectors = nil
	f.words.Reset()
}

// slowSelector looks into all that stands inside of every element.
var slowSelector = regexp.MustCompile(`(?i):(has|haschild|contains|containsown|matches|matchesown)\b`)

func balancedSelector(s string) bool {
	return balanced(strings.NewReplacer("[", "(", "]", ")").Replace(s))
}

func (f *cssFilter) endMedia() {
	switch rules := f.rules.String(); {
	case rules == "":
	case f.media != "":
		f.done.WriteString("@media " + f.media + "{" + rules + "}\n")
	default:
		f.done.WriteString(rules)
	}
	f.media = ""
	f.rules.Reset()
}

// filterStyle gives what of the declarations of a style attribute is safe.
func filterStyle(src string, out removals) string {
	var b strings.Builder
	p := css.NewParser(parse.NewInputString(src), true)
	for {
		kind, _, data := p.Next()
		switch kind {
		case css.ErrorGrammar:
			if !p.HasParseError() {
				return strings.TrimSuffix(b.String(), ";")
			}
			out["a style that cannot be read"]++
		case css.DeclarationGrammar, css.CustomPropertyGrammar:
			b.WriteString(safeDeclaration(string(data), cssWords(p.Values()), out))
		}
	}
}

func cssWords(tokens []css.Token) string {
	var b strings.Builder
	for _, t := range tokens {
		switch t.TokenType {
		case css.CommentToken, css.CDOToken, css.CDCToken:
		default:
			b.Write(t.Data)
		}
	}
	return b.String()
}

// safeDeclaration writes one declaration, or nothing.
func safeDeclaration(property, value string, out removals) string {
	property, value = strings.ToLower(strings.TrimSpace(property)), strings.TrimSpace(value)
	plain := strings.ToLower(strings.TrimSpace(strings.TrimSuffix(strings.ToLower(value), "!important")))
	known := slices.Contains(safeProperties, property) || slices.ContainsFunc(safePrefixes, func(p string) bool { return strings.HasPrefix(property, p) })
	switch {
	case !known,
		UnsafeCSS.MatchString(value), strings.ContainsAny(value, "<>\\{}"),
		property == "position" && !slices.Contains(safePosition, plain),
		property == "content" && !strings.HasPrefix(plain, "\"") && !strings.HasPrefix(plain, "'") && plain != "none",
		!balanced(value), !safeFunctions(value):
		out["the style "+markup.Clip(property, 30)]++
		return ""
	}
	return property + ":" + value + ";"
}

var cssString = regexp.MustCompile(`"[^"]*"|'[^']*'`)

// balanced tells whether every string and bracket of a value ends within it.
func balanced(value string) bool {
	bare := cssString.ReplaceAllString(value, "")
	return !strings.ContainsAny(bare, "\"'") && strings.Count(bare, "(") == strings.Count(bare, ")") && !strings.ContainsAny(bare, "[]")
}

var (
	cssFunction  = regexp.MustCompile(`(?i)([a-z-]+)\(`)
	cssURL       = regexp.MustCompile(`(?i)url\([^)]*\)`)
	safeFunction = strings.Fields("url rgb rgba hsl hsla calc min max clamp linear-gradient radial-gradient")
)

func safeFunctions(value string) bool {
	for _, m := range cssFunction.FindAllStringSubmatch(value, -1) {
		if !slices.Contains(safeFunction, strings.ToLower(m[1])) {
			return false
		}
	}
	for _, u := range cssURL.FindAllString(value, -1) {
		if !cssAddress.MatchString(u) {
			return false
		}
	}
	return true
}
