package interchange_test

import (
	"testing"

	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestWords(t *testing.T) {
	for src, want := range map[string]string{
		"Dear {{person.first_name}},\n{{! note }}\n{{#deal.amount}}\nYour offer{{/deal.amount}} {{?why}}": "Dear …,\n\n\nYour offer …",
		"{{fixed}}\nas it is\n{{/fixed}}\n{{fixed}}legal{{/fixed}} {{{bad}}}":                             "as it is\nlegal ",
	} {
		if got := render.Words(markup.Parse(src)); got != want {
			t.Errorf("%q: %q, want %q", src, got, want)
		}
	}
	d, err := markup.ParseMarkup(`<h1>Hello {{person.first_name}}</h1>{{#deal.amount}}<ul><li><p>one <b>two</b></p></li></ul>{{/deal.amount}}<button href="https://x.example">Go</button>`)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := render.Words(d), "Hello …\n\n- one two\n\nGo (https://x.example)"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	page, _, err := interchange.ImportHTML(`<html><head><style>p{color:red}</style><title>no</title></head><body><p>Hello {{person.first_name}}, <b>you</b></p></body></html>`)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := render.Words(page), "Hello …, you"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
}
