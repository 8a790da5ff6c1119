package plans

import (
	"cmp"
	"context"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/domain"
)

// Limits of the worker.
const (
	leaseFor   = time.Minute      // how long a step may be in hand
	atOnce     = 50               // steps that are claimed together
	lookAgain  = 10 * time.Second // after which it is looked again whether the letter before went
	keepEvents = 90 * 24 * time.Hour
)

// taker takes one step of one run, in a transaction.
type taker struct {
	*maker
	p   domain.Plan
	r   domain.Run
	s   *domain.PlanStep
	set *library.Setting
	now time.Time
}

// taker gathers what a step of a run is taken with.
func (a *Service) taker(ctx context.Context, r domain.Run) (*taker, error) {
	p, err := a.store.Plan(ctx, r.PlanID)
	if err != nil {
		return nil, err
	}
	u, err := a.store.User(ctx, r.OwnerID)
	if err != nil {
		return nil, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return nil, err
	}
	set, err := a.library.Setting(ctx, u, r.PersonID, r.DealID)
	return &taker{maker: k, p: p, r: r, set: set, now: a.now()}, err
}

// take takes the step of a run that is due. What is not due any more it leaves.
func (a *Service) take(ctx context.Context, id int64) (sent bool, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		sent = false
		r, err := a.store.Run(ctx, id)
		if err != nil {
			return err
		}
		now := a.now()
		if r.State != domain.RunGoing || r.StepAt == nil || r.StepAt.After(now) {
			return nil
		}
		p, err := a.store.Plan(ctx, r.PlanID)
		if err != nil {
			return err
		}
		if ended, err := a.endIfOver(ctx, &p, &r); err != nil || ended {
			return err
		}
		t, err := a.taker(ctx, r)
		if err != nil {
			return err
		}
		if t.s = t.p.Said.Step(r.StepKey); t.s == nil { // the plan lost it
			return a.goOn(ctx, t.maker, &t.p, &t.r)
		}
		if ready, err := t.before(ctx); err != nil || !ready {
			return err
		}
		if later := t.later(); later != nil {
			t.r.StepAt = later
			return a.store.UpdateRun(ctx, t.r)
		}
		sent, err = t.do(ctx)
		return err
	})
	return sent, err
}

// before looks at the letter before this step, and at what happened that was not read yet. It
// tells whether the step can be taken; otherwise it is put off, or the run waits.
func (t *taker) before(ctx context.Context) (bool, error) {
	a := t.a
	mark, err := a.store.ReadMark(ctx, historyMark)
	if err != nil {
		return false, err
	}
	if unread, err := a.store.EventSince(ctx, t.r.PersonID, mark); err != nil || unread {
		return false, err // they are read first; the step comes again
	}
	if t.r.LastID == nil {
		return true, nil
	}
	l, err := a.store.LetterHead(ctx, *t.r.LastID)
	if err != nil {
		return false, err
	}
	switch l.State {
	case domain.Sent:
		if l.SentAt == nil || !l.SentAt.After(t.r.FromAt) || t.r.Said.Now == t.s.Key || t.sameDay(*l.SentAt, t.r.FromAt) {
			return true, nil
		}
		// It went on a later day than it was put into the outbox: the days count from then.
		t.r.FromAt = *l.SentAt
		at := t.slotOf(t.s, &t.r, t.set.Person.TimeZone, t.set.Person.Country, t.r.FromAt).At.UTC()
		if !at.After(t.now) {
			return true, nil
		}
		t.r.StepAt = &at
		return false, a.store.UpdateRun(ctx, t.r)
	case domain.Waiting, domain.Sending:
		at := t.now.Add(lookAgain)
		if l.DueAt != nil && l.DueAt.After(at) {
			at = *l.DueAt
		}
		t.r.StepAt = &at
		return false, a.store.UpdateRun(ctx, t.r)
	case domain.Draft:
		if l.DeletedAt != nil {
			return false, t.wait(ctx, "You took back the letter before this step and discarded it; go on without it, or skip this step")
		}
		t.r.LetterID = &l.ID
		return false, t.wait(ctx, "You took back the letter before this step; send it, or skip on")
	}
	return false, t.wait(ctx, fmt.Sprintf("The letter before this step is %s: %s", map[domain.LetterState]string{
		domain.Refused: "refused", domain.Unsure: "unsure", domain.Cancelled: "cancelled",
	}[l.State], cmp.Or(strings.TrimSuffix(l.Reason, "."), "no reason was given")))
}

// workingDay is for how long after its time a letter still goes on its day.
const workingDay = 8 * time.Hour

