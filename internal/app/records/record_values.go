package records

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// TeamSheet is a team with its values.
type TeamSheet struct {
	ID      int64         `json:"id"`
	Name    string        `json:"name"`
	Fields  []RecordField `json:"fields"`
	MayEdit bool          `json:"mayEdit"`
}

// valued is a record whose values are changed one by one: where its standard fields
// are, and its own ones. A deal has its amount besides.
type valued struct {
	kind   field.Record
	column func(path string) *string
	own    *domain.Own
	deal   *domain.Deal
}

func valuesOfDeal(d *domain.Deal) *valued { return &valued{field.Deal, d.Column, &d.Own, d} }

func valuesOfCompany(c *domain.Company) *valued { return &valued{field.Company, c.Column, &c.Own, nil} }

func valuesOfTeam(t *domain.Team) *valued { return &valued{field.Team, t.Column, &t.Own, nil} }

const dealAmount = "deal.amount"

func (v *valued) defs(cat *field.Catalogue) []field.Def {
	var out []field.Def
	for _, d := range cat.Of(v.kind) {
		if d.Own || v.column(d.Path) != nil || v.deal != nil && d.Path == dealAmount {
			out = append(out, d)
		}
	}
	if v.kind == field.Team {
		out = append(out, domain.TeamLanguage)
	}
	return out
}

// get gives a value in canonical form, "" when it is empty.
func (v *valued) get(d field.Def) string {
	switch {
	case d.Own:
		return (*v.own)[d.Path]
	case d.Path != dealAmount:
		return *v.column(d.Path)
	case !v.deal.HasAmount():
		return ""
	}
	return field.MoneyOf(v.deal.AmountMinor, v.deal.Currency).String()
}

// set checks a value in canonical form and puts it in; "" clears it.
func (v *valued) set(d field.Def, value string) error {
	code := ""
	if d.Path == dealAmount {
		code = v.deal.Currency
	}
	parsed, err := field.ParseGiven(d, value, code)
	if err != nil {
		return domain.Invalid(d.Path, "%v", err)
	}
	switch {
	case d.Own:
		*v.own = SetOwn(*v.own, d.Path, parsed)
		return nil
	case d.Path == dealAmount:
		v.deal.AmountMinor, err = field.MinorUnits(parsed)
		v.deal.ZeroGiven = parsed.Filled() && v.deal.AmountMinor == 0
		v.deal.Currency = cmp.Or(parsed.Text, v.deal.Currency)
		if err != nil {
			return domain.Invalid(d.Path, "%v", err)
		}
		return nil
	case strings.HasSuffix(d.Path, ".name") && parsed.String() == "":
		return domain.Invalid(d.Path, "is missing; give it a name")
	}
	stored := parsed.String()
	if d.Path == domain.TeamLanguage.Path && stored != "" {
		if stored = field.LanguageNamed(value); stored == "" {
			stored, _ = field.KnownLocale(value)
		}
		if stored == "" {
			return domain.Invalid(d.Path, "%q is not a language that letters can be written in; use its name or its code, such as German, de or pt-BR", value)
		}
	}
	*v.column(d.Path) = stored
	return nil
}

// path sets a value by its path, or says that there is no such.
func (v *valued) path(cat *field.Catalogue, path, value string) error {
	defs := v.defs(cat)
	i := slices.IndexFunc(defs, func(d field.Def) bool { return d.Path == path })
	if i < 0 {
		return domain.Invalid(path, "is not a value of a %s", v.kind)
	}
	return v.set(defs[i], value)
}

func (v *valued) value(cat *field.Catalogue, path string) string {
	defs := v.defs(cat)
	i := slices.IndexFunc(defs, func(d field.Def) bool { return d.Path == path })
	if i < 0 {
		return ""
	}
	return v.get(defs[i])
}

// SetCompanyField and SetDealField check a value in canonical form and put it on the record.
func SetCompanyField(cat *field.Catalogue, c *domain.Company, path, value string) error {
	return valuesOfCompany(c).path(cat, path, value)
}

