package records

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Side is a field of two records that may be of one person.
type Side struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Kept  string `json:"kept" doc:"As the record that stays says it"`
	Gone  string `json:"gone"`
}

// takeCompany is taken as a field is: the company of a contact.
const takeCompany = "company"

// What a merge set beside fields, in Before: of a company its number, "" when there was none.
const (
	setCompany  = "+company"
	setOptedOut = "+optedout"
)

// Compare gives the fields in which two people differ, as they are read.
func (a *Service) Compare(ctx context.Context, u domain.User, keptID, goneID int64) ([]Side, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	kept, gone, err := a.twoPeople(ctx, keptID, goneID)
	if err != nil {
		return nil, err
	}
	reader := field.NewReader("en-GB")
	shown := func(d field.Def, value string) string {
		v, err := field.Parse(d.Type, value, d.Choices)
		if err != nil || v.Type == "" {
			return value
		}
		return string(reader.Append(nil, v, ""))
	}
	out := []Side{}
	for _, d := range cat.Fields() {
		if d.Record != field.Person && d.Record != kept.Kind || !Writable(d) {
			continue
		}
		if x, y := valueNow(&kept, d.Path), valueNow(&gone, d.Path); x != y {
			out = append(out, Side{d.Path, cat.Name(d.Path), shown(d, x), shown(d, y)})
		}
	}
	if kept.Kind != field.Contact || sameID(kept.CompanyID, gone.CompanyID) {
		return out, nil
	}
	one := Side{Path: takeCompany, Label: "Company"}
	if one.Kept, err = a.companyName(ctx, kept.CompanyID); err == nil {
		one.Gone, err = a.companyName(ctx, gone.CompanyID)
	}
	return append([]Side{one}, out...), err
}

func sameID(a, b *int64) bool { return a == b || a != nil && b != nil && *a == *b }

func (a *Service) companyName(ctx context.Context, id *int64) (string, error) {
	if id == nil {
		return "", nil
	}
	c, err := a.store.Company(ctx, *id)
	return c.Name, err
}

func (a *Service) twoPeople(ctx context.Context, keptID, goneID int64) (kept, gone domain.Person, err error) {
	if keptID == goneID {
		return kept, gone, domain.Invalid("other", "is the same record; choose another")
	}
	if kept, err = a.livePerson(ctx, keptID); err != nil {
		return kept, gone, err
	}
	gone, err = a.livePerson(ctx, goneID)
	return kept, gone, err
}

// Merge makes one record of two: what belongs to the other, its letters, history, deals and
// tasks, goes to the one that is kept, with those of its values that are taken. It gives the
// number by which Split takes it back.
func (a *Service) Merge(ctx context.Context, u domain.User, keptID, goneID int64, version int, take []string) (int64, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return 0, err
	}
	var id int64
	err = a.store.Within(ctx, func(ctx context.Context) error {
		kept, gone, err := a.twoPeople(ctx, keptID, goneID)
		if err != nil {
			return err
		}
		switch {
		case kept.Version != version:
			return domain.ErrStale
		case kept.Kind == field.Lead && gone.Kind == field.Contact:
			return &domain.StateError{Why: gone.Name() + " is a contact already. Open that record and merge the lead into it."}
		}
		m := domain.Merge{KeptID: kept.ID, GoneID: gone.ID, Before: map[string]string{}, UserID: u.ID, At: a.now()}
		set := map[string]string{}
		for _, path := range take {
			if path == takeCompany {
				continue
			}
			ref, ok := cat.Find(path)
			if !ok || !Writable(ref.Def) {
				return domain.Invalid(path, "is not a field that can be taken")
			}
			m.Before[path], set[path] = valueNow(&kept, path), valueNow(&gone, path)
		}
		// Who asked not to be written to still does not want it.
		if gone.OptedOutAt != nil && kept.OptedOutAt == nil {
			kept.OptedOutAt, m.Before[setOptedOut] = gone.OptedOutAt, ""
		}
		wanted := take == nil && kept.CompanyID == nil && gone.CompanyID != nil || slices.Contains(take, takeCompany)
		if wanted && kept.Kind == field.Contact && !sameID(kept.CompanyID, gone.CompanyID) {
			if m.Before[setCompany] = ""; kept.CompanyID != nil {
				m.Before[setCompany] = strconv.FormatInt(*kept.CompanyID, 10)
			}
			kept.CompanyID = gone.CompanyID
		}
		if kept.UpdatedAt = m.At; len(set) == 0 {
			err = a.store.UpdatePerson(ctx, kept)
			kept.Version++
		} else {
			kept, err = a.changePerson(ctx, cat, u, kept, set)
		}
		if err != nil {
			return err
		}
		m.KeptVersion = kept.Version
		if id, err = a.store.MergePeople(ctx, m); err != nil {
			return err
		}
		text := "Merged with a second record of " + gone.Name()
		return errors.Join(
			a.store.AddEntry(ctx, domain.Entry{PersonID: &kept.ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: text, At: m.At}),
			a.store.AddEntry(ctx, domain.Entry{PersonID: &gone.ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: "Merged into the record of " + kept.Name(), At: m.At}),
		)
	})
	return id, err
}

