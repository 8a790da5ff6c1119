package records

import (
	"context"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

func (a *Service) deleteOr(ctx context.Context, u domain.User, kind field.Record, id int64, at *time.Time, what domain.EntryKind) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	e := domain.Entry{UserID: &u.ID, Kind: what, At: a.now()}
	return a.store.Within(ctx, func(ctx context.Context) (err error) {
		switch kind {
		case field.Person:
			if at == nil {
				// Who is gone by a merge comes back with what was theirs.
				if merge, err := a.store.MergeOf(ctx, id); err != nil || merge != 0 {
					if err == nil {
						_, err = a.Split(ctx, u, merge)
					}
					return err
				}
			}
			err = a.store.DeletePerson(ctx, id, at)
			e.PersonID = &id
		case field.Company:
			err = a.store.DeleteCompany(ctx, id, at)
			e.CompanyID = &id
		case field.Deal:
			err = a.store.DeleteDeal(ctx, id, at)
			e.DealID = &id
		default:
			return domain.Invalid("record", "%q is none that can be deleted", kind)
		}
		if err != nil {
			return err
		}
		return a.store.AddEntry(ctx, e)
	})
}
