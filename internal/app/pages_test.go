package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/testbed"
)

func TestPages(t *testing.T) {
	b := testbed.New(t)
	page, err := b.App.Library.ReadPage(ctx, `<style>p{color:#123456}</style><p>Hello {{person.first_name}}</p><form><script>x</script></form><a href="https://x.example">Go</a>`)
	if err != nil || len(page.Parts) != 3 || page.Parts[0].Shown != "Hello ‹First name›" || len(page.Removed) != 2 || !strings.Contains(page.Shown, `data-part="0"`) {
		t.Fatalf("%+v, %v", page, err)
	}
	if page, err = b.App.Library.SetPagePart(ctx, page.Body, 1, "https://y.example/{{person.email}}"); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.SetPagePart(ctx, page.Body, 9, "x"); err == nil {
		t.Error("a part that is none was set")
	}
	if _, err := b.App.Library.ReadPage(ctx, strings.Repeat("x", document.MaxBody+1)); err == nil {
		t.Error("a page that is too large was read")
	}
	id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Page", Input: library.Input{Subject: "s", Kind: "html", Body: page.Body}})
	m := sent(t, b, b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), id))
	if !strings.Contains(m.HTML, `<p style="color:#123456">Hello Ada</p>`) || !strings.Contains(m.HTML, `<a href="http://letters.fernhollow.example/l/`) || m.Text != "Hello Ada\n\nGo (https://y.example/ada@quill.example)\n" {
		t.Errorf("%s\n%q", m.HTML, m.Text)
	}
}

func TestPictures(t *testing.T) {
	b := testbed.New(t)
	src, err := b.App.Library.AddPicture(ctx, "image/png", []byte("\x89PNG a picture"))
	if err != nil || markup.PictureKey(src) == "" {
		t.Fatal(src, err)
	}
	id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "P", Input: library.Input{Subject: "s", Kind: "formatted", Body: `<img src="` + src + `" alt="A room"><p>Dear</p>`}})
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), id)
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || !strings.Contains(proof.Mail.HTML, library.PicturePath+markup.PictureKey(src)+`"`) {
		t.Fatalf("%s, %v", proof.Mail.HTML, err)
	}
	m := sent(t, b, l)
	if !strings.Contains(m.HTML, "cid:"+markup.PictureKey(src)+"@fernhollow.example") {
		t.Errorf("%s", m.HTML)
	}
	raw, _ := b.Store.Bytes(ctx, l.ID)
	if !strings.Contains(string(raw), "Content-Id: <"+markup.PictureKey(src)+"@fernhollow.example>") || !strings.Contains(string(raw), "multipart/related") {
		t.Errorf("%s", raw)
	}
}
