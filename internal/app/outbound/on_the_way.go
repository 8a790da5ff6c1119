package outbound

import (
	"context"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// OnTheWay is a letter that waits to go, and whether it says what its records say by now: one
// that does not is held back when it is to go.
type OnTheWay struct {
	ID      int64      `json:"id" doc:"0 of a colleague's"`
	Subject string     `json:"subject" doc:"Empty of a colleague's"`
	From    string     `json:"from" doc:"Who wrote it"`
	DueAt   *time.Time `json:"dueAt,omitempty"`
	Fits    bool       `json:"fits"`
	Why     string     `json:"why" doc:"What differs; empty of a colleague's"`
}

// How many letters on one record, and of one sender, are looked at: those that go next.
const (
	maxOnRecord = 20
	maxOfSender = 100
)

// OnTheWayOn names the letters to people, or about deals, that wait to go, those that go next
// first for each.
func (a *Service) OnTheWayOn(ctx context.Context, u domain.User, kind field.Record, records ...int64) ([]OnTheWay, error) {
	out := []OnTheWay{}
	for _, id := range records {
		ids, err := a.store.WaitingOn(ctx, kind, id, maxOnRecord)
		if err == nil {
			err = a.onTheWay(ctx, u, ids, &out)
		}
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// UnfitTo names those of the letters to somebody that no longer fit the record.
func (a *Service) UnfitTo(ctx context.Context, u domain.User, person int64) ([]OnTheWay, error) {
	list, err := a.OnTheWayOn(ctx, u, field.Person, person)
	return unfit(list), err
}

// UnfitOf names the user's letters that wait to go, of those that go next, and no longer fit
// their records.
func (a *Service) UnfitOf(ctx context.Context, u domain.User) ([]OnTheWay, error) {
	ids, err := a.store.WaitingOf(ctx, u.ID, maxOfSender)
	if err != nil {
		return nil, err
	}
	list := []OnTheWay{}
	err = a.onTheWay(ctx, u, ids, &list)
	return unfit(list), err
}

func unfit(list []OnTheWay) []OnTheWay {
	out := []OnTheWay{}
	for _, l := range list {
		if !l.Fits {
			out = append(out, l)
		}
	}
	return out
}

// onTheWay adds letters to those that are named.
func (a *Service) onTheWay(ctx context.Context, u domain.User, ids []int64, out *[]OnTheWay) error {
	for _, id := range ids {
		l, err := a.store.Letter(ctx, id)
		if err != nil {
			return err
		}
		p, err := a.store.Person(ctx, l.PersonID)
		if err != nil {
			return err
		}
		why, err := a.personBlocker(ctx, &l, &p)
		if err != nil {
			return err
		}
		line := OnTheWay{l.ID, l.SubjectLine, u.Name(), l.DueAt, why == "", why}
		if l.SenderID != u.ID {
			by, err := a.store.User(ctx, l.SenderID)
			if err != nil {
				return err
			}
			line = OnTheWay{From: by.Name(), DueAt: l.DueAt, Fits: why == ""}
		}
		*out = append(*out, line)
	}
	return nil
}
