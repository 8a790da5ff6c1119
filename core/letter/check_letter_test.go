package letter_test

import (
	"encoding/json"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/render"
)

func TestMerge_marksWhatCameFromWhere(t *testing.T) {
	cat := lettertest.Catalogue()
	values := lettertest.Ada(t, cat)
	values.Set("person.last_name", field.Value{Type: field.Text, Text: "Qu\r\nBcc: x@y.example {{person.email}}"})
	l := lettertest.Compiled(t, cat, "For {{person.last_name}}", "Dear {{person.first_name}} {{person.honorific}}").Merge(values, nil, field.NewReader("en"))
	if got, want := render.RenderText(l.Subject), "For Qu  Bcc: x@y.example {{person.email}}"; got != want {
		t.Errorf("subject %q, want %q", got, want)
	}
	got, err := json.Marshal(l.Body.Content)
	if err != nil {
		t.Fatal(err)
	}
	want := `[{"type":"paragraph","content":[{"type":"text","text":"Dear "},` +
		`{"type":"text","marks":[{"type":"merged","attrs":{"path":"person.first_name"}}],"text":"Ada"},{"type":"text","text":" "},` +
		`{"type":"gap","attrs":{"path":"person.honorific","label":"Form of address"}}]}]`
	if string(got) != want {
		t.Errorf("body\n%s\nwant\n%s", got, want)
	}
	if len(l.Gaps) != 1 || l.Gaps[0].Path != "person.honorific" || l.Gaps[0].Line != 1 {
		t.Errorf("gaps %+v", l.Gaps)
	}
	filled := letter.Fill(l.Body, "person.honorific", "Dr Quill")
	if render.RenderText(filled) != "Dear Ada Dr Quill" || len(document.Gaps(filled, filled)) != 0 {
		t.Errorf("filled %q", render.RenderText(filled))
	}
	if len(document.Gaps(l.Subject, l.Body)) != 1 {
		t.Error("Fill changed its input")
	}
}

func TestCheckLetter(t *testing.T) {
	long := strings.Repeat("a", document.MaxSubject+1)
	for _, row := range []struct{ subject, body, want string }{
		{"Cold rooms", "Hello", ""},
		{"", "Hello", "empty"},
		{"a\nb", "Hello", "twolines"},
		{long, "Hello", "toolong"},
		{"Cold rooms", " \n ", "empty"},
		{"Cold rooms", "Dear {{first_name}},", "mark"},
		{"Cold rooms", strings.Repeat("a", document.MaxBody+1), "toolong"},
		{"Cold rooms", "a {{ b", ""},
	} {
		notes := letter.CheckLetter(document.NewPlain(row.subject), document.NewPlain(row.body))
		got := ""
		for _, n := range notes {
			got += n.Code
		}
		if got != row.want {
			t.Errorf("%.20q / %.20q: %v, want %q", row.subject, row.body, notes, row.want)
		}
	}
	gap := document.Document{Content: []document.Node{document.NewParagraph(document.Node{Type: document.GapNode, Attrs: &document.Attrs{Path: "deal.amount", Label: "Amount"}})}}
	if notes := letter.CheckLetter(document.NewPlain("s"), gap); len(notes) != 1 || notes[0].Code != "gap" {
		t.Errorf("gap: %v", notes)
	}
}
