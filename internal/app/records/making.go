package records

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// NewPerson is a person who is written down by hand: values by field path as people write
// them. A contact's company is one that is there or a name, of which one is made when there
// is none.
type NewPerson struct {
	Kind      field.Record
	Values    map[string]string
	CompanyID *int64
	Company   string
	OwnerID   *int64 // nil who writes it down
}

// NewDeal is a deal that is written down by hand.
type NewDeal struct {
	Values    map[string]string
	CompanyID *int64
	Company   string // the name of one, which is made when there is none
	MainID    *int64
	OtherIDs  []int64
	OwnerID   *int64
}

// NewCompany is a company that is written down by hand.
type NewCompany struct {
	Values  map[string]string
	OwnerID *int64
}

// AddPerson makes a lead or a contact.
func (a *Service) AddPerson(ctx context.Context, u domain.User, in NewPerson) (domain.Person, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return domain.Person{}, err
	}
	if in.Kind != field.Lead && in.Kind != field.Contact {
		return domain.Person{}, domain.Invalid("kind", "must be lead or contact")
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return domain.Person{}, err
	}
	now := a.now()
	p := domain.Person{Kind: in.Kind, OwnerID: &u.ID, CreatedAt: now, UpdatedAt: now}
	if in.Kind == field.Lead {
		p.LeadStatus = "new"
		p.CompanyName = strings.TrimSpace(in.Company)
	} else {
		p.ContactSince = now.Format("2006-01-02")
	}
	var bad domain.InvalidError
	for path, value := range in.Values {
		bad.Add(SetPersonField(cat, &p, path, value))
	}
	if p.Email == "" && p.FirstName == "" && p.LastName == "" {
		bad.Fields = append(bad.Fields, domain.FieldError{Where: "person.last_name", Why: "a person needs a name or an address"})
	}
	if len(bad.Fields) > 0 {
		return p, &bad
	}
	err = a.store.Within(ctx, func(ctx context.Context) (err error) {
		if in.OwnerID != nil {
			if p.OwnerID, err = a.knownOwner(ctx, *in.OwnerID); err != nil {
				return err
			}
		}
		if in.Kind == field.Contact {
			if p.CompanyID, _, err = a.companyFor(ctx, u, in.CompanyID, in.Company); err != nil {
				return err
			}
		}
		if p.ID, err = a.store.AddPerson(ctx, p); err != nil {
			return err
		}
		return a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryCreated, Text: p.Name(), At: now})
	})
	if err != nil {
		return domain.Person{}, err
	}
	return a.store.Person(ctx, p.ID)
}

// companyFor gives the company that is meant: one that is there, or the one of a name,
// which is made when there is none; nil for no company. Made tells whether it was.
func (a *Service) companyFor(ctx context.Context, u domain.User, id *int64, name string) (company *int64, made bool, err error) {
	name = strings.Join(strings.Fields(name), " ")
	if id != nil {
		c, err := a.liveCompany(ctx, *id)
		return &c.ID, false, err
	}
	if name == "" {
		return nil, false, nil
	}
	c, err := a.store.CompanyByName(ctx, name)
	if err == nil || !errors.Is(err, domain.ErrNotFound) {
		return &c.ID, false, err
	}
	made = true
	c = domain.Company{Name: name, OwnerID: &u.ID, CreatedAt: a.now()}
	if c.ID, err = a.store.AddCompany(ctx, c); err != nil {
		return nil, true, err
	}
	return &c.ID, true, a.store.AddEntry(ctx, domain.Entry{CompanyID: &c.ID, UserID: &u.ID, Kind: domain.EntryCreated, Text: name, At: c.CreatedAt})
}

// AddCompany makes a company.
func (a *Service) AddCompany(ctx context.Context, u domain.User, in NewCompany) (int64, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return 0, err
	}
	c := domain.Company{OwnerID: &u.ID, CreatedAt: a.now()}
	if err := valuesOfCompany(&c).setAll(cat, in.Values); err != nil {
		return 0, err
	}
	err = a.store.Within(ctx, func(ctx context.Context) (err error) {
		if in.OwnerID != nil {
			if c.OwnerID, err = a.knownOwner(ctx, *in.OwnerID); err != nil {
				return err
			}
		}
		if there, err := a.store.CompanyByName(ctx, c.Name); err == nil {
			return domain.Invalid("company.name", "is the name of a company that is there already, in %s; open it, or tell them apart by the name", cmp.Or(there.City, "no city"))
		} else if !errors.Is(err, domain.ErrNotFound) {
			return err
		}
		if c.ID, err = a.store.AddCompany(ctx, c); err != nil {
			return err
		}
		return a.store.AddEntry(ctx, domain.Entry{CompanyID: &c.ID, UserID: &u.ID, Kind: domain.EntryCreated, Text: c.Name, At: c.CreatedAt})
	})
	return c.ID, err
}

