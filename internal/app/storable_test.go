package app_test

import (
	"slices"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A gap says whether its value can go onto the record with it, and what it says holds.
func TestLetter_storable(t *testing.T) {
	b := testbed.New(t)
	for _, d := range []field.Def{{Path: "lead.own.visit", Label: "Visit", Type: field.Text}} {
		if err := b.App.Records.NewOwnField(ctx, b.Lead, d); err != nil {
			t.Fatal(err)
		}
	}
	fields := map[string]bool{ // of a lead
		"person.city": true, "lead.own.visit": true, "lead.source": true,
		"person.full_name": false, "company.name": false, "sender.phone": false, "sender.job_title": false,
	}
	subject := ""
	for path := range fields {
		subject += "{{" + path + "}} "
	}
	id, err := b.Store.AddPerson(ctx, domain.Person{Kind: field.Lead, Email: "ada@quill.example", OwnerID: &b.Rep.ID, CreatedAt: b.Now(), UpdatedAt: b.Now()})
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, id, b.Template(t, "Every field", "Hi", subject))
	seen := 0
	for _, g := range l.Gaps {
		want, known := fields[g.Path]
		if !known {
			continue
		}
		seen++
		if got := slices.Contains(l.Storable, g.Path); got != want {
			t.Errorf("%s can be stored: %t", g.Path, got)
			continue
		}
		now, err := b.App.Desk.Letter(ctx, b.Rep, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(now), g.Path, "Leeds", true); (err == nil) != want {
			t.Errorf("%s, also on the record: %v", g.Path, err)
		}
	}
	if seen < 6 {
		t.Errorf("only %d gaps: %+v", seen, l.Gaps)
	}
}
