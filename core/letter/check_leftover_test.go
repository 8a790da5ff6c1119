package letter_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// What must be found, between » and «; lines without them must stay quiet.
func TestLeftovers(t *testing.T) {
	lines := []string{
		// found
		"Dear ⟦[Name]⟧,", "Dear ⟦[FIRST NAME]⟧,", "Dear ⟦[First_Name]⟧ ⟦[Last_Name]⟧,", "Dear ⟦<Name>⟧,", "Dear ⟦<<First Name>>⟧,", "Hi ⟦{first name}⟧!",
		"Hi ⟦{name}⟧, how is ⟦{company}⟧?", "Dear ⟦«Vorname»⟧,", "Hello ⟦%FIRSTNAME%⟧,", "Hello ⟦%%name%%⟧", "⟦$NAME$⟧ wrote", "Dear ⟦NAME⟧,", "Dear ⟦First Name⟧,",
		"Hi ⟦FIRST NAME⟧!", "Hello ⟦Firstname⟧,", "Dear ⟦CUSTOMER⟧:", "at ⟦[Company]⟧ we", "for ⟦[[company name]]⟧.", "on ⟦[date]⟧ at ⟦[time]⟧", "see ⟦[insert link]⟧",
		"⟦[insert the date of the event]⟧", "⟦<insert reason>⟧", "⟦[your name]⟧", "⟦[name of the company]⟧", "⟦[contact first name]⟧", "⟦{project name}⟧", "costs ⟦XXX⟧ euros",
		"costs ⟦xxx⟧.", "from ⟦XYZ⟧ Ltd", "on ⟦____⟧ we", "on ⟦______⟧.", "Price: ⟦TBD⟧", "(⟦TBA⟧)", "⟦TODO⟧: check this", "⟦Lorem ipsum⟧ dolor", "⟦insert name here⟧", "⟦Your text here⟧",
		"the answer is ⟦???⟧", "name ⟦........⟧", "⟦[Job Title]⟧ at ⟦[Firma]⟧", "⟦[PRICE]⟧ per year", "⟦[Phone Number]⟧", "⟦{subject}⟧", "Dear ⟦Last Name⟧,",
		"Dear ⟦#name#⟧,", "Dear ⟦##FIRST NAME##⟧,", "at ⟦@@company@@⟧ we", "Hello ⟦~first name~⟧,", "for ⟦^company^⟧.", "Dear ⟦|name|⟧,", "Dear ⟦*|FIRSTNAME|*⟧,", "Dear ⟦|| first name ||⟧,",
		"Hello ⟦**NAME**⟧,", "costs ⟦==price==⟧ a year", "for ⟦++company name++⟧", "⟦§date§⟧ at noon", "Dear ⟦__first_name__⟧,", "on ⟦((date))⟧ at ten", "at ⟦(COMPANY NAME)⟧ we", "Dear ⟦(FIRST NAME)⟧,",
		"Dear ⟦【name】⟧,", "for ⟦「company」⟧", "by ⟦《date》⟧", "Dear ⟦FNAME⟧,", "Hi ⟦VORNAME⟧!", "Hello ⟦CONTACT⟧,", "Dear ⟦KUNDE⟧:",
		// quiet
		"#1 in cold rooms", "C# and F#", "a ~ b ~ c", "about ~10 %", "2^10 is 1024", "a | b | c", "yes|no", "this is **very** cold", "a == b", "C++ and C", "§ 14 and § 15", "snake__case", "((a + b))",
		"(EU)", "(VAT EXTRA)", "(HACCP)", "【1】", "「はい」", "《春》", "Dear ADA Ltd,", "Hi IBM team,", "Hello EU,", "*one* and *two*", "@ada and @bo", "ada@@quill", "use #coldroom today",
		"5 ++ 3", "Dear Sir,", "at [sic] and [...]", "Price: 5 (net)", "Hello you,", "a#b", "##", "~~", "^^", "||", "== ==", "Mind the (gap)", "see ~/files~1", "rock ’n’ roll, O’Neil’s and surveyor's visit",
		"Dear Ada,", "as in [1] and [2]", "He said \"then [sic] it fell\"", "see <https://fernhollow.example/a_b_c>", "write to <ada@quill.example>", "Ada Quill <ada@quill.example>",
		"sizes XL, XXL and L", "HACCP and EU rules apply to NAME brands", "a < b and c > d", "5 < 6 > 2", "100% wool, 20% off", "it is 50% cheaper and 20% colder", "{}", "[x] done, [ ] open",
		"file_name_with_underscores.pdf", "__init__", "snake_case", "wait... what?", "Really?!", "What??", "(see page 3)", "[EU only]", "[link to the past](x)", "$5,000 and $NZ", "costs $NASDAQ",
		"Roman XXIX and XIX", "the todo list", "xylophone", "-----", "Kind regards", "Dear Namesake,", "Dear Sir or Madam,", "Hello Customer Service,", "My name is Ada", "a {b} c", "I'd [really] like to",
		"«Le Moulin» is a dairy", "He works at <Quill & Co>", "R&D [2026]", "https://x.example/?a=%20name%20b", "{{person.first_name}}", "[…]", "Type B here and there", "no one is here",
	}
	found := 0
	for _, line := range lines {
		clean := strings.NewReplacer("⟦", "", "⟧", "").Replace(line)
		var want []string
		for _, part := range strings.Split(line, "⟦")[1:] {
			mark, _, _ := strings.Cut(part, "⟧")
			want = append(want, mark)
		}
		var got []string
		for _, l := range template.Leftovers(clean) {
			got = append(got, l.Text)
			if clean[l.From:l.To] != l.Text {
				t.Errorf("%q: %+v", clean, l)
			}
		}
		if strings.Join(got, "|") != strings.Join(want, "|") {
			t.Errorf("%q: found %q, want %q", clean, got, want)
		}
		found += len(want)
	}
	if len(lines) < 150 || found < 65 {
		t.Errorf("%d lines, %d marks", len(lines), found)
	}
}

func TestLeftovers_inTemplatesAndLetters(t *testing.T) {
	cat := lettertest.Catalogue()
	_, notes := template.Compile(template.Template{Subject: markup.Parse("For [Company]"), Body: markup.Parse("Dear {{person.first_name}},\nsee you on ____ at XYZ.")}, cat)
	if len(notes) != 3 || notes[0].Severity != document.Advises || notes[0].Fixes[0] != "{{company.name}}" || notes[1].Line != 2 || notes[1].Column != 12 || notes[1].Fixes[0] != "{{?words}}" || notes[2].Fixes[0] != "{{?xyz}}" {
		t.Errorf("%+v", notes)
	}
	body := lettertest.Compiled(t, cat, "s", "Dear {{company.name}}").Merge(lettertest.ValuesWith(cat, "company.name", "XYZ"), nil, field.NewReader("en")).Body
	if notes := letter.CheckLetter(document.NewPlain("Hello"), body); len(notes) != 0 {
		t.Errorf("a company called XYZ: %v", notes)
	}
	if notes := letter.CheckLetter(document.NewPlain("Hello"), document.NewPlain("Hello,\n\nDear [Name],")); len(notes) != 1 || notes[0].Line != 3 || notes[0].Code != "leftover" || notes[0].Severity != document.Stops {
		t.Errorf("%v", notes)
	}
}
