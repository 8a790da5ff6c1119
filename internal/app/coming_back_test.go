package app_test

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"lucidletter/core/render"
	"lucidletter/core/result"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

const agent = "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0"

var look = result.Visit{Method: "GET", Agent: agent}

// linked sends a formatted letter with two links to a person, and gives it with the
// tokens of its links.
func linked(t *testing.T, b *testbed.Bed, person int64) (domain.Letter, []string) {
	t.Helper()
	l := b.Letter(t, person, b.Formatted(t, fmt.Sprint("Linked ", person), `<p>See <a href="https://x.example/a?b=1&amp;c=2">this</a>, <a href="https://y.example">that</a> and <a href="https://x.example/a?b=1&amp;c=2">this again</a>.</p>`))
	gone(t, b, l, desk.When{})
	after, err := b.Store.Letter(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	links, err := b.Store.LinksOf(ctx, l.ID)
	if err != nil || len(links) != 2 || links[0].URL != "https://x.example/a?b=1&c=2" {
		t.Fatalf("%+v %v", links, err)
	}
	return after, []string{links[0].Token, links[1].Token}
}

func back(t *testing.T, b *testbed.Bed, id int64) domain.Back {
	t.Helper()
	out, err := b.App.Desk.BackOf(ctx, b.Rep, id)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestTracking(t *testing.T) {
	b := testbed.New(t)
	l, links := linked(t, b, b.Person(t, "Ada", "Quill", "ada@quill.example"))
	raw, err := b.App.Desk.Source(ctx, b.Rep, l.ID)
	if err != nil || !l.Tracked || !strings.Contains(string(raw), "/o/"+l.Token) {
		t.Fatalf("%t %v %s", l.Tracked, err, raw)
	}
	// What we look at ourselves holds neither.
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || strings.Contains(proof.Mail.HTML, "letters.fernhollow.example/l/") || strings.Contains(proof.Mail.HTML, "letters.fernhollow.example/o/") || !strings.Contains(proof.Mail.HTML, `href="https://y.example"`) {
		t.Errorf("%v\n%s", err, proof.Mail.HTML)
	}
	open := func(v result.Visit) {
		t.Helper()
		if err := b.App.Desk.Opened(ctx, l.Token, v); err != nil {
			t.Fatal(err)
		}
	}
	open(look) // at once
	open(result.Visit{Method: "HEAD", Agent: agent})
	if got := back(t, b, l.ID); !got.Measured || got.Opened || got.MachineOpens != 1 || got.Opens != 0 {
		t.Errorf("at once: %+v", got)
	}
	b.Pass(time.Hour)
	open(look)
	open(look) // the same look
	if got := back(t, b, l.ID); !got.Opened || got.Opens != 1 || got.LastOpen == nil || !got.LastOpen.Equal(b.Now()) {
		t.Errorf("an hour later: %+v", got)
	}
	follow := func(token, want string) {
		t.Helper()
		if url, err := b.App.Desk.Followed(ctx, token, look); err != nil || url != want {
			t.Fatalf("%q %v", url, err)
		}
	}
	follow(links[0], "https://x.example/a?b=1&c=2")
	b.Pass(time.Second)
	follow(links[1], "https://y.example")
	if got := back(t, b, l.ID); got.Clicks != 0 || got.MachineClicks != 2 {
		t.Errorf("all links at once: %+v", got)
	}
	b.Pass(time.Hour)
	follow(links[1], "https://y.example")
	if got := back(t, b, l.ID); got.Clicks != 1 || got.Links[0].Clicks != 0 || got.Links[1].Clicks != 1 || got.Links[1].URL != "https://y.example" {
		t.Errorf("one link: %+v", got)
	}
	for _, token := range []string{"", "none", l.Token} {
		if _, err := b.App.Desk.Followed(ctx, token, look); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("followed %q: %v", token, err)
		}
	}
	rows, err := b.App.Desk.SentLetters(ctx, b.Rep, "")
	if err != nil || len(rows) != 1 || rows[0].Back.Clicks != 1 || !rows[0].Back.Opened {
		t.Errorf("%+v %v", rows, err)
	}
}

// Opens are not measured of a plain letter, nor where somebody switched that off.
func TestTracking_off(t *testing.T) {
	const body = `<p>See <a href="https://x.example">this</a></p>`
	for name, set := range map[string]func(*testing.T, *testbed.Bed, int64, desk.LetterSheet) desk.LetterSheet{
		"the letter": func(t *testing.T, b *testbed.Bed, _ int64, l desk.LetterSheet) desk.LetterSheet {
			out, err := b.App.Desk.SetTracked(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}, false)
			if err != nil || !out.Extras.Untracked {
				t.Fatal(err)
			}
			return out
		},
		"the person": func(t *testing.T, b *testbed.Bed, id int64, l desk.LetterSheet) desk.LetterSheet {
			if err := b.App.Desk.SetPersonTracked(ctx, b.Rep, id, false); err != nil {
				t.Fatal(err)
			}
			return l
		},
		"everywhere": func(t *testing.T, b *testbed.Bed, _ int64, l desk.LetterSheet) desk.LetterSheet {
			admin := b.Lead
			admin.Role = "administrator"
			if err := b.App.Team.SetSettings(ctx, b.Rep, domain.Settings{}); !errors.Is(err, domain.ErrDenied) {
				t.Errorf("a representative changed the settings: %v", err)
			}
			if err := b.App.Team.SetSettings(ctx, admin, domain.Settings{}); err != nil {
				t.Fatal(err)
			}
			return l
		},
	} {
		b := testbed.New(t)
		id := b.Person(t, "Ada", "Quill", "ada@quill.example")
		l := set(t, b, id, b.Letter(t, id, b.Formatted(t, "T", body)))
		// Before it goes the desk says what will be.
		if now, err := b.App.Desk.Letter(ctx, b.Rep, l.ID); err != nil || now.Tracking.On || now.Tracking.Fixed != (name != "the letter") || now.Tracking.Fixed != (now.Tracking.Reason != "") {
			t.Errorf("%s: %+v, %v", name, now.Tracking, err)
		}
		gone(t, b, l, desk.When{})
		if raw, err := b.App.Desk.Source(ctx, b.Rep, l.ID); err != nil || strings.Contains(string(raw), "/o/") || strings.Contains(string(raw), "/l/") || back(t, b, l.ID).Measured {
			t.Errorf("%s: %v\n%s", name, err, raw)
		}
	}
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "P", "Hi", "See https://x.example"))
	gone(t, b, l, desk.When{})
	if got := back(t, b, l.ID); got.Measured || got.Opened {
		t.Errorf("plain: %+v", got)
	}
}

