// Package sentence reads the sentences of a letter: whether they still read where a value was left
// out, in the closed classes of words of their language, and which lines greet and close.
//
// An empty value may leave words standing that need one: "We met in, near.", "The price is.".
// A letter remembers where something was left out (document.LeftOut). A false alarm keeps
// a good letter from going, so that open classes of words are left in peace.
package sentence

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
)

// brokenPlace is a place where the sentence no longer reads.
type brokenPlace struct {
	part document.Part
	line int    // the block of the document, from 1
	path string // what was left out; "" a doubled word
	text string // a few words around it
	word string // the doubled word
	nth  int    // how many places of the path stand above it in its part
}

// brokenPlaces finds what an empty value, or a value that repeats the word beside it, left of
// a sentence. Lang is the language of the words, "" when it is not known.
func brokenPlaces(d document.Document, lang string) []brokenPlace {
	g := grammars()[lang]
	if g == nil {
		g = &grammar{}
	}
	var out []brokenPlace
	nth := map[string]int{}
	greeted := false // the line before ended like a greeting, so that a small letter may follow
	for _, l := range linesWithMarks(d) {
		for _, p := range l.places {
			if r := (around{g, &l, p, greeted}); r.broken() {
				out = append(out, brokenPlace{line: l.block, path: p.path, text: r.excerpt(), nth: nth[p.path]})
			}
			nth[p.path]++
		}
		out = append(out, l.doubled()...)
		if words := strings.TrimSpace(l.words); words != "" {
			greeted = strings.HasSuffix(words, ",")
		}
	}
	return out
}

// around is a place with what stands before and behind it.
type around struct {
	g       *grammar
	line    *markedLine
	place   place
	greeted bool
}

const (
	ends     = ".,;:!?…"
	openers  = "([{\"“„«‘‚¿¡"
	closers  = ")]}\"”“»’"
	dashes   = "-–—"
	currency = "€$£¥₹₽₺₴₩₪"
)

var units = strings.Fields("m³ m² m3 m2 km cm mm kg g t l °C °F % EUR USD GBP CHF kW kWh €")

func (r around) before() string { return r.line.words[:r.place.at] }
func (r around) after() string  { return r.line.words[r.place.at:] }

// broken tells whether the sentence around the place lacks something.
func (r around) broken() bool {
	before, after := strings.TrimRight(r.before(), " \t"), strings.TrimLeft(r.after(), " \t")
	b, a := lastWord(before), firstWord(after)
	last, _ := utf8.DecodeLastRuneInString(before)
	starts := before == "" || strings.ContainsRune(".!?…", last) && !r.is(b, title)
	closed := after == "" || strings.IndexAny(after, ends+closers) == 0
	switch {
	case r.suffix(before, after):
		return true
	case r.symbols(before, after, b):
		return true
	case starts:
		return r.beginning(a, after)
	case r.place.kind == document.BeforeWord:
		return false // words were put before it since
	case strings.ContainsRune(openers, last):
		return r.is(a, conjunction)
	case last == ':':
		return !closed && (r.is(a, conjunction|preposition) || secondLabel(after))
	case strings.ContainsRune(",;", last):
		return !r.g.serial && r.listItem(a)
	case strings.HasPrefix(after, ","):
		rest := strings.TrimLeft(after[1:], " \t")
		if r.commaList(rest) {
			return true
		}
	}
	return r.joint(b, a, before, closed)
}

// joint looks at the words on both sides.
func (r around) joint(b, a, before string, closed bool) bool {
	if closed && r.is(b, particle) && r.place.kind == document.BehindPassage {
		return false // "Ich rufe Sie an" is whole without the passage
	}
	if closed {
		return r.is(b, preposition|determiner|conjunction|verb|title)
	}
	if r.rangeEnd(b, before) && r.place.kind != document.BehindPassage {
		return true
	}
	switch {
	case r.is(b, preposition) && !r.is(b, conjunction):
		return r.is(a, conjunction|subject) || r.only(a, preposition) || r.only(a, verb)
	case r.is(b, determiner):
		return r.only(a, conjunction) || r.only(a, preposition) || r.only(a, verb) || r.is(a, subject)
	case r.is(b, conjunction):
		return r.only(a, conjunction) || r.only(a, preposition) && r.place.kind != document.BehindPassage && r.joins(b)
	case r.is(b, title):
		return r.is(a, conjunction|verb|preposition)
	case r.is(b, verb):
		return r.only(a, conjunction) && r.joins(a)
	}
	return r.listHead(a)
}

// beginning looks at what now begins a sentence.
func (r around) beginning(a, after string) bool {
	first, size := utf8.DecodeRuneInString(strings.TrimLeft(after, openers))
	switch {
	case a == "" && strings.IndexAny(after, ends) == 0 && r.before() == "" && strings.Trim(after, ends+" ") != "":
		return true
	case strings.ContainsRune(dashes, first) && len(after) > size && unicode.IsDigit(rune(after[size])):
		return true
	case a == "" || !unicode.IsLower(first):
		return false
	case r.place.kind == document.BehindPassage:
		return false
	case r.before() != "" || r.is(a, verb|conjunction|preposition) && !r.is(a, subject|title):
		return true
	}
	return !r.greeted && strings.IndexAny(strings.TrimRight(r.line.words, " "), ".!?") > 0
}

