package delivery

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Unfit is a letter on its way that says something else than its records do by now: it is held
// back when it is to go.
type Unfit struct {
	ID      int64      `json:"id" doc:"0 of a colleague's"`
	Subject string     `json:"subject" doc:"Empty of a colleague's"`
	From    string     `json:"from" doc:"Who wrote it"`
	DueAt   *time.Time `json:"dueAt,omitempty"`
	Why     string     `json:"why" doc:"What differs; empty of a colleague's"`
}

// maxUnfit is how many letters to one person are looked at.
const maxUnfit = 20

// UnfitTo names the letters to somebody that are on their way and no longer fit the record.
func (a *Service) UnfitTo(ctx context.Context, u domain.User, personID int64) ([]Unfit, error) {
	out := []Unfit{}
	ids, err := a.store.WaitingTo(ctx, personID, maxUnfit)
	if err != nil || len(ids) == 0 {
		return out, err
	}
	p, err := a.store.Person(ctx, personID)
	if err != nil {
		return out, err
	}
	for _, id := range ids {
		l, err := a.store.Letter(ctx, id)
		if err != nil {
			return out, err
		}
		why, err := a.otherNow(ctx, &l, &p)
		switch {
		case err != nil:
			return out, err
		case why == "":
		case l.SenderID == u.ID:
			out = append(out, Unfit{l.ID, l.SubjectLine, u.Name(), l.DueAt, why})
		default:
			by, err := a.store.User(ctx, l.SenderID)
			if err != nil {
				return out, err
			}
			out = append(out, Unfit{From: by.Name(), DueAt: l.DueAt})
		}
	}
	return out, nil
}