func TestLinkDocument(t *testing.T) {
	b := testbed.New(t)
	d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Price list"}, "prices.txt", []byte("all prices"))
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "P", "Hi", "Here:\n\n"))
	words, err := b.App.Desk.LinkDocument(ctx, b.Rep, l.ID, d.ID)
	if err != nil {
		t.Fatal(err)
	}
	again, err := b.App.Desk.LinkDocument(ctx, b.Rep, l.ID, d.ID)
	if text := render.RenderText(words); err != nil || text != render.RenderText(again) || !regexp.MustCompile(`^Price list: http://letters.fernhollow.example/d/id\d+\n?$`).MatchString(text) {
		t.Fatalf("%q %v", render.RenderText(words), err)
	}
	saved, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: words})
	if err != nil {
		t.Fatal(err)
	}
	// The same words in another letter would count for this one's reader.
	other := b.Letter(t, l.PersonID, *l.TemplateID)
	copied, err := b.App.Desk.SaveDraft(ctx, b.Rep, other.ID, desk.Wording{Version: other.Version, Subject: other.Subject, Body: words})
	if err != nil || len(copied.Stops) != 1 || copied.Stops[0].Code != "document" || len(saved.Stops) != 0 {
		t.Errorf("copied: %+v, its own: %+v, %v", copied.Stops, saved.Stops, err)
	}
	token := render.RenderText(words)[strings.LastIndex(render.RenderText(words), "/")+1:]
	token = strings.TrimSpace(token)
	if _, err := b.App.Desk.DocumentPage(ctx, token, &look); err != nil || back(t, b, l.ID).Documents != 0 {
		t.Errorf("before it went: %v", err)
	}
	gone(t, b, saved, desk.When{})
	b.Pass(time.Minute)
	page, err := b.App.Desk.DocumentPage(ctx, token, &look)
	held, release, wrong := b.App.Library.HoldFile(ctx, page.File)
	if wrong != nil {
		t.Fatal(wrong)
	}
	defer release()
	if err != nil || page.Name != "Price list" || page.FileName != "prices.txt" || string(held.Bytes) != "all prices" || page.Sender != "Imre Falk" {
		t.Errorf("%+v %v", page, err)
	}
	if got := back(t, b, l.ID); got.Documents != 1 || !got.Opened || got.Measured || got.Links[0].Clicks != 1 {
		t.Errorf("%+v", got)
	}
}

func TestFoot(t *testing.T) {
	b := testbed.New(t)
	admin := b.Lead
	admin.Role = "administrator"
	if err := b.App.Team.SetSettings(ctx, admin, domain.Settings{OptOutLink: true}); err == nil {
		t.Error("a line without words was taken")
	}
	if err := b.App.Team.SetSettings(ctx, admin, domain.Settings{OptOutLink: true, OptOutWords: "No more letters", PostalAddress: true}); err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "P", "Hi", "Hello"))
	if len(l.Stops) != 1 || l.Stops[0].Code != "foot" {
		t.Errorf("a letter without a postal address: %+v", l.Stops)
	}
	if err := b.App.Team.SetSettings(ctx, admin, domain.Settings{OptOutLink: true, OptOutWords: "No more letters"}); err != nil {
		t.Fatal(err)
	}
	l, err := b.App.Desk.Letter(ctx, b.Rep, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	gone(t, b, l, desk.When{})
	stored, _ := b.Store.Letter(ctx, l.ID)
	if raw, err := b.App.Desk.Source(ctx, b.Rep, l.ID); err != nil || !strings.Contains(string(raw), "\r\n\r\nNo more letters: http://letters.fernhollow.example/out/"+stored.Token+"\r\n") {
		t.Errorf("%v\n%s", err, raw)
	}
}
