package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestCheckTemplate_kinds(t *testing.T) {
	b := testbed.New(t)
	for _, row := range []struct {
		name string
		in   library.Input
		want string // notes, removals
	}{
		{"plain", library.Input{Subject: "s", Body: "a {{person.cty}}"}, "[body 1:3: There is no field person.cty; did you mean person.city or company.city or deal.main_contact.city?] []"},
		{"formatted", library.Input{Subject: "s", Body: "<p>a</p>\n<p>{{person.cty}}</p>", Kind: "formatted"}, "[body 2:4: There is no field person.cty; did you mean person.city or company.city or deal.main_contact.city?] []"},
		{"bad markup", library.Input{Subject: "s", Body: "<p>a</p>\n<video>", Kind: "formatted"}, "[body 2:1: <video> is no block of a formatted body; use p, h1 to h3, ul, ol, blockquote, img, button, table, columns, hr or spacer.] []"},
		{"page", library.Input{Subject: "s", Body: "<p>{{person.city|}}</p>\n<script>x</script><p onclick='x'>{{person.cty}}", Kind: "html"},
			"[body 2:34: There is no field person.cty; did you mean person.city or company.city or deal.main_contact.city?] [{<script> 1} {onclick of <p> 1}]"},
		{"page, well", library.Input{Subject: "s", Body: "<p>{{person.city|}}</p>", Kind: "html"}, "[] []"},
	} {
		c, err := b.App.Library.CheckTemplate(context.Background(), b.Rep, row.in)
		if got := fmt.Sprint(c.Notes, " ", c.Removed); err != nil || got != row.want {
			t.Errorf("%s: %s, %v\nwant %s", row.name, got, err, row.want)
		}
	}
	for _, row := range []struct {
		in   library.Input
		want string
	}{
		{library.Input{Kind: "fancy"}, "body: kind: \"fancy\" is not a kind of body"},
		{library.Input{Language: "the reader's"}, "language: \"the reader's\" is not a language"},
		{library.Input{Body: strings.Repeat("a", 1<<20+1), Kind: "html"}, "body: is longer than 1 MiB"},
		{library.Input{Body: "<style>" + strings.Repeat("p{color:red}", 1001) + "</style>", Kind: "html"}, "selectors of style"},
	} {
		var bad *domain.InvalidError
		if _, err := b.App.Library.CheckTemplate(context.Background(), b.Rep, row.in); !errors.As(err, &bad) || !strings.Contains(err.Error(), row.want) {
			t.Errorf("%.40s: %v, want %s", row.in.Body, err, row.want)
		}
	}
}

func TestTryOn_kindsAndLanguages(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	id := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct {
		in         library.Input
		text, html string
	}{
		{library.Input{Subject: "s", Body: "Dear {{person.first_name}}"}, "Dear Ada", ""},
		{library.Input{Subject: "For {{person.first_name}}", Body: "<p>Dear <b>{{person.first_name}}</b></p>", Kind: "formatted"}, "Dear Ada", "<title>For Ada</title>"},
		{library.Input{Subject: "s", Body: "<h1>{{person.first_name}}</h1><script>x</script>", Kind: "html"}, "Ada", "<h1>Ada</h1>"},
		{library.Input{Subject: "s", Body: "{{today as long}}", Language: "de"}, "2. März 2026", ""},
		{library.Input{Subject: "s", Body: "<p>{{today as long}}</p>", Kind: "formatted", Language: "fr"}, "2 mars 2026", `<html lang="fr" dir="ltr">`},
	} {
		got, err := b.App.Library.TryOn(ctx, b.Rep, row.in, id, "", 0)
		if err != nil || got.Text != row.text || !strings.Contains(got.HTML, row.html) || strings.Contains(got.HTML, "<script") || (row.html == "") != (got.HTML == "") {
			t.Errorf("%+v: %q, %q, %v", row.in, got.Text, got.HTML, err)
		}
	}
	var bad *domain.InvalidError
	if _, err := b.App.Library.TryOn(ctx, b.Rep, library.Input{Body: "<p>", Kind: "formatted"}, id, "", 0); !errors.As(err, &bad) {
		t.Errorf("markup that cannot be read: %v", err)
	}
}

// The language is the template's, else the person's, else the team's.
func TestStartLetter_language(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	team, err := b.Store.AddTeam(ctx, domain.Team{Name: "Süd", Language: "de"})
	if err != nil {
		t.Fatal(err)
	}
	rep := b.Rep
	rep.TeamID = &team
	id := b.Person(t, "Ada", "Quill", "ada@quill.example")
	add := func(language string) int64 {
		s, err := b.App.Library.AddTemplate(ctx, b.Lead, library.TemplateInput{Name: "T" + language, Input: library.Input{Subject: "s", Body: "{{today as long}} {{?day: date}}", Language: language}, State: domain.TemplateReady})
		if err != nil || s.Body.Attrs.Lang != language {
			t.Fatal(s.Body.Attrs.Lang, err)
		}
		return s.ID
	}
	french, any := add("fr"), add("")
	for _, row := range []struct {
		template int64
		person   string
		want     string
	}{{french, "es", "2 mars 2026 3 mars 2026"}, {any, "es", "2. März 2026 3. März 2026"}, {any, "", "2. März 2026 3. März 2026"}} {
		p, err := b.Store.Person(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		if p.Language = row.person; b.Store.UpdatePerson(ctx, p) != nil {
			t.Fatal("the person was not stored")
		}
		l, err := b.App.Desk.StartLetter(ctx, rep, id, &row.template, nil)
		if err != nil {
			t.Fatal(err)
		}
		// What is filled in later is written in the same language, whatever the
		// editor sent back of it.
		body := l.Body
		body.Attrs.Lang = ""
		l, err = b.App.Desk.FillGap(ctx, rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: body}, "?day", "2026-03-03", false)
		if err != nil {
			t.Fatal(err)
		}
		if got := field.Of(l.Body.Content[0].Content[0].Text + " " + l.Body.Content[0].Content[2].Text).Text; got != row.want {
			t.Errorf("%+v: %q", row, got)
		}
	}
}

// A blank that stands only in the address of a link is asked for and made safe
// for its place.
func TestFillGap_inAddress(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	made, err := b.App.Library.AddTemplate(ctx, b.Rep, library.TemplateInput{Name: "Page", Input: library.Input{Subject: "s", Kind: "formatted", Body: `<p>Dear {{person.first_name}}, <a href="https://fernhollow.example/{{?page: text "Which page?"}}">see<br>this</a></p>`}, State: domain.TemplateReady})
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, ada, made.ID)
	if len(l.Gaps) != 1 || l.Gaps[0].Path != "?page" || len(l.Stops) != 1 {
		t.Fatalf("%+v, %+v", l.Gaps, l.Stops)
	}
	words := desk.Wording{Subject: l.Letter.Subject, Body: l.Body, Version: l.Version}
	filled, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, words, "?page", `rooms "for" all?`, false)
	if err != nil || len(filled.Gaps)+len(filled.Stops) != 0 {
		t.Fatalf("%+v, %+v, %v", filled.Gaps, filled.Stops, err)
	}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if want := `href="https://fernhollow.example/rooms%20%22for%22%20all%3F"`; err != nil || strings.Count(proof.Mail.HTML, want) != 1 {
		t.Errorf("%v, %v in\n%s", err, want, proof.Mail.HTML)
	}
}
