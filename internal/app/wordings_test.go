package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

const thanks = "Hello {{person.first_name}},\n\nthank you for the order that you placed with us, and for the words about our people.\n\nKind regards,"

// inGerman adds a ready German wording to a template.
func inGerman(t *testing.T, b *testbed.Bed, id int64) library.TemplateSheet {
	t.Helper()
	s, err := b.App.Library.AddWording(ctx, b.Lead, id, "de")
	if err != nil {
		t.Fatal(err)
	}
	s, err = b.App.Library.ChangeTemplate(ctx, b.Lead, s.ID, s.Version, library.TemplateInput{
		Name: "is not taken", State: domain.TemplateReady,
		Input: library.Input{Subject: "Danke, {{person.first_name}}", Body: "Hallo {{person.first_name}},\n\nvielen Dank für Ihre Bestellung und für die Worte über unsere Leute.\n\nViele Grüße", Language: "de", TemplateID: s.ID},
	})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func reading(t *testing.T, b *testbed.Bed, first, language string) int64 {
	t.Helper()
	id := b.Person(t, first, "Roth", strings.ToLower(first)+"@x.example")
	p, err := b.Store.Person(ctx, id)
	if err == nil {
		_, err = b.App.Records.ChangePerson(ctx, b.Rep, id, p.Version, map[string]string{"person.language": language})
	}
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// One name, one statistic, and the wording that the person reads.
func TestWordings(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Thanks", WhenToUse: "After an order", Tags: []string{"order"}, State: domain.TemplateReady, Input: library.Input{Subject: "Thank you, {{person.first_name}}", Body: thanks}})
	german := inGerman(t, b, id)
	if german.Name != "Thanks" || german.WhenToUse != "After an order" || !slices.Equal(german.Tags, []string{"order"}) || len(german.Wordings) != 2 || german.Wordings[1].Name != "German" {
		t.Errorf("the German wording: %+v", german)
	}
	for language, want := range map[string]string{"de": "Danke, ", "de-AT": "Danke, ", "en": "Thank you, ", "fr": "Thank you, "} {
		p := reading(t, b, "Ida"+strings.ReplaceAll(language, "-", ""), language)
		list, err := b.App.Desk.ChoicesFor(ctx, b.Rep, p, nil)
		if err != nil || len(list) != 1 || !strings.HasPrefix(list[0].Subject, want) || len(list[0].Others) != 1 || list[0].Foreign != (language == "fr") {
			t.Errorf("%s is offered %+v, %v", language, list, err)
		}
		fits, err := b.App.Desk.FittingWording(ctx, b.Rep, id, p, nil)
		if err != nil || fits != list[0].ID {
			t.Errorf("%s is written to with %d, offered %d, %v", language, fits, list[0].ID, err)
		}
		l := b.Letter(t, p, fits)
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
			t.Fatal(err)
		}
		if err := b.Deliver(ctx, l.ID); err != nil {
			t.Fatal(err)
		}
	}
	page, err := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Limit: 9, Sort: "used"})
	if err != nil || page.Total != 1 || page.Lines[0].Used != 4 || !slices.Equal(page.Lines[0].Languages, []string{"en", "de"}) {
		t.Errorf("the library says %+v, %v", page, err)
	}
	for _, word := range []string{"Bestellung", "placed", "Thanks"} {
		if page, err := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Limit: 9, Search: word}); err != nil || page.Total != 1 || page.Lines[0].ID != id {
			t.Errorf("%q finds %+v, %v", word, page, err)
		}
	}
}

// The settings of all wordings are those of the first, also after they change.
func TestWordings_settings(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Thanks", State: domain.TemplateReady, Input: library.Input{Subject: "s", Body: thanks}})
	german := inGerman(t, b, id)
	first, err := b.App.Library.Template(ctx, b.Lead, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, id, first.Version, library.TemplateInput{Name: "Many thanks", State: domain.TemplateReady, Input: library.Input{Subject: "s", Body: thanks}}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Library.SetTemplateRights(ctx, b.Lead, german.ID, access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}); err != nil {
		t.Fatal(err)
	}
	for _, w := range []int64{id, german.ID} {
		s, err := b.App.Library.Template(ctx, b.Lead, w)
		if err != nil || s.Name != "Many thanks" || s.Counts.Audience.Who != access.OnlyOwner {
			t.Errorf("%d: %q %+v, %v", w, s.Name, s.Counts, err)
		}
	}
	p := reading(t, b, "Ida", "de")
	if list, err := b.App.Desk.ChoicesFor(ctx, b.Rep, p, nil); err != nil || len(list) != 0 {
		t.Errorf("a wording is offered beside what its template allows: %+v, %v", list, err)
	}
}

