package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// names gives the names of what a user finds, in order.
func names(t *testing.T, a *app.App, u domain.User, q domain.LibraryQuery) string {
	t.Helper()
	q.Limit = 100
	page, err := a.Library.Library(ctx, u, q)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, l := range page.Lines {
		out = append(out, l.Name)
	}
	if page.Total != len(out) {
		t.Errorf("%d of %d", len(out), page.Total)
	}
	return strings.Join(out, ", ")
}

func addTemplate(t *testing.T, b *testbed.Bed, u domain.User, in library.TemplateInput) int64 {
	t.Helper()
	if in.State == "" {
		in.State = domain.TemplateReady
	}
	s, err := b.App.Library.AddTemplate(ctx, u, in)
	if err != nil {
		t.Fatal(err)
	}
	return s.ID
}

func TestLibrary_finds(t *testing.T) {
	b := testbed.New(t)
	roses := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Roses", Input: library.Input{Subject: "For {{person.first_name}}", Body: "Keep your flowers cool."}, WhenToUse: "A florist", Tags: []string{" first  contact ", "florist", "florist"}})
	addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Bread", Input: library.Input{Subject: "Dough", Kind: "formatted", Body: "<p>Keep <b>dough</b> cool, for {{deal.amount}}. <i>Café</i></p>"}})
	addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Hidden", Input: library.Input{Subject: "cool", Body: "cool"}, State: domain.TemplateDraft})
	addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Old", Input: library.Input{Subject: "s", Body: "flowers of old"}, State: domain.TemplateWithdrawn})
	if err := b.App.Library.StarTemplate(ctx, b.Rep, roses, true); err != nil {
		t.Fatal(err)
	}
	letter := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), roses)
	if _, err := b.App.Desk.Send(ctx, b.Rep, letter.ID, letter.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	if err := b.Deliver(ctx, letter.ID); err != nil {
		t.Fatal(err)
	}
	for name, row := range map[string]struct {
		q    domain.LibraryQuery
		want string
	}{
		"all, without drafts of others": {domain.LibraryQuery{}, "Bread, Old, Roses"},
		"down":                          {domain.LibraryQuery{Sort: "name", Down: true}, "Roses, Old, Bread"},
		"in the body":                   {domain.LibraryQuery{Search: "coo"}, "Bread, Roses"},
		"the name counts more":          {domain.LibraryQuery{Search: "old"}, "Old"},
		"when to use":                   {domain.LibraryQuery{Search: "FLORIST"}, "Roses"},
		"without its accents":           {domain.LibraryQuery{Search: "cafe dough"}, "Bread"},
		"marks are no words":            {domain.LibraryQuery{Search: "first_name"}, ""},
		"operators are words":           {domain.LibraryQuery{Search: `cool OR "NEAR(`}, ""},
		"only signs":                    {domain.LibraryQuery{Search: `"*`}, ""},
		"by state":                      {domain.LibraryQuery{State: domain.TemplateWithdrawn}, "Old"},
		"mine":                          {domain.LibraryQuery{Owner: b.Rep.ID}, "Bread, Old"},
		"starred":                       {domain.LibraryQuery{Starred: true}, "Roses"},
		"recent":                        {domain.LibraryQuery{Recent: true}, "Roses"},
		"most used":                     {domain.LibraryQuery{Sort: "used", Down: true}, "Roses, Bread, Old"},
		"by tag":                        {domain.LibraryQuery{Tag: "first contact"}, "Roses"},
		"for leads":                     {domain.LibraryQuery{Kind: field.Lead}, "Old, Roses"},
		"own order":                     {domain.LibraryQuery{Sort: "order"}, "Roses, Bread, Old"},
	} {
		if got := names(t, b.App, b.Rep, row.q); got != row.want {
			t.Errorf("%s: %q, want %q", name, got, row.want)
		}
	}
	page, err := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Search: "flowers", Limit: 1})
	if err != nil || page.Total != 2 || len(page.Lines) != 1 || !strings.Contains(page.Lines[0].Found.Body, "\x02flowers\x03") {
		t.Errorf("%+v, %v", page, err)
	}
	if tags, err := b.App.Library.Tags(ctx, b.Rep); err != nil || fmt.Sprint(tags) != "[first contact florist]" {
		t.Errorf("%v, %v", tags, err)
	}
	if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "deal.own.x", Record: field.Deal, Label: "X", Type: field.Text, Own: true}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Library.ReadAhead(ctx); err != nil {
		t.Error(err)
	}
}

