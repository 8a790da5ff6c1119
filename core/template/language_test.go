package template_test

import (
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

func TestMerge_onlyWhen(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en-GB")
	values.Set("today", field.Value{Type: field.Date, Units: 20514}) // 2026-03-02
	for _, row := range []struct{ in, want string }{
		{"{{#person.first_name}}yes{{/person.first_name}}", "yes"},
		{"{{#person.city}}yes{{/person.city}}no", "no"},
		{"{{^person.city}}none{{/person.city}}", "none"},
		{"{{#deal.amount >= 10000 EUR}}big{{/deal.amount}}", "big"},
		{"{{#deal.amount >= 12500.00 EUR}}big{{/deal.amount}}", "big"},
		{"{{#deal.amount < 12500 EUR}}small{{/deal.amount}}", ""},
		{"{{#deal.amount > 1 USD}}dollars{{/deal.amount}}", "‹Only when Amount›"},
		{"{{^deal.amount > 1 USD}}no dollars{{/deal.amount}}", "‹Only when Amount›"},
		{"{{#deal.own.volume = 1234.50}}same{{/deal.own.volume}}", "same"},
		{"{{#deal.own.volume != 7}}other{{/deal.own.volume}}", "other"},
		{"{{#deal.close_date = today}}today{{/deal.close_date}}", "today"},
		{"{{#deal.close_date < today+30}}soon{{/deal.close_date}}", "soon"},
		{"{{#deal.close_date < today-1}}past{{/deal.close_date}}", ""},
		{"{{#deal.close_date >= 2026-03-03}}later{{/deal.close_date}}", ""},
		{`{{#person.first_name = "ada"}}Ada{{/person.first_name}}`, "Ada"},
		{`{{#person.first_name in (Bo, "Ada")}}one of them{{/person.first_name}}`, "one of them"},
		{"{{#person.city = Leeds}}Leeds{{/person.city}}{{#person.city != Leeds}}elsewhere{{/person.city}}", "elsewhere"},
		{"{{#deal.amount != 1 USD}}other{{/deal.amount}}", "other"},
		{"{{#lead.status = new}}lead{{/lead.status}}", ""},
		{"a{{#person.first_name}} {{#company.name}}b{{/company.name}}{{/person.first_name}}", "a b"},
		{"x\n{{#person.first_name}}\n one\n\n two\n{{/person.first_name}}\ny", "x\n one\n\n two\ny"},
		{"x\n  {{#person.city}}  \none\n{{/person.city}}\ny", "x\ny"},
		{"x\n{{#person.city}}\none\n{{/person.city}}", "x\n"},
		{"a {{#person.first_name}}b\nc{{/person.first_name}} d", "a b\nc d"},
		{"{{fixed}}\nLegal line, {{person.first_name}}.\n{{/fixed}}\nx", "Legal line, Ada.\nx"},
		{"a {{fixed}}b{{/fixed}} c", "a b c"},
		{"Dear {{#person.honorific}}{{person.honorific}} {{/person.honorific}}Quill,", "Dear Quill,"},
	} {
		l := lettertest.Compiled(t, cat, "x", row.in).Merge(values, nil, reader)
		if got := render.RenderText(l.Body); got != row.want {
			t.Errorf("%q: got %q, want %q", row.in, got, row.want)
		}
	}
}

func TestMerge_blanks(t *testing.T) {
	cat := lettertest.Catalogue()
	src := "{{?reason}} {{?reason: text \"Why now?\"}}\n{{?build: choice new | improved | better = new}}\n{{?visit: date}}\nPS: {{?ps: long optional}}\n{{?host: colleague}} at {{?host.email}}"
	p := lettertest.Compiled(t, cat, "{{?n: number}} rooms", src)
	want := "reason text Why now? [] false ; build choice  [new improved better] false new; visit date  [] false ; ps long  [] true ; host colleague  [] false ; "
	got := ""
	for _, b := range p.Blanks()[1:] {
		got += fmt.Sprintf("%s %s %s %v %v %s; ", b.Name, b.Kind, b.Hint, b.Choices, b.Optional, b.Default)
	}
	if got != want || p.Blanks()[0].Name != "n" {
		t.Errorf("blanks\n%s\nwant\n%s", got, want)
	}
	reader := field.NewReader("en-GB")
	l := p.Merge(cat.NewValues(), nil, reader)
	if got := render.RenderText(l.Body); got != "‹Reason› ‹Reason›\nnew\n‹Visit›\n‹Host› at ‹Host›" {
		t.Errorf("unfilled: %q", got)
	}
	if g := l.Gaps; len(g) != 5 || g[1].Path != "?reason" || g[1].Count != 2 || g[1].Hint != "Why now?" || g[2].Type != field.Date || g[4].Path != "?host.email" {
		t.Errorf("gaps %+v", l.Gaps)
	}
	day, err := field.Parse(field.Date, "2026-03-02", nil)
	if err != nil {
		t.Fatal(err)
	}
	l = p.Merge(cat.NewValues(), template.Blanks{
		"reason": field.Of("warm"), "visit": day, "n": field.Value{Type: field.Number, Units: 3}, "host": field.Of("Greta Holm"), "host.email": field.Of("greta@fernhollow.example"),
		"ps": {Type: field.Long, Text: "two\nlines"},
	}, reader)
	if got := render.RenderText(l.Body); got != "warm warm\nnew\n2 March 2026\nPS: two\nlines\nGreta Holm at greta@fernhollow.example" || render.RenderText(l.Subject) != "3 rooms" || len(l.Gaps) != 0 {
		t.Errorf("filled: %q %q %v", got, render.RenderText(l.Subject), l.Gaps)
	}
}

func TestCompile_languageNotes(t *testing.T) {
	cat := lettertest.Catalogue()
	for _, row := range []struct{ in, want, contains string }{
		{"a\n{{#person.city}}b", "2:1 malformed", "never closed"},
		{"{{/person.city}}", "1:1 malformed", "closes nothing"},
		{"{{#person.city}}{{/person.email}}{{/person.city}}", "1:17 malformed", "closes nothing"},
		{"{{#person.city}}{{#person.email}}{{/person.city}}", "1:17 malformed", "never closed"},
		{"{{#person.cty}}x{{/person.cty}}", "1:1 unknown", "person.city"},
		{"{{#person.city > 3}}x{{/person.city}}", "1:1 condition", "neither a number"},
		{"{{#deal.amount > many}}x{{/deal.amount}}", "1:1 condition", "write it like 20000 or €20,000"},
		{"{{#deal.stage = swimming}}x{{/deal.stage}}", "1:1 condition", "is not one of first talk"},
		{"{{#deal.close_date < soon}}x{{/deal.close_date}}", "1:1 condition", "is not a date"},
		{"{{#person.city in ()}}x", "1:1 malformed", "is empty"},
		{"{{#}}", "1:1 malformed", "is not a condition"},
		{"{{?}}", "1:1 malformed", "not the name of a blank"},
		{"{{?x: colour}}", "1:1 malformed", "is not a kind of blank"},
		{"{{?x: choice one}}", "1:1 malformed", "two or more"},
		{"{{?x: text}} {{?x: date}}", "1:14 blank", "is a text elsewhere"},
		{"{{?x: text}} {{?x.email}}", "1:14 blank", "is not a colleague"},
		{"{{?x.shoe}}", "1:1 blank", "A colleague has no shoe"},
		{"{{?x: date = soon}}", "1:1 blank", "The default of x"},
		{"{{?x: text something}}", "1:1 malformed", "cannot be read here"},
		{"{{?x.email: text}}", "1:1 malformed", "stands with its name alone"},
		{"{{>greeting}}", "1:1 passage", "no passage with the shortcut greeting"},
		{"{{deal.status}}", "1:1 unknown", "deal.status does not exist on a deal; did you mean lead.status"},
		{strings.Repeat("{{#person.city}}", document.MaxNesting+1) + strings.Repeat("{{/person.city}}", document.MaxNesting), "1:513 malformed", "deeper than 32"},
	} {
		_, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.Parse(row.in)}, cat)
		if len(notes) != 1 {
			t.Errorf("%.60q: %v", row.in, notes)
			continue
		}
		if got := fmt.Sprintf("%d:%d %s", notes[0].Line, notes[0].Column, notes[0].Code); got != row.want || !strings.Contains(notes[0].Message, row.contains) {
			t.Errorf("%.60q: %s (%s), want %s with %q", row.in, got, notes[0].Message, row.want, row.contains)
		}
	}
	deep := strings.Repeat("{{#person.first_name}}", document.MaxNesting) + "x" + strings.Repeat("{{/person.first_name}}", document.MaxNesting)
	if got := render.RenderText(lettertest.Compiled(t, cat, "s", deep).Merge(lettertest.Ada(t, cat), nil, field.NewReader("en")).Body); got != "x" {
		t.Errorf("nested %d deep: %q", document.MaxNesting, got)
	}
}

