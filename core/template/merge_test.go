package template_test

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

func TestMerge(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en-GB")
	for _, row := range []struct{ name, body, want string }{
		{"value", "Dear {{person.first_name}},", "Dear Ada,"},
		{"space inside braces", "{{ person.first_name }}", "Ada"},
		{"contact path", "{{contact.last_name}}", "Quill"},
		{"lead path on a contact is missing", "{{lead.first_name|there}}", "there"},
		{"fallback not needed", "{{person.first_name|there}}", "Ada"},
		{"fallback", "in {{person.city|your town}}", "in your town"},
		{"fallback keeps its signs", `{{person.city|a\|b \}\} \"c\" \\}}`, `a|b }} "c" \`},
		{"money", "{{deal.amount}}", "€12,500.00"},
		{"money plain", "{{deal.amount as plain}}", "12500.00 EUR"},
		{"date", "{{deal.close_date}}", "2 March 2026"},
		{"date short", "{{deal.close_date as short}}", "02/03/2026"},
		{"date weekday", "{{deal.close_date as weekday}}", "Monday, 2 March 2026"},
		{"number", "{{deal.own.volume}} m³", "1,234.5 m³"},
		{"long value brings lines", "{{sender.signature}}", "Imre\nFernhollow"},
		{"comment", "a{{! not for her }}b", "ab"},
		{"comment alone on its line", "a\n{{! note\nof two lines }}\nb", "a\nb"},
		{"escaped", `\{{person.first_name}}`, "{{person.first_name}}"},
		{"backslash before a field", `\\{{person.first_name}}`, `\Ada`},
		{"brace before a field", `\{{{person.first_name}}`, "{Ada"},
		{"line ends", "a\r\nb\rc", "a\nb\nc"},
		{"gap", "Dear {{person.honorific}},", "Dear ‹Form of address›,"},
	} {
		l := lettertest.Compiled(t, cat, "x", row.body).Merge(values, nil, reader)
		if got := render.RenderText(l.Body); got != row.want {
			t.Errorf("%s: got %q, want %q", row.name, got, row.want)
		}
	}
}

// The rows of the table in tidy.go, and what practice adds. {} is a value left
// out, {x} the value "X".
func TestTidy(t *testing.T) {
	cat := lettertest.Catalogue()
	values := cat.NewValues()
	values.Kind = field.Lead
	values.Set("person.last_name", field.Of("X"))
	for _, row := range []struct{ in, want string }{
		{"cold room ({}) for you", "cold room for you"},
		{"cold room “{}” for you", "cold room for you"},
		{"cold room ({}, {}) for you", "cold room for you"},
		{"cold room ({x}, {}) for you", "cold room (X) for you"},
		{"cold room ({}, {x}) for you", "cold room (X) for you"},
		{"Dear {},", "Dear,"},
		{"Dear {} {},", "Dear,"},
		{"Dear {} {x},", "Dear X,"},
		{"Dear {x} {},", "Dear X,"},
		{"Principal {},", "Principal,"},
		{"We met today {}.", "We met today."},
		{"your {} cold room", "your cold room"},
		{"{}, thank you", "thank you"},
		{"{} thank you", "thank you"},
		{"See you in {}", "See you in"},
		{"It stands in Leeds, {}.", "It stands in Leeds."},
		{"a, {}, b and so on", "a, b and so on"},
		{"We have oak, ash, elm, {}", "We have oak, ash, elm"},
		{"Kind regards, {}", "Kind regards,"},
		{"Ada Quill – {}", "Ada Quill"},
		{"{x} – {}", "X"},
		{"Closing date: {}", ""},
		{"Closing date: {}.", ""},
		{"- Closing date: {}", ""},
		{"Closing date: {x} {}", "Closing date: X"},
		{"We have one question: {}", ""},
		{"{} {}", ""},
		{"- {}", ""},
		{"First.\n\n{}\n\nLast.", "First.\n\nLast."},
		{"First.\n{}\nLast.", "First.\nLast."},
		{"Are you there {}?", "Are you there?"},
		{"no value, nothing  touched", "no value, nothing  touched"},
		{"{x}  two spaces of her own {}", "X  two spaces of her own"},
		{"done. {}.", "done."},
		{"wait... {}. Then", "wait... Then"},
	} {
		src := strings.NewReplacer("{}", "{{person.city|}}", "{x}", "{{person.last_name}}").Replace(row.in)
		l := lettertest.Compiled(t, cat, "x", src).Merge(values, nil, field.NewReader("en"))
		if got := render.RenderText(l.Body); got != row.want {
			t.Errorf("%q: got %q, want %q", row.in, got, row.want)
		}
	}
}

func TestCompile_notes(t *testing.T) {
	cat := lettertest.Catalogue()
	for _, row := range []struct {
		name, subject, body string
		want                string // place and code
		contains            string
		fix                 string
	}{
		{"unclosed", "s", "Dear\nHello {{person.first_name, how", "body 2:7 malformed", "closing }} is missing", ""},
		{"unclosed before another", "s", "{{person.first_name {{company.name}}", "body 1:1 malformed", "closing }}", ""},
		{"empty", "s", "{{ }}", "body 1:1 malformed", "no field between", ""},
		{"three braces", "s", "{{{person.first_name}}}", "body 1:1 malformed", "use two", ""},
		{"ampersand", "s", "{{&person.first_name}}", "body 1:1 malformed", "leave it out", ""},
		{"delimiters", "s", "{{=<% %>=}}", "body 1:1 malformed", "cannot be changed", ""},
		{"not a field", "s", "{{first name}}", "body 1:1 malformed", "more than a field", ""},
		{"strange sign", "s", "{{person.förname}}", "body 1:1 malformed", "is not a field", ""},
		{"slip", "s", "é {{person.frist_name|x}}", "body 1:3 unknown", "person.first_name", "{{person.first_name|x}}"},
		{"short name", "s", "{{first_name}}", "body 1:1 unknown", "person.first_name", "{{person.first_name}}"},
		{"by its label", "s", "{{person.form_of_address}}", "body 1:1 unknown", "person.honorific", "{{person.honorific}}"},
		{"nothing like it", "s", "{{zzz.qqqqqq}}", "body 1:1 unknown", "pick one from the list", ""},
		{"in the subject", "For {{person.nam}}", "b", "subject 1:5 unknown", "There is no field person.nam", ""},
		{"wrong form", "s", "{{deal.close_date as pretty}}", "body 1:1 form", "use short, medium", "{{deal.close_date as short}}"},
		{"form of a text", "s", "{{person.city as short}}", "body 1:1 form", "leave that out", "{{person.city}}"},
		{"two lines", "a\nb", "b", "subject 1:2 twolines", "one line", ""},
		{"long subject", strings.Repeat("a", document.MaxSubject+1), "b", "subject 1:1 toolong", "998", ""},
		{"lead and deal", "s", "{{deal.amount}} {{lead.status|}}", "body 1:17 kinds", "lead.status does not exist on a deal, and deal.amount needs one; did you mean deal.stage?", "{{deal.stage|}}"},
		{"lead and contact", "{{lead.first_name}}", "{{contact.since}}", "subject 1:1 kinds", "did you mean person.first_name?", "{{person.first_name}}"},
		{"lead and contact, nothing alike", "s", "{{contact.since}}\n{{#lead.source}}x{{/lead.source}}", "body 2:1 kinds", "Take one of the two out", ""},
		{"too many", "s", strings.Repeat("{{person.city}}", document.MaxFields+1), "body 1:7501 toomany", "500", ""},
	} {
		_, notes := template.Compile(template.Template{Subject: markup.Parse(row.subject), Body: markup.Parse(row.body)}, cat)
		if len(notes) != 1 {
			t.Errorf("%s: notes %v", row.name, notes)
			continue
		}
		n := notes[0]
		if got := fmt.Sprintf("%s %d:%d %s", n.Part, n.Line, n.Column, n.Code); got != row.want || !strings.Contains(n.Message, row.contains) {
			t.Errorf("%s: got %s (%s), want %s with %q", row.name, got, n.Message, row.want, row.contains)
		}
		if row.fix != "" && (len(n.Fixes) == 0 || n.Fixes[0] != row.fix) {
			t.Errorf("%s: fixes %q, want %q first", row.name, n.Fixes, row.fix)
		}
	}
	for _, ok := range []string{strings.Repeat("a", document.MaxSubject), "", "{{person.first_name}}"} {
		if _, notes := template.Compile(template.Template{Subject: markup.Parse(ok), Body: markup.Parse("b")}, cat); len(notes) != 0 {
			t.Errorf("subject of %d bytes: %v", len(ok), notes)
		}
	}
}

func TestProgram_Fits(t *testing.T) {
	cat := lettertest.Catalogue()
	for body, want := range map[string][]field.Record{
		"{{person.first_name}}":              {field.Lead, field.Contact, field.Deal},
		"{{lead.status}}":                    {field.Lead},
		"{{contact.since}}":                  {field.Contact, field.Deal},
		"{{deal.amount}}":                    {field.Deal, field.Contact},
		"{{deal.main_contact.first_name}}":   {field.Deal, field.Contact},
		"{{sender.first_name}} {{today}}":    {field.Lead, field.Contact, field.Deal},
		"{{lead.status}} {{company.name|x}}": {field.Lead},
	} {
		if got := lettertest.Compiled(t, cat, "s", body).Fits(); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, want %v", body, got, want)
		}
	}
}

// The property: printing what was read and reading it again gives the same
// tree, and merging never fails.
func FuzzParsePrint(f *testing.F) {
	for _, s := range []string{"a{{b}}c", `\{{x}}`, `\\{{person.city|}}`, "{{{x}}}", "{{!\n}}", `{{a|b\}}}`, "{", `\{{{x}}`, "{{a as b|c}}", "x{{y", "{\\", "{{{{x}}", "{{#a}}\nb\n{{/a}}", "a {{#a = b}}\n{{/a}}c", "{{fixed}}x{{/fixed}}", "{{?a: choice b | c optional \"d\" = e}}", "{{?a.b}}", "{{#a in (b, \"c d\")}}{{/a}}"} {
		f.Add(s)
	}
	cat := lettertest.Catalogue()
	values, reader := cat.NewValues(), field.NewReader("en")
	f.Fuzz(func(t *testing.T, src string) {
		d := markup.Parse(src)
		text := markup.Print(d)
		again := markup.Parse(text)
		if !reflect.DeepEqual(strip(d), strip(again)) {
			t.Fatalf("%q printed as %q:\n%+v\n%+v", src, text, strip(d), strip(again))
		}
		p, _ := template.Compile(template.Template{Body: d, Subject: d}, cat)
		l := p.Merge(values, nil, reader)
		if strings.Contains(render.RenderText(l.Subject), "\n") && len(l.Subject.Content) == 1 {
			t.Fatal("a line break came into the subject")
		}
	})
}

// strip forgets the places, in which two readings may differ.
func strip(d document.Document) []string {
	var out []string
	for _, p := range d.Content {
		data, _ := json.Marshal(p) // places are not exported
		out = append(out, string(data))
	}
	return out
}
