package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/testbed"
)

// A template with red notes begins no letter, by no way: nothing of it disappears without a word.
func TestRedNotes_beginNothing(t *testing.T) {
	for name, row := range map[string]struct {
		body string
		harm func(b *testbed.Bed) error
	}{
		"deleted field with a fallback": {"Dear {{person.first_name}}, for {{person.own.room|your room}}.", func(b *testbed.Bed) error {
			return b.App.Records.DeleteOwnField(ctx, b.Lead, "person.own.room")
		}},
		"deleted field in a condition": {"Dear {{person.first_name}}.\n\n{{#person.own.room}}Your room is ready.{{/person.own.room}}", func(b *testbed.Bed) error {
			return b.App.Records.DeleteOwnField(ctx, b.Lead, "person.own.room")
		}},
		"removed choice": {"Dear {{person.first_name}}.\n\n{{#person.own.grade = \"gold\"}}Your price is special.{{/person.own.grade}}", func(b *testbed.Bed) error {
			return b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.grade", "Grade", []string{"silver"}, true)
		}},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			for _, d := range []field.Def{{Path: "person.own.room", Label: "Room", Type: field.Text}, {Path: "person.own.grade", Label: "Grade", Type: field.Choice, Choices: []string{"gold", "silver"}}} {
				if err := b.App.Records.NewOwnField(ctx, b.Lead, d); err != nil {
					t.Fatal(err)
				}
			}
			person := b.Person(t, "Ada", "Quill", "ada@quill.example")
			template := b.Template(t, "T", "Your room", row.body)
			s := startRound(t, b, template, person)
			p := readyPlan(t, b, "P", letterStep(template, 0, false))
			run1 := startPlan(t, b, p.ID, person)
			if err := row.harm(b); err != nil {
				t.Fatal(err)
			}
			if _, err := b.App.Desk.StartLetter(ctx, b.Rep, person, &template, nil); err == nil || !strings.Contains(err.Error(), "has an error") {
				t.Errorf("the desk: %v", err)
			}
			if roundNow(t, b, s.ID); !strings.Contains(standing(t, b, s.ID), "has an error") {
				t.Errorf("a round: %s", standing(t, b, s.ID))
			}
			if s, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{People: []int64{person}, TemplateID: &template}); err == nil {
				if roundNow(t, b, s); !strings.Contains(standing(t, b, s), "has an error") {
					t.Errorf("a new round: %s", standing(t, b, s))
				}
			}
			untilThen(t, b, "2026-03-03 12:00")
			if got := run(t, b, run1); !strings.Contains(got, "has an error") {
				t.Errorf("a plan: %s", got)
			}
			if got := sentTo(t, b, person); len(got) > 0 {
				t.Errorf("it went: %v", got)
			}
		})
	}
}

// A choice that templates ask for is not taken away without a word.
func TestChangeOwnField_saysWhatAsksForAChoice(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.NewOwnField(ctx, b.Lead, field.Def{Path: "person.own.grade", Label: "Grade", Type: field.Choice, Choices: []string{"gold", "silver"}}); err != nil {
		t.Fatal(err)
	}
	b.Template(t, "Special price", "S", "{{#person.own.grade = \"gold\"}}Special.{{/person.own.grade}}")
	change := func(anyway bool, choices ...string) error {
		return b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.grade", "Grade", choices, anyway)
	}
	if err := change(false, "silver"); err == nil || !strings.Contains(err.Error(), "“Special price”") || !strings.Contains(err.Error(), "gold") {
		t.Errorf("%v", err)
	}
	if err := change(false, "gold"); err != nil {
		t.Errorf("one that nobody asks for: %v", err)
	}
	if err := change(true, "silver"); err != nil {
		t.Errorf("anyway: %v", err)
	}
}

// Where the words of a template are too few to be recognised, its values are in the team's
// language, not in that of whoever reads them; what is for a colleague is written for them.
func TestLanguage_ofFewWords(t *testing.T) {
	b := testbed.New(t)
	person := b.Person(t, "Eva", "Quill", "eva@quill.example")
	p, err := b.Store.Person(ctx, person)
	if err != nil {
		t.Fatal(err)
	}
	p.Language, p.Country, p.Phone = "de", "DE", "+49 30 901820"
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	b.Rep.Country = "GB"
	if _, err := b.Store.DB().Exec(`UPDATE users SET country = 'GB' WHERE id = ?`, b.Rep.ID); err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, person, b.Template(t, "Short", "Hi", "Hi {{person.first_name}}, {{today}}."))
	if got := text(l); !strings.Contains(got, "2 March 2026") {
		t.Errorf("%q", got)
	}
	plan := readyPlan(t, b, "P", callStep(0, "Call {{person.phone}} before {{today}}"))
	startPlan(t, b, plan.ID, person)
	untilThen(t, b, "2026-03-03 12:00")
	tasks, err := b.App.Tasks.Tasks(ctx, b.Rep, person)
	if err != nil || len(tasks) != 1 || !strings.HasPrefix(tasks[0].Text, "Call +49 30 901820 before ") || !strings.Contains(tasks[0].Text, "March") {
		t.Errorf("%+v, %v", tasks, err)
	}
}
