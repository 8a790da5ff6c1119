package orders

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// doer does what an order says about one record.
type doer struct {
	*maker
	o     *domain.Order
	h     happening
	entry *domain.OrderEntry
	sent  bool
}

// all does everything that the order says, and notes it in the entry.
func (d *doer) all(ctx context.Context) error {
	d.entry.Result = domain.OrderDone
	var said []string
	did := 0
	for i := range d.o.Said.Do {
		words, left, err := d.one(ctx, &d.o.Said.Do[i])
		if err != nil {
			return err
		}
		if !left {
			did++
		}
		said = append(said, words)
	}
	if d.entry.Text = strings.Join(said, "; "); did == 0 && d.entry.Result == domain.OrderDone {
		d.entry.Result = domain.OrderLeft
	}
	return nil
}

// one does one act and says what it did, or with left why it did not.
func (d *doer) one(ctx context.Context, act *domain.OrderAct) (words string, left bool, err error) {
	if d.h.person == nil && act.Do != plan.MakeTask && act.Do != plan.SetField {
		return "Nothing was done: the deal has no main contact", true, nil
	}
	switch act.Do {
	case plan.SendLetter, plan.SendNote:
		return d.letter(ctx, act)
	case plan.StartPlan:
		name, why, err := d.a.plans.StartOne(ctx, d.User, *act.PlanID, *d.h.person, d.h.deal)
		if err != nil || why != "" {
			return fmt.Sprintf("Not started on “%s”: %s", name, why), true, err
		}
		return fmt.Sprintf("Started on “%s”", name), false, nil
	case plan.StopPlan:
		return d.stop(ctx, act)
	case plan.MakeTask:
		return d.task(ctx, act)
	}
	return d.set(ctx, act)
}

// letter sends a template to the person, or to colleagues. One that is not complete waits as a
// draft to be proofread.
func (d *doer) letter(ctx context.Context, act *domain.OrderAct) (string, bool, error) {
	set, err := d.a.library.Setting(ctx, d.User, *d.h.person, d.h.deal)
	if err != nil {
		return "", false, err
	}
	if act.Do == plan.SendNote {
		set.Colleague = &d.User
	}
	w, _ := plans.WhereOf(&d.User, set.Person.TimeZone, set.Person.Country, nil)
	l, why, err := d.Maker.Letter(ctx, &domain.PlanStep{TemplateID: act.TemplateID}, nil, set, d.a.now().In(w.Theirs.Zone), nil)
	if err != nil {
		return "", false, err
	}
	if l.PersonID == 0 {
		return "Not sent: " + why, true, nil
	}
	to := "them"
	if act.Do == plan.SendNote {
		var colleagues []domain.Address
		for i := range d.Users {
			if slices.Contains(act.Colleagues, d.Users[i].ID) {
				colleagues = append(colleagues, domain.Address{Name: d.Users[i].Name(), Email: d.Users[i].Email})
			}
		}
		if len(colleagues) == 0 {
			return "Not sent: none of the colleagues works here any more", true, nil
		}
		l.ToColleagues(colleagues)
		to = "colleagues"
	} else if why, err := d.a.records.Blockers(ctx, &set.Person, l.ToEmail); err != nil || len(why) > 0 {
		if err != nil {
			return "", false, err
		}
		return "Not sent: " + strings.TrimSuffix(why[0].Sentence(set.Person.Name()), "."), true, nil
	}
	l.OrderID = &d.o.ID
	if why == "" {
		if why, err = d.Keeps(ctx, &l, set); err != nil {
			return "", false, err
		}
	}
	if why == "" {
		list, err := d.partsOfActs(ctx, *act)
		if err == nil {
			why, err = d.known(d.o).News(ctx, list)
		}
		if err != nil {
			return "", false, err
		}
	}
	if why == "" {
		if much, err := d.tooMuch(ctx, act, &set.Person); err != nil || much != "" {
			return "Not sent: " + much, true, err
		}
	}
	if l.ID, err = d.a.store.AddLetter(ctx, l); err != nil {
		return "", false, err
	}
	d.entry.LetterID = &l.ID
	if why != "" {
		d.entry.Result = domain.OrderWaiting
		return fmt.Sprintf("“%s” waits to be proofread: %s", l.SubjectLine, why), false, nil
	}
	err = outbound.Enqueue(ctx, d.a.store, l.ID, outbound.Entry{With: "by the standing order “" + d.o.Name + "”", At: d.a.now()})
	d.sent = true
	return fmt.Sprintf("Sent “%s” to %s", l.SubjectLine, to), false, err
}