// later gives when a letter goes that could not go in its time, since the letter before it was
// held up, a value was missing or nothing ran: at the same time of the next day that it may go
// on. It is nil when the letter goes now, as does one that somebody sent for.
func (t *taker) later() *time.Time {
	if t.s.Kind != plan.Letter || t.r.Said.Now == t.s.Key {
		return nil
	}
	at := t.slotOf(t.s, &t.r, t.set.Person.TimeZone, t.set.Person.Country, t.now.Add(-workingDay)).At.UTC()
	if !at.After(t.now) {
		return nil
	}
	return &at
}

// sameDay reports whether two times are on one day of the clock that the step goes by.
func (t *taker) sameDay(one, other time.Time) bool {
	w, _ := WhereOf(&t.User, t.set.Person.TimeZone, t.set.Person.Country, &t.r.Said)
	zone := w.Theirs.Zone
	if t.s.When.Clock == plan.Mine {
		zone = w.Mine.Zone
	}
	return plan.DayOf(one.In(zone)) == plan.DayOf(other.In(zone))
}

func (k *maker) slotOf(s *domain.PlanStep, r *domain.Run, timeZone, country string, now time.Time) plan.Slot {
	w, _ := WhereOf(&k.User, timeZone, country, &r.Said)
	if r.NotBefore != nil && r.NotBefore.After(now) {
		now = *r.NotBefore
	}
	timing := s.Timing(&r.Said)
	// Steps are dated in whole minutes: the one that goes on is not over.
	return k.scheduler.Slot(&timing, &w, r.FromAt.Truncate(time.Minute), now.Truncate(time.Minute))
}

// do takes the step.
func (t *taker) do(ctx context.Context) (sent bool, err error) {
	name, err := t.NameOf(ctx, t.s)
	if err != nil {
		return false, err
	}
	done := domain.RunStep{RunID: t.r.ID, StepKey: t.s.Key, What: string(t.s.Kind), Name: name, At: t.now}
	if t.s.Kind != plan.Letter {
		words, missing := t.Words(t.s, t.set, t.now)
		if len(missing) > 0 {
			words += fmt.Sprintf(" (not on record: %s)", strings.Join(missing, ", "))
		}
		kind := t.s.Task
		done.Name = compose.FirstLine(words)
		if t.s.Kind == plan.Text {
			kind, words = domain.TaskText, "Send a text message: "+words
		}
		id, err := t.a.store.AddTask(ctx, domain.Task{
			UserID: t.User.ID, PersonID: &t.r.PersonID, DealID: t.r.DealID, RunID: &t.r.ID, Kind: kind, Always: true, Text: words, DueAt: t.now, CreatedAt: t.now,
		})
		if err != nil {
			return false, err
		}
		done.TaskID = &id
		return false, t.came(ctx, done)
	}
	l, why, err := t.written(ctx)
	if err != nil {
		return false, err
	}
	if why != "" {
		return false, t.wait(ctx, why)
	}
	if l.ID, err = t.a.store.AddLetter(ctx, l); err != nil {
		return false, err
	}
	if err := outbound.Enqueue(ctx, t.a.store, l.ID, outbound.Entry{With: "with the plan “" + t.p.Name + "”", At: t.now}); err != nil {
		return false, err
	}
	done.LetterID = &l.ID
	t.letterWent(&l)
	return true, t.came(ctx, done)
}

func (t *taker) letterWent(l *domain.Letter) {
	t.r.LastID, t.r.ThreadID = &l.ID, l.ThreadID
	if l.ThreadID == nil {
		t.r.ThreadID = &l.ID
	}
}

// written makes the letter of the step. When something keeps it from going, it is stored as a
// draft for its owner to proofread, and why says what.
func (t *taker) written(ctx context.Context) (l domain.Letter, why string, err error) {
	var before *domain.Letter
	if t.r.LastID != nil {
		last, err := t.a.store.LetterHead(ctx, *t.r.LastID)
		if err != nil {
			return l, "", err
		}
		before = &last
	}
	w, _ := WhereOf(&t.User, t.set.Person.TimeZone, t.set.Person.Country, &t.r.Said)
	l, why, err = t.Letter(ctx, t.s, t.r.Said.Fills, t.set, t.now.In(w.Theirs.Zone), before)
	if err != nil || l.PersonID == 0 { // no words at all
		return l, why, err
	}
	l.RunID = &t.r.ID
	if why == "" {
		why, err = t.Keeps(ctx, &l, t.set)
	}
	if news := compose.KeyNews(t.Cat, t.r.Said.Key, t.set); why == "" {
		why = news
	}
	if err != nil {
		return l, why, err
	}
	made, err := t.partsOf(ctx, &t.p, *t.s)
	if err == nil && why == "" {
		why, err = t.known(&t.p).News(ctx, made)
		t.r.Said.News = why != ""
	}
	if err != nil || why == "" {
		return l, why, err
	}
	t.r.Said.Parts = made
	id, err := t.a.store.AddLetter(ctx, l)
	t.r.LetterID, t.r.Said.Draft = &id, t.s.Key
	return l, why, err
}

