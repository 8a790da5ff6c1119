package desk

import (
	"context"
	"errors"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// PutBackFolder undoes DeleteFolder: the folder stands where it stood, with what was
// in it and has not been moved or deleted since.
func (a *Service) PutBackFolder(ctx context.Context, u domain.User, holds string, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		f, held, err := a.store.DeletedFolder(ctx, id)
		if err != nil || f.Holds != holds {
			return errors.Join(err, OrNotFound(err == nil))
		}
		folders, err := a.store.Folders(ctx, holds)
		if err != nil {
			return err
		}
		if f.ParentID != nil && len(library.InsideOf(folders, *f.ParentID)) == 0 {
			f.ParentID = nil
		}
		thing := library.FolderRightsOf(append(folders, f)).Thing(f.OwnerID, false, &id, access.Rights{})
		if !access.May(u.As(), access.EditFolder, thing) {
			return domain.ErrNotFound
		}
		back, err := a.restoreInside(ctx, id, held)
		if err != nil {
			return err
		}
		if err := a.store.UpdateFolder(ctx, f); err != nil {
			return err
		}
		for _, sub := range held.Folders {
			for _, g := range folders {
				if g.ID == sub.ID && library.SameID(g.ParentID, f.ParentID) {
					g.ParentID = &id
					if err := a.store.UpdateFolder(ctx, g); err != nil {
						return err
					}
				}
			}
		}
		for _, item := range held.Items {
			if !back[item.Folder] {
				continue // it stood in a folder around this one, which comes back with that
			}
			if err := putBackItem(ctx, a.store, holds, item, f.ParentID); err != nil {
				return err
			}
		}
		return nil
	})
}

// restoreInside puts a folder back and those that were deleted with it and stood in it, and gives them, with
// those that somebody put back before. What was deleted with it and stood beside it stays away.
func (a *Service) restoreInside(ctx context.Context, id int64, held domain.Held) (map[int64]bool, error) {
	back := map[int64]bool{id: true}
	parents := map[int64]*int64{}
	for _, one := range held.Inside {
		f, _, err := a.store.DeletedFolder(ctx, one)
		switch {
		case errors.Is(err, domain.ErrNotFound):
			back[one] = true
		case err != nil:
			return nil, err
		default:
			parents[one] = f.ParentID
		}
	}
	for grown := true; grown; {
		grown = false
		for one, parent := range parents {
			if !back[one] && parent != nil && back[*parent] {
				back[one], grown = true, true
			}
		}
	}
	for one := range back {
		if err := a.store.RestoreFolder(ctx, one); err != nil {
			return nil, err
		}
	}
	return back, nil
}

// putBackItem puts a template or a passage where it stood, if nobody has put it elsewhere since.
func putBackItem(ctx context.Context, s Store, holds string, item domain.HeldItem, parent *int64) error {
	if holds == library.HoldsPassages {
		return putBackPassage(ctx, s, item, parent)
	}
	t, err := s.Template(ctx, item.ID)
	switch {
	case err != nil:
		return err
	case item.Deleted && t.DeletedAt != nil && t.FolderID == nil:
		if err := s.DeleteTemplate(ctx, item.ID, nil); err != nil {
			return err
		}
	case item.Deleted || t.DeletedAt != nil || !library.SameID(t.FolderID, parent):
		return nil
	}
	return s.PlaceTemplate(ctx, domain.Template{ID: item.ID, FolderID: &item.Folder}, 0)
}

func putBackPassage(ctx context.Context, s Store, item domain.HeldItem, parent *int64) error {
	p, err := s.Passage(ctx, item.ID)
	switch {
	case err != nil:
		return err
	case item.Deleted && p.DeletedAt != nil:
		return s.DeletePassage(ctx, item.ID, nil)
	case item.Deleted || p.DeletedAt != nil || !library.SameID(p.FolderID, parent):
		return nil
	}
	p.FolderID = &item.Folder
	return s.UpdatePassage(ctx, p)
}

// OrNotFound is ErrNotFound for yes.
func OrNotFound(yes bool) error {
	if yes {
		return domain.ErrNotFound
	}
	return nil
}

// PutBackFrom undoes ForbidFrom: the address comes back with its signature.
func (a *Service) PutBackFrom(ctx context.Context, u domain.User, userID int64, email string) error {
	if err := domain.May(u, access.EditSenders, access.Thing{}); err != nil {
		return err
	}
	return a.store.RestoreFromAddress(ctx, userID, field.EmailKey(email))
}

// PutBackOptOut undoes OptInAgain: the address is on the list with the reason and the
// day that it had, and with everybody who has it.
func (a *Service) PutBackOptOut(ctx context.Context, u domain.User, email string) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	key := field.EmailKey(email)
	return a.store.Within(ctx, func(ctx context.Context) error {
		o, err := a.store.RestoreOptOut(ctx, key)
		if err != nil {
			return err
		}
		people, err := a.store.PeopleByEmail(ctx, key)
		if err != nil {
			return err
		}
		for _, p := range people {
			if p.OptedOutAt != nil {
				continue
			}
			p.OptedOutAt, p.UpdatedAt = &o.At, a.now()
			if err := a.store.UpdatePerson(ctx, p); err != nil {
				return err
			}
			if err := a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: "Is not contacted after all; that was undone", At: p.UpdatedAt}); err != nil {
				return err
			}
		}
		return nil
	})
}

// AddressFails undoes AddressWorks.
func (a *Service) AddressFails(ctx context.Context, u domain.User, personID int64) error {
	return a.NoteAddress(ctx, u, personID, "does not work after all; that was undone", func(ctx context.Context, key string) error {
		return a.store.RestoreBadAddress(ctx, key)
	})
}

// NoteAddress changes whether letters go to a person's address, and notes it.
func (a *Service) NoteAddress(ctx context.Context, u domain.User, personID int64, what string, change func(ctx context.Context, key string) error) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.store.Person(ctx, personID)
		if err != nil {
			return err
		}
		if err := change(ctx, field.EmailKey(p.Email)); err != nil {
			return err
		}
		return a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: p.Email + " " + what, At: a.now()})
	})
}
