package rounds

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/domain"
)

// maxAhead is how far ahead a round can be set to go.
const maxAhead = desk.MaxAhead

// Send has the letters of a round go that are ready: those that were proofread, or with
// w.All every one. Count is how many the sender was told of; with another number nothing
// goes. It tells how many go.
func (a *Service) Send(ctx context.Context, u domain.User, id int64, version, count int, w domain.RoundWhen) (int, error) {
	if err := a.Check(ctx, id); err != nil { // what changed since the sender looked
		return 0, err
	}
	n := 0
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mineOpen(ctx, u, id)
		switch {
		case err != nil:
			return err
		case r.Version != version:
			return domain.ErrStale
		case r.State != domain.RoundOpen:
			return &domain.StateError{Why: "The letters of this round are being sent already."}
		case r.TemplateID == nil:
			return errNoTemplate
		}
		if err := a.refuseNews(ctx, &r); err != nil {
			return err
		}
		if stop, err := a.compose.FromBlocker(ctx, &domain.Letter{SenderID: u.ID, FromEmail: fromOf(&r, &u)}); err != nil || stop != "" {
			if err == nil {
				err = &domain.StateError{Why: stop}
			}
			return err
		}
		if n, err = a.schedule(ctx, &u, &r, w); err != nil {
			return err
		}
		switch {
		case n == 0 && !w.All:
			return &domain.StateError{Why: "No letter is marked good yet. Proofread some, or send all that are ready."}
		case n == 0:
			return &domain.StateError{Why: "No letter is ready to go."}
		case n != count:
			return &domain.StateError{Why: fmt.Sprintf("%d letters would go now, not %d: something changed meanwhile. Look at them again.", n, count)}
		}
		r.Said.When, r.UpdatedAt = w, a.now()
		if r.Said.Parts, err = a.parts(ctx, &r); err != nil {
			return err
		}
		if err := a.store.UpdateRound(ctx, r); err != nil {
			return err
		}
		if r, err = a.store.Round(ctx, id); err != nil {
			return err
		}
		// What is looked at again is the same: only the time was set.
		if err := a.store.KeepChecks(ctx, id, r.Version); err != nil {
			return err
		}
		moved, err := a.store.MoveRound(ctx, r, domain.RoundSending, "", a.now())
		if err == nil && !moved {
			err = domain.ErrStale
		}
		return err
	})
	if err == nil {
		a.look(id)
	}
	return n, err
}

func fromOf(r *domain.Round, u *domain.User) string {
	if r.Said.From != "" {
		return r.Said.From
	}
	return u.Email
}

// schedule settles when each letter goes.
func (a *Service) schedule(ctx context.Context, u *domain.User, r *domain.Round, w domain.RoundWhen) (int, error) {
	from := a.now().Add(time.Duration(u.HoldSeconds) * time.Second)
	if w.Local != "" {
		at, err := a.desk.Due(u, &domain.Person{}, desk.When{Local: w.Local, Zone: w.Zone})
		if err != nil {
			return 0, err
		}
		from = at
	}
	if w.OverHours < 0 || w.OverHours > int(maxAhead.Hours()) {
		return 0, domain.Invalid("overHours", "is not from 0 to %d", int(maxAhead.Hours()))
	}
	n, err := a.store.Schedule(ctx, r.ID, w.All, from, time.Duration(w.OverHours)*time.Hour)
	if err != nil || !w.Morning {
		return n, err
	}
	return n, a.mornings(ctx, r.ID, from)
}

// Pause has nothing more of a round go; what is being handed over goes.
func (a *Service) Pause(ctx context.Context, u domain.User, id int64) error {
	return a.move(ctx, u, id, []domain.RoundState{domain.RoundSending}, func(ctx context.Context, r *domain.Round) error {
		return a.pause(ctx, r, "You paused it")
	})
}

// pausedWhy is why letters of a paused round do not go.
const pausedWhy = "The round is paused"

func (a *Service) pause(ctx context.Context, r *domain.Round, why string) error {
	if err := a.store.HoldLetters(ctx, r.ID, nil, pausedWhy, a.now()); err != nil {
		return err
	}
	_, err := a.store.MoveRound(ctx, *r, domain.RoundPaused, why, a.now())
	return err
}

// GoOn has a paused round go on.
func (a *Service) GoOn(ctx context.Context, u domain.User, id int64) error {
	return a.move(ctx, u, id, []domain.RoundState{domain.RoundPaused}, func(ctx context.Context, r *domain.Round) error {
		if err := a.refuseNews(ctx, r); err != nil {
			return err
		}
		if err := a.store.HoldLetters(ctx, r.ID, new(a.now()), "The round goes on", a.now()); err != nil {
			return err
		}
		if r.Said.When.Morning {
			if err := a.waitForMorning(ctx, r.ID); err != nil {
				return err
			}
		}
		_, err := a.store.MoveRound(ctx, *r, domain.RoundSending, "", a.now())
		return err
	})
}

