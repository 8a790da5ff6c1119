package app_test

import (
	"strings"
	"testing"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// barred are the ways in which somebody becomes one who is not written to.
var barred = map[eligibility.Code]func(t *testing.T, b *testbed.Bed, person int64){
	eligibility.OptedOut: func(t *testing.T, b *testbed.Bed, person int64) {
		if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "ada@quill.example", "asked for it"); err != nil {
			t.Fatal(err)
		}
	},
	eligibility.Bounced: func(t *testing.T, b *testbed.Bed, person int64) {
		if err := b.Store.PutBadAddress(ctx, domain.BadAddress{Key: "ada@quill.example", Reason: "5.1.1", At: b.Now()}); err != nil {
			t.Fatal(err)
		}
	},
	eligibility.Deleted: func(t *testing.T, b *testbed.Bed, person int64) {
		if err := b.App.Records.Delete(ctx, b.Rep, field.Person, person); err != nil {
			t.Fatal(err)
		}
	},
	eligibility.Moved: func(t *testing.T, b *testbed.Bed, person int64) { put(t, b, person, "person.email", "ada@rye.example") },
	"merged": func(t *testing.T, b *testbed.Bed, person int64) {
		other := b.Person(t, "Adele", "Quill", "adele@quill.example")
		p, err := b.Store.Person(ctx, other)
		if err == nil {
			_, err = b.App.Records.Merge(ctx, b.Rep, other, person, p.Version, nil)
		}
		if err != nil {
			t.Fatal(err)
		}
	},
}

// sentenceFor is the one sentence about why a person is not written to, and its short form.
func sentenceFor(t *testing.T, b *testbed.Bed, person int64, to string) (sentence, label string) {
	t.Helper()
	p, err := b.Store.Person(ctx, person)
	if err != nil {
		t.Fatal(err)
	}
	f, err := b.App.Records.Standing(ctx, &p, to)
	f.Waits, f.Now = true, p.Email
	r := eligibility.First(&f)
	if err != nil || r == nil {
		t.Fatalf("nothing keeps letters from them, %v", err)
	}
	return r.Sentence(p.Name()), r.Label()
}

// onItsWay are the ways in which a letter to Ada comes into the outbox; each gives its number.
var onItsWay = map[string]func(t *testing.T, b *testbed.Bed, ada, template int64) int64{
	"desk": func(t *testing.T, b *testbed.Bed, ada, template int64) int64 {
		return sendNow(t, b, b.Letter(t, ada, template))
	},
	"reply": func(t *testing.T, b *testbed.Bed, ada, template int64) int64 {
		comes(t, b, "imre@fernhollow.example", "From: Ada Quill <ada@quill.example>\nTo: imre@fernhollow.example\nMessage-ID: <r1@quill.example>\nSubject: A question", "When?")
		list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		l, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, &template, false)
		if err != nil {
			t.Fatal(err)
		}
		return sendNow(t, b, l)
	},
	"round": func(t *testing.T, b *testbed.Bed, ada, template int64) int64 {
		s := startRound(t, b, template, ada)
		sendRound(t, b, s.ID, 1, domain.RoundWhen{All: true})
		if _, err := b.App.Rounds.Work(ctx); err != nil {
			t.Fatal(err)
		}
		return onlyDue(t, b)
	},
	"plan step": func(t *testing.T, b *testbed.Bed, ada, template int64) int64 {
		p := readyPlan(t, b, "P", atOnce(letterStep(template, 0, false)))
		startPlan(t, b, p.ID, ada)
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		return onlyDue(t, b)
	},
	"standing order": func(t *testing.T, b *testbed.Bed, ada, template int64) int64 {
		order(t, b, "O", domain.OrderSaid{When: changes("person.city", "York"), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}})
		put(t, b, ada, "person.city", "York")
		b.Pass(time.Minute)
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		return onlyDue(t, b)
	},
}

func sendNow(t *testing.T, b *testbed.Bed, l desk.LetterSheet) int64 {
	t.Helper()
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	return l.ID
}

func onlyDue(t *testing.T, b *testbed.Bed) int64 {
	t.Helper()
	due, _, err := b.Store.Due(ctx, b.Now(), 9)
	if err != nil || len(due) != 1 {
		t.Fatalf("%d letters wait, want one; %v", len(due), err)
	}
	return due[0].ID
}

