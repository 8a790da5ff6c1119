package field

import (
	"slices"
	"strings"
	"testing"
)

func TestParse(t *testing.T) {
	for _, row := range []struct {
		typ     Type
		in, out string // out "" means refused
		problem string
	}{
		{Text, " Ada ", "Ada", ""},
		{Text, "a\nb", "", "on one line"},
		{Text, "\xff", "", "UTF-8"},
		{Text, strings.Repeat("a", MaxLine), strings.Repeat("a", MaxLine), ""},
		{Text, strings.Repeat("a", MaxLine+1), "", "longer than 1000"},
		{Long, "a\r\nb", "a\nb", ""},
		{Long, strings.Repeat("a", MaxLong+1), "", "longer than 100000"},
		{Number, "-12.50", "-12.50", ""},
		{Number, "0.05", "0.05", ""},
		{Number, "1,5", "", "write it as 1234.5"},
		{Number, "1e9", "", "not a number"},
		{Number, "5.", "", "not a number"},
		{Number, strings.Repeat("9", 19), "", "more than 18 digits"},
		{Money, "12500.00 EUR", "12500.00 EUR", ""},
		{Money, "12500 eur", "12500.00 EUR", ""},
		{Money, "12500 JPY", "12500 JPY", ""},
		{Money, "12500.5 JPY", "", "more than 0 decimals"},
		{Money, "12500", "", "write it as 12500.00 EUR"},
		{Money, "5 XQQ", "", "not an amount"},
		{Date, "2026-03-02", "2026-03-02", ""},
		{Date, "1968-02-29", "1968-02-29", ""},
		{Date, "2026-02-30", "", "write it as 2026-03-02"},
		{Date, "02/03/2026", "", "not a date"},
		{YesNo, "Yes", "true", ""},
		{YesNo, "no", "false", ""},
		{YesNo, "maybe", "", "true or false"},
		{Choice, "NEW", "new", ""},
		{Choice, "old", "", "one of new, improved"},
		{URL, "firm.example/a", "firm.example/a", ""},
		{URL, "javascript:alert(1)", "", "web address"},
	} {
		v, err := Parse(row.typ, row.in, []string{"new", "improved"})
		switch {
		case row.out == "" && (err == nil || !strings.Contains(err.Error(), row.problem)):
			t.Errorf("%s %.30q: %v, want an error with %q", row.typ, row.in, err, row.problem)
		case row.out != "" && (err != nil || v.String() != row.out):
			t.Errorf("%s %.30q: %q, %v, want %.30q", row.typ, row.in, v.String(), err, row.out)
		}
	}
	for _, typ := range []Type{Text, Number, Money, Date, YesNo, Choice, Email} {
		if v, err := Parse(typ, "  ", nil); err != nil || v.Filled() {
			t.Errorf("blank %s: %v, %v", typ, v, err)
		}
	}
	if no, _ := Parse(YesNo, "no", nil); no.Filled() {
		t.Error("a no counts as filled")
	}
	if zero, _ := Parse(Number, "0", nil); !zero.Filled() {
		t.Error("0 counts as empty")
	}
}