// Stop ends a round: what waits is cancelled, what is not in the outbox does not go.
func (a *Service) Stop(ctx context.Context, u domain.User, id int64) error {
	return a.move(ctx, u, id, []domain.RoundState{domain.RoundOpen, domain.RoundSending, domain.RoundPaused}, func(ctx context.Context, r *domain.Round) error {
		if err := a.store.CancelLetters(ctx, r.ID, "The round was stopped", a.now()); err != nil {
			return err
		}
		if err := a.store.Unschedule(ctx, r.ID); err != nil {
			return err
		}
		if err := a.store.LetGoOfDrafts(ctx, r.ID); err != nil {
			return err
		}
		_, err := a.store.MoveRound(ctx, *r, domain.RoundStopped, "", a.now())
		return err
	})
}

// Reopen takes a round that is being sent back to be proofread: letters that have not gone
// are their writer's again, as they were.
func (a *Service) Reopen(ctx context.Context, u domain.User, id int64) error {
	return a.move(ctx, u, id, []domain.RoundState{domain.RoundSending, domain.RoundPaused}, func(ctx context.Context, r *domain.Round) error {
		waiting, err := a.store.LettersWaiting(ctx, id)
		if err != nil {
			return err
		}
		for _, letterID := range waiting {
			if _, err := a.store.Move(ctx, letterID, domain.Waiting, domain.Change{To: domain.Draft, At: a.now()}); err != nil {
				return err
			}
			if err := a.store.SetLetterRound(ctx, letterID, id); err != nil {
				return err
			}
			m, err := a.store.MemberOfLetter(ctx, letterID)
			if err != nil {
				return err
			}
			l, err := a.store.Letter(ctx, letterID)
			if err != nil {
				return err
			}
			m.State, m.GoAt, m.Sum = domain.MemberChanged, nil, ownSum(l.Version)
			m.Good = m.Sum
			if err := a.store.UpdateMember(ctx, m); err != nil {
				return err
			}
		}
		if err := a.store.Unschedule(ctx, id); err != nil {
			return err
		}
		_, err = a.store.MoveRound(ctx, *r, domain.RoundOpen, "", a.now())
		return err
	})
}

func (a *Service) move(ctx context.Context, u domain.User, id int64, from []domain.RoundState, f func(ctx context.Context, r *domain.Round) error) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mine(ctx, u, id)
		if err != nil {
			return err
		}
		if slices.Contains(from, r.State) {
			return f(ctx, &r)
		}
		return &domain.StateError{Why: "The round has changed in the meantime; look at it again."}
	})
	a.look(id)
	a.wake()
	return err
}

// release puts the next letters of a round into the outbox, in one transaction, and tells
// when to come again: nil when nothing of the round is left to do.
func (a *Service) release(ctx context.Context, id int64) (*time.Time, error) {
	soon, later := new(a.now().Add(goAgain)), new(a.now().Add(time.Second))
	next := soon
	released := 0
	err := a.store.Within(ctx, func(ctx context.Context) error {
		next, released = soon, 0
		r, err := a.store.Round(ctx, id)
		if err != nil || r.State != domain.RoundSending {
			next = nil
			return err
		}
		if err := a.begunAhead(ctx, &r); err != nil {
			return err
		}
		under, err := a.store.UnderWay(ctx, id)
		if err != nil {
			return err
		}
		list, due, err := a.store.ToRelease(ctx, id, a.now(), goStep)
		switch {
		case err != nil:
			return err
		case due == nil && under == 0:
			next = nil
			return a.finish(ctx, &r)
		case len(list) == 0:
			// Letters on their way come to their end, or the next is not due yet.
			if next = later; due != nil && under == 0 {
				next = due
			}
			return nil
		case under >= ahead:
			return nil
		}
		if stopped, err := a.stopForNews(ctx, &r); err != nil || stopped {
			next = nil
			return err
		}
		if r.Said.When.Morning && a.now().Sub(*list[0].GoAt) > workingDay {
			if err := a.waitForMorning(ctx, id); err != nil {
				return err
			}
			if list, due, err = a.store.ToRelease(ctx, id, a.now(), goStep); err != nil || len(list) == 0 {
				next = due
				return err
			}
		}
		next = new(a.now())
		released, err = a.releaseThese(ctx, &r, list)
		return err
	})
	if released > 0 {
		a.wake()
	}
	return next, err
}

// goAgain is after how long it is looked whether more of a round can go, while as many wait
// as may.
const goAgain = 30 * time.Millisecond

// stopForNews pauses a round whose template was changed or withdrawn meanwhile.
func (a *Service) stopForNews(ctx context.Context, r *domain.Round) (bool, error) {
	news, err := a.templateNews(ctx, r)
	if err != nil || news == "" {
		return false, err
	}
	return true, a.pause(ctx, r, news)
}

// refuseNews has nothing go while the sender has not said what to do about such a template.
func (a *Service) refuseNews(ctx context.Context, r *domain.Round) error {
	news, err := a.templateNews(ctx, r)
	if err == nil && news != "" {
		err = &domain.StateError{Why: news + ". Say first whether the round keeps its wording."}
	}
	return err
}

