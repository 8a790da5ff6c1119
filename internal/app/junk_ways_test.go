package app_test

import (
	"strings"
	"testing"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// What stands for no value is none by whatever way it comes in.
func TestJunk_everyWay(t *testing.T) {
	for _, junk := range []string{"n/a", "-", "?", "N/A.", "[First name]", "____", "tbd"} {
		t.Run(junk, func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			ada := b.Person(t, junk, "Quill", "ada@quill.example")
			template := b.Template(t, "T", "Your room", "Dear {{person.first_name|}} {{person.last_name}},\n\n{{person.city}} {{?reason}}")
			l := b.Letter(t, ada, template)
			if l.ToName != "Quill" || strings.Contains(text(l), junk) {
				t.Errorf("from the record: to %q, %q", l.ToName, text(l))
			}
			for _, path := range []string{"?reason", "person.city"} {
				if _, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), path, junk, false); err == nil {
					t.Errorf("%s at the desk took it", path)
				}
			}
			s := startRound(t, b, template, ada)
			if err := b.App.Rounds.Fill(ctx, b.Rep, s.ID, s.Version, "?reason", junk); err == nil {
				t.Error("a blank of a round took it")
			}
			if err := b.App.Rounds.Fill(ctx, b.Rep, s.ID, s.Version, "person.city", junk); err == nil {
				t.Error("a gap of a round took it")
			}
			p, err := b.App.Rounds.Paste(ctx, b.Rep, s.ID, "Email\treason\nada@quill.example\t"+junk, nil, true)
			if err != nil || len(p.Wrong) != 1 || p.Filled != 0 {
				t.Errorf("a table: %+v, %v", p, err)
			}
			l, err = b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Name: junk, Email: "bo@rye.example"}}})
			if err != nil || len(l.Extras.Cc) != 1 || l.Extras.Cc[0].Name != "" {
				t.Errorf("a copy: %+v, %v", l.Extras.Cc, err)
			}
			// And on the record it can be corrected by whoever sees nothing there.
			if _, err := b.App.Records.ChangeValues(ctx, b.Rep, ada, map[string]string{"person.first_name": ""}, map[string]string{"person.first_name": "Ada"}); err != nil {
				t.Errorf("correcting it: %v", err)
			}
		})
	}
}