// MergedInto tells whether one record was merged into another, over others too.
func (a *Service) MergedInto(ctx context.Context, goneID, keptID int64) (bool, error) {
	for range 100 {
		id, err := a.store.MergeOf(ctx, goneID)
		if err != nil || id == 0 {
			return false, err
		}
		m, err := a.store.Merge(ctx, id)
		if err != nil || m.KeptID == keptID {
			return err == nil, err
		}
		goneID = m.KeptID
	}
	return false, nil
}

// Split takes a merge back: each has what they had. Values of the one who was kept that were
// changed since stay, and are named.
func (a *Service) Split(ctx context.Context, u domain.User, mergeID int64) (left []string, err error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return nil, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		left = []string{}
		m, err := a.store.Merge(ctx, mergeID)
		switch {
		case err != nil:
			return err
		case m.UndoneAt != nil:
			return &domain.StateError{Why: "This merge was taken back already."}
		}
		gone, err := a.store.Person(ctx, m.GoneID)
		if err != nil {
			return err
		}
		kept, err := a.livePerson(ctx, m.KeptID)
		if err != nil {
			return err
		}
		set := map[string]string{}
		for path, before := range m.Before {
			switch ref, ok := cat.Find(path); {
			case path == setCompany:
				if !sameID(kept.CompanyID, gone.CompanyID) {
					left = append(left, "Company")
					continue
				}
				if kept.CompanyID = nil; before != "" {
					id, err := strconv.ParseInt(before, 10, 64)
					if err != nil {
						return err
					}
					kept.CompanyID = &id
				}
			case path == setOptedOut:
				if kept.OptedOutAt != nil && gone.OptedOutAt != nil && kept.OptedOutAt.Equal(*gone.OptedOutAt) {
					kept.OptedOutAt = nil
				}
			case valueNow(&kept, path) == valueNow(&gone, path):
				set[path] = before
			case ok:
				left = append(left, ref.Def.Label)
			}
		}
		slices.Sort(left)
		if kept.UpdatedAt = a.now(); len(set) == 0 {
			err = a.store.UpdatePerson(ctx, kept)
		} else {
			_, err = a.changePerson(ctx, cat, u, kept, set)
		}
		if err != nil {
			return err
		}
		if err := a.store.SplitPeople(ctx, mergeID, a.now()); err != nil {
			return err
		}
		for _, of := range [][2]*domain.Person{{&kept, &gone}, {&gone, &kept}} {
			entry := domain.Entry{PersonID: &of[0].ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: strings.TrimSpace("The merge with " + of[1].Name() + " was taken back"), At: a.now()}
			if err := a.store.AddEntry(ctx, entry); err != nil {
				return err
			}
		}
		return nil
	})
	return left, err
}
