package letter

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"lucidletter/core/field"
)

// Every condition is written so that it is read again the same.
func FuzzReadCondition(f *testing.F) {
	for _, s := range []string{"deal.amount", "deal.amount >= 10000 EUR", "deal.stage in (quoted, \"a, b\")", "a=b", "a != \"x\\\"y\"", "a < today-3", "a in ( )", "a <", "a >= = b", "a in (b,,c)", `a = "\\"`} {
		f.Add(s, false)
		f.Add(s, true)
	}
	f.Fuzz(func(t *testing.T, s string, not bool) {
		n, err := readCondition(s, not)
		if err != nil || strings.ContainsAny(s, "\n\r\x00") {
			return
		}
		text := printCondition(n.Attrs)
		again, err := readCondition(text, not)
		if err != nil || !reflect.DeepEqual(n, again) {
			t.Fatalf("%q is %+v, written %q: %+v, %v", s, n.Attrs, text, again.Attrs, err)
		}
	})
}

// randomLine makes the pieces of a random line: words, values, gaps and what was left
// out, some of them bold.
func randomLine(r *rand.Rand) []filled {
	words := []string{"Dear ", " ", ", ", ".", "your ", " room", "(", ")", " – ", ": ", "Closing date: ", "“", "”", "oak", "!", "  ", "-", "and so on"}
	var out []filled
	for range 1 + r.IntN(8) {
		p := filled{}
		if r.IntN(3) == 0 {
			p.marks = []Mark{{Type: Bold}}
		}
		switch r.IntN(6) {
		case 0, 1, 2:
			p.text = words[r.IntN(len(words))]
		case 3:
			p.text, p.path = []string{"Ada", " two  spaces ", ",", "(x)", "Ünal–Öz"}[r.IntN(5)], "person.city"
		case 4:
			p.gap = &Attrs{Path: "person.city"}
		default:
			p.left = true
		}
		out = append(out, p)
	}
	return out
}

func textOfPieces(list []filled) string {
	var b strings.Builder
	for _, p := range list {
		if p.gap != nil {
			b.WriteString("‹›")
		}
		b.WriteString(p.text)
	}
	return b.String()
}

// What tidying may do: values and gaps stay, word for word and in their order; of
// the rest only space and marks go; nothing is added; a line on which nothing was
// left out stays as it was.
func TestTidy_properties(t *testing.T) {
	valued := func(list []filled) []string {
		out := []string{}
		for _, p := range list {
			if p.path != "" || p.gap != nil {
				out = append(out, fmt.Sprint(p.text, p.gap != nil, p.marks))
			}
		}
		return out
	}
	letters := func(list []filled) string {
		return strings.Map(func(r rune) rune {
			if strings.ContainsRune(" \t,.;:!?()[]{}\"“”‘’«»–—-|/·", r) {
				return -1
			}
			return r
		}, textOfPieces(list))
	}
	for seed := range uint64(40000) {
		in := randomLine(rand.New(rand.NewPCG(seed, 2)))
		left := slices.ContainsFunc(in, func(p filled) bool { return p.left })
		out, keep := tidy(slices.Clone(in))
		if !keep {
			if slices.ContainsFunc(in, func(p filled) bool { return p.gap != nil || p.path != "" && p.text != "" }) || !left {
				t.Fatalf("seed %d: %q went as a whole", seed, textOfPieces(in))
			}
			continue
		}
		a, b := textOfPieces(in), textOfPieces(out)
		switch {
		case !slices.Equal(valued(in), valued(out)):
			t.Fatalf("seed %d: values %q became %q in %q", seed, valued(in), valued(out), b)
		case !left && a != b:
			t.Fatalf("seed %d: nothing was left out, and %q became %q", seed, a, b)
		case len(b) > len(a):
			t.Fatalf("seed %d: %q grew to %q", seed, a, b)
		case letters(in) != letters(out):
			t.Fatalf("seed %d: words of %q are gone in %q", seed, a, b)
		}
	}
}

// where tells how a browser's parser takes a sign that stands in a page: in text,
// in an attribute of which name, or otherwise.
func where(t *testing.T, page, sign string) string {
	t.Helper()
	z := html.NewTokenizer(strings.NewReader(page))
	raw := ""
	for {
		switch kind := z.Next(); kind {
		case html.ErrorToken:
			return "otherwise"
		case html.StartTagToken, html.SelfClosingTagToken, html.EndTagToken:
			if kind == html.EndTagToken && strings.Contains(string(z.Raw()), sign) {
				return "not looked at" // whose attributes are not looked at
			}
			twice := strings.Contains(string(z.Raw()), sign)
			tok := z.Token()
			if strings.Contains(tok.Data, sign) {
				return "otherwise"
			}
			for _, a := range tok.Attr {
				if strings.Contains(a.Key, sign) {
					return "otherwise"
				}
				if strings.Contains(a.Val, sign) {
					return "attribute " + a.Key
				}
			}
			if twice {
				return "not looked at" // an attribute that is given again does not count
			}
			raw = ""
			if kind == html.StartTagToken && slices.Contains(rawElements, tok.Data) {
				raw = tok.Data
			}
		case html.TextToken:
			if !strings.Contains(string(z.Text()), sign) {
				continue
			}
			switch raw {
			case "":
				return "text"
			case "title", "textarea":
				return "attribute title" // treated alike
			}
			return "otherwise"
		}
	}
}

