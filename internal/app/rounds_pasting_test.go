package app_test

import (
	"strings"
	"testing"

	"lucidletter/internal/app/rounds"
	"lucidletter/internal/testbed"
)

func TestRound_pasted(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 4)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}, {{?offer: choice low | high}} {{?day: date}} {{person.city}}"), people...)
	paste := func(table string, apply bool) rounds.Pasted {
		t.Helper()
		p, err := b.App.Rounds.Paste(ctx, b.Rep, s.ID, table, nil, apply)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	table := "Email;Offer;Day;Company city;City\np0@quill.example;low;2026-04-01;Hull;Leeds\nP1@quill.example;none;2026-04-01;;York\np0@quill.example;high;;;\nnobody@quill.example;low;;;\n;low;;;"
	p := paste(table, false)
	if p.Rows != 5 || p.Matched != 2 || p.Left != 3 || len(p.Wrong) != 1 || p.Lacking != 2 || !strings.Contains(p.Wrong[0], "Row 3 (P1@quill.example), Offer") {
		t.Errorf("%+v", p)
	}
	if g := roundNow(t, b, s.ID).Groups; g.Gap != 4 {
		t.Errorf("only looking filled something: %s", g)
	}
	paste(table, true)
	if g := roundNow(t, b, s.ID).Groups; g.Gap != 3 || g.Ready != 1 {
		t.Errorf("%s", g)
	}
	byName := paste("Name\tOffer\nP2 Quill\thigh\nQuill\tlow", true)
	if byName.Matched != 1 || byName.Left != 1 {
		t.Errorf("%+v", byName)
	}
	// What names nobody, or fills nothing, is shown, so that the columns can be chosen.
	if p := paste("Offer\nlow\nhigh", true); p.Who != "" || p.Filled != 0 || p.Left != 2 {
		t.Errorf("%+v", p)
	}
	if p := paste("Email;Price\np0@quill.example;4", true); p.Who != "Email" || p.Filled != 0 || p.Columns[1].Path != "" {
		t.Errorf("%+v", p)
	}
	if _, err := b.App.Rounds.Paste(ctx, b.Rep, s.ID, "Email;Offer", nil, true); err == nil {
		t.Error("a table without rows was taken")
	}
}

// What a pasted table says is counted as what it fills, whoever wrote the table.
func TestRound_pastedOddities(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 6)
	if _, err := b.App.Records.ChangeValues(ctx, b.Rep, people[0], map[string]string{"person.city": ""}, map[string]string{"person.city": "Leeds"}); err != nil {
		t.Fatal(err)
	}
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}, {{?day: date}} {{?share: number}} {{?words: text}} {{person.city|there}}"), people...)
	paste := func(table string, columns map[string]string) (rounds.Pasted, error) {
		return b.App.Rounds.Paste(ctx, b.Rep, s.ID, table, columns, false)
	}
	for name, c := range map[string]struct {
		table        string
		columns      map[string]string
		filled, rows int
		wrong, known int
		fails        bool
	}{
		"a date and a share as table programs write them": {"Email\tDay\tShare\np0@quill.example\t31.12.2026\t20 %\np1@quill.example\t1/13/2026\t12,5%", nil, 4, 2, 0, 0, false},
		"a field that no letter has":                      {"Email;Country\np0@quill.example;France", nil, 0, 1, 0, 0, false},
		"a record that has a value":                       {"Email;City\np0@quill.example;York\np1@quill.example;Hull", nil, 1, 2, 0, 1, false},
		"two columns of one name: the first":              {"Email;Words;Words\np0@quill.example;a;b", nil, 1, 1, 0, 0, false},
		"two columns of one name: the second was chosen":  {"Email;Words;Words\np0@quill.example;a;b", map[string]string{"Words": "", "Words (2)": "?words"}, 1, 1, 0, 0, false},
		"two columns for one blank":                       {"Email;Words;Words\np0@quill.example;a;b", map[string]string{"Words": "?words", "Words (2)": "?words"}, 0, 0, 0, 0, true},
		"a cell that begins with a quotation mark":        {"Email\tWords\np0@quill.example\t\"The Larder\" Ltd\np1@quill.example\t\"unclosed\np2@quill.example\tc\np3@quill.example\tend\"", nil, 4, 4, 0, 0, false},
		"quoted cells with lines and commas":              {"Email,Words\n\"p0@quill.example\",\"one, two\"\np1@quill.example,d", nil, 2, 2, 0, 0, false},
		"a column of addresses with another name, chosen": {"Mail;Who\np0@quill.example;hello", map[string]string{"Who": "?words"}, 1, 1, 0, 0, false},
		"the column that tells who it is, chosen":         {"Other;Contact\np1@quill.example;P0 Quill", map[string]string{"Contact": "who", "Other": "?words"}, 1, 1, 0, 0, false},
		"an impossible date":                              {"Email;Day\np0@quill.example;31.2.2026", nil, 0, 1, 1, 0, false},
		"a date that can be read as two":                  {"Email;Day\np0@quill.example;3/4/2026", nil, 0, 1, 1, 0, false},
		"old line ends":                                   {"Email;Words\rp0@quill.example;a\rp1@quill.example;b", nil, 2, 2, 0, 0, false},
	} {
		p, err := paste(c.table, c.columns)
		if (err != nil) != c.fails || p.Filled != c.filled || p.Rows != c.rows || len(p.Wrong) != c.wrong || p.Known != c.known {
			t.Errorf("%s: %+v, %v", name, p, err)
		}
	}
	if p, err := paste("Email;Day\np0@quill.example;31.12.2026", nil); err != nil || p.Wrong == nil {
		t.Error(p, err)
	}
}
