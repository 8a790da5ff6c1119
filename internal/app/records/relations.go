package records

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// SetOwner gives a person, a company or a deal to a colleague.
func (a *Service) SetOwner(ctx context.Context, u domain.User, kind field.Record, id, ownerID int64) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		owner, err := a.store.User(ctx, ownerID)
		if errors.Is(err, domain.ErrNotFound) {
			return domain.Invalid("owner", "is nobody who works here; choose a colleague")
		}
		if err != nil {
			return err
		}
		entry := domain.Entry{UserID: &u.ID, Kind: domain.EntryChanged, Text: "Owner: " + owner.Name(), At: a.now()}
		switch kind {
		case field.Person:
			p, err := a.livePerson(ctx, id)
			if err != nil {
				return err
			}
			p.OwnerID, p.UpdatedAt, entry.PersonID = &owner.ID, entry.At, &p.ID
			err = a.store.UpdatePerson(ctx, p)
			return errors.Join(err, a.store.AddEntry(ctx, entry))
		case field.Company:
			c, err := a.liveCompany(ctx, id)
			if err != nil {
				return err
			}
			c.OwnerID, entry.CompanyID = &owner.ID, &c.ID
			return errors.Join(a.store.UpdateCompany(ctx, c), a.store.AddEntry(ctx, entry))
		case field.Deal:
			d, err := a.liveDeal(ctx, id)
			if err != nil {
				return err
			}
			d.OwnerID, entry.DealID, entry.CompanyID = &owner.ID, &d.ID, d.CompanyID
			return errors.Join(a.store.UpdateDeal(ctx, d), a.store.AddEntry(ctx, entry))
		}
		return domain.Invalid("record", "%q has no owner", kind)
	})
}

// SetCompany says for whom a contact works, or with whom a deal is: a company that is there
// or a name, of which one is made when there is none; neither takes the company away.
func (a *Service) SetCompany(ctx context.Context, u domain.User, kind field.Record, id int64, companyID *int64, name string) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		company, _, err := a.companyFor(ctx, u, companyID, name)
		if err != nil {
			return err
		}
		entry := domain.Entry{UserID: &u.ID, CompanyID: company, Kind: domain.EntryChanged, Text: "Company: none", At: a.now()}
		if company != nil {
			c, err := a.store.Company(ctx, *company)
			if err != nil {
				return err
			}
			entry.Text = "Company: " + c.Name
		}
		if kind == field.Deal {
			d, err := a.liveDeal(ctx, id)
			if err != nil {
				return err
			}
			d.CompanyID, entry.DealID = company, &d.ID
			return errors.Join(a.store.UpdateDeal(ctx, d), a.store.AddEntry(ctx, entry))
		}
		p, err := a.livePerson(ctx, id)
		if err != nil {
			return err
		}
		if p.Kind == field.Lead {
			return domain.Invalid("company", "of a lead is a field of its own; change the company name")
		}
		p.CompanyID, p.UpdatedAt, entry.PersonID = company, entry.At, &p.ID
		return errors.Join(a.store.UpdatePerson(ctx, p), a.store.AddEntry(ctx, entry))
	})
}

// SetDealPeople says who is in a deal: one main contact, or nobody, and others.
func (a *Service) SetDealPeople(ctx context.Context, u domain.User, id int64, main *int64, others []int64) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	if len(others) > maxInDeal {
		return domain.Invalid("others", "are more than %d", maxInDeal)
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		d, err := a.liveDeal(ctx, id)
		if err != nil {
			return err
		}
		var names, rest []string
		ids := []int64{}
		d.MainContactID = nil
		if main != nil {
			p, err := a.livePerson(ctx, *main)
			if err != nil {
				return err
			}
			d.MainContactID, names = &p.ID, append(names, p.Name()+" (main contact)")
		}
		for _, other := range others {
			p, err := a.livePerson(ctx, other)
			if err != nil {
				return err
			}
			if (main == nil || p.ID != *main) && !slices.Contains(ids, p.ID) {
				ids, rest = append(ids, p.ID), append(rest, p.Name())
			}
		}
		if err := a.store.UpdateDeal(ctx, d); err != nil {
			return err
		}
		if err := a.store.SetDealPeople(ctx, id, ids); err != nil {
			return err
		}
		said := strings.Join(slices.Concat(names, rest), ", ")
		if said == "" {
			said = "nobody"
		}
		return a.store.AddEntry(ctx, domain.Entry{DealID: &d.ID, CompanyID: d.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: "People: " + said, At: a.now()})
	})
}

// maxInDeal is how many people a deal has at most besides its main contact.
const maxInDeal = 50

// AddNote writes down a call, a visit or a note in the history of a record; it gives the id
// of the entry.
func (a *Service) AddNote(ctx context.Context, u domain.User, kind field.Record, id int64, what domain.EntryKind, text string) (int64, error) {
	text = strings.TrimSpace(text)
	switch {
	case !slices.Contains([]domain.EntryKind{domain.EntryCall, domain.EntryVisit, domain.EntryNote}, what):
		return 0, domain.Invalid("kind", "must be call, visit or note")
	case text == "":
		return 0, domain.Invalid("text", "is missing; write what was said")
	case len(text) > maxNote:
		return 0, domain.Invalid("text", "is longer than %d bytes", maxNote)
	}
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	e := domain.Entry{UserID: &u.ID, Kind: what, Text: text, At: a.now()}
	var entry int64
	err := a.store.Within(ctx, func(ctx context.Context) error {
		switch kind {
		case field.Person:
			p, err := a.livePerson(ctx, id)
			if err != nil {
				return err
			}
			e.PersonID, e.CompanyID = &p.ID, p.CompanyID
		case field.Company:
			c, err := a.liveCompany(ctx, id)
			if err != nil {
				return err
			}
			e.CompanyID = &c.ID
		case field.Deal:
			d, err := a.liveDeal(ctx, id)
			if err != nil {
				return err
			}
			e.DealID, e.CompanyID, e.PersonID = &d.ID, d.CompanyID, d.MainContactID
		default:
			return domain.Invalid("record", "%q has no history", kind)
		}
		var err error
		entry, err = a.store.AddNote(ctx, e)
		return err
	})
	return entry, err
}

const maxNote = 10_000

// DeleteNote takes a note of the user's out of a history.
func (a *Service) DeleteNote(ctx context.Context, u domain.User, id int64) error {
	return a.store.DeleteNote(ctx, id, u.ID)
}

// Delete marks a record as deleted: it stands in no list any more and gets no letters.
// What was written stays, and PutBack undoes it.
func (a *Service) Delete(ctx context.Context, u domain.User, kind field.Record, id int64) error {
	now := a.now()
	return a.deleteOr(ctx, u, kind, id, &now, domain.EntryDeleted)
}

// PutBack undoes Delete.
func (a *Service) PutBack(ctx context.Context, u domain.User, kind field.Record, id int64) error {
	return a.deleteOr(ctx, u, kind, id, nil, domain.EntryPutBack)
}

// HangsOn counts what belongs to a record that is to be deleted.
func (a *Service) HangsOn(ctx context.Context, kind field.Record, id int64) (domain.Hangs, error) {
	if kind != field.Person && kind != field.Company && kind != field.Deal {
		return domain.Hangs{}, domain.Invalid("record", "%q is none that can be deleted", kind)
	}
	return a.store.HangsOn(ctx, kind, id)
}
