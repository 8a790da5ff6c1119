package letter

import (
	"strings"
	"testing"
)

// Codes that were pasted into a formatted body are what they say.
func TestWithCodes(t *testing.T) {
	cat := catalogue()
	bold := []Mark{{Type: Bold}}
	d := Document{Type: Doc, Attrs: DocAttrs{Version: 1, Body: BodyFormatted}, Content: []Node{
		{Type: BulletList, Content: []Node{{Type: ListItem, Content: []Node{{Type: Paragraph, Content: []Node{
			{Type: Text, Text: "Dear {{person.first_name|there}}, {{?reason}} of {{person.frist_name}} and {{person", Marks: bold},
		}}}}}},
		{Type: Paragraph, Content: []Node{{Type: Text, Text: "{{#person.city}}in {{person.city}}{{/person.city}} it’s O'Neil"}}},
	}}
	got := WithCodes(d)
	if err := got.Check(); err != nil {
		t.Fatal(err)
	}
	if strings.Contains(allWords(got.Content), "{{person.first") || !strings.Contains(allWords(got.Content), "it’s O'Neil") {
		t.Errorf("%q", allWords(got.Content))
	}
	if first := got.Content[0].Content[0].Content[0].Content[1]; first.Type != Field || first.Attrs.Fallback != "there" || len(first.Marks) != 1 {
		t.Errorf("%+v", first)
	}
	_, notes := Compile(Template{Subject: WithCodes(Parse("For {{company.name}}")), Body: got}, cat)
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
