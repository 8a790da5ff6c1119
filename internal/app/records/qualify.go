package records

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Qualify is how a lead becomes a contact: of a company that is there or of a name, with a
// deal or without.
type Qualify struct {
	CompanyID *int64
	Company   string
	Deal      *NewDeal
}

// Qualified is what came of it.
type Qualified struct {
	Person      domain.Person `json:"person"`
	DealID      int64         `json:"dealId" doc:"0 without a deal"`
	CompanyMade bool          `json:"companyMade"`
	Carried     []string      `json:"carried" doc:"The own fields that went along, by their labels"`
	Left        []string      `json:"left" doc:"Those that nothing takes; they stay with the record and are not shown"`
	Undo        int64         `json:"undo" doc:"By this number its user takes it back"`

	was UndoQualify
}

// MakeContact makes a contact of a lead. Its history, its letters and its person values
// stay; its own fields go where the workspace says, or to the one of the same name.
func (a *Service) MakeContact(ctx context.Context, u domain.User, id int64, version int, q Qualify) (Qualified, error) {
	out := Qualified{Carried: []string{}, Left: []string{}}
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return out, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	settings, err := a.team.Settings(ctx)
	if err != nil {
		return out, err
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.livePerson(ctx, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return domain.ErrStale
		}
		if p.Kind != field.Lead {
			return &domain.StateError{Why: p.Name() + " is a contact already."}
		}
		out.Carried, out.Left = []string{}, []string{}
		company, made, err := a.companyFor(ctx, u, q.CompanyID, q.Company)
		if err != nil {
			return err
		}
		now, was := a.now(), p
		p.Kind, p.CompanyID, p.UpdatedAt = field.Contact, company, now
		p.ContactSince = cmp.Or(p.ContactSince, now.Format("2006-01-02"))
		out.CompanyMade = made
		var firm *domain.Company
		if company != nil {
			c, err := a.store.Company(ctx, *company)
			if err != nil {
				return err
			}
			firm = &c
		}
		out.was = UndoQualify{CompanyID: was.CompanyID, ContactSince: was.ContactSince, Since: p.ContactSince, Own: was.Own, Made: made}
		if firm != nil {
			out.was.FirmOwn = firm.Own
		}
		var deal domain.Own
		a.carry(cat, settings.LeadFields, &p, firm, &deal, q.Deal != nil, &out)
		if out.was.OwnNow = p.Own; firm != nil {
			out.was.FirmID, out.was.FirmOwnNow = firm.ID, firm.Own
		}
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		if firm != nil {
			if err := a.store.UpdateCompany(ctx, *firm); err != nil {
				return err
			}
		}
		text := "Became a contact"
		if firm != nil {
			text += " at " + firm.Name
		}
		if err := a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: company, UserID: &u.ID, Kind: domain.EntryChanged, Text: text, At: now}); err != nil {
			return err
		}
		if q.Deal != nil {
			if out.DealID, err = a.dealWith(ctx, cat, u, &p, *q.Deal, deal); err != nil {
				return err
			}
		}
		out.was.DealID, out.was.PersonID = out.DealID, p.ID
		out.Undo, err = a.keepUndo(ctx, u, undoContact, out.was)
		return err
	})
	if err != nil {
		return out, err
	}
	out.Person, err = a.store.Person(ctx, id)
	return out, err
}

// dealWith makes the deal that begins with a contact, with what they brought along.
func (a *Service) dealWith(ctx context.Context, cat *field.Catalogue, u domain.User, p *domain.Person, d NewDeal, brought domain.Own) (int64, error) {
	d.MainID, d.CompanyID = &p.ID, p.CompanyID
	d.Values = maps.Clone(d.Values)
	maps.Copy(d.Values, brought)
	id, err := a.addDeal(ctx, cat, u, d)
	if err != nil {
		return 0, fmt.Errorf("the deal: %w", err)
	}
	return id, nil
}

// carry gives the own fields of a lead to the fields that take them; a value that is there
// already stays.
func (a *Service) carry(cat *field.Catalogue, to map[string]string, p *domain.Person, firm *domain.Company, deal *domain.Own, withDeal bool, out *Qualified) {
	for _, path := range slices.Sorted(maps.Keys(p.Own)) {
		ref, ok := cat.Find(path)
		if !ok || ref.Def.Record != field.Lead {
			continue
		}
		dest, said := to[path]
		if !said {
			dest = namesake(cat, path)
		}
		target, known := cat.Find(dest)
		value, err := field.Parse(ref.Def.Type, p.Own[path], ref.Def.Choices)
		if !known || err != nil || dest == "" {
			out.Left = append(out.Left, ref.Def.Label)
			continue
		}
		taken := false
		switch target.Def.Record {
		case field.Contact, field.Person:
			taken = p.Own[dest] != "" || SetPersonField(cat, p, dest, value.String()) == nil
		case field.Company:
			taken = firm != nil && (firm.Own[dest] != "" || valuesOfCompany(firm).setAll(cat, map[string]string{dest: value.String()}) == nil)
		case field.Deal:
			if taken = withDeal; taken {
				*deal = (*deal).With(dest, value.String())
				if *deal == nil {
					*deal = domain.Own{dest: value.String()}
				}
			}
		}
		if taken {
			out.Carried = append(out.Carried, ref.Def.Label)
		} else {
			out.Left = append(out.Left, ref.Def.Label)
		}
	}
}

// namesake gives the own field of contacts, or else of all people, that has the name of one
// of leads.
func namesake(cat *field.Catalogue, path string) string {
	for _, record := range []field.Record{field.Contact, field.Person} {
		dest := strings.Replace(path, "lead.", string(record)+".", 1)
		if ref, ok := cat.Find(dest); ok && ref.Def.Path == dest {
			return dest
		}
	}
	return ""
}

// CheckLeadFields tells what is wrong with where own fields of leads go.
func (a *Service) CheckLeadFields(ctx context.Context, to map[string]string) error {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	var bad domain.InvalidError
	for from, dest := range to {
		source, ok := cat.Find(from)
		if !ok || !source.Def.Own || source.Def.Record != field.Lead {
			bad.Add(domain.Invalid("leadFields", "%s is no own field of leads", from))
			continue
		}
		if dest == "" {
			continue
		}
		target, ok := cat.Find(dest)
		switch {
		case !ok || !target.Def.Own || !slices.Contains([]field.Record{field.Person, field.Contact, field.Company, field.Deal}, target.Def.Record):
			bad.Add(domain.Invalid("leadFields", "%s is no own field of contacts, companies or deals; choose one for %s", dest, source.Def.Label))
		case target.Def.Type != source.Def.Type && target.Def.Type != field.Text:
			bad.Add(domain.Invalid("leadFields", "%s holds a %s and %s a %s; choose a field of the same type", source.Def.Label, source.Def.Type, target.Def.Label, target.Def.Type))
		}
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	return nil
}
