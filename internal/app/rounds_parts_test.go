package app_test

import (
	"strings"
	"testing"
	"time"

	"lucidletter/core/markup"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// german makes people readers of German and gives a template a German wording.
func german(t *testing.T, b *testbed.Bed, template int64, body string, people ...int64) int64 {
	t.Helper()
	for _, id := range people {
		p, err := b.Store.Person(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		p.Language = "de"
		if err := b.Store.UpdatePerson(ctx, p); err != nil {
			t.Fatal(err)
		}
	}
	of, err := b.Store.Template(ctx, template)
	if err != nil {
		t.Fatal(err)
	}
	words := markup.Parse(body)
	words.Attrs.Lang = "de"
	id, err := b.Store.AddTemplate(ctx, domain.Template{Name: of.Name, Subject: markup.Parse("Ihr Kühlraum"), Body: words, State: domain.TemplateReady, Version: 1, OwnerID: of.OwnerID, SisterOf: &of.ID, CreatedAt: b.Now(), UpdatedAt: b.Now(), UpdatedBy: of.OwnerID})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// textsOf gives the words that went to somebody.
func textsOf(t *testing.T, b *testbed.Bed, person int64) string {
	t.Helper()
	out := ""
	for _, l := range sentTo(t, b, person) {
		bytes, err := b.Store.Bytes(ctx, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		out += string(bytes)
	}
	return out
}

// What the letters of a round are made of beside its template is what it was when the sender
// looked, or the round waits and says what was changed.
func TestRound_parts(t *testing.T) {
	type round struct {
		b       *testbed.Bed
		id      int64
		sister  int64
		english int64
		german  int64
	}
	rewrite := func(t *testing.T, r round, id int64, change func(*domain.Template)) {
		t.Helper()
		one, err := r.b.Store.Template(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		change(&one)
		if err := r.b.Store.UpdateTemplate(ctx, one); err != nil {
			t.Fatal(err)
		}
	}
	for name, row := range map[string]struct {
		change func(t *testing.T, r round)
		want   string
	}{
		"sister put back to draft": {func(t *testing.T, r round) {
			rewrite(t, r, r.sister, func(one *domain.Template) { one.State = domain.TemplateDraft })
		}, "The German wording was changed since you looked"},
		"sister edited": {func(t *testing.T, r round) {
			rewrite(t, r, r.sister, func(one *domain.Template) { one.Body = markup.Parse("Guten Tag, neu und ungelesen.") })
		}, "The German wording was changed since you looked"},
		"passage": {func(t *testing.T, r round) {
			list, err := r.b.Store.Passages(ctx)
			if err != nil || len(list) != 1 {
				t.Fatal(list, err)
			}
			list[0].Body = markup.Parse("Closed for good.")
			if err := r.b.Store.UpdatePassage(ctx, list[0]); err != nil {
				t.Fatal(err)
			}
		}, "The passage “hours” was changed since you looked"},
		"signature": {func(t *testing.T, r round) {
			if _, err := r.b.Store.DB().Exec(`UPDATE users SET signature = 'Somebody else' WHERE id = ?`, r.b.Rep.ID); err != nil {
				t.Fatal(err)
			}
		}, "Your signature was changed since you looked"},
		"foot": {func(t *testing.T, r round) {
			s := domain.UsualSettings()
			s.Grounds, s.OptOutLink = []string{}, true
			if err := r.b.App.Team.SetSettings(ctx, admin(r.b), s); err != nil {
				t.Fatal(err)
			}
		}, "What stands at the foot of letters was changed since you looked"},
		"nothing": {func(*testing.T, round) {}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			people := crowd(t, b, 2)
			if _, err := b.Store.AddPassage(ctx, domain.Passage{Name: "Hours", Shortcut: "hours", Body: markup.Parse("Open from eight."), OwnerID: b.Lead.ID, UpdatedBy: b.Lead.ID, Version: 1, CreatedAt: b.Now(), UpdatedAt: b.Now()}); err != nil {
				t.Fatal(err)
			}
			template := b.Template(t, "T", "Your cold room", "Dear {{person.first_name}}, your cold room is ready for you and we would like to show it. {{>hours}}")
			r := round{b: b, english: people[0], german: people[1]}
			r.sister = german(t, b, template, "Guten Tag {{person.first_name}}, Ihr Kühlraum ist fertig und wir würden ihn Ihnen gerne zeigen.", people[1])
			s := startRound(t, b, template, people...)
			r.id = s.ID
			sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true, Local: "2026-03-02T12:00"})
			row.change(t, r)
			b.Pass(8 * time.Hour)
			workAll(t, b)
			s = roundNow(t, b, s.ID)
			if got := s.Reason; !strings.HasPrefix(got, row.want) || (got == "") != (row.want == "") {
				t.Errorf("%s: %q", s.State, got)
			}
			if row.want == "" {
				if got := textsOf(t, b, r.german); !strings.Contains(got, "Guten Tag P1") {
					t.Errorf("German: %s", got)
				}
				return
			}
			if got := textsOf(t, b, r.german) + textsOf(t, b, r.english); got != "" {
				t.Errorf("it went: %s", got)
			}
			// The sender has looked: what was pinned goes.
			if err := b.App.Rounds.KeepTemplate(ctx, b.Rep, s.ID, s.Version); err != nil {
				t.Fatal(err)
			}
			if err := b.App.Rounds.GoOn(ctx, b.Rep, s.ID); err != nil {
				t.Fatal(err)
			}
			b.Pass(time.Minute)
			workAll(t, b)
			if got := textsOf(t, b, r.german); !strings.Contains(got, "Guten Tag P1") || strings.Contains(got, "ungelesen") {
				t.Errorf("German after looking: %s", got)
			}
		})
	}
}

// Words of its own for a round stand in place of the wording that they were made from; readers of
// other languages get theirs.
func TestRound_ownWordingAndOtherLanguages(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 2)
	template := b.Template(t, "T", "Your cold room", "Dear {{person.first_name}}, your cold room is ready for you and we would like to show it.")
	german(t, b, template, "Guten Tag {{person.first_name}}, Ihr Kühlraum ist fertig und wir würden ihn Ihnen gerne zeigen.", people[1])
	s := startRound(t, b, template, people...)
	in := library.Input{Subject: "Your cold room", Body: "Dear {{person.first_name}}, only this round says that we are moving to another house."}
	if err := b.App.Rounds.SetWording(ctx, b.Rep, s.ID, s.Version, &in); err != nil {
		t.Fatal(err)
	}
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	workAll(t, b)
	if got := textsOf(t, b, people[0]); !strings.Contains(got, "only this round") {
		t.Errorf("English: %s", got)
	}
	if got := textsOf(t, b, people[1]); !strings.Contains(got, "Guten Tag P1") {
		t.Errorf("German: %s", got)
	}
}