// came notes that the step came and goes on to the next one.
func (t *taker) came(ctx context.Context, done domain.RunStep) error {
	if err := t.a.store.AddRunStep(ctx, done); err != nil {
		return err
	}
	// What comes on its day counts from when it was due, as it was announced.
	from := t.now
	if t.r.StepAt != nil && t.r.StepAt.Before(from) && t.sameDay(*t.r.StepAt, from) {
		from = *t.r.StepAt
	}
	t.r.FromAt, t.r.LetterID = from, nil
	return t.a.goOn(ctx, t.maker, &t.p, &t.r)
}

// goOn has a run go on to the step after those that are done, or ends it.
func (a *Service) goOn(ctx context.Context, k *maker, p *domain.Plan, r *domain.Run) error {
	steps, err := a.store.RunSteps(ctx, r.ID)
	if err != nil {
		return err
	}
	next, ok := plan.Next(p.Said.Keys(), keysOf(steps))
	if !ok {
		return a.end(ctx, p, r, domain.RunFinished, "")
	}
	person, err := a.store.Person(ctx, r.PersonID)
	if err != nil {
		return err
	}
	at := k.slotOf(p.Said.Step(next), r, person.TimeZone, person.Country, a.now()).At.UTC()
	r.State, r.Reason, r.StepKey, r.StepAt = domain.RunGoing, "", next, &at
	return a.store.UpdateRun(ctx, *r)
}

func keysOf(steps []domain.RunStep) []int {
	out := make([]int, len(steps))
	for i := range steps {
		out[i] = steps[i].StepKey
	}
	return out
}

// wait has a run wait for its owner.
func (t *taker) wait(ctx context.Context, why string) error {
	t.r.State, t.r.Reason, t.r.StepAt = domain.RunWaiting, why, nil
	return t.a.store.UpdateRun(ctx, t.r)
}

// proofread goes on with a run whose letter its owner has sent.
func (a *Service) proofread(ctx context.Context, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.store.Run(ctx, id)
		if err != nil || r.LetterID == nil || r.State.Over() {
			return err
		}
		l, err := a.store.LetterHead(ctx, *r.LetterID)
		if err != nil || l.State != domain.Waiting && l.State != domain.Sending && l.State != domain.Sent {
			return err
		}
		if l.PersonID != r.PersonID { // it was given to somebody else at the desk
			r.LetterID, r.Reason = nil, "The letter of this step went to somebody else; write it anew, or skip the step"
			return a.store.UpdateRun(ctx, r)
		}
		paused := r.State == domain.RunPaused
		t, err := a.taker(ctx, r)
		if err != nil {
			return err
		}
		t.r.Said.Key = compose.KeyValues(t.set) // their owner has looked at them
		if l.DueAt != nil && l.DueAt.After(t.now) {
			t.now = *l.DueAt
		}
		again := r.LastID != nil && *r.LastID == l.ID // it had been taken back
		t.letterWent(&l)
		if !again {
			if err := t.proofreadStep(ctx, &l); err != nil {
				return err
			}
		}
		t.r.FromAt, t.r.LetterID, t.r.Said.Draft, t.r.Said.News, t.r.Said.Parts = t.now, nil, 0, false, nil
		if err := a.goOn(ctx, t.maker, &t.p, &t.r); err != nil || !paused || t.r.State.Over() {
			return err
		}
		t.r.Version++
		return a.pause(ctx, &t.r)
	})
}

// proofreadStep notes that the step came whose letter was proofread: that which the letter was
// written for, also when the plan has lost it since. Another step that took its place has not come.
func (t *taker) proofreadStep(ctx context.Context, l *domain.Letter) error {
	key := t.r.StepKey
	if t.r.Said.Draft != 0 {
		key = t.r.Said.Draft
	}
	name := l.SubjectLine
	if t.s = t.p.Said.Step(key); t.s != nil {
		var err error
		if name, err = t.NameOf(ctx, t.s); err != nil {
			return err
		}
		// They have looked at what it was made of, and not at what became of that since.
		if len(t.r.Said.Parts) > 0 {
			if err := t.known(&t.p).Note(ctx, t.r.Said.Parts); err != nil {
				return err
			}
		}
	}
	if key == 0 {
		return nil
	}
	return t.a.store.AddRunStep(ctx, domain.RunStep{RunID: t.r.ID, StepKey: key, What: string(plan.Letter), Name: name, LetterID: &l.ID, At: t.now})
}

// pause keeps a run from going on.
func (a *Service) pause(ctx context.Context, r *domain.Run) error {
	r.State, r.Reason, r.StepAt = domain.RunPaused, "", nil
	return a.store.UpdateRun(ctx, *r)
}