// Whoever is barred while a letter waits does not get it, by whatever way it came into the outbox, and the
// same sentence says why: when it is handed over, and when somebody tries it again or at another time.
func TestEligible_whileItWaits(t *testing.T) {
	for code, bar := range barred {
		for way, queue := range onItsWay {
			t.Run(string(code)+" "+way, func(t *testing.T) {
				b := testbed.New(t)
				noGrounds(t, b)
				ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
				id := queue(t, b, ada, b.Template(t, "T", "Your room", "Dear {{person.first_name}},"))
				b.Pass(time.Second)
				bar(t, b, ada)
				want, _ := sentenceFor(t, b, ada, "ada@quill.example")
				if code == "merged" { // the letter went along to the record that stayed
					want = eligibility.Reason{Code: eligibility.Moved, Args: eligibility.Args{To: "ada@quill.example", Now: "adele@quill.example"}}.Sentence("Adele Quill")
				}
				if _, err := b.App.Desk.ChangeTime(ctx, b.Rep, id, desk.When{Local: "2026-03-20T09:00", Zone: "Europe/London"}); err == nil || err.Error() != want {
					t.Errorf("at another time: %v\nwant %s", err, want)
				}
				if list := taken(t, b, id); len(list) > 0 {
					t.Fatal("it was claimed")
				}
				if l := inState(t, b, id, domain.Refused); l.Reason != want {
					t.Errorf("refused for %q\nwant %q", l.Reason, want)
				}
				if _, err := b.App.Desk.Retry(ctx, b.Rep, id); err == nil || err.Error() != want {
					t.Errorf("a retry: %v\nwant %s", err, want)
				}
			})
		}
	}
}

// Whoever is barred before is not chosen, by any way, and the same reason stands there.
func TestEligible_beforehand(t *testing.T) {
	for code, bar := range barred {
		if code == eligibility.Moved { // beforehand, letters go to the new address
			continue
		}
		t.Run(string(code), func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
			template := b.Template(t, "T", "Your room", "Dear {{person.first_name}},")
			draft := b.Letter(t, ada, template)
			reply := domain.IncomingRow{}
			comes(t, b, "imre@fernhollow.example", "From: Ada Quill <ada@quill.example>\nTo: imre@fernhollow.example\nMessage-ID: <r1@quill.example>\nSubject: A question", "When?")
			if list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep); err != nil || len(list) != 1 {
				t.Fatal(list, err)
			} else {
				reply = list[0]
			}
			answer, err := b.App.Inbox.StartAnswer(ctx, b.Rep, reply.ID, &template, false)
			if err != nil {
				t.Fatal(err)
			}
			around := startRound(t, b, template, ada)
			p := readyPlan(t, b, "P", letterStep(template, 0, false))
			o := order(t, b, "O", domain.OrderSaid{When: changes("person.city", "York"), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}})
			copied := b.Letter(t, b.Person(t, "Bea", "Stone", "bea@stone.example"), template)
			copied, err = b.App.Desk.SetEnvelope(ctx, b.Rep, copied.ID, wordingOf(copied), desk.Envelope{Cc: []domain.Address{{Email: "ada@quill.example"}}})
			if err != nil {
				t.Fatal(err)
			}
			put(t, b, ada, "person.city", "York")
			bar(t, b, ada)
			want, label := sentenceFor(t, b, ada, "ada@quill.example")
			real := code
			if code == "merged" {
				real = eligibility.Deleted
			}

			for name, l := range map[string]desk.LetterSheet{"the desk": draft, "a reply": answer} {
				// A merge takes drafts along: there the record that stayed is asked about.
				now, err := b.App.Desk.Letter(ctx, b.Rep, l.ID)
				if err != nil {
					t.Fatal(err)
				}
				if now.PersonID != ada {
					continue
				}
				if len(now.Stops) == 0 || now.Stops[0].Code != string(real) || now.Stops[0].Message != want {
					t.Errorf("%s: %+v\nwant %s: %s", name, now.Stops, real, want)
				}
				if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, now.Version, "ada@quill.example", desk.When{}); err == nil || !strings.Contains(err.Error(), want) {
					t.Errorf("%s sends: %v", name, err)
				}
			}
			workAll(t, b)
			if got := standing(t, b, around.ID); !strings.Contains(got, string(real)) && !strings.Contains(got, label) {
				t.Errorf("a round: %s\nwant %s", got, label)
			}
			if started, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{}); err != nil || len(started.Runs) > 0 || len(started.Left) != 1 || started.Left[0].Why != label && real != eligibility.Deleted {
				t.Errorf("a plan: %+v, %v\nwant %s", started, err, label)
			}
			b.Pass(time.Minute)
			if _, err := b.App.Plans.Work(ctx); err != nil {
				t.Fatal(err)
			}
			if got := log(t, b, o.ID); got != "" && !strings.Contains(got, "Not sent: "+strings.TrimSuffix(want, ".")) && real != eligibility.Deleted {
				t.Errorf("an order: %s\nwant %s", got, want)
			}
			if real != eligibility.Deleted { // an address may get a copy whatever becomes of a record
				_, err = b.App.Desk.Send(ctx, b.Rep, copied.ID, copied.Version, "bea@stone.example", desk.When{})
				list, _ := b.App.Records.Blockers(ctx, &domain.Person{}, "ada@quill.example")
				if err == nil || !strings.Contains(err.Error(), list[0].CopySentence()) {
					t.Errorf("a copy: %v", err)
				}
			}
			if due, _, err := b.Store.Due(ctx, b.Now().AddDate(1, 0, 0), 9); err != nil || len(due) > 0 {
				t.Errorf("%d letters are on their way, %v", len(due), err)
			}
		})
	}
}

func atOnce(s domain.PlanStep) domain.PlanStep { s.When.At = plan.AtOnce; return s }