// templateNews says what happened to the template of a round since the sender saw it, or "".
func (a *Service) templateNews(ctx context.Context, r *domain.Round) (string, error) {
	if r.TemplateID == nil {
		return "", nil
	}
	t, err := a.store.Template(ctx, *r.TemplateID)
	if err != nil {
		return "", err
	}
	if news := newsOf(r, &t); news != "" {
		return fmt.Sprintf("The template “%s” %s", t.Name, news), nil
	}
	return a.partNews(ctx, r)
}

// finish ends a round of which nothing is left to go: it is done, or open again for those
// who are left and could still get a letter.
func (a *Service) finish(ctx context.Context, r *domain.Round) error {
	g, err := a.store.Groups(ctx, r.ID)
	if err != nil {
		return err
	}
	left := g.Ready + g.Gap + g.Unknown + g.Aside
	for code, n := range g.Reasons {
		if c := eligibility.Code(code); c.Overruled() || c == eligibility.Twin {
			left += n
		}
	}
	to := domain.RoundDone
	if left > 0 {
		to = domain.RoundOpen
	}
	_, err = a.store.MoveRound(ctx, *r, to, "", a.now())
	return err
}

// releaseThese checks people once more and puts their letters into the outbox.
func (a *Service) releaseThese(ctx context.Context, r *domain.Round, list []domain.Member) (int, error) {
	ids := make([]int64, len(list))
	for i := range list {
		ids[i] = list[i].PersonID
	}
	ctx, err := a.store.ReadPeople(ctx, ids)
	if err != nil {
		return 0, err
	}
	k, err := a.maker(ctx, r)
	if err != nil {
		return 0, err
	}
	k.settings = map[int64]gathered{}
	n := 0
	if err := k.check(ctx, list); err != nil {
		return n, err
	}
	for i := range list {
		m := &list[i]
		why := ""
		switch {
		case m.State == domain.MemberSkipped && len(m.Reasons) > 0:
			why = m.Reasons[0].Label()
		case m.State != domain.MemberReady && m.State != domain.MemberChanged:
			why = "Has a gap now"
		case m.Good != "" && !m.Proofread():
			why = "The letter says something else since you proofread it"
		}
		if why == "" {
			if why, err = k.put(ctx, m); err != nil {
				return n, err
			}
		}
		if m.GoAt, m.Told = nil, why; why == "" {
			m.State, m.AfterDone = domain.MemberReleased, r.Said.After == domain.RoundAfter{}
			n++
		}
		if err := a.store.UpdateMember(ctx, *m); err != nil {
			return n, err
		}
	}
	return n, nil
}

// put makes the letter of somebody and puts it into the outbox, or says why it cannot go.
func (k *maker) put(ctx context.Context, m *domain.Member) (why string, err error) {
	g := k.settings[m.PersonID] // checked right before
	s := g.Setting
	s.Values.Set("today", field.DateOf(k.a.now()))
	var l domain.Letter
	if m.LetterID != nil {
		if l, err = k.a.store.Letter(ctx, *m.LetterID); err != nil {
			return "", err
		}
		l.ToEmail, l.ToName = cmp.Or(s.Person.Email, l.Extras.Address), s.ToName()
		if news, err := k.news(ctx, &l, s); err != nil || news != "" {
			return news, err
		}
	} else if l, err = k.letter(ctx, m, s, ""); err != nil {
		return "", err
	}
	l.Extras.InSpite = slices.Contains(m.Allowed, string(eligibility.Answered))
	stops, err := k.stops(ctx, &l, s)
	if err != nil || stops != "" {
		return stops, err
	}
	now := k.a.now()
	if m.LetterID != nil {
		l.UpdatedAt = now
		err = k.a.store.UpdateDraft(ctx, l)
	} else {
		l.Seen = g.seen
		token := k.a.newID()
		if k.r.Said.Ask != nil { // what it asks is its own, and stops nothing
			if l, err = k.letter(ctx, m, s, token); err != nil {
				return "", err
			}
			l.Extras.InSpite, l.Seen = slices.Contains(m.Allowed, string(eligibility.Answered)), g.seen
		}
		l.ID, err = k.add(ctx, l, token)
		m.LetterID = &l.ID
	}
	if err != nil {
		return "", err
	}
	return "", outbound.Enqueue(ctx, k.a.store, l.ID, outbound.Entry{With: "with the round “" + k.r.Name + "”", At: now})
}

// news says what changed on the records since somebody's own letter was written, or "".
func (k *maker) news(ctx context.Context, l *domain.Letter, s *library.Setting) (string, error) {
	list, err := k.a.compose.RecordNewsOf(ctx, l, s)
	if err != nil || len(list) == 0 {
		return "", err
	}
	return fmt.Sprintf("The record says something else since this letter was changed: %s is “%s” now. Look at it at the desk", list[0].Label, list[0].Now), nil
}

func (k *maker) stops(ctx context.Context, l *domain.Letter, s *library.Setting) (string, error) {
	notes, err := k.a.compose.Blockers(ctx, l, s)
	if err != nil || len(notes) == 0 {
		return "", err
	}
	return notes[0].Message, nil
}
