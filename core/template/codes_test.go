package template_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// Codes that were pasted into a formatted body are what they say.
func TestWithCodes(t *testing.T) {
	cat := lettertest.Catalogue()
	bold := []document.Mark{{Type: document.Bold}}
	d := document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: 1, Body: document.BodyFormatted}, Content: []document.Node{
		{Type: document.BulletList, Content: []document.Node{{Type: document.ListItem, Content: []document.Node{{Type: document.Paragraph, Content: []document.Node{
			{Type: document.Text, Text: "Dear {{person.first_name|there}}, {{?reason}} of {{person.frist_name}} and {{person", Marks: bold},
		}}}}}},
		{Type: document.Paragraph, Content: []document.Node{{Type: document.Text, Text: "{{#person.city}}in {{person.city}}{{/person.city}} it’s O'Neil"}}},
	}}
	got := markup.WithCodes(d)
	if err := got.Check(); err != nil {
		t.Fatal(err)
	}
	if strings.Contains(lettertest.AllWords(got.Content), "{{person.first") || !strings.Contains(lettertest.AllWords(got.Content), "it’s O'Neil") {
		t.Errorf("%q", lettertest.AllWords(got.Content))
	}
	if first := got.Content[0].Content[0].Content[0].Content[1]; first.Type != document.Field || first.Attrs.Fallback != "there" || len(first.Marks) != 1 {
		t.Errorf("%+v", first)
	}
	_, notes := template.Compile(template.Template{Subject: markup.WithCodes(markup.Parse("For {{company.name}}")), Body: got}, cat)
	codes := ""
	for _, n := range notes {
		codes += n.Code + " "
	}
	if codes != "unknown malformed " {
		t.Errorf("%s%v", codes, notes)
	}
	if d.Content[1].Content[0].Text != "{{#person.city}}in {{person.city}}{{/person.city}} it’s O'Neil" {
		t.Error("the input was changed")
	}
}