// Work grows with the size and not with its square: what is scanned and read is
// counted by the pieces, and hostile texts of a megabyte are read in a blink,
// or the test runs into its time limit.
func TestParse_hostileSizes(t *testing.T) {
	for _, unit := range []string{"{", "}", "{{", "{{{", "{{!", "{{a\\", "{{#a}}", "{{/a}}", "{{a|", "\\", "{{?a: choice ", "{{a}} ", "{{^a}}\n", "\n", "{{fixed}}\n"} {
		src := strings.Repeat(unit, document.MaxBody/2/len(unit))
		d := markup.Parse(src)
		if again := markup.Print(d); len(again) < len(src)/4 {
			t.Errorf("%q: %d bytes of %d came back", unit, len(again), len(src))
		}
	}
}

// The short way against the long one, on the generated templates with every
// policy and with values left out.
func TestAppendBody_isRenderTextOfMerge(t *testing.T) {
	cat := lettertest.Catalogue()
	reader := field.NewReader("de")
	for seed := range uint64(3000) {
		tmpl, data := generated(seed)
		policy := []string{"", "|", "|word"}
		tmpl = strings.NewReplacer("{{person.city}}", "{{person.city|}}", "{{person.job_title}}", "{{person.job_title"+policy[seed%3]+"}}", "{{person.country}}", "{{deal.amount|}} {{?x: text optional}}").Replace(tmpl)
		values := cat.NewValues()
		values.Kind = field.Contact
		for name, v := range data["person"].(map[string]any) {
			values.Set("person."+name, field.Of(v.(string)))
		}
		p, _ := template.Compile(template.Template{Subject: markup.Parse("{{person.last_name|x}} {{person.city|}}"), Body: markup.Parse(tmpl)}, cat)
		l := p.Merge(values, nil, reader)
		want := strings.NewReplacer("‹First name›", "", "‹Last name›", "", "‹City›", "", "‹Job title›", "", "‹Country›", "").Replace(render.RenderText(l.Body))
		got, gaps := p.AppendBody([]byte("before "), values, nil, reader, safehtml.AsText)
		if string(got) != "before "+want {
			t.Fatalf("seed %d: %q:\n got %q\nwant %q", seed, tmpl, got, want)
		}
		open := 0
		for _, g := range document.Gaps(document.NewPlain(""), l.Body) {
			open += g.Count
		}
		if missing := p.Missing(values, nil); gaps != open || len(missing) != len(l.Gaps) {
			t.Fatalf("seed %d: %d gaps, %d in the letter; missing %v", seed, gaps, open, missing)
		}
		subject, _ := p.AppendSubject(nil, values, nil, reader)
		if string(subject) != render.RenderText(l.Subject) {
			t.Fatalf("seed %d: subject %q, %q", seed, subject, render.RenderText(l.Subject))
		}
	}
}