// sameAgain is for how long nobody gets a template again by itself.
const sameAgain = 90 * 24 * time.Hour

// tooMuch says why no letter goes to a person by itself, or "": one a day at most, and none in
// words that they had, unless the order says so.
func (d *doer) tooMuch(ctx context.Context, act *domain.OrderAct, p *domain.Person) (string, error) {
	if act.Again || act.Do != plan.SendLetter {
		return "", nil
	}
	now := d.a.now()
	if had, err := d.a.store.OrderLettersTo(ctx, p.ID, now.Add(-24*time.Hour)); err != nil || had > 0 {
		return "a standing order wrote to them within the last day", err
	}
	if act.TemplateID == nil {
		return "", nil
	}
	at, err := d.a.store.HadTemplate(ctx, p.ID, *act.TemplateID, now.Add(-sameAgain))
	if err != nil || at == nil {
		return "", err
	}
	return "they had a letter of this template on " + at.Format("2 January 2006"), nil
}

func (d *doer) stop(ctx context.Context, act *domain.OrderAct) (string, bool, error) {
	stopped, others, err := d.a.plans.StopAll(ctx, d.User, *d.h.person, act.PlanID, "By the standing order “"+d.o.Name+"”")
	switch {
	case err != nil:
		return "", false, err
	case len(stopped) > 0:
		return "Stopped " + strings.Join(stopped, ", "), false, nil
	case len(others) > 0:
		return "Not stopped: " + strings.Join(others, ", ") + " was started by a colleague", true, nil
	}
	return "Nothing to stop", true, nil
}

func (d *doer) task(ctx context.Context, act *domain.OrderAct) (string, bool, error) {
	now := d.a.now()
	var words string
	if d.h.person != nil {
		set, err := d.a.library.Setting(ctx, d.User, *d.h.person, d.h.deal)
		if err != nil {
			return "", false, err
		}
		words = d.wordsFor(act, set, now)
	} else {
		name, err := d.NameOf(ctx, &domain.PlanStep{Kind: plan.Task, Words: act.Words})
		if err != nil {
			return "", false, err
		}
		words = name
	}
	_, err := d.a.store.AddTask(ctx, domain.Task{UserID: d.User.ID, PersonID: d.h.person, DealID: d.h.deal, Kind: act.Task, Always: true, Text: words, DueAt: now.AddDate(0, 0, act.Days), CreatedAt: now})
	return "Made a task: " + words, false, err
}

func (d *doer) wordsFor(act *domain.OrderAct, set *library.Setting, now time.Time) string {
	words, missing := d.Words(&domain.PlanStep{Words: act.Words}, set, now)
	if len(missing) > 0 {
		words += fmt.Sprintf(" (not on record: %s)", strings.Join(missing, ", "))
	}
	return words
}

func (d *doer) set(ctx context.Context, act *domain.OrderAct) (string, bool, error) {
	ref, ok := d.Cat.Find(act.Path)
	if !ok {
		return "Not set: the field is gone", true, nil
	}
	label := d.Cat.Name(act.Path)
	done := fmt.Sprintf("Set %s to “%s”", label, act.Value)
	if ref.Def.Record == field.Deal {
		if d.h.deal == nil {
			return fmt.Sprintf("%s was not set: this is about no deal", label), true, nil
		}
		deal, err := d.a.store.Deal(ctx, *d.h.deal)
		if err != nil {
			return "", false, err
		}
		return done, false, d.a.records.ChangeRecord(ctx, d.User, field.Deal, deal.ID, act.Path, records.DealField(d.Cat, &deal, act.Path), act.Value)
	}
	if d.h.person == nil {
		return fmt.Sprintf("%s was not set: the deal has no main contact", label), true, nil
	}
	out, err := d.a.records.ChangeMany(ctx, d.User, []int64{*d.h.person}, act.Path, act.Value)
	switch {
	case err != nil:
		return "", false, err
	case len(out.Left) > 0:
		return fmt.Sprintf("%s was not set: %s", label, out.Left[0].Why), true, nil
	case out.People == 0:
		return fmt.Sprintf("%s was “%s” already", label, act.Value), true, nil
	}
	return done, false, nil
}
