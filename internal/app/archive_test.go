package app_test

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func volume(t *testing.T, b *testbed.Bed) {
	t.Helper()
	if err := b.App.Records.NewOwnField(ctx, b.Lead, field.Def{Path: "deal.own.volume", Label: "Volume", Type: field.Number}); err != nil {
		t.Fatal(err)
	}
}

// Every format comes back with its words and its marks.
func TestTemplateFiles_roundTrips(t *testing.T) {
	b := testbed.New(t)
	volume(t, b)
	kinds := map[string]library.Input{
		"plain":     {Subject: "For {{person.first_name|you}}", Body: "Dear {{person.first_name|you}},\n\n{{#deal.own.volume}}\nof {{deal.own.volume}}\n{{/deal.own.volume}}\nbye", Language: "de"},
		"formatted": {Subject: "For {{person.first_name|you}}", Kind: "formatted", Body: "<h1>Dear {{person.first_name|you}}</h1><p>of <b>{{deal.own.volume|some}}</b></p>"},
		"html":      {Subject: "For {{person.first_name|you}}", Kind: "html", Body: `<p>Dear {{person.first_name|you}} of {{deal.own.volume|some}}</p>`},
	}
	for kind, typed := range kinds {
		id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "A/B: " + kind, WhenToUse: "Now", Input: typed, Tags: []string{"x"}})
		for _, as := range []string{"html", "md", "txt", "json", "eml"} {
			f, err := b.App.Library.ExportTemplate(ctx, b.Rep, id, as)
			if err != nil || f.Name != "A-B- "+kind+"."+as {
				t.Fatalf("%s as %s: %q, %v", kind, as, f.Name, err)
			}
			r, err := b.App.Library.ReadTemplateFile(ctx, "got."+as, f.Bytes)
			if err != nil || len(r.Removed) > 0 || len(r.Notes) > 0 {
				t.Fatalf("%s as %s: %+v, %v\n%s", kind, as, r, err, f.Bytes)
			}
			text, err := b.App.Library.TextPartOf(r.Template.Input)
			if err != nil || !strings.Contains(text, "Dear {{person.first_name|you}}") || !strings.Contains(text, "{{deal.own.volume") {
				t.Errorf("%s as %s: %q, %v", kind, as, text, err)
			}
			if as != "html" && r.Template.Subject != typed.Subject {
				t.Errorf("%s as %s: subject %q", kind, as, r.Template.Subject)
			}
			if _, err := b.App.Library.AddTemplate(ctx, b.Rep, func() library.TemplateInput {
				in := r.Template
				in.Name = "x"
				in.State = domain.TemplateReady
				in.Subject = "s"
				return in
			}()); err != nil {
				t.Errorf("%s as %s cannot be ready: %v", kind, as, err)
			}
			if as == "json" {
				s, _ := b.App.Library.Template(ctx, b.Rep, id)
				if r.Template.Name != "A/B: "+kind || r.Template.WhenToUse != "Now" || fmt.Sprint(r.Template.Tags) != "[x]" || r.Template.Language != cmp.Or(typed.Language, "en") {
					t.Errorf("%s as json: %+v", kind, r.Template)
				}
				if got := r.Template.Body; r.Template.Doc == nil && got != s.BodyText || r.Template.Doc != nil && markup.Print(*r.Template.Doc) != s.BodyText {
					t.Errorf("%s as json: %q, want %q", kind, got, s.BodyText)
				}
			}
		}
	}
}