// Addresses of RFC 5322 appendix A.1 (its domains are example ones) and A.1.2,
// and of section 3.4.1; bare addresses alone are wanted here.
func TestCheckEmail(t *testing.T) {
	for _, good := range []string{
		"jdoe@machine.example", "mary@example.net", "john.q.public@example.com", "one@y.test", "sysservices@example.net",
		"o'hara+cold@sub.firm.example", strings.Repeat("a", 64) + "@firm.example",
	} {
		if err := CheckEmail(good); err != nil {
			t.Errorf("%s: %v", good, err)
		}
	}
	for _, bad := range []string{
		"", "a", "a@b@c", "a b@firm.example", "a@firm", "@firm.example", "a@", "a@.example", "a@firm..example", "a@-firm.example",
		"John Doe <jdoe@machine.example>", "a@firm.example, b@firm.example", "a@[192.0.2.1]", "a@firm.example\r\nBcc: x@y.example",
		strings.Repeat("a", 65) + "@firm.example", "ü@firm.example", "a@fírm.example", "a@" + strings.Repeat("b", 64) + ".example",
	} {
		if CheckEmail(bad) == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}

func TestCatalogue(t *testing.T) {
	c := New([]Def{{Path: "person.own.vip", Record: Person, Label: "Very important", Type: YesNo, Own: true}})
	for _, path := range []string{"person.first_name", "lead.first_name", "contact.own.vip", "deal.main_contact.email", "deal.main_contact.own.vip", "today", "sender.signature", "lead.created"} {
		if _, ok := c.Find(path); !ok {
			t.Errorf("%s is not there", path)
		}
	}
	for _, path := range []string{"", "person", "person.status", "lead.department", "contact.status", "deal.main_contact.status", "person.Own.vip"} {
		if _, ok := c.Find(path); ok {
			t.Errorf("%s is there", path)
		}
	}
	v := c.NewValues()
	v.Kind = Lead
	v.Set("person.first_name", Of("Ada"))
	v.Set("gone.field", Of("x"))
	if v.Get("lead.first_name").Text != "Ada" || v.Get("contact.first_name").Filled() {
		t.Error("lead.x and contact.x do not follow the kind")
	}
	for _, d := range c.Fields() {
		if ref, _ := c.Find(d.Path); ref.Def.Path != d.Path || ref.Names != d.Record {
			t.Errorf("%s is found as %+v", d.Path, ref)
		}
	}
}

func TestCatalogue_Suggest(t *testing.T) {
	c := New(nil)
	for typed, want := range map[string]string{
		"person.frist_name": "person.first_name", "first_name": "person.first_name", "person.firstname": "person.first_name",
		"person.surname": "", "company.nam": "company.name", "compny.name": "company.name", "deal.amuont": "deal.amount",
		"lead.source_": "lead.source", "person.town": "", "form of address": "person.honorific", "person.expected_close": "deal.close_date",
	} {
		got := c.Suggest(typed, 3)
		if (want == "" && slices.Contains(got, "person.first_name")) || (want != "" && (len(got) == 0 || got[0] != want)) {
			t.Errorf("%s: %v, want %q first", typed, got, want)
		}
	}
}

func TestReader(t *testing.T) {
	date, _ := Parse(Date, "2026-03-02", nil)
	number, _ := Parse(Number, "1234567.50", nil)
	yes, _ := Parse(YesNo, "yes", nil)
	for _, row := range []struct {
		locale string
		v      Value
		as     Form
		want   string
	}{
		{"en-US", date, "", "March 2, 2026"},
		{"en-GB", date, Weekday, "Monday, 2 March 2026"},
		{"de-DE", date, "", "2. März 2026"},
		{"de-DE", MoneyOf(1250000, "EUR"), "", "12.500,00\u00a0€"},
		{"en-GB", MoneyOf(1250000, "EUR"), "", "€12,500.00"},
		{"ja", MoneyOf(12500, "JPY"), "", "￥12,500"},
		{"en-GB", number, "", "1,234,567.5"},
		{"de", number, "", "1.234.567,5"},
		{"de", number, Plain, "1234567.50"},
		{"pl", yes, "", "tak"},
		{"xx", yes, "", "yes"},
		{"", Value{Type: Text, Text: "a\r\nb"}, "", "a  b"},
		{"", Value{}, "", ""},
	} {
		if got := string(NewReader(row.locale).Append(nil, row.v, row.as)); got != row.want {
			t.Errorf("%s %v as %q: %q, want %q", row.locale, row.v, row.as, got, row.want)
		}
	}
}

func TestJunk(t *testing.T) {
	first, city := Def{Path: "person.first_name"}, Def{Path: "person.city"}
	for _, s := range []string{"n/a", "N/A", "-", "--", "...", "?", "test", "Unknown", "(none)", "xxx", "null", "ada@quill.example", "n.n."} {
		if !Junk(first, Of(s)) {
			t.Errorf("%q was taken for a name", s)
		}
	}
	for _, s := range []string{"Ada", "Nana", "Testa", "O", "Jo", "X Æ", "Noone", "Nullmann", "王", "Tess T."} {
		if Junk(first, Of(s)) {
			t.Errorf("%q was not taken for a name", s)
		}
	}
	if Junk(city, Of("a@b")) || Junk(city, Value{}) || Junk(city, Value{Type: Number}) || Junk(city, Value{Type: Choice, Text: "none"}) {
		t.Error("junk where there is none")
	}
}

func TestRepairName(t *testing.T) {
	for _, row := range []struct{ path, in, want string }{
		{"person.first_name", "MARTA", "Marta"}, {"person.first_name", "marta", "Marta"}, {"person.last_name", "mcallister", "McAllister"},
		{"person.last_name", "MCALLISTER", "McAllister"}, {"person.last_name", "o'hara", "O'Hara"}, {"person.first_name", "JEAN-LUC", "Jean-Luc"},
		{"person.last_name", "VAN DER BERG", "van der Berg"}, {"person.last_name", "van der berg", ""}, {"person.last_name", "MacDonald", ""},
		{"person.first_name", "Ada", ""}, {"person.first_name", "J", ""}, {"person.first_name", "王", ""}, {"person.last_name", "ÇELİK", "Çelik"},
		{"person.last_name", "mcgee", "McGee"}, {"person.last_name", "MACH", "Mach"}, {"person.city", "LEEDS", ""}, {"person.full_name", "ada quill", "Ada Quill"},
	} {
		if got, ok := RepairName(Def{Path: row.path}, row.in); got != row.want || ok != (row.want != "") {
			t.Errorf("%s %q: %q, want %q", row.path, row.in, got, row.want)
		}
	}
}

// Numbers that the package's own documentation formats (phonenumbers README and
// its tests, after Google's libphonenumber), and numbers kept free for drama.
func TestReader_phone(t *testing.T) {
	for _, row := range []struct{ locale, in, want string }{
		{"en-US", "+16502530000", "(650) 253-0000"},
		{"de-DE", "+16502530000", "+1 650-253-0000"},
		{"en-GB", "+442079460101", "020 7946 0101"},
		{"fr-FR", "+44 20 7946 0101", "+44 20 7946 0101"},
		{"de", "+493012345678", "030 12345678"},
		{"de", "030 12345678", "030 12345678"},
		{"de", "+49 call me", "+49 call me"},
		{"de", "ext\r\n5", "ext  5"},
	} {
		if got := string(NewReader(row.locale).Append(nil, Value{Type: Phone, Text: row.in}, "")); got != row.want {
			t.Errorf("%s %s: %q, want %q", row.locale, row.in, got, row.want)
		}
	}
}

func TestCompare(t *testing.T) {
	parse := func(typ Type, s string) Value {
		v, err := Parse(typ, s, nil)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	for _, row := range []struct {
		typ    Type
		a, b   string
		order  int
		usable bool
	}{
		{Number, "1", "2", -1, true}, {Number, "1.50", "1.5", 0, true}, {Number, "-1.5", "-1.25", -1, true}, {Number, "-0.5", "0", -1, true},
		{Number, "999999999999999999", "0.00000000000000001", 1, true}, {Number, "0.1", "0.09999999999999999", 1, true},
		{Money, "10 EUR", "9.99 EUR", 1, true}, {Money, "10 EUR", "10.00 EUR", 0, true}, {Money, "10 EUR", "9 USD", 0, false},
		{Date, "2026-03-02", "2026-03-01", 1, true}, {YesNo, "yes", "yes", 0, true}, {YesNo, "no", "yes", -1, true},
		{Text, "Ada", "ADA", 0, true}, {Text, "Ada", "Bo", 1, true}, {Text, "", "Bo", 0, false},
	} {
		order, usable := Compare(parse(row.typ, row.a), parse(row.typ, row.b))
		if order != row.order || usable != row.usable {
			t.Errorf("%s %q and %q: %d, %v", row.typ, row.a, row.b, order, usable)
		}
	}
	if _, usable := Compare(parse(Number, "1"), parse(Text, "1")); usable {
		t.Error("a number was compared with a text")
	}
	if _, usable := Compare(parse(Text, "1"), parse(Number, "1")); usable {
		t.Error("a text was compared with a number")
	}
}
