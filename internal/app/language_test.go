package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// An English letter to a French reader speaks English throughout, in the subject too,
// and the picker says which templates are in the person's language.
func TestLetter_speaksOneLanguage(t *testing.T) {
	b := testbed.New(t)
	luc := b.Person(t, "Luc", "Moreau", "luc@moreau.example")
	p, err := b.Store.Person(ctx, luc)
	if err == nil {
		_, err = b.App.Records.ChangePerson(ctx, b.Rep, luc, p.Version, map[string]string{"person.language": "French", "person.country": "FR"})
	}
	if err != nil {
		t.Fatal(err)
	}
	english := b.Template(t, "Quote", "Your quote until {{today}}", "Dear {{person.first_name}},\n\nthank you for your enquiry. The quote is good until {{today as weekday}}, and we would like to visit you.")
	french := b.Template(t, "Devis", "Votre devis du {{today}}", "Bonjour {{person.first_name}},\n\nmerci pour votre demande. Nous passons chez vous le {{today as weekday}}.")
	l := b.Letter(t, luc, english)
	if got := l.SubjectLine + "\n" + text(l); !strings.Contains(got, "until 2 March 2026\n") || !strings.Contains(got, "Monday, 2 March 2026") {
		t.Errorf("%q", got)
	}
	if l = b.Letter(t, luc, french); l.SubjectLine != "Votre devis du 2 mars 2026" || !strings.Contains(text(l), "lundi 2 mars 2026") {
		t.Errorf("%q %q", l.SubjectLine, text(l))
	}
	choices, err := b.App.Desk.ChoicesFor(ctx, b.Rep, luc, nil)
	if err != nil || len(choices) != 2 || choices[0].Name != "Devis" || choices[0].Foreign || !choices[1].Foreign || choices[1].Language != "English" {
		t.Errorf("%+v, %v", choices, err)
	}
	// A template that is made has the language of its text, which is shown.
	made, err := b.App.Library.AddTemplate(ctx, b.Rep, library.TemplateInput{Name: "Angebot", State: domain.TemplateReady, Input: library.Input{Subject: "Ihr Angebot", Body: "Guten Tag {{person.last_name}},\n\nvielen Dank für Ihre Anfrage, wir kommen gern zu Ihnen.", Kind: document.BodyPlain}})
	if err != nil || made.Body.Attrs.Lang != "de" {
		t.Errorf("%q, %v", made.Body.Attrs.Lang, err)
	}
	c, err := b.App.Library.CheckTemplate(ctx, b.Rep, library.Input{Subject: "x", Body: "Guten Tag, vielen Dank für Ihre Anfrage, wir kommen gern zu Ihnen.", Kind: document.BodyPlain, Language: "en"})
	if err != nil || len(c.Notes) == 0 || !strings.Contains(c.Notes[len(c.Notes)-1].Message, "reads like German") {
		t.Errorf("%+v, %v", c.Notes, err)
	}
	for path, value := range map[string]string{"person.language": "Klingon", "person.time_zone": "Europe/Atlantis"} {
		p, _ := b.Store.Person(ctx, luc)
		if _, err := b.App.Records.ChangePerson(ctx, b.Rep, luc, p.Version, map[string]string{path: value}); err == nil || !strings.Contains(err.Error(), value) {
			t.Errorf("%s: %v", path, err)
		}
	}
}
