package records

import (
	"context"
	"fmt"
	"maps"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// UndoQualify is what MakeContact changed, as it was and as it became.
type UndoQualify struct {
	PersonID     int64      `json:"personId"`
	CompanyID    *int64     `json:"companyId,omitempty"`
	ContactSince string     `json:"contactSince"`
	Since        string     `json:"since"`
	Own          domain.Own `json:"own"`
	OwnNow       domain.Own `json:"ownNow"`
	FirmID       int64      `json:"firmId"`
	Made         bool       `json:"made"`
	FirmOwn      domain.Own `json:"firmOwn"`
	FirmOwnNow   domain.Own `json:"firmOwnNow"`
	DealID       int64      `json:"dealId"`
}

// MakeLead undoes MakeContact. What was changed since stays, and so do a deal and a company
// that something hangs on; they are named.
func (a *Service) MakeLead(ctx context.Context, u domain.User, id, number int64) ([]string, error) {
	left := []string{}
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return left, err
	}
	err := a.store.Within(ctx, func(ctx context.Context) error {
		left = []string{}
		var undo UndoQualify
		if err := a.takeUndo(ctx, u, undoContact, number, &undo); err != nil {
			return err
		}
		if undo.PersonID != id {
			return domain.ErrNotFound
		}
		p, err := a.livePerson(ctx, id)
		if err != nil {
			return err
		}
		if p.Kind != field.Contact {
			return &domain.StateError{Why: p.Name() + " is a lead already."}
		}
		now := a.now()
		if undo.DealID != 0 {
			kept, err := a.unmade(ctx, u, field.Deal, undo.DealID)
			if err != nil {
				return err
			}
			if kept {
				left = append(left, "the deal, which has letters or tasks")
			}
		}
		p.Kind, p.UpdatedAt = field.Lead, now
		if domain.IDOf(p.CompanyID) == undo.FirmID {
			p.CompanyID = undo.CompanyID
		}
		if p.ContactSince == undo.Since {
			p.ContactSince = undo.ContactSince
		}
		p.Own = ownBefore(p.Own, undo.Own, undo.OwnNow)
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		if err := a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: "A lead again, as before", At: now}); err != nil {
			return err
		}
		if undo.FirmID == 0 {
			return nil
		}
		return a.firmBefore(ctx, u, &undo, &left)
	})
	return left, err
}

// firmBefore gives the company of somebody who is a lead again its values of before, or takes
// it away when it was made for them.
func (a *Service) firmBefore(ctx context.Context, u domain.User, undo *UndoQualify, left *[]string) error {
	c, err := a.store.Company(ctx, undo.FirmID)
	if err != nil || c.DeletedAt != nil {
		return err
	}
	c.Own = ownBefore(c.Own, undo.FirmOwn, undo.FirmOwnNow)
	if err := a.store.UpdateCompany(ctx, c); err != nil || !undo.Made {
		return err
	}
	kept, err := a.unmade(ctx, u, field.Company, c.ID)
	if kept {
		*left = append(*left, fmt.Sprintf("the company %s, which has people, deals or letters", c.Name))
	}
	return err
}

// unmade deletes a record that was made a moment ago, unless something hangs on it.
func (a *Service) unmade(ctx context.Context, u domain.User, kind field.Record, id int64) (kept bool, err error) {
	h, err := a.store.HangsOn(ctx, kind, id)
	if err != nil || h != (domain.Hangs{}) {
		return true, err
	}
	return false, a.Delete(ctx, u, kind, id)
}

// ownBefore gives back the values that were changed from was to became and are so still.
func ownBefore(now, was, became domain.Own) domain.Own {
	out := maps.Clone(now)
	if out == nil {
		out = domain.Own{}
	}
	for path := range became {
		if out[path] != became[path] || was[path] == became[path] {
			continue
		}
		if was[path] == "" {
			delete(out, path)
		} else {
			out[path] = was[path]
		}
	}
	for path, v := range was {
		if _, there := became[path]; !there && out[path] == "" {
			out[path] = v
		}
	}
	return out
}