// DealCurrency is that of new deals whose amount says none.
const DealCurrency = "EUR"

// AddDeal makes a deal.
func (a *Service) AddDeal(ctx context.Context, u domain.User, in NewDeal) (int64, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return 0, err
	}
	var id int64
	err = a.store.Within(ctx, func(ctx context.Context) (err error) {
		id, err = a.addDeal(ctx, cat, u, in)
		return err
	})
	return id, err
}

func (a *Service) addDeal(ctx context.Context, cat *field.Catalogue, u domain.User, in NewDeal) (int64, error) {
	d := domain.Deal{OwnerID: &u.ID, Currency: DealCurrency, CreatedAt: a.now()}
	if stage, ok := cat.Find("deal.stage"); ok && len(stage.Def.Choices) > 0 {
		d.Stage = stage.Def.Choices[0]
	}
	if err := valuesOfDeal(&d).setAll(cat, in.Values); err != nil {
		return 0, err
	}
	var err error
	if in.OwnerID != nil {
		if d.OwnerID, err = a.knownOwner(ctx, *in.OwnerID); err != nil {
			return 0, err
		}
	}
	if in.MainID != nil {
		main, err := a.livePerson(ctx, *in.MainID)
		if err != nil {
			return 0, err
		}
		d.MainContactID = &main.ID
		if in.CompanyID == nil && in.Company == "" && main.Kind == field.Contact {
			in.CompanyID = main.CompanyID
		}
	}
	if in.CompanyID != nil || in.Company != "" {
		if d.CompanyID, _, err = a.companyFor(ctx, u, in.CompanyID, in.Company); err != nil {
			return 0, err
		}
	}
	for _, other := range in.OtherIDs {
		if _, err := a.livePerson(ctx, other); err != nil {
			return 0, err
		}
	}
	others := slices.DeleteFunc(slices.Clone(in.OtherIDs), func(id int64) bool { return in.MainID != nil && id == *in.MainID })
	if d.ID, err = a.store.AddDeal(ctx, d, others); err != nil {
		return 0, err
	}
	return d.ID, a.store.AddEntry(ctx, domain.Entry{DealID: &d.ID, CompanyID: d.CompanyID, PersonID: d.MainContactID, UserID: &u.ID, Kind: domain.EntryCreated, Text: d.Name, At: d.CreatedAt})
}

// setAll puts values in by path, as people write them; a record needs its name.
func (v *valued) setAll(cat *field.Catalogue, values map[string]string) error {
	var bad domain.InvalidError
	defs := v.defs(cat)
	for path, value := range values {
		i := slices.IndexFunc(defs, func(d field.Def) bool { return d.Path == path })
		if i < 0 {
			bad.Add(domain.Invalid(path, "is not a value of a %s", v.kind))
		} else if value != "" {
			bad.Add(v.set(defs[i], value))
		}
	}
	if name := string(v.kind) + ".name"; strings.TrimSpace(*v.column(name)) == "" && !bad.Names(name) {
		bad.Add(domain.Invalid(name, "is missing; give it a name"))
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	return nil
}

// livePerson gives a person that is not deleted.
func (a *Service) livePerson(ctx context.Context, id int64) (domain.Person, error) {
	p, err := a.store.Person(ctx, id)
	if err == nil && p.DeletedAt != nil {
		return p, &domain.StateError{Why: p.Name() + " was deleted. Put the record back first, or choose somebody else."}
	}
	return p, err
}

func (a *Service) liveCompany(ctx context.Context, id int64) (domain.Company, error) {
	c, err := a.store.Company(ctx, id)
	if err == nil && c.DeletedAt != nil {
		return c, &domain.StateError{Why: c.Name + " was deleted. Put the record back first, or choose another company."}
	}
	return c, err
}

func (a *Service) liveDeal(ctx context.Context, id int64) (domain.Deal, error) {
	d, err := a.store.Deal(ctx, id)
	if err == nil && d.DeletedAt != nil {
		return d, &domain.StateError{Why: "The deal “" + d.Name + "” was deleted. Put it back first."}
	}
	return d, err
}

func (a *Service) knownOwner(ctx context.Context, id int64) (*int64, error) {
	u, err := a.store.User(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		return nil, domain.Invalid("owner", "is nobody who works here; choose a colleague")
	}
	return &u.ID, err
}

// Writable tells whether a value of a field can be written down on its record.
func Writable(d field.Def) bool {
	switch d.Record {
	case field.Person, field.Lead, field.Contact:
		return d.Own || new(domain.Person).Column(d.Path) != nil
	case field.Company:
		return d.Own || new(domain.Company).Column(d.Path) != nil
	case field.Deal:
		return d.Own || d.Path == dealAmount || new(domain.Deal).Column(d.Path) != nil
	}
	return false
}
