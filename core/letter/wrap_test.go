package letter

import (
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func tree(t testing.TB, src string) document.Document {
	t.Helper()
	d, err := markup.ParseMarkup(src)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func TestWrap(t *testing.T) {
	header, body, footer := tree(t, "<p>Head</p>"), tree(t, "<p>Body</p>"), tree(t, "<p>Foot</p>")
	header.Attrs.Background, header.Attrs.Font, body.Attrs.Font, body.Attrs.Lang = "#f7f4ec", "Georgia", "Verdana", "de"
	whole := Wrap(header, body, footer)
	if render.RenderText(whole) != "Head\n\nBody\n\nFoot" || whole.Attrs.Background != "#f7f4ec" || whole.Attrs.Font != "Verdana" || whole.Attrs.Lang != "de" {
		t.Errorf("%s %+v", render.RenderText(whole), whole.Attrs)
	}
	if got := Wrap(header, markup.Parse("plain"), footer); render.RenderText(got) != "plain" {
		t.Errorf("a plain letter: %s", render.RenderText(got))
	}
	if render.RenderText(body) != "Body" {
		t.Error("the body was changed")
	}
}
