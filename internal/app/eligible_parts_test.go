package app_test

import (
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// spoiled are the ways in which a letter that waits comes to lack what it needs, its reader apart;
// each gives what begins the sentence that says so.
var spoiled = map[string]func(t *testing.T, b *testbed.Bed) string{
	"the account is for others": func(t *testing.T, b *testbed.Bed) string {
		in := server("mail.fernhollow.example")
		in.Name, in.Addresses, in.Audience = "Office", []string{"imre@fernhollow.example"}, access.Audience{Who: access.Some, Users: []int64{b.Lead.ID}}
		if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, in); err != nil {
			t.Fatal(err)
		}
		return "Letters from imre@fernhollow.example go through “Office”, which is not for you to use"
	},
	"its document was taken from the shelf": func(t *testing.T, b *testbed.Bed) string {
		list, err := b.App.Library.Documents(ctx, b.Lead)
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		if err := b.App.Library.DeleteDocument(ctx, b.Lead, list[0].ID, false); err != nil {
			t.Fatal(err)
		}
		return "The document “Guide” was taken from the shelf since this letter was proofread"
	},
}

// What a letter lacks while it waits holds it back by whatever way it came into the outbox, and the same
// sentence says why at another time, when it is handed over, and on a retry.
func TestEligible_itsParts(t *testing.T) {
	for cause, spoil := range spoiled {
		for way, queue := range onItsWay {
			t.Run(cause+" "+way, func(t *testing.T) {
				b := testbed.New(t)
				noGrounds(t, b)
				ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
				guide, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Guide"}, "guide.txt", []byte("How to"))
				if err != nil {
					t.Fatal(err)
				}
				template := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "T", Documents: []int64{guide.ID}, Input: library.Input{Subject: "Your room", Body: "Dear {{person.first_name}},"}})
				id := queue(t, b, ada, template)
				b.Pass(time.Second)
				want := spoil(t, b)
				says := func(what string, words string) {
					t.Helper()
					if !strings.HasPrefix(words, want) {
						t.Errorf("%s: %q\nwant %q", what, words, want)
					}
				}
				_, err = b.App.Desk.ChangeTime(ctx, b.Rep, id, desk.When{Local: "2026-03-20T09:00", Zone: "Europe/London"})
				says("at another time", wordsOf(err))
				if list := taken(t, b, id); len(list) > 0 {
					t.Fatal("it was claimed")
				}
				says("refused", inState(t, b, id, domain.Refused).Reason)
				_, err = b.App.Desk.Retry(ctx, b.Rep, id)
				says("a retry", wordsOf(err))
			})
		}
	}
}

func wordsOf(err error) string {
	if err == nil {
		return ""
	}
	return err.Error()
}

// What a letter lacks before it is sent, a value or a blank, lets it go by no way, and each names it.
func TestEligible_gaps(t *testing.T) {
	for what, body := range map[string]string{"City": "Dear {{person.first_name}}, in {{person.city}}.", "Reason": "Dear {{person.first_name}}, {{?reason}}."} {
		t.Run(what, func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
			template := b.Template(t, "T", "Your room", body)
			want := what + " is missing; fill it in"
			draft := b.Letter(t, ada, template)
			if _, err := b.App.Desk.Send(ctx, b.Rep, draft.ID, draft.Version, draft.ToEmail, desk.When{}); !strings.Contains(wordsOf(err), want) {
				t.Errorf("the desk: %v", err)
			}
			around := startRound(t, b, template, ada)
			workAll(t, b)
			rows, _, err := b.App.Rounds.People(ctx, b.Rep, domain.MembersQuery{RoundID: around.ID, Limit: 9})
			if err != nil || len(rows) != 1 || len(rows[0].Missing) != 1 || !strings.HasSuffix(rows[0].Missing[0], strings.ToLower(what)) {
				t.Errorf("a round: %+v, %v", rows, err)
			}
			p := readyPlan(t, b, "P", atOnce(letterStep(template, 0, false)))
			started, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{})
			if err != nil || len(started.Runs) != 1 {
				t.Fatalf("%+v, %v", started, err)
			}
			if _, err := b.App.Plans.Work(ctx); err != nil {
				t.Fatal(err)
			}
			if got := run(t, b, started.Runs[0]); !strings.Contains(got, want) {
				t.Errorf("a plan: %s\nwant %s", got, want)
			}
			if what == "City" { // an order takes no template with blanks: nobody is there to fill them
				o := order(t, b, "O", domain.OrderSaid{When: changes("person.country", "GB"), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}})
				put(t, b, ada, "person.country", "GB")
				b.Pass(time.Minute)
				if _, err := b.App.Plans.Work(ctx); err != nil {
					t.Fatal(err)
				}
				if got := log(t, b, o.ID); !strings.Contains(got, want) {
					t.Errorf("an order: %s\nwant %s", got, want)
				}
			}
			if due, _, err := b.Store.Due(ctx, b.Now().AddDate(1, 0, 0), 9); err != nil || len(due) > 0 {
				t.Errorf("%d letters are on their way, %v", len(due), err)
			}
		})
	}
}
