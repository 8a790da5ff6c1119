package records

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/result"
	"lucidletter/internal/domain"
)

// PersonSheet is everything that the page of a person shows above its history.
type PersonSheet struct {
	Person     domain.Person      `json:"person"`
	Name       string             `json:"name"`
	Company    *domain.Company    `json:"company,omitempty"`
	Owner      string             `json:"owner"`
	Deals      []domain.DealLine  `json:"deals"`
	Fields     []RecordField      `json:"fields"`
	BadAddress *domain.BadAddress `json:"badAddress,omitempty" doc:"Why nobody writes to the address"`
}

// RecordField is one field of a person that can be changed in place. Value is
// in canonical form, Shown as it is read.
type RecordField struct {
	Path    string     `json:"path"`
	Label   string     `json:"label"`
	Type    field.Type `json:"type"`
	Choices []string   `json:"choices"`
	Value   string     `json:"value"`
	Shown   string     `json:"shown"`
}

// recordFields lists what can be changed on a person, in the order of the
// catalogue, filled or not.
func recordFields(cat *field.Catalogue, p *domain.Person, v *field.Values) []RecordField {
	reader := field.NewReader("en-GB")
	out := []RecordField{}
	for _, d := range cat.Fields() {
		if (d.Record != field.Person && d.Record != p.Kind) || (!d.Own && p.Column(d.Path) == nil) {
			continue
		}
		value := v.Get(d.Path)
		out = append(out, RecordField{d.Path, d.Label, d.Type, append([]string{}, d.Choices...), value.String(), string(reader.Append(nil, value, ""))})
	}
	return out
}

// Person gives one person with what belongs to it.
func (a *Service) Person(ctx context.Context, u domain.User, id int64) (PersonSheet, error) {
	p, err := a.store.Person(ctx, id)
	if err != nil {
		return PersonSheet{}, err
	}
	deals, err := a.store.DealsOf(ctx, id)
	if err != nil {
		return PersonSheet{}, err
	}
	r, err := a.Gather(ctx, &p, nil, &u)
	if err != nil {
		return PersonSheet{}, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return PersonSheet{}, err
	}
	s := PersonSheet{Person: p, Name: p.Name(), Company: r.Company, Deals: []domain.DealLine{}}
	for _, d := range deals {
		s.Deals = append(s.Deals, domain.DealLine{Deal: d, Amount: d.ShownAmount()})
	}
	if r.Owner != nil {
		s.Owner = r.Owner.Name()
	}
	b, err := a.Suppression(ctx, p.Email)
	if err != nil {
		return s, err
	}
	if s.BadAddress = b.Bad; b.Bad != nil {
		b.Bad.Reason, b.Bad.Detail = result.ForPeople(b.Bad.Reason)
	}
	s.Fields = recordFields(cat, &p, a.Values(cat, r))
	return s, nil
}

// AddLead makes a lead of somebody who is known by an address, as people write one:
// alone or with a name.
func (a *Service) AddLead(ctx context.Context, u domain.User, text string) (domain.Person, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return domain.Person{}, err
	}
	found, rest := ReadAddresses(text)
	if len(found) != 1 || len(rest) > 0 {
		return domain.Person{}, domain.Invalid("text", "is not one email address; write it like Ada Quill <ada@quill.example>")
	}
	first, last, _ := strings.Cut(found[0].Name, " ")
	now := a.now()
	p := domain.Person{
		Kind: field.Lead, FirstName: first, LastName: strings.TrimSpace(last), Email: found[0].Email, LeadStatus: "new",
		OwnerID: &u.ID, CreatedAt: now, UpdatedAt: now,
	}
	err := a.store.Within(ctx, func(ctx context.Context) error {
		there, err := a.store.PeopleByEmail(ctx, field.EmailKey(p.Email))
		if err != nil {
			return err
		}
		if len(there) > 0 {
			return domain.Invalid("text", "is the address of %s already; choose them", there[0].Name())
		}
		if p.ID, err = a.store.AddPerson(ctx, p); err != nil {
			return err
		}
		return a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &u.ID, Kind: domain.EntryCreated, Text: p.Email, At: now})
	})
	if err != nil {
		return domain.Person{}, err
	}
	return a.store.Person(ctx, p.ID)
}

// ChangePerson writes fields of a person by path, in canonical form. All or
// none are written; version is the one the change was made on.
func (a *Service) ChangePerson(ctx context.Context, u domain.User, id int64, version int, set map[string]string) (domain.Person, error) {
	return a.changeIf(ctx, u, id, set, func(p *domain.Person) bool { return p.Version == version })
}

// ChangeValues is ChangePerson for somebody who saw these values in the fields: what others
// changed beside them does not matter.
func (a *Service) ChangeValues(ctx context.Context, u domain.User, id int64, was, set map[string]string) (domain.Person, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return domain.Person{}, err
	}
	return a.changeIf(ctx, u, id, set, func(p *domain.Person) bool {
		for path := range set {
			if !sameSeen(cat, path, valueNow(p, path), was[path]) {
				return false
			}
		}
		return true
	})
}

// sameSeen reports whether a stored value is what somebody saw: one that stands for none may have
// been shown as none.
func sameSeen(cat *field.Catalogue, path, stored, seen string) bool {
	if stored == seen {
		return true
	}
	ref, ok := cat.Find(path)
	return ok && seen == "" && field.Junk(ref.Def, field.Of(stored))
}

// changeIf changes fields of a person who is as whoever changes them saw them; else ErrStale.
func (a *Service) changeIf(ctx context.Context, u domain.User, id int64, set map[string]string, asSeen func(p *domain.Person) bool) (domain.Person, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return domain.Person{}, err
	}
	var out domain.Person
	err = a.store.Within(ctx, func(ctx context.Context) error {
		if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
			return err
		}
		p, err := a.livePerson(ctx, id)
		if err != nil {
			return err
		}
		if !asSeen(&p) {
			return domain.ErrStale
		}
		out, err = a.changePerson(ctx, cat, u, p, set)
		return err
	})
	return out, err
}

func (a *Service) changePerson(ctx context.Context, cat *field.Catalogue, u domain.User, p domain.Person, set map[string]string) (domain.Person, error) {
	var bad domain.InvalidError
	var changed []string
	for path, value := range set {
		if err := SetPersonField(cat, &p, path, value); err != nil {
			var one *domain.InvalidError
			errors.As(err, &one)
			bad.Fields = append(bad.Fields, one.Fields...)
			continue
		}
		ref, _ := cat.Find(path)
		changed = append(changed, fmt.Sprintf("%s: %s", ref.Def.Label, cmp.Or(shownValue(ref.Def, value), "cleared")))
	}
	if p.Email == "" && p.FirstName == "" && p.LastName == "" {
		bad.Fields = append(bad.Fields, domain.FieldError{Where: "person.last_name", Why: "a person needs a name or an address"})
	}
	if len(bad.Fields) > 0 {
		return p, &bad
	}
	if len(changed) == 0 {
		return p, nil
	}
	slices.Sort(changed)
	p.UpdatedAt = a.now()
	if err := a.store.UpdatePerson(ctx, p); err != nil {
		return p, err
	}
	p.Version++
	return p, a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: strings.Join(changed, "; "), At: p.UpdatedAt})
}

// shownValue writes a canonical value as a history tells it.
func shownValue(d field.Def, value string) string {
	v, err := field.Parse(d.Type, value, d.Choices)
	if err != nil || v.Type == "" {
		return value
	}
	return string(field.NewReader("en-GB").Append(nil, v, ""))
}