// The place that the compiler finds for a value, against the HTML tokenizer of
// golang.org/x/net (HTML standard, section 13.2.5): on random pages, what is taken
// as text or as a quoted attribute is that for the parser, too.
func TestHTMLPlaces_againstTheTokenizer(t *testing.T) {
	const sign = "zqsignqz"
	parts := []string{"<p>", "</p>", "words ", "<a href=\"", "https://x.example/", "?q=", "\">", "<p title='", "'>", "<b class=", " ", ">", "<", "<!--", "-->", "<script>", "</script>", "<style>", "</style>",
		"<title>", "</title>", "\"", "'", "=", "<img src=\"", "\" alt=\"", "/>", "&amp;", "<!DOCTYPE html>", "\n", "a<b", "<textarea>", "</textarea>", "<p onclick=\"", "<!-->", "<?x>", "</", "<br/>", "<a x=y/href=\"", "<a b/href=\"", " href =\"", "<A HREF=\"", "<img/src='"}
	counted := map[string]int{}
	for seed := range uint64(60000) {
		r := rand.New(rand.NewPCG(seed, 5))
		var before strings.Builder
		for range r.IntN(9) {
			before.WriteString(parts[r.IntN(len(parts))])
		}
		after := []string{"", "\">", "'>", "</p>", "-->"}[r.IntN(5)]
		var s htmlState
		s.words(before.String())
		place := s.place()
		if place == unsafePlace {
			continue // refused, whatever it is
		}
		// The page is closed in every way, so that the parser does not give up.
		page := before.String() + sign + after + "\"'><!-- --></title></textarea></script></style>"
		got := where(t, page, sign)
		counted[got]++
		attr, isAttr := strings.CutPrefix(got, "attribute ")
		switch {
		case got == "not looked at" && place != inText:
		case place == inText && got != "text",
			place == inAttr && (!isAttr || slices.Contains(urlAttrs, attr) || strings.HasPrefix(attr, "on") || attr == "style"),
			place > inAttr && (!isAttr || !slices.Contains(urlAttrs, attr)):
			t.Fatalf("seed %d: place %d of %q is for the parser: %s", seed, place, page, got)
		}
	}
	if counted["text"] < 1000 || counted["attribute href"] < 500 || counted["attribute title"] < 300 {
		t.Errorf("the pages try too little: %v", counted)
	}
}

// A value is never merged twice, in no kind of body and in no place.
func TestMerge_valuesAreNotRead(t *testing.T) {
	cat := catalogue()
	v := cat.NewValues()
	v.Kind = field.Lead
	evil := "{{person.last_name}} {{#person.city}}x{{/person.city}} {{{x}}} {{! c }} \\{{"
	v.Set("person.city", field.Of(evil))
	v.Set("person.last_name", field.Of("SECRET"))
	for kind, src := range map[string]string{
		BodyPlain:     "{{person.city}}\n({{person.city}})",
		BodyFormatted: `<h1>{{person.city}}</h1><p><a href="https://x.example/{{person.city}}">{{person.city}}</a></p>`,
		BodyHTML:      `<p title="{{person.city}}">{{person.city}}</p><a href="{{person.city}}">x</a>`,
	} {
		d, err := ParseBody(src, kind)
		if err != nil {
			t.Fatal(err)
		}
		p, notes := Compile(Template{Subject: Parse("{{person.city}}"), Body: d}, cat)
		if Stopping(notes) {
			t.Fatal(notes)
		}
		l := p.Merge(v, nil, field.NewReader("en"))
		text, _ := p.AppendBody(nil, v, nil, field.NewReader("en"), AsHTML)
		all := RenderText(l.Subject) + RenderText(l.Body) + RenderHTML(l.Body, RenderText(l.Subject)) + string(text)
		if strings.Contains(all, "SECRET") || len(l.Gaps) > 0 {
			t.Errorf("%s: a value was merged again: %s", kind, all)
		}
		// And a letter with such words does not go without being looked at.
		if notes := CheckLetter(NewPlain("s"), l.Body); kind != BodyHTML && !Stopping(notes) {
			t.Errorf("%s: braces in a letter went unnoticed", kind)
		}
	}
}