func TestReadTemplateFile_badInput(t *testing.T) {
	b := testbed.New(t)
	attachmentsOnly := "From: a@b.example\r\nTo: c@d.example\r\nSubject: s\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: application/pdf\r\nContent-Disposition: attachment; filename=a.pdf\r\n\r\npdf\r\n--x--\r\n"
	for name, row := range map[string]struct{ file, content, want string }{
		"empty":            {"a.html", " \n", "is empty"},
		"too large":        {"a.html", strings.Repeat("x", 6<<20+1), "larger than 6 MiB"},
		"a large page":     {"a.html", strings.Repeat("x", 2<<20), "longer than 1 MiB"},
		"another format":   {"a.docx", "x", "no format of templates"},
		"only attachments": {"a.eml", attachmentsOnly, "only 1 attachments"},
		"no email":         {"a.eml", "\x00\x01", "no"},
		"other JSON":       {"a.json", `{"a":1}`, "no template that was exported"},
		"a later version":  {"a.json", `{"format":"lucidletter/template","version":9}`, "version 9"},
		"a bad body":       {"a.json", `{"format":"lucidletter/template","version":1,"body":{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"video"}]}}`, "cannot be read"},
	} {
		var bad *domain.InvalidError
		if _, err := b.App.Library.ReadTemplateFile(ctx, row.file, []byte(row.content)); !errors.As(err, &bad) || !strings.Contains(err.Error(), row.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	r, err := b.App.Library.ReadTemplateFile(ctx, "a.html", []byte(`<form action="x"><input></form><frameset><frame src="x"></frameset><p>Hello</p>`))
	if err != nil || r.Template.Kind != "html" || !slices.ContainsFunc(r.Removed, func(x interchange.Removed) bool { return x.What == "<form>" }) || strings.Contains(r.Template.Body, "frame") {
		t.Errorf("%+v, %v", r, err)
	}
}

func TestLibrary_archive(t *testing.T) {
	b := testbed.New(t)
	volume(t, b)
	folder, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsTemplates, library.FolderInput{Name: "Offers"})
	if err != nil {
		t.Fatal(err)
	}
	inner, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsTemplates, library.FolderInput{Name: "Quotes", ParentID: &folder})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.AddPassage(ctx, b.Lead, library.PassageInput{Name: "End", Shortcut: "end", Body: "Regards\n{{sender.first_name}}"}); err != nil {
		t.Fatal(err)
	}
	src, err := b.App.Library.AddPicture(ctx, "image/png", []byte("\x89PNG\r\n\x1a\n"))
	if err != nil {
		t.Fatal(err)
	}
	quote := library.TemplateInput{Name: "Quote", FolderID: &inner, Input: library.Input{Subject: "Room of {{deal.own.volume}}", Kind: "formatted", Body: `<img src="` + src + `" alt="A"><p>{{>end}}</p>`}}
	addTemplate(t, b, b.Lead, quote)
	addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Outside", Input: library.Input{Subject: "s", Body: "b"}})
	a, err := b.App.Transfer.ExportLibrary(ctx, b.Rep, folder)
	if err != nil || len(a.Templates) != 1 || len(a.Passages) != 1 || len(a.Fields) != 1 || len(a.Pictures) != 1 || fmt.Sprint(a.Templates[0].Folder) != "[Offers Quotes]" {
		t.Fatalf("%+v, %v", a, err)
	}
	if all, err := b.App.Transfer.ExportLibrary(ctx, b.Rep, 0); err != nil || len(all.Templates) != 2 {
		t.Errorf("%+v, %v", all, err)
	}
	if _, err := b.App.Transfer.ExportLibrary(ctx, b.Rep, 99); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a folder that is none: %v", err)
	}

	// Another workspace: nothing is stored by looking, an own field that is not there is asked about.
	o := testbed.New(t)
	plan, err := o.App.Transfer.ImportLibrary(ctx, o.Rep, a, transfer.ArchiveChoices{}, true)
	if err != nil || plan.Done || len(plan.Fields) != 1 || plan.Templates[0].Does != "add" || !strings.Contains(fmt.Sprint(plan.Templates[0].Notes), "It is a draft here") {
		t.Fatalf("%+v, %v", plan, err)
	}
	if got := names(t, o.App, o.Rep, domain.LibraryQuery{}); got != "" {
		t.Errorf("looking stored %s", got)
	}
	if _, err := o.App.Transfer.ImportLibrary(ctx, o.Rep, a, transfer.ArchiveChoices{Fields: map[string]string{"deal.own.volume": "create"}}, false); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative made a field: %v", err)
	}
	if err := o.App.Records.NewOwnField(ctx, o.Lead, field.Def{Path: "deal.own.cubic", Label: "Cubic metres", Type: field.Number}); err != nil {
		t.Fatal(err)
	}
	choices := transfer.ArchiveChoices{Fields: map[string]string{"deal.own.volume": "deal.own.cubic"}}
	plan, err = o.App.Transfer.ImportLibrary(ctx, o.Lead, a, choices, false)
	if err != nil || !plan.Done || fmt.Sprint(plan.Fields[0].Like) != "[deal.own.cubic]" || len(plan.Templates[0].Notes) != 0 {
		t.Fatalf("%+v, %v", plan, err)
	}
	page, err := o.App.Library.Library(ctx, o.Lead, domain.LibraryQuery{Limit: 10})
	if err != nil || page.Total != 1 || page.Lines[0].Stops != 0 || page.Lines[0].State != domain.TemplateReady {
		t.Fatalf("%+v, %v", page, err)
	}
	s, err := o.App.Library.Template(ctx, o.Lead, page.Lines[0].ID)
	if err != nil || s.SubjectText != "Room of {{deal.own.cubic}}" || s.FolderID == nil {
		t.Errorf("%+v, %v", s, err)
	}
	if list, err := o.App.Library.Folders(ctx, o.Lead, library.HoldsTemplates); err != nil || len(list.Folders) != 2 || list.Folders[1].Count != 1 {
		t.Errorf("%+v, %v", list, err)
	}
	if _, err := o.App.Library.FileOf(ctx, o.Lead, markup.PictureKey(src)); err != nil {
		t.Errorf("its picture: %v", err)
	}
	// Again: the same is left, another wording of the name is brought in as it was asked.
	if plan, err = o.App.Transfer.ImportLibrary(ctx, o.Lead, a, choices, false); err != nil || plan.Templates[0].What != "same" || plan.Passages[0].What != "same" {
		t.Errorf("%+v, %v", plan, err)
	}
	a.Templates[0].Subject = "Another"
	for existing, want := range map[string]string{"skip": "Quote", "beside": "Quote, Quote (brought in)", "version": "Quote, Quote (brought in)"} {
		if existing == "version" {
			continue
		}
		choices.Existing = existing
		if _, err := o.App.Transfer.ImportLibrary(ctx, o.Lead, a, choices, false); err != nil {
			t.Fatal(err)
		}
		if got := names(t, o.App, o.Lead, domain.LibraryQuery{}); existing == "beside" && got != want {
			t.Errorf("%s: %s", existing, got)
		}
	}
	choices.Existing = "version"
	if _, err := o.App.Transfer.ImportLibrary(ctx, o.Lead, a, choices, false); err != nil {
		t.Fatal(err)
	}
	if s, err = o.App.Library.Template(ctx, o.Lead, s.ID); err != nil || s.SubjectText != "Another" || s.Version != 2 {
		t.Errorf("%+v, %v", s, err)
	}
	choices.Existing = "overwrite"
	if _, err := o.App.Transfer.ImportLibrary(ctx, o.Lead, a, choices, false); err == nil {
		t.Error("a choice that is none")
	}
	// Half of it is nothing: the second template cannot be read.
	bad := a
	bad.Templates = append(slices.Clone(a.Templates), library.TemplateFile{Format: "other", Name: "Bad"})
	bad.Templates[0].Name = "Never"
	if _, err := o.App.Transfer.ImportLibrary(ctx, o.Lead, bad, transfer.ArchiveChoices{}, false); err == nil || strings.Contains(names(t, o.App, o.Lead, domain.LibraryQuery{}), "Never") {
		t.Errorf("half was brought in: %v", err)
	}
}

