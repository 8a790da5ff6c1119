package letter_test

import (
	"encoding/json"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

// A name from the right does not turn a letter that is written from the left.
func TestRenderHTML_valuesDoNotTurn(t *testing.T) {
	body, err := markup.ParseMarkup("<p>{{person.first_name}}, hello</p>")
	if err != nil {
		t.Fatal(err)
	}
	r := lettertest.RecordOf(t, map[string]string{"person.first_name": "أحمد"})
	p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, field.New(nil))
	fresh := p.Merge(r.Values, nil, r.Reader).Body
	stored, err := json.Marshal(fresh)
	if err != nil {
		t.Fatal(err)
	}
	again, err := document.ParseJSON(stored)
	if err != nil {
		t.Fatal(err)
	}
	for name, d := range map[string]document.Document{"fresh": fresh, "stored": again} {
		if got := render.RenderHTML(d, "s"); strings.Contains(got, `dir="rtl"`) || !strings.Contains(got, "أحمد") {
			t.Errorf("%s: %s", name, got)
		}
	}
}
