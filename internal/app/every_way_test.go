package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Words of any kind, braces of marks aside, which are codes.
var hostile = []string{
	"O'Neil", "surveyor’s “visit”", `a/b\c`, "{curly} [square] | pipe", "שלום Ada", "سارة، علي", "e\u0301clair n\u0303", "Ada 👩🏽‍🔧 🌿", "<b>&amp; %s", "李 雷", "Ольга", "नीला", `say "so"`, "100 % = all #1",
}

// What was typed arrives, by every way: a value of a record, a blank, a passage, words
// of the template and words of the writer; in a plain and in a formatted letter.
func TestEveryWay(t *testing.T) {
	b := testbed.New(t)
	for i, words := range hostile {
		short := "way" + string(rune('a'+i))
		if _, err := b.App.Library.AddPassage(ctx, b.Lead, library.PassageInput{Name: short, Shortcut: short, Body: "P " + markup.Print(document.NewPlain(words))}); err != nil {
			t.Errorf("%s: %v", words, err)
			continue
		}
		person := b.Person(t, words, "Quill", "ada@quill.example")
		odd, err := b.Store.Person(ctx, person)
		if err != nil {
			t.Fatal(err)
		}
		odd.SaidRight = domain.Own{"person.first_name": words} // also what looks like none
		if err := b.Store.UpdatePerson(ctx, odd); err != nil {
			t.Fatal(err)
		}
		text := "N {{person.first_name}}\n{{?note: text}}\n{{>" + short + "}}\nT " + markup.Print(document.NewPlain(words))
		plain := markup.Parse(text)
		for _, body := range []document.Document{plain, render.Formatted(plain)} {
			id, err := b.Store.AddTemplate(ctx, domain.Template{
				Name: short, Subject: markup.Parse("S {{person.first_name}}"), Body: body, State: domain.TemplateReady, Version: 1, OwnerID: b.Lead.ID, CreatedAt: b.Now(), UpdatedAt: b.Now(), UpdatedBy: b.Lead.ID,
			})
			if err != nil {
				t.Fatal(err)
			}
			l := b.Letter(t, person, id)
			if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "?note", "B "+words, false); err != nil {
				t.Errorf("%s: %v", words, err)
				continue
			}
			p, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
			if err != nil {
				t.Errorf("%s: %v", words, err)
				continue
			}
			if p.Mail.Subject != "S "+words || !strings.Contains(p.Mail.To, words) && !strings.Contains(p.Mail.To, strings.ReplaceAll(words, `"`, `\"`)) {
				t.Errorf("subject %q, to %q; want %q", p.Mail.Subject, p.Mail.To, words)
			}
			for _, line := range []string{"N ", "B ", "P ", "T "} {
				if !strings.Contains(p.Mail.Text, line+words+"\n") {
					t.Errorf("%s%s is not in %q (%s)", line, words, p.Mail.Text, body.Attrs.Body)
				}
			}
		}
	}
}
