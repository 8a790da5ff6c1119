package app

import (
	"context"
	"fmt"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// dealFor settles which deal a letter is about: the given one, or the only open
// one of the person; and gives the person's deals.
func (a *LibraryService) dealFor(ctx context.Context, p *domain.Person, dealID *int64) (id *int64, deals []domain.Deal, err error) {
	if deals, err = a.store.DealsOf(ctx, p.ID); err != nil {
		return nil, nil, err
	}
	if dealID != nil && slices.ContainsFunc(deals, func(d domain.Deal) bool { return d.ID == *dealID }) {
		return dealID, deals, nil
	}
	open := slices.DeleteFunc(slices.Clone(deals), func(d domain.Deal) bool { return !d.Open() })
	if dealID != nil {
		return nil, deals, domain.Invalid("dealId", "is not a deal of %s; choose another", p.Name())
	}
	if len(open) == 1 {
		return &open[0].ID, deals, nil
	}
	return nil, deals, nil
}

// setting is what every merge for one person needs.
type setting struct {
	cat    *field.Catalogue
	person domain.Person
	dealID *int64
	deals  []domain.Deal // that the person has
	recs   Records
	values *field.Values
	reader *field.Reader
}

func (a *LibraryService) setting(ctx context.Context, u domain.User, personID int64, dealID *int64) (*setting, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	p, err := a.store.Person(ctx, personID)
	if err != nil {
		return nil, err
	}
	dealID, deals, err := a.dealFor(ctx, &p, dealID)
	if err != nil {
		return nil, err
	}
	recs, err := a.records.gather(ctx, &p, dealID, &u)
	if err != nil {
		return nil, err
	}
	s := &setting{cat, p, dealID, deals, recs, a.records.Values(cat, recs), reader("", &p, recs.Team)}
	sig, err := a.signature(ctx, u, u.Email, document.BodyPlain, s.reader)
	if err == nil && !letter.IsBlank(sig) {
		s.values.Set("sender.signature", field.Value{Type: field.Long, Text: render.RenderText(sig)})
	}
	return s, err
}

// whyNot says why a program cannot serve the person, or "".
func (s *setting) whyNot(p *template.Program) string {
	fits := p.Fits()
	switch {
	case len(fits) == 0:
		return "doesn’t fit any kind of record"
	case p.NeedsDeal() && len(s.deals) == 0:
		return "needs a deal, and there isn’t one with " + s.person.Name()
	case p.NeedsDeal() && s.dealID == nil:
		return "needs a deal; choose one"
	case !p.NeedsDeal() && !slices.Contains(fits, s.person.Kind):
		return fmt.Sprintf("is for a %s; this is a %s", fits[0], s.person.Kind)
	}
	return ""
}
