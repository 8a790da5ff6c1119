package records

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// Storable tells whether a field can be written on somebody of a kind.
func Storable(d *field.Def, p *domain.Person) bool {
	switch {
	case d.Record != field.Person && d.Record != p.Kind:
		return false
	case d.Own:
		return true
	}
	return p.Column(d.Path) != nil && d.Path != "person.full_name"
}

// SetPersonField checks a value in canonical form and puts it on the person. An
// empty value clears the field.
func SetPersonField(cat *field.Catalogue, p *domain.Person, path, value string) error {
	ref, ok := cat.Find(path)
	if !ok {
		return domain.Invalid(path, "is not a field")
	}
	v, err := field.ParseGiven(ref.Def, value, "")
	if err != nil {
		return domain.Invalid(path, "%v", err)
	}
	kind := ref.Def.Record
	switch {
	case kind != field.Person && kind != field.Lead && kind != field.Contact:
		return domain.Invalid(path, "belongs to the %s, not to the person", kind)
	case kind != field.Person && kind != p.Kind:
		return domain.Invalid(path, "belongs to a %s; this is a %s", kind, p.Kind)
	case ref.Def.Own:
		p.Own = SetOwn(p.Own, ref.Def.Path, v)
		return nil
	}
	if !Storable(&ref.Def, p) {
		return domain.Invalid(path, "cannot be written")
	}
	at := p.Column(path)
	stored := v.String()
	if err := checkHabit(ref.Def.Path, &stored, p.Country); err != nil {
		return err
	}
	*at = stored
	return nil
}

// checkHabit refuses a language or a time zone that nothing can be written in, with
// what may be meant, and brings one that is known into its usual form.
func checkHabit(path string, value *string, country string) error {
	switch {
	case *value == "":
	case path == "person.language":
		tag, known := field.KnownLocale(*value)
		if !known {
			if tag = field.LanguageNamed(*value); tag == "" {
				return domain.Invalid(path, "%q is not a language that letters can be written in; use its name or its code, such as German, de or pt-BR", *value)
			}
		}
		*value = tag
	case path == "person.time_zone":
		if _, err := time.LoadLocation(*value); err != nil || *value == "Local" {
			return domain.Invalid(path, "%q is not a time zone; choose one such as %s", *value, strings.Join(plan.SuggestZones(*value, country), ", "))
		}
	}
	return nil
}

// SetOwn gives own values with one set in canonical form, or taken out when v is of no type.
func SetOwn(own domain.Own, path string, v field.Value) domain.Own {
	out := maps.Clone(own)
	if out == nil {
		out = domain.Own{}
	}
	if v.Type == "" {
		delete(out, path)
	} else {
		out[path] = v.String()
	}
	return out
}

// Records are what one letter draws its values from. Company, Deal and Team may
// be nil.
type Records struct {
	Person  *domain.Person
	Company *domain.Company
	Deal    *domain.Deal
	Main    *domain.Person // the deal's main contact
	Owner   *domain.User
	Sender  *domain.User
	Team    *domain.Team
}

// Gather loads everything that a letter to this person can draw from.
func (a *Service) Gather(ctx context.Context, p *domain.Person, dealID *int64, sender *domain.User) (Records, error) {
	r := Records{Person: p, Sender: sender}
	load := func(err error) error {
		if errors.Is(err, domain.ErrNotFound) {
			return nil
		}
		return err
	}
	if p.CompanyID != nil {
		c, err := a.store.Company(ctx, *p.CompanyID)
		if load(err) != nil {
			return r, err
		}
		if c.DeletedAt == nil {
			r.Company = &c
		}
	}
	if dealID != nil {
		d, err := a.store.Deal(ctx, *dealID)
		if load(err) != nil {
			return r, err
		}
		if d.DeletedAt == nil {
			r.Deal = &d
		}
		if d.MainContactID != nil {
			m, err := a.store.Person(ctx, *d.MainContactID)
			if load(err) != nil {
				return r, err
			}
			r.Main = &m
		}
	}
	if p.OwnerID != nil {
		o, err := a.store.User(ctx, *p.OwnerID)
		if load(err) != nil {
			return r, err
		}
		r.Owner = &o
	}
	if sender.TeamID != nil {
		t, err := a.store.Team(ctx, *sender.TeamID)
		if load(err) != nil {
			return r, err
		}
		r.Team = &t
	}
	return r, nil
}

// right tells whether somebody said of this value that it is right.
func (r *Records) right(path, value string) bool {
	if strings.HasSuffix(path, ".full_name") {
		return true // it is made of what counts
	}
	for _, p := range []*domain.Person{r.Person, r.Main} {
		if p != nil && p.SaidRight[strings.Replace(path, "deal.main_contact.", "person.", 1)] == value {
			return true
		}
	}
	return false
}