// suffix finds what was written against a value: 's, an ending, a prefix with its hyphen.
func (r around) suffix(before, after string) bool {
	raw := r.before()
	loose := before == "" || before != raw || strings.ContainsRune(openers, lastRune(before))
	next := r.after()
	head := firstToken(next)
	switch {
	case next == "" || next != after:
		// nothing stands against the place
	case !loose:
	case strings.HasPrefix(head, "'") || strings.HasPrefix(head, "’"):
		return utf8.RuneCountInString(strings.Trim(head, "'’"+ends)) <= 2
	case strings.HasPrefix(head, "-") && len(head) > 1 && unicode.IsLetter(firstRune(head[1:])):
		return true
	case strings.Trim(head, ends) == "s":
		return true
	}
	// A prefix: "10–", "l'", "pre-" with nothing behind it.
	last := lastRune(before)
	if raw != before || !strings.ContainsRune(dashes+"'’", last) || strings.HasSuffix(before, " "+string(last)) || before == string(last) {
		return false
	}
	if strings.ContainsRune("'’", last) && strings.HasSuffix(strings.TrimRight(before, "'’"), "s") {
		return false // the customers'
	}
	return !unicode.IsLetter(firstRune(next)) && !unicode.IsDigit(firstRune(next))
}

// symbols finds units, signs of currencies and dashes without their number or side.
func (r around) symbols(before, after, b string) bool {
	token := strings.Trim(firstToken(after), ends+closers)
	digitBefore := unicode.IsDigit(lastRune(before))
	switch {
	case slices.Contains(units, token) && !digitBefore && r.place.kind != document.BehindPassage:
		return true
	case strings.ContainsRune(currency, lastRune(before)) && (b == "" || strings.HasSuffix(before, " "+string(lastRune(before)))) && !unicode.IsDigit(firstRune(after)) && !endsWithNumber(before):
		return true
	case before != "" && strings.ContainsRune(dashes, lastRune(before)) && strings.IndexAny(after, dashes) == 0:
		return true
	case strings.IndexAny(after, dashes) == 0 && len(after) > 1 && r.is(b, preposition|verb) && !strings.HasPrefix(strings.TrimLeft(after, dashes), " "):
		return true
	}
	return false
}

// betweens begin a range whatever stands in it; other words do so before a number.
var betweens = strings.Fields("between zwischen entre tra fra tussen mellan mellem mellom między mezi")

func endsWithNumber(s string) bool {
	s = strings.TrimRight(s, currency+" \u00a0")
	return s != "" && unicode.IsDigit(lastRune(s))
}

// rangeEnd tells whether the word before the place leads to the end of a range that began
// within the line: "from 3 to people".
func (r around) rangeEnd(b, before string) bool {
	froms := r.g.ranges[b]
	if len(froms) == 0 {
		return false
	}
	words := strings.Fields(strings.ToLower(before))
	for i := len(words) - 2; i >= 0 && i >= len(words)-4; i-- {
		if slices.Contains(froms, words[i]) {
			return slices.Contains(betweens, words[i]) || slices.ContainsFunc(words[i+1:len(words)-1], func(w string) bool { return strings.ContainsFunc(w, unicode.IsDigit) })
		}
	}
	return false
}

// listHead tells whether a conjunction before another value follows: "We sell and pine".
func (r around) listHead(a string) bool {
	if !r.listItem(a) {
		return false
	}
	rest := strings.TrimLeft(r.after(), " \t")
	next := r.place.at + len(r.after()) - len(rest) + len(firstToken(rest))
	for next < len(r.line.words) && (r.line.words[next] == ' ' || r.line.words[next] == '\t') {
		next++
	}
	return slices.ContainsFunc(r.line.merged, func(m stretch) bool { return m.from == next })
}

// listItem tells whether a conjunction that joins things stands behind the place.
func (r around) listItem(a string) bool {
	return r.place.kind != document.BehindPassage && r.is(a, conjunction) && r.joins(a)
}

// commaList tells whether a list goes on behind the comma: a value or another empty place,
// and its conjunction: "You asked for, Quill and ash".
func (r around) commaList(rest string) bool {
	at := len(r.line.words) - len(rest)
	for _, m := range r.line.merged {
		if m.from == at {
			next := firstWord(r.line.words[m.to:])
			return r.listItem(next)
		}
	}
	return !r.g.serial && r.listItem(firstWord(rest)) && slices.ContainsFunc(r.line.places, func(p place) bool { return p.at > r.place.at && p.at <= at })
}

// joins tells whether a conjunction joins things, rather than sentences.
func (r around) joins(w string) bool {
	return slices.Contains([]string{"and", "or", "nor", "und", "oder", "sowie", "et", "ou", "ni", "y", "e", "o", "u", "ed", "oppure", "en", "of", "och", "eller", "og", "samt", "i", "oraz", "lub", "albo", "a", "nebo"}, w)
}