// SetDealField is SetCompanyField of a deal.
func SetDealField(cat *field.Catalogue, d *domain.Deal, path, value string) error {
	return valuesOfDeal(d).path(cat, path, value)
}

// CompanyField and DealField give a value in canonical form, "" for none.
func CompanyField(cat *field.Catalogue, c *domain.Company, path string) string {
	return valuesOfCompany(c).value(cat, path)
}

// DealField is CompanyField of a deal.
func DealField(cat *field.Catalogue, d *domain.Deal, path string) string {
	return valuesOfDeal(d).value(cat, path)
}

// PersonField gives a value of a person in canonical form, "" for none.
func PersonField(p *domain.Person, path string) string { return valueNow(p, path) }

// list gives the values as a screen shows them, filled or not.
func (v *valued) list(cat *field.Catalogue) []RecordField {
	reader := field.NewReader("en-GB")
	out := []RecordField{}
	for _, d := range v.defs(cat) {
		raw := v.get(d)
		shown := raw
		if value, err := field.Parse(d.Type, raw, d.Choices); err == nil {
			shown = string(reader.Append(nil, value, ""))
		}
		if d.Path == domain.TeamLanguage.Path && raw != "" {
			shown = field.LanguageName(raw)
		}
		out = append(out, RecordField{d.Path, d.Label, d.Type, append([]string{}, d.Choices...), raw, shown})
	}
	return out
}

// ChangeRecord stores one value of a deal, a company or a team in canonical form. Was
// is the value that stood there when it was changed; when it is another one by now,
// nothing is stored and the error is ErrStale.
func (a *Service) ChangeRecord(ctx context.Context, u domain.User, kind field.Record, id int64, path, was, value string) error {
	action := access.EditRecord
	if kind == field.Team {
		action = access.EditShared
	}
	if err := domain.May(u, action, access.Thing{}); err != nil {
		return err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		v, store, entry, err := a.recordIn(ctx, kind, id)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(v.defs(cat), func(d field.Def) bool { return d.Path == path })
		if i < 0 {
			return domain.Invalid(path, "is not a value of a %s that can be changed", kind)
		}
		d := v.defs(cat)[i]
		if !sameSeen(cat, d.Path, v.get(d), was) {
			return domain.ErrStale
		}
		if err := v.set(d, value); err != nil {
			return err
		}
		if err := store(); err != nil || kind == field.Team {
			return err
		}
		entry.UserID, entry.Kind, entry.At = &u.ID, domain.EntryChanged, a.now()
		entry.Text = fmt.Sprintf("%s: %s", d.Label, cmp.Or(shownValue(d, v.get(d)), "cleared"))
		return a.store.AddEntry(ctx, entry)
	})
}

// recordIn loads a record that is not deleted, and gives how it is stored and what its history names.
func (a *Service) recordIn(ctx context.Context, kind field.Record, id int64) (v *valued, store func() error, entry domain.Entry, err error) {
	s := a.store
	switch kind {
	case field.Deal:
		d, err := a.liveDeal(ctx, id)
		return valuesOfDeal(&d), func() error { return s.UpdateDeal(ctx, d) }, domain.Entry{DealID: &d.ID, CompanyID: d.CompanyID}, err
	case field.Company:
		c, err := a.liveCompany(ctx, id)
		return valuesOfCompany(&c), func() error { return s.UpdateCompany(ctx, c) }, domain.Entry{CompanyID: &c.ID}, err
	case field.Team:
		t, err := s.Team(ctx, id)
		return valuesOfTeam(&t), func() error { return s.UpdateTeam(ctx, t) }, domain.Entry{}, err
	}
	return nil, nil, entry, domain.Invalid("record", "%q has no values that are changed here", kind)
}

// TeamSheets lists the teams with their values.
func (a *Service) TeamSheets(ctx context.Context, u domain.User) ([]TeamSheet, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	list, err := a.store.Teams(ctx)
	out := make([]TeamSheet, 0, len(list))
	for i := range list {
		out = append(out, TeamSheet{list[i].ID, list[i].Name, valuesOfTeam(&list[i]).list(cat), domain.May(u, access.EditShared, access.Thing{}) == nil})
	}
	return out, err
}
