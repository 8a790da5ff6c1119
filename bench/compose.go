package main

import (
	"bytes"
	"encoding/json"
	"time"

	gomail "github.com/wneessen/go-mail"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
)

// compose measures a letter from what is stored of it to its bytes, beside the library
// that writes MIME with the same parts ready made.
func compose() {
	cat := field.New(nil)
	program, _ := template.Compile(template.Template{Subject: markup.Parse("Cold"), Body: must(markup.ParseMarkup(formattedWording()))}, cat)
	v := cat.NewValues()
	v.Kind = field.Contact
	for i, p := range paths {
		v.Set(p, field.Of(values[i]))
	}
	stored := must(json.Marshal(program.Merge(v, nil, field.NewReader("en-GB")).Body))
	foot := letter.Foot{Address: "Fernhollow Cold Rooms, 1 Ice Lane"}
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	parts := func() (page, text string) {
		d := must(document.ParseJSON(stored))
		return letter.WithFoot(render.RenderHTML(d, "Cold"), render.RenderText(d), foot)
	}
	ours := func() []byte {
		m := domain.Mail{FromName: "Imre Vass", FromEmail: "imre@fernhollow.example", ToName: "Ada Quill", ToEmail: "ada@quill.example", Subject: "Cold", MessageID: "id@fernhollow.example", Date: at}
		m.HTML, m.Text = parts()
		return must(mail.Composer{}.Compose(m))
	}
	page, text := parts()
	var out bytes.Buffer
	bare := func() {
		msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
		check(msg.From("Imre Vass <imre@fernhollow.example>"))
		check(msg.To("Ada Quill <ada@quill.example>"))
		msg.Subject("Cold")
		msg.SetMessageIDWithValue("id@fernhollow.example")
		msg.SetDateWithValue(at)
		msg.SetBodyString(gomail.TypeTextPlain, text)
		msg.AddAlternativeString(gomail.TypeTextHTML, page)
		out.Reset()
		must(msg.WriteTo(&out))
	}
	sides := []side{
		{"bare: the same parts by the MIME library", func(n int) {
			for range n {
				bare()
			}
		}},
		{"ours: from the stored letter to its bytes", func(n int) {
			for range n {
				_ = ours()
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table("compose: a formatted letter of 30 blocks", sides, ratio, nanos)
	aim("compose", ratio[1], "<=", 3)
}