func (r around) is(w string, c class) bool { return w != "" && r.g.classes[w]&c != 0 }

// only tells whether a word is of a class and of none that may stand anywhere.
func (r around) only(w string, c class) bool {
	have := r.g.classes[w]
	return w != "" && have&c != 0 && have&^(c|particle) == 0
}

// excerpt gives a few words around the place, of its sentence.
func (r around) excerpt() string {
	before, after := r.line.words[:r.place.at], r.line.words[r.place.at:]
	words := strings.Fields(before)
	from := len(words)
	for from > 0 && from > len(words)-4 && (from == len(words) || !endsSentence(words[from-1])) {
		from--
	}
	space := before[len(strings.TrimRightFunc(before, unicode.IsSpace)):]
	next := strings.Fields(after)
	to := 0
	for to < len(next) && to < 3 && (to == 0 || !endsSentence(next[to-1])) {
		to++
	}
	gap := after[:len(after)-len(strings.TrimLeftFunc(after, unicode.IsSpace))]
	return markup.Clip(strings.TrimSpace(strings.Join(words[from:], " ")+space+gap+strings.Join(next[:to], " ")), 60)
}

func endsSentence(word string) bool { return strings.ContainsAny(word[len(word)-1:], ".!?") }

// doubled finds a word that stands twice since a value begins or ends with it: "on on Monday".
func (l *markedLine) doubled() []brokenPlace {
	var out []brokenPlace
	for _, m := range l.merged {
		before, value, after := l.words[:m.from], l.words[m.from:m.to], l.words[m.to:]
		if end := len(strings.TrimRight(before, " \t")); l.isMerged(end - 1) {
			before = "" // two values that are alike are the record's
		}
		if l.isMerged(m.to + len(after) - len(strings.TrimLeft(after, " \t"))) {
			after = ""
		}
		for _, pair := range [][2]string{{lastToken(before), firstToken(value)}, {lastToken(value), firstToken(after)}} {
			if pair[0] == "" || !sameWord(pair[0], pair[1]) || !strings.ContainsFunc(pair[0], func(r rune) bool { return unicode.IsLetter(r) || strings.ContainsRune(currency+"%", r) }) {
				continue
			}
			out = append(out, brokenPlace{line: l.block, text: pair[0] + " " + pair[1], word: pair[0]})
		}
	}
	return out
}

func (l *markedLine) isMerged(at int) bool {
	return slices.ContainsFunc(l.merged, func(m stretch) bool { return m.from <= at && at < m.to })
}

// sameWord tells whether a word stands twice; "in In Salah" is none.
func sameWord(first, second string) bool {
	return first == second || strings.EqualFold(first, second) && unicode.IsUpper(firstRune(first))
}

// secondLabel tells whether another label follows within a few words: "Price: size: 5 m".
func secondLabel(s string) bool {
	for i, w := range strings.Fields(s) {
		if i > 2 {
			break
		}
		if strings.HasSuffix(w, ":") {
			return true
		}
	}
	return false
}

func firstRune(s string) rune { r, _ := utf8.DecodeRuneInString(s); return r }
func lastRune(s string) rune  { r, _ := utf8.DecodeLastRuneInString(s); return r }

func firstToken(s string) string {
	if words := strings.Fields(s); len(words) > 0 {
		return words[0]
	}
	return ""
}

func lastToken(s string) string {
	if words := strings.Fields(s); len(words) > 0 {
		return words[len(words)-1]
	}
	return ""
}

// firstWord and lastWord give the word beside a place in small letters, without what opens or
// closes brackets; "" when a mark stands there.
func firstWord(s string) string {
	w := strings.ToLower(strings.TrimRight(strings.TrimLeft(firstToken(s), openers), closers+ends))
	return strings.ReplaceAll(w, "’", "'")
}

func lastWord(s string) string {
	w := strings.ToLower(strings.TrimLeftFunc(lastToken(s), func(r rune) bool { return strings.ContainsRune(openers+closers, r) }))
	return strings.ReplaceAll(w, "’", "'")
}

// BrokenNotes are the notes on broken places of a part.
func BrokenNotes(part document.Part, d document.Document, lang string) []document.Note {
	var out []document.Note
	for _, b := range brokenPlaces(d, lang) {
		if slices.ContainsFunc(out, func(n document.Note) bool { return n.Line == b.line && n.Text == b.text }) {
			continue // one note for a sentence
		}
		n := document.Note{Severity: document.Stops, Code: "broken", Part: part, Line: b.line, Column: 1, Text: b.text}
		if b.word != "" {
			n.Code, n.Message = "doubled", fmt.Sprintf("“%s” stands there twice. Take one away.", b.word)
		} else {
			n.Message = fmt.Sprintf("Something was left out, and this no longer reads: “%s” Write it another way.", b.text)
		}
		out = append(out, n)
	}
	return out
}

// LanguageOf guesses the language of a letter's words; what it was set to counts where
// there are too few to tell.
func LanguageOf(body document.Document, words string) string {
	if lang := field.GuessLanguage(words); lang != "" {
		return lang
	}
	return field.Language(body.Attrs.Lang)
}