func TestFolders(t *testing.T) {
	b := testbed.New(t)
	add := func(u domain.User, name string, parent *int64) int64 {
		t.Helper()
		id, err := b.App.Library.AddFolder(ctx, u, library.HoldsTemplates, library.FolderInput{Name: name, ParentID: parent})
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	north := add(b.Lead, "North", nil)
	first := add(b.Lead, " First letters ", &north)
	offers := add(b.Lead, "Offers", &north)
	tree := func(u domain.User) string {
		t.Helper()
		list, err := b.App.Library.Folders(ctx, u, library.HoldsTemplates)
		if err != nil {
			t.Fatal(err)
		}
		out := fmt.Sprintf("%d outside", list.Outside)
		for _, f := range list.Folders {
			out += fmt.Sprintf(", %s %d", f.Name, f.Count)
		}
		return out
	}
	one := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "One", Input: library.Input{Subject: "s", Body: "b"}, FolderID: &first})
	two := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Two", Input: library.Input{Subject: "s", Body: "b"}})
	if err := b.App.Library.MoveTemplate(ctx, b.Lead, two, &first, one); err != nil {
		t.Fatal(err)
	}
	if got := names(t, b.App, b.Rep, domain.LibraryQuery{Folder: first, Sort: "order"}); got != "Two, One" {
		t.Errorf("ordered: %s", got)
	}
	if err := b.App.Library.ChangeFolder(ctx, b.Lead, library.HoldsTemplates, offers, library.FolderInput{Name: "Quotes", ParentID: &north}, &first); err != nil {
		t.Fatal(err)
	}
	if got := tree(b.Rep); got != "0 outside, North 0, Quotes 0, First letters 2" {
		t.Error(got)
	}
	if got := names(t, b.App, b.Rep, domain.LibraryQuery{Folder: domain.NoFolder}); got != "" {
		t.Error(got)
	}
	// A folder lists what its number counts: what is in it first, then what the folders in it hold.
	own := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Zero", Input: library.Input{Subject: "s", Body: "b"}, FolderID: &north})
	if got := names(t, b.App, b.Rep, domain.LibraryQuery{Folder: north, Sort: "order"}); got != "Zero, Two, One" {
		t.Errorf("with what is inside: %s", got)
	}
	if err := b.App.Library.DeleteTemplate(ctx, b.Lead, own); err != nil {
		t.Fatal(err)
	}
	for name, act := range map[string]func() error{
		"into itself": func() error {
			return b.App.Library.ChangeFolder(ctx, b.Lead, library.HoldsTemplates, north, library.FolderInput{Name: "North", ParentID: &first}, nil)
		},
		"without a name": func() error {
			return b.App.Library.ChangeFolder(ctx, b.Lead, library.HoldsTemplates, north, library.FolderInput{Name: " "}, nil)
		},
		"long name": func() error {
			return b.App.Library.ChangeFolder(ctx, b.Lead, library.HoldsTemplates, north, library.FolderInput{Name: strings.Repeat("x", 81)}, nil)
		},
		"rename one of others": func() error {
			return b.App.Library.ChangeFolder(ctx, b.Rep, library.HoldsTemplates, north, library.FolderInput{Name: "Mine"}, nil)
		},
		"one that is none": func() error {
			return b.App.Library.SetFolderRights(ctx, b.Lead, library.HoldsTemplates, 99, access.Rights{})
		},
		"into a folder of others": func() error { return b.App.Library.MoveTemplate(ctx, b.Rep, one, &offers, 0) },
		"delete what is not empty": func() error {
			_, err := b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsTemplates, north, library.OnlyEmpty)
			return err
		},
		"audience of nobody": func() error {
			return b.App.Library.SetTemplateRights(ctx, b.Lead, one, access.Rights{Audience: access.Audience{Who: access.Some}})
		},
		"audience of who is none": func() error {
			return b.App.Library.SetTemplateRights(ctx, b.Lead, one, access.Rights{Audience: access.Audience{Who: access.Some, Users: []int64{99}}})
		},
		"editors of a team that is none": func() error {
			return b.App.Library.SetTemplateRights(ctx, b.Lead, one, access.Rights{Editors: access.Audience{Who: access.Some, Teams: []int64{99}}})
		},
		"a role that is none": func() error {
			return b.App.Library.SetTemplateRights(ctx, b.Lead, one, access.Rights{Editors: access.Audience{Who: access.Some, Roles: []access.Role{"king"}}})
		},
		"a kind that is none": func() error {
			return b.App.Library.SetTemplateRights(ctx, b.Lead, one, access.Rights{Editors: access.Audience{Who: "all"}})
		},
	} {
		if err := act(); err == nil {
			t.Errorf("%s: done", name)
		}
	}
	deep := north
	for i := range 7 {
		deep = add(b.Lead, fmt.Sprint("d", i), &deep)
	}
	if _, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsTemplates, library.FolderInput{Name: "too deep", ParentID: &deep}); err == nil {
		t.Error("a folder nine deep")
	}
	if gone, err := b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsTemplates, north, library.MoveOut); err != nil || len(gone) != 0 {
		t.Fatal(gone, err)
	}
	if got := tree(b.Rep); !strings.HasPrefix(got, "0 outside, Quotes 0, First letters 2, d0 0") {
		t.Error(got)
	}
	gone, err := b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsTemplates, first, library.DeleteToo)
	if err != nil || fmt.Sprint(gone) != fmt.Sprint([]int64{two, one}) {
		t.Fatal(gone, err)
	}
	if err := b.App.Library.PutBackTemplate(ctx, b.Lead, one); err != nil {
		t.Fatal(err)
	}
	if got := names(t, b.App, b.Rep, domain.LibraryQuery{Folder: domain.NoFolder}); got != "One" {
		t.Error(got)
	}
}

