package mail

import (
	"bytes"
	"encoding/base64"
	"io"
	"mime"
	"mime/multipart"
	netmail "net/mail"
	"strings"
	"testing"

	"lucidletter/internal/domain"
)

// parts reads an email with the standard library: the tree of its parts, and the
// bytes of those that are no multipart by their name or Content-ID.
func parts(t *testing.T, raw []byte) (tree string, files map[string]string) {
	t.Helper()
	m, err := netmail.ReadMessage(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	files = map[string]string{}
	var read func(kind string, body io.Reader) string
	read = func(kind string, body io.Reader) string {
		media, params, err := mime.ParseMediaType(kind)
		if err != nil {
			t.Fatal(kind, err)
		}
		if !strings.HasPrefix(media, "multipart/") {
			return media
		}
		var inner []string
		r := multipart.NewReader(body, params["boundary"])
		for {
			p, err := r.NextPart()
			if err == io.EOF {
				return media + "(" + strings.Join(inner, " ") + ")"
			}
			if err != nil {
				t.Fatal(err)
			}
			inner = append(inner, read(p.Header.Get("Content-Type"), p))
			if p.Header.Get("Content-Transfer-Encoding") == "base64" {
				content, err := io.ReadAll(base64.NewDecoder(base64.StdEncoding, p))
				if err != nil {
					t.Fatal(err)
				}
				name, err := new(mime.WordDecoder).DecodeHeader(p.FileName())
				if err != nil {
					t.Fatal(err)
				}
				files[name+p.Header.Get("Content-Id")] = string(content)
			}
		}
	}
	return read(m.Header.Get("Content-Type"), m.Body), files
}

// Pictures stand with the HTML (RFC 2387, RFC 2392), attachments beside it (RFC 2183).
func TestCompose_files(t *testing.T) {
	m := sample()
	m.HTML = `<html><body><img src="cid:a1@fernhollow.example"></body></html>`
	m.Pictures = []domain.MailFile{{Name: "room.png", Type: "image/png", ContentID: "a1@fernhollow.example", Bytes: []byte("PNG")}}
	m.Attachments = []domain.MailFile{{Name: "Angebot für Müller.pdf", Type: "application/pdf", Bytes: bytes.Repeat([]byte("pdf"), 999)}, {Name: "odd", Type: "no type\nX: y", Bytes: []byte("x")}}
	raw, err := Composer{}.Compose(m)
	if err != nil {
		t.Fatal(err)
	}
	tree, files := parts(t, raw)
	if want := "multipart/mixed(multipart/related(multipart/alternative(text/plain text/html) image/png) application/pdf application/octet-stream)"; tree != want {
		t.Errorf("%s, want %s", tree, want)
	}
	if files["room.png<a1@fernhollow.example>"] != "PNG" || len(files["Angebot für Müller.pdf"]) != 2997 || files["odd"] != "x" {
		t.Errorf("%q", files)
	}
	read, err := Reader{}.Read(raw)
	if err != nil || len(read.Files) != 2 || read.Files[0] != (domain.MailPart{Name: "Angebot für Müller.pdf", Type: "application/pdf", Size: 2997}) || read.HTML == "" {
		t.Errorf("%+v, %v", read.Files, err)
	}
	for name, change := range map[string]func(*domain.Mail){
		"a line break in a name": func(m *domain.Mail) { m.Attachments[0].Name = "a\r\nBcc: x@y.example" },
		"a Content-ID":           func(m *domain.Mail) { m.Pictures[0].ContentID = "a>\r\nX: y" },
	} {
		bad := sample()
		bad.Pictures = []domain.MailFile{{Name: "a", Type: "image/png", ContentID: "a@b.example"}}
		bad.Attachments = []domain.MailFile{{Name: "a"}}
		change(&bad)
		if _, err := (Composer{}).Compose(bad); err == nil {
			t.Errorf("%s went into a header", name)
		}
	}
}
