package app_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/internal/app"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// manyTemplates makes an archive of n templates in three folders, each with a passage.
func manyTemplates(n int) transfer.Archive {
	in := transfer.Archive{Passages: []transfer.PassageFile{{Name: "End", Shortcut: "end", Body: markup.Parse("Regards")}}}
	for i := range n {
		in.Templates = append(in.Templates, library.TemplateFile{
			Format: library.TemplateFormat, Version: 1, Name: fmt.Sprint("Template ", i), State: domain.TemplateReady, Folder: []string{"Brought", fmt.Sprint("Part ", i%3)},
			Subject: "Hello", Body: markup.Parse(strings.Repeat("Dear {{person.first_name|you}}, how is {{company.name|it}}?\n\n", 20) + "{{>end}}"),
			Wordings: []library.TemplateFile{{Format: library.TemplateFormat, Version: 1, Name: "x", Subject: "Hallo", Body: func() document.Document {
				d := markup.Parse("Guten Tag {{person.first_name|Sie}}")
				d.Attrs.Lang = "de"
				return d
			}()}},
		})
	}
	return in
}

// An archive is made ready, and looked at, while somebody else is writing.
func TestImportLibrary_beside(t *testing.T) {
	b := testbed.New(t)
	in := manyTemplates(40)
	within, done := context.WithTimeout(ctx, 30*time.Second)
	defer done()
	if err := b.Store.Within(ctx, func(ctx context.Context) error {
		plan, err := b.App.Transfer.ImportLibrary(within, b.Rep, in, transfer.ArchiveChoices{}, true)
		if err == nil && (len(plan.Templates) != 40 || plan.Templates[39].Does != "add" || len(plan.Templates[39].Notes) > 0) {
			err = fmt.Errorf("%+v", plan)
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if plan, err := b.App.Transfer.ImportLibrary(ctx, b.Rep, in, transfer.ArchiveChoices{}, false); err != nil || !plan.Done {
		t.Fatalf("%+v, %v", plan, err)
	}
	page, err := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Limit: 100})
	folders, err2 := b.App.Library.Folders(ctx, b.Rep, library.HoldsTemplates)
	if err != nil || err2 != nil || page.Total != 40 || fmt.Sprint(page.Lines[0].Languages) != "[en de]" || page.Lines[0].State != domain.TemplateReady || len(folders.Folders) != 4 {
		t.Errorf("%+v, %v, %+v, %v", page, err, folders, err2)
	}
	for i, existing := range []string{"version", "beside"} { // in this order
		want := 40 * (i + 1)
		for i := range in.Templates {
			in.Templates[i].Subject = "Other words for " + existing
		}
		plan, err := b.App.Transfer.ImportLibrary(ctx, b.Rep, in, transfer.ArchiveChoices{Existing: existing}, false)
		if page, _ := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Limit: 100}); err != nil || page.Total != want || plan.Templates[0].Does != existing {
			t.Errorf("%s: %d templates, %+v, %v", existing, page.Total, plan.Templates[0], err)
		}
	}
}

// changing is a store in which somebody changes the library as soon as a picture comes.
type changing struct {
	app.Store
	change func()
}

func (c changing) AddFile(ctx context.Context, f domain.File) error {
	c.change()
	return c.Store.AddFile(ctx, f)
}

// What somebody else does meanwhile counts: nothing is added twice, nothing is lost.
func TestImportLibrary_changedMeanwhile(t *testing.T) {
	b := testbed.New(t)
	in := manyTemplates(2)
	in.Pictures = []domain.File{{SHA: strings.Repeat("a", 64), Type: "image/png", Bytes: []byte("x"), Size: 1}}
	times := 0
	with := changing{Store: b.Store, change: func() {
		if times++; times == 1 {
			addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Template 1", Input: library.Input{Subject: "mine", Body: "mine"}})
		}
	}}
	plan, err := b.App.With(func(p *app.Ports) { p.Store = with }).Transfer.ImportLibrary(ctx, b.Rep, in, transfer.ArchiveChoices{}, false)
	if err != nil || !plan.Done || plan.Templates[0].Does != "add" || plan.Templates[1].Does != "skip" || times != 2 {
		t.Errorf("%+v, %v", plan, err)
	}
	with = changing{Store: b.Store, change: func() {
		times++
		addTemplate(t, b, b.Rep, library.TemplateInput{Name: fmt.Sprint("Again ", times), Input: library.Input{Subject: "mine", Body: "mine"}})
	}}
	in.Templates[0].Name = "Never"
	plan, err = b.App.With(func(p *app.Ports) { p.Store = with }).Transfer.ImportLibrary(ctx, b.Rep, in, transfer.ArchiveChoices{}, false)
	if page, _ := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Search: "Never", Limit: 100}); err == nil || plan.Done || page.Total != 0 {
		t.Errorf("%+v, %v, %+v", plan, err, page)
	}
}
