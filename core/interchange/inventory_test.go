package interchange_test

import (
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestInventoryOf(t *testing.T) {
	key := strings.Repeat("a1", 32)
	for _, row := range []struct {
		kind, src string
		want      interchange.Inventory
	}{
		{document.BodyPlain, "See https://a.example and www.b.example", interchange.Inventory{Links: 2}},
		{document.BodyFormatted, `<p><a href="https://a.example">one <b>link</b></a> and https://b.example</p><button href="https://c.example">Go</button>`, interchange.Inventory{Links: 3}},
		{document.BodyFormatted, `<img src="cid:` + key + `" alt="A"><img src="https://a.example/b.png" alt="" href="https://a.example">`, interchange.Inventory{Links: 1, Pictures: 2}},
		{document.BodyHTML, `<p><a href="https://a.example">x</a> https://b.example <img src="cid:` + key + `" alt=""></p>`, interchange.Inventory{Links: 1, Pictures: 1}},
	} {
		d := markup.ParseHTML(row.src)
		if row.kind != document.BodyHTML {
			var err error
			if d, err = markup.ParseBody(row.src, row.kind); err != nil {
				t.Fatal(err)
			}
		}
		if got := interchange.InventoryOf(d); fmt.Sprint(got) != fmt.Sprint(row.want) {
			t.Errorf("%s: %+v, want %+v", row.src, got, row.want)
		}
		if keys := letter.PictureKeys(render.RenderHTML(d, "") + render.RenderHTML(d, "")); strings.Contains(row.src, "cid:") != (len(keys) == 1 && keys[0] == key) {
			t.Errorf("%s: pictures %v", row.src, keys)
		}
	}
	if got := letter.ShowPictures(`<img src="cid:`+key+`"> cid:x`, "/api/files/"); got != `<img src="/api/files/`+key+`"> cid:x` {
		t.Error(got)
	}
	if markup.PictureKey("cid:"+key+"0") != "" || markup.PictureKey("cid:"+strings.ToUpper(key)) != "" {
		t.Error("no key was taken for one")
	}
}