// A folder that is for one team hides what is in it from others, whatever way they try.
func TestRights_ofAFolder(t *testing.T) {
	b := testbed.New(t)
	folder, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsTemplates, library.FolderInput{Name: "South"})
	if err != nil {
		t.Fatal(err)
	}
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "For the south", Input: library.Input{Subject: "s", Body: "b"}, FolderID: &folder})
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	south, err := b.Store.AddTeam(ctx, domain.Team{Name: "South"})
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Library.SetFolderRights(ctx, b.Lead, library.HoldsTemplates, folder, access.Rights{Audience: access.Audience{Who: access.Some, Teams: []int64{south}}}); err != nil {
		t.Fatal(err)
	}
	for name, act := range map[string]func() error{
		"see": func() error { _, err := b.App.Library.Template(ctx, b.Rep, id); return err },
		"change": func() error {
			_, err := b.App.Library.ChangeTemplate(ctx, b.Rep, id, 1, library.TemplateInput{})
			return err
		},
		"reach":    func() error { _, err := b.App.Library.ReachOfTemplate(ctx, b.Rep, id); return err },
		"use":      func() error { _, err := b.App.Desk.StartLetter(ctx, b.Rep, person, &id, nil); return err },
		"star":     func() error { return b.App.Library.StarTemplate(ctx, b.Rep, id, true) },
		"copy":     func() error { _, err := b.App.Library.CopyTemplate(ctx, b.Rep, id, false); return err },
		"move":     func() error { return b.App.Library.MoveTemplate(ctx, b.Rep, id, nil, 0) },
		"share":    func() error { return b.App.Library.SetTemplateRights(ctx, b.Rep, id, access.Rights{}) },
		"delete":   func() error { return b.App.Library.DeleteTemplate(ctx, b.Rep, id) },
		"put back": func() error { return b.App.Library.PutBackTemplate(ctx, b.Rep, id) },
		"depends":  func() error { _, err := b.App.Library.DependantsOf(ctx, b.Rep, id); return err },
		"folder": func() error {
			_, err := b.App.Library.AddFolder(ctx, b.Rep, library.HoldsTemplates, library.FolderInput{Name: "x", ParentID: &folder})
			return err
		},
		"version": func() error { _, err := b.App.Library.TemplateVersion(ctx, b.Rep, id, 1); return err },
	} {
		if err := act(); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if list, err := b.App.Library.Folders(ctx, b.Rep, library.HoldsTemplates); err != nil || len(list.Folders) != 0 {
		t.Errorf("the folder shows: %+v, %v", list, err)
	}
	if choices, err := b.App.Desk.ChoicesFor(ctx, b.Rep, person, nil); err != nil || len(choices) != 0 {
		t.Errorf("offered: %+v, %v", choices, err)
	}
	member := b.Rep
	member.TeamID = &south
	if _, err := b.App.Desk.StartLetter(ctx, member, person, &id, nil); err != nil {
		t.Errorf("its team: %v", err)
	}
	if _, err := b.App.Library.ChangeTemplate(ctx, member, id, 1, library.TemplateInput{Name: "x", State: domain.TemplateDraft}); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("its team changes it: %v", err)
	}
	// What is set on the template itself counts before the folder.
	if err := b.App.Library.SetTemplateRights(ctx, b.Lead, id, access.Rights{Audience: access.Audience{Who: access.Everybody}, Editors: access.Audience{Who: access.Some, Users: []int64{b.Rep.ID}}}); err != nil {
		t.Fatal(err)
	}
	s, err := b.App.Library.Template(ctx, b.Rep, id)
	if err != nil || !s.MayEdit || s.Counts.Audience.Who != access.Everybody {
		t.Errorf("%+v, %v", s, err)
	}
}

func TestDeleteTemplate(t *testing.T) {
	b := testbed.New(t)
	id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Once", Input: library.Input{Subject: "s", Body: "b"}})
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), id)
	if d, err := b.App.Library.DependantsOf(ctx, b.Rep, id); err != nil || d.Drafts != 1 || d.Sent != 0 {
		t.Errorf("%+v, %v", d, err)
	}
	copied, err := b.App.Library.CopyTemplate(ctx, b.Rep, id, false)
	if err != nil || copied.Name != "Copy of Once" || copied.State != domain.TemplateDraft || copied.Version != 1 || copied.BodyText != "b" {
		t.Errorf("%+v, %v", copied, err)
	}
	if err := b.App.Library.DeleteTemplate(ctx, b.Rep, id); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.Template(ctx, b.Rep, id); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("still there: %v", err)
	}
	if got, err := b.App.Desk.Letter(ctx, b.Rep, l.ID); err != nil || got.TemplateName != "Once" {
		t.Errorf("its letter: %+v, %v", got, err)
	}
	if err := b.App.Library.PutBackTemplate(ctx, b.Rep, id); err != nil {
		t.Fatal(err)
	}
	if got := names(t, b.App, b.Rep, domain.LibraryQuery{}); got != "Copy of Once, Once" {
		t.Error(got)
	}
}
