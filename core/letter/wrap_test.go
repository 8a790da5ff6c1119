package letter

import (
	"fmt"
	"strings"
	"testing"
)

func tree(t testing.TB, src string) Document {
	t.Helper()
	d, err := ParseMarkup(src)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func TestWrap(t *testing.T) {
	header, body, footer := tree(t, "<p>Head</p>"), tree(t, "<p>Body</p>"), tree(t, "<p>Foot</p>")
	header.Attrs.Background, header.Attrs.Font, body.Attrs.Font, body.Attrs.Lang = "#f7f4ec", "Georgia", "Verdana", "de"
	whole := Wrap(header, body, footer)
	if RenderText(whole) != "Head\n\nBody\n\nFoot" || whole.Attrs.Background != "#f7f4ec" || whole.Attrs.Font != "Verdana" || whole.Attrs.Lang != "de" {
		t.Errorf("%s %+v", RenderText(whole), whole.Attrs)
	}
	if got := Wrap(header, Parse("plain"), footer); RenderText(got) != "plain" {
		t.Errorf("a plain letter: %s", RenderText(got))
	}
	if RenderText(body) != "Body" {
		t.Error("the body was changed")
	}
}

func TestInventoryOf(t *testing.T) {
	key := strings.Repeat("a1", 32)
	for _, row := range []struct {
		kind, src string
		want      Inventory
	}{
		{BodyPlain, "See https://a.example and www.b.example", Inventory{Links: 2}},
		{BodyFormatted, `<p><a href="https://a.example">one <b>link</b></a> and https://b.example</p><button href="https://c.example">Go</button>`, Inventory{Links: 3}},
		{BodyFormatted, `<img src="cid:` + key + `" alt="A"><img src="https://a.example/b.png" alt="" href="https://a.example">`, Inventory{Links: 1, Pictures: 2}},
		{BodyHTML, `<p><a href="https://a.example">x</a> https://b.example <img src="cid:` + key + `" alt=""></p>`, Inventory{Links: 1, Pictures: 1}},
	} {
		d := ParseHTML(row.src)
		if row.kind != BodyHTML {
			var err error
			if d, err = ParseBody(row.src, row.kind); err != nil {
				t.Fatal(err)
			}
		}
		if got := InventoryOf(d); fmt.Sprint(got) != fmt.Sprint(row.want) {
			t.Errorf("%s: %+v, want %+v", row.src, got, row.want)
		}
		if keys := PictureKeys(RenderHTML(d, "") + RenderHTML(d, "")); strings.Contains(row.src, "cid:") != (len(keys) == 1 && keys[0] == key) {
			t.Errorf("%s: pictures %v", row.src, keys)
		}
	}
	if got := ShowPictures(`<img src="cid:`+key+`"> cid:x`, "/api/files/"); got != `<img src="/api/files/`+key+`"> cid:x` {
		t.Error(got)
	}
	if PictureKey("cid:"+key+"0") != "" || PictureKey("cid:"+strings.ToUpper(key)) != "" {
		t.Error("no key was taken for one")
	}
}
