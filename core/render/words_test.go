package render_test

import (
	"strings"
	"testing"

	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestMend_keepsWordsOfTemplates(t *testing.T) {
	d := markup.Parse("Dear {{person.first_name|there}},\n{{#deal.amount}}\nso {{?when: date}}\n{{/deal.amount}}\nit’s O'Neil’s")
	got := render.RenderText(markup.Mend(d))
	for _, want := range []string{"Dear {{person.first_name|there}},", "so {{?when: date}}", "it’s O'Neil’s"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q lacks %q", got, want)
		}
	}
}