// Values turns records into the values of the catalogue. A stored value that
// does not fit its type any more counts as missing, and so does one that only
// stands for nothing ("n/a"), unless somebody said that it is right.
func (a *Service) Values(cat *field.Catalogue, r Records) *field.Values {
	v := cat.NewValues()
	set := func(path, s string) {
		ref, ok := cat.Find(path)
		if !ok {
			return
		}
		if value, err := field.Parse(ref.Def.Type, s, ref.Def.Choices); err == nil {
			if !field.Junk(ref.Def, value) || r.right(ref.Def.Path, value.Text) {
				v.Set(path, value)
			}
		} else if ref.Def.Type == field.Choice {
			v.Set(path, field.Of(s))
		}
	}
	own := func(o domain.Own) {
		for path, s := range o {
			set(path, s)
		}
	}
	v.Set("today", field.DateOf(a.now()))
	if p := r.Person; p != nil {
		v.Kind = p.Kind
		setPerson(set, string(field.Person), p)
		own(p.Own)
		if p.Kind == field.Lead {
			set("lead.status", p.LeadStatus)
			set("lead.source", p.LeadSource)
			set("lead.company_name", p.CompanyName)
			v.Set("lead.created", field.DateOf(p.CreatedAt))
			set("company.name", p.CompanyName)
		} else {
			set("contact.department", p.Department)
			set("contact.since", p.ContactSince)
		}
	}
	if c := r.Company; c != nil {
		for _, d := range cat.Of(field.Company) {
			if at := c.Column(d.Path); at != nil {
				set(d.Path, *at)
			}
		}
		own(c.Own)
	}
	if d := r.Deal; d != nil {
		set("deal.name", d.Name)
		set("deal.stage", d.Stage)
		set("deal.close_date", d.CloseDate)
		v.Set("deal.created", field.DateOf(d.CreatedAt))
		if d.HasAmount() {
			v.Set("deal.amount", field.MoneyOf(d.AmountMinor, d.Currency))
		}
		own(d.Own)
		if m := r.Main; m != nil {
			setPerson(set, string(field.MainContact), m)
			for path, s := range m.Own {
				set(strings.Replace(path, "person.", "deal.main_contact.", 1), s)
			}
		}
	}
	if r.Owner != nil {
		SetUser(set, "owner", r.Owner)
	}
	if r.Sender != nil {
		SetUser(set, "sender", r.Sender)
		set("sender.signature", r.Sender.Signature)
		own(r.Sender.Own)
	}
	if t := r.Team; t != nil {
		set("team.name", t.Name)
		set("team.postal_address", t.PostalAddress)
		set("team.website", t.Website)
		own(t.Own)
	}
	return v
}

func setPerson(set func(path, s string), prefix string, p *domain.Person) {
	for _, key := range []string{"honorific", "first_name", "last_name", "email", "phone", "job_title", "city", "country", "language", "time_zone", "basis", "basis_since", "basis_source"} {
		set(prefix+"."+key, *p.Column("person." + key))
	}
	// The full name is made of what counts.
	var parts [2]string
	for i, s := range []string{p.FirstName, p.LastName} {
		path := []string{"person.first_name", "person.last_name"}[i]
		if !field.Junk(field.Def{Path: path}, field.Of(s)) || p.SaidRight[path] == s {
			parts[i] = s
		}
	}
	set(prefix+".full_name", domain.JoinName(parts[0], parts[1]))
	set(prefix+".kind", string(p.Kind))
}

// SetUser sets the values of a user under a prefix such as "sender".
func SetUser(set func(path, s string), prefix string, u *domain.User) {
	for key, s := range map[string]string{
		"first_name": u.FirstName, "last_name": u.LastName, "full_name": u.Name(), "email": u.Email,
		"phone": u.Phone, "job_title": u.JobTitle, "booking_link": u.BookingLink,
	} {
		set(prefix+"."+key, s)
	}
}

// Facts gives every filled value of a letter's records, as it would be written
// for the reader, in the order of the catalogue.
type Fact struct {
	Path   string       `json:"path"`
	Record field.Record `json:"record"`
	Label  string       `json:"label"`
	Value  string       `json:"value"`
}

func Facts(cat *field.Catalogue, v *field.Values, r *field.Reader) []Fact {
	out := []Fact{}
	for _, d := range cat.Fields() {
		if value := v.Get(d.Path); value.Filled() {
			out = append(out, Fact{Path: d.Path, Record: d.Record, Label: d.Label, Value: string(r.Append(nil, value, ""))})
		}
	}
	return out
}

// PersonLine describes a person in one line for messages.
func PersonLine(p *domain.Person) string { return fmt.Sprintf("%s <%s>", p.Name(), p.Email) }