func TestWordings_refused(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Thanks", State: domain.TemplateReady, Input: library.Input{Subject: "s", Body: thanks}})
	german := inGerman(t, b, id)
	for _, language := range []string{"de", "de-CH", "en-GB", "xx", "Klingon"} {
		var bad *domain.InvalidError
		if _, err := b.App.Library.AddWording(ctx, b.Lead, id, language); !errors.As(err, &bad) {
			t.Errorf("a second wording in %s: %v", language, err)
		}
	}
	if _, err := b.App.Library.AddWording(ctx, b.Rep, id, "fr"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("by one who may not edit it: %v", err)
	}
	first, err := b.App.Library.Template(ctx, b.Lead, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, id, first.Version, library.TemplateInput{Name: "Thanks", State: domain.TemplateWithdrawn, Input: library.Input{Subject: "s", Body: thanks}}); err != nil {
		t.Fatal(err)
	}
	p := reading(t, b, "Ida", "de")
	if _, err := b.App.Desk.StartLetter(ctx, b.Rep, p, &german.ID, nil); err == nil {
		t.Error("a wording of a withdrawn template was used")
	}
}

// A template goes with its wordings and comes back with those that went with it.
func TestWordings_deleted(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Thanks", State: domain.TemplateReady, Input: library.Input{Subject: "s", Body: thanks}})
	german := inGerman(t, b, id)
	french, err := b.App.Library.AddWording(ctx, b.Lead, german.ID, "fr")
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Library.DeleteTemplate(ctx, b.Lead, french.ID); err != nil {
		t.Fatal(err)
	}
	b.Pass(1e9)
	if d, err := b.App.Library.DependantsOf(ctx, b.Lead, id); err != nil || len(d.Wordings) != 1 {
		t.Errorf("%+v, %v", d, err)
	}
	if err := b.App.Library.DeleteTemplate(ctx, b.Lead, id); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.Template(ctx, b.Lead, german.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a wording stayed: %v", err)
	}
	if err := b.App.Library.PutBackTemplate(ctx, b.Lead, id); err != nil {
		t.Fatal(err)
	}
	s, err := b.App.Library.Template(ctx, b.Lead, id)
	if err != nil || len(s.Wordings) != 2 || s.Wordings[1].ID != german.ID {
		t.Errorf("came back as %+v, %v", s.Wordings, err)
	}
}

// Copies and archives hold every wording.
func TestWordings_copied(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Thanks", State: domain.TemplateReady, Input: library.Input{Subject: "s", Body: thanks}})
	german := inGerman(t, b, id)
	archive, err := b.App.Transfer.ExportLibrary(ctx, b.Lead, 0)
	if err != nil || len(archive.Templates) != 1 || len(archive.Templates[0].Wordings) != 1 {
		t.Fatalf("%+v, %v", archive.Templates, err)
	}
	copied, err := b.App.Library.CopyTemplate(ctx, b.Rep, german.ID, true)
	if err != nil || len(copied.Wordings) != 2 || copied.OriginID == nil || *copied.OriginID != id {
		t.Fatalf("%+v, %v", copied, err)
	}
	other := testbed.New(t)
	for _, existing := range []string{"skip", "version"} {
		plan, err := other.App.Transfer.ImportLibrary(ctx, other.Lead, archive, transfer.ArchiveChoices{Existing: existing}, false)
		if err != nil {
			t.Fatal(err)
		}
		page, err := other.App.Library.Library(ctx, other.Lead, domain.LibraryQuery{Limit: 9, Search: "Bestellung"})
		if err != nil || page.Total != 1 || !slices.Equal(page.Lines[0].Languages, []string{"en", "de"}) || page.Lines[0].State != domain.TemplateReady {
			t.Errorf("%s: %+v %+v, %v", existing, plan, page, err)
		}
		archive.Templates[0].Wordings[0].Subject = "Besten Dank"
	}
	page, err := other.App.Library.Library(ctx, other.Lead, domain.LibraryQuery{Limit: 9, Search: "Besten"})
	if err != nil || page.Total != 1 {
		t.Errorf("the new version of a wording was not stored: %+v, %v", page, err)
	}
}