func TestOwnFields_deleted(t *testing.T) {
	b := testbed.New(t)
	volume(t, b)
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "T", Input: library.Input{Subject: "s", Body: "{{#deal.own.volume}}x{{/deal.own.volume}}"}})
	if names, _, err := b.App.Library.UsersOfOwnField(ctx, b.Lead, "deal.own.volume"); err != nil || fmt.Sprint(names) != "[T]" {
		t.Errorf("%v, %v", names, err)
	}
	if err := b.App.Records.DeleteOwnField(ctx, b.Rep, "deal.own.volume"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("by a representative: %v", err)
	}
	if err := b.App.Records.DeleteOwnField(ctx, b.Lead, "deal.own.volume"); err != nil {
		t.Fatal(err)
	}
	if s, err := b.App.Library.Template(ctx, b.Lead, id); err != nil || len(s.Notes) != 1 || s.Notes[0].Code != "unknown" {
		t.Errorf("%+v, %v", s.Notes, err)
	}
	if page, err := b.App.Library.Library(ctx, b.Lead, domain.LibraryQuery{Limit: 1}); err != nil || page.Lines[0].Stops != 1 {
		t.Errorf("%+v, %v", page, err)
	}
	for name, d := range map[string]field.Def{
		"the path of a deleted one": {Path: "deal.own.volume", Label: "V", Type: field.Number},
		"a standard field":          {Path: "deal.amount", Label: "V", Type: field.Number},
		"no label":                  {Path: "deal.own.x", Type: field.Number},
		"no type":                   {Path: "deal.own.x", Label: "X", Type: "song"},
		"no choices":                {Path: "deal.own.x", Label: "X", Type: field.Choice},
	} {
		var bad *domain.InvalidError
		if err := b.App.Records.NewOwnField(ctx, b.Lead, d); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := b.App.Records.DeleteOwnField(ctx, b.Lead, "deal.own.none"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("one that is none: %v", err)
	}
	if err := b.App.Records.PutBackOwnField(ctx, b.Lead, "deal.own.volume"); err != nil {
		t.Fatal(err)
	}
	if s, err := b.App.Library.Template(ctx, b.Lead, id); err != nil || len(s.Notes) != 0 {
		t.Errorf("%+v, %v", s.Notes, err)
	}
}
