package letter_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

func TestCheckLetter_slips(t *testing.T) {
	codes := func(subject, body string) string {
		var out []string
		for _, n := range letter.CheckLetter(document.NewPlain(subject), document.NewPlain(body)) {
			out = append(out, n.Code)
		}
		return strings.Join(out, " ")
	}
	for _, body := range []string{"Dear,\n\nWe met.", "Dear Mr,\nWe met.", "Sehr geehrte Frau,\nwir", "Cher,\nOui", "Estimada:\nHola", "Hello Ms.,\nyes", "Kære,\nja", "Caro,\nsì"} {
		if got := codes("Hello", body); got != "greeting" {
			t.Errorf("%q: %q", body, got)
		}
	}
	for _, body := range []string{"Hello,\n\nWe met.", "Dear Ada,\nWe met.", "Dear all,\nWe", "Hi!\nYes", "Chef,\nyes", "Bonjour,\nOui", "Dear is the word,\nshe said", "See it: here; there, and so on: :-) ok", "Quill Inc., a firm", "At 10:30, we open", "https://a.example/,x", "What?!", "C++::x"} {
		if got := codes("Hello", body); got != "" {
			t.Errorf("%q: %q", body, got)
		}
	}
	for _, text := range []string{"Dahlgren Flowers:, a question", "so,, yes", "the price: , and", "yes;: no"} {
		if got := codes(text, "Words."); got != "marks" {
			t.Errorf("%q: %q", text, got)
		}
	}
}

// What a left-out value leaves of two marks is one.
func TestTidy_marks(t *testing.T) {
	cat := lettertest.Catalogue()
	for in, want := range map[string]string{
		"{{company.name}}:{{person.city|}}, a question":  "Quill: a question",
		"{{company.name}}, {{person.city|}}: a question": "Quill: a question",
		"{{company.name}}; {{person.city|}}, yes":        "Quill, yes",
		"{{company.name}} {{person.city|}}, yes":         "Quill, yes",
	} {
		l := lettertest.Compiled(t, cat, "s", in).Merge(lettertest.ValuesWith(cat, "company.name", "Quill"), nil, field.NewReader("en"))
		if got := render.RenderText(l.Body); got != want {
			t.Errorf("%q: %q, want %q", in, got, want)
		}
	}
}

// An amount in another currency than that of the condition stops the letter.
func TestCondition_otherCurrency(t *testing.T) {
	cat := lettertest.Catalogue()
	p := lettertest.Compiled(t, cat, "s", "Dear all,\n{{#deal.amount >= \"€20,000\"}}\nLarge.\n{{/deal.amount}}\n{{#deal.amount > 20000}}\nAny.\n{{/deal.amount}}")
	for amount, want := range map[string]string{"25000.00 EUR": "Dear all,\nLarge.\nAny.\n", "100.00 EUR": "Dear all,\n", "25000.00 GBP": "Dear all,\n‹Only when Amount›\nAny.\n"} {
		v := cat.NewValues()
		v.Kind = field.Contact
		money, err := field.Parse(field.Money, amount, nil)
		if err != nil {
			t.Fatal(err)
		}
		v.Set("deal.amount", money)
		l := p.Merge(v, nil, field.NewReader("en"))
		if got := render.RenderText(l.Body); got != want {
			t.Errorf("%s: %q", amount, got)
		}
		if stopped := strings.Contains(want, "‹"); stopped != (len(letter.CheckLetter(document.NewPlain("s"), l.Body)) > 0) || stopped != (len(p.Missing(v, nil)) > 0) {
			t.Errorf("%s: %v %v", amount, letter.CheckLetter(document.NewPlain("s"), l.Body), p.Missing(v, nil))
		}
	}
}

// A deal that the wording can do without is not needed.
func TestFits_withoutDeal(t *testing.T) {
	cat := lettertest.Catalogue()
	for body, want := range map[string]bool{
		"For {{deal.name|}} yes": false, "For {{deal.name|your room}}": false, "{{#deal.amount}}\nx\n{{/deal.amount}}": false, "For {{deal.name}}": true, "{{#deal.amount}}{{deal.amount}}{{/deal.amount}} y": true,
	} {
		if p := lettertest.Compiled(t, cat, "s", body); p.NeedsDeal() != want {
			t.Errorf("%q: %v", body, p.NeedsDeal())
		}
	}
}

// A line that announces a list of which nothing is left stops the letter.
func TestMerge_announcedList(t *testing.T) {
	cat := lettertest.Catalogue()
	plain := "Here is what I noted:\n\n- Role: {{person.job_title|}}\n- City: {{person.city|}}\n\nIs that right?"
	for city, want := range map[string]string{"": "Here is what I noted: ‹The list›\n\nIs that right?", "York": "Here is what I noted:\n\n- City: York\n\nIs that right?"} {
		v := lettertest.ValuesWith(cat, "person.city", city)
		if got := render.RenderText(lettertest.Compiled(t, cat, "s", plain).Merge(v, nil, field.NewReader("en")).Body); got != want {
			t.Errorf("%q: %q", city, got)
		}
		body, err := markup.ParseMarkup("<p>Here is what I noted:</p><ul><li><p>City: {{person.city|}}</p></li></ul><p>Is that right?</p>")
		if err != nil {
			t.Fatal(err)
		}
		p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
		if gaps := p.Merge(v, nil, field.NewReader("en")).Gaps; (len(gaps) == 1) != (city == "") {
			t.Errorf("%q formatted: %+v", city, gaps)
		}
	}
}
