package markup_test

import (
	"encoding/json"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

func TestParseJSON_refuses(t *testing.T) {
	for _, row := range []struct{ in, where string }{
		{`{`, "document"},
		{`{"type":"page"}`, "type"},
		{`{"type":"doc","attrs":{"version":9,"body":"plain"}}`, "attrs.version"},
		{`{"type":"doc","attrs":{"version":1,"body":"fancy"}}`, "attrs.body"},
		{`{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"video"}]}`, "content[0]"},
		{`{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"video"}]}]}`, "content[0].content[0]"},
		{`{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"field"}]}]}`, "content[0].content[0]"},
		{`{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"text","text":"a\nb"}]}]}`, "content[0].content[0]"},
		{`{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"text","text":"a","marks":[{"type":"blink"}]}]}]}`, "content[0].content[0]"},
	} {
		_, err := document.ParseJSON([]byte(row.in))
		bad, ok := err.(*document.FormError)
		if !ok || bad.Where != row.where {
			t.Errorf("%s: %v, want a form error at %s", row.in, err, row.where)
		}
	}
	d := markup.Parse("Dear {{person.first_name|you}},\n\nx")
	data, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	back, err := document.ParseJSON(data)
	if err != nil || markup.Print(back) != markup.Print(d) {
		t.Errorf("round trip: %v, %q", err, markup.Print(back))
	}
	if err := document.CheckLetterForm(d); err == nil || document.CheckLetterForm(document.NewPlain("a")) != nil {
		t.Error("a letter with a field was taken, or one without was refused")
	}
}
