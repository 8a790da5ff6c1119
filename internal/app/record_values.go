package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
)

// TeamSheet is a team with its values.
type TeamSheet struct {
	ID      int64         `json:"id"`
	Name    string        `json:"name"`
	Fields  []RecordField `json:"fields"`
	MayEdit bool          `json:"mayEdit"`
}

// teamLanguage is a value of teams that no letter holds: letters to people whose
// language is not known are in it.
var teamLanguage = field.Def{Path: "team.language", Label: "Language of letters", Type: field.Text, Record: field.Team}

// column gives the place of a deal's standard field; its amount is in two.
func (d *Deal) column(path string) *string {
	switch path {
	case "deal.name":
		return &d.Name
	case "deal.stage":
		return &d.Stage
	case "deal.close_date":
		return &d.CloseDate
	}
	return nil
}

// column gives the place of a team's standard field.
func (t *Team) column(path string) *string {
	switch path {
	case "team.name":
		return &t.Name
	case "team.postal_address":
		return &t.PostalAddress
	case "team.website":
		return &t.Website
	case teamLanguage.Path:
		return &t.Language
	}
	return nil
}

// valued is a record whose values are changed one by one: where its standard fields
// are, and its own ones. A deal has its amount besides.
type valued struct {
	kind   field.Record
	column func(path string) *string
	own    *Own
	deal   *Deal
}

func valuesOfDeal(d *Deal) *valued       { return &valued{field.Deal, d.column, &d.Own, d} }
func valuesOfCompany(c *Company) *valued { return &valued{field.Company, c.column, &c.Own, nil} }
func valuesOfTeam(t *Team) *valued       { return &valued{field.Team, t.column, &t.Own, nil} }

const dealAmount = "deal.amount"

func (v *valued) defs(cat *field.Catalogue) []field.Def {
	var out []field.Def
	for _, d := range cat.Of(v.kind) {
		if d.Own || v.column(d.Path) != nil || v.deal != nil && d.Path == dealAmount {
			out = append(out, d)
		}
	}
	if v.kind == field.Team {
		out = append(out, teamLanguage)
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
	case v.deal.AmountMinor == 0:
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
		return invalid(d.Path, "%v", err)
	}
	switch {
	case d.Own:
		*v.own = setOwn(*v.own, d.Path, parsed)
		return nil
	case d.Path == dealAmount:
		v.deal.AmountMinor, err = field.MinorUnits(parsed)
		v.deal.Currency = cmpOr(parsed.Text, v.deal.Currency)
		if err != nil {
			return invalid(d.Path, "%v", err)
		}
		return nil
	case strings.HasSuffix(d.Path, ".name") && parsed.String() == "":
		return invalid(d.Path, "is missing; give it a name")
	}
	stored := parsed.String()
	if d.Path == teamLanguage.Path && stored != "" {
		if stored = field.LanguageNamed(value); stored == "" {
			stored, _ = field.KnownLocale(value)
		}
		if stored == "" {
			return invalid(d.Path, "%q is not a language that letters can be written in; use its name or its code, such as German, de or pt-BR", value)
		}
	}
	*v.column(d.Path) = stored
	return nil
}

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
		if d.Path == teamLanguage.Path && raw != "" {
			shown = field.LanguageName(raw)
		}
		out = append(out, RecordField{d.Path, d.Label, d.Type, append([]string{}, d.Choices...), raw, shown})
	}
	return out
}

// ChangeRecord stores one value of a deal, a company or a team in canonical form. Was
// is the value that stood there when it was changed; when it is another one by now,
// nothing is stored and the error is ErrStale.
func (a *App) ChangeRecord(ctx context.Context, u User, kind field.Record, id int64, path, was, value string) error {
	action := access.EditRecord
	if kind == field.Team {
		action = access.EditShared
	}
	if err := may(u, action, access.Thing{}); err != nil {
		return err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	return a.Store.Within(ctx, func(ctx context.Context) error {
		v, store, entry, err := recordIn(ctx, a.Store, kind, id)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(v.defs(cat), func(d field.Def) bool { return d.Path == path })
		if i < 0 {
			return invalid(path, "is not a value of a %s that can be changed", kind)
		}
		d := v.defs(cat)[i]
		if v.get(d) != was {
			return ErrStale
		}
		if err := v.set(d, value); err != nil {
			return err
		}
		if err := store(); err != nil || kind == field.Team {
			return err
		}
		entry.UserID, entry.Kind, entry.At = &u.ID, EntryChanged, a.now()
		entry.Text = fmt.Sprintf("%s: %s", d.Label, cmpOr(shownValue(d, v.get(d)), "cleared"))
		return a.Store.AddEntry(ctx, entry)
	})
}

// recordIn loads a record, and gives how it is stored and what its history names.
func recordIn(ctx context.Context, s Store, kind field.Record, id int64) (v *valued, store func() error, entry Entry, err error) {
	switch kind {
	case field.Deal:
		d, err := s.Deal(ctx, id)
		return valuesOfDeal(&d), func() error { return s.UpdateDeal(ctx, d) }, Entry{DealID: &d.ID, CompanyID: d.CompanyID}, err
	case field.Company:
		c, err := s.Company(ctx, id)
		return valuesOfCompany(&c), func() error { return s.UpdateCompany(ctx, c) }, Entry{CompanyID: &c.ID}, err
	case field.Team:
		t, err := s.Team(ctx, id)
		return valuesOfTeam(&t), func() error { return s.UpdateTeam(ctx, t) }, Entry{}, err
	}
	return nil, nil, entry, invalid("record", "%q has no values that are changed here", kind)
}

// TeamSheets lists the teams with their values.
func (a *App) TeamSheets(ctx context.Context, u User) ([]TeamSheet, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	list, err := a.Store.Teams(ctx)
	out := make([]TeamSheet, 0, len(list))
	for i := range list {
		out = append(out, TeamSheet{list[i].ID, list[i].Name, valuesOfTeam(&list[i]).list(cat), may(u, access.EditShared, access.Thing{}) == nil})
	}
	return out, err
}
