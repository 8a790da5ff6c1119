package library

import (
	"context"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

func (a *Service) settingOf(ctx context.Context, cat *field.Catalogue, row *domain.PersonDeal, base *records.Records, owners map[int64]*domain.User, readers map[string]*field.Reader) (*Setting, error) {
	p := row.Person
	recs := records.Records{Person: &p, Sender: base.Sender, Team: base.Team}
	if p.OwnerID != nil {
		recs.Owner = owners[*p.OwnerID]
	}
	if p.CompanyID != nil {
		if base.Company == nil || base.Company.ID != *p.CompanyID {
			c, err := a.store.Company(ctx, *p.CompanyID)
			if err != nil {
				return nil, err
			}
			base.Company = &c
		}
		recs.Company = base.Company
	}
	if row.DealID != nil {
		d, err := a.store.Deal(ctx, *row.DealID)
		if err != nil {
			return nil, err
		}
		recs.Deal, recs.Main = &d, &p
	}
	key := p.Language + " " + p.Country
	if readers[key] == nil {
		readers[key] = Reader("", &p, base.Team)
	}
	var deals []domain.Deal
	if recs.Deal != nil {
		deals = append(deals, *recs.Deal)
	}
	return &Setting{cat, p, row.DealID, deals, recs, a.records.Values(cat, recs), readers[key], nil}, nil
}

func labels(cat *field.Catalogue, paths []string) []string {
	out := make([]string, len(paths))
	for i, p := range paths {
		out[i] = cat.Name(p)
	}
	return out
}

// Trial is a template tried on a real person.
type Trial struct {
	PersonID int64             `json:"personId"`
	Name     string            `json:"name"`
	Kind     field.Record      `json:"kind"`
	Index    int               `json:"index" doc:"Where the person stands among those to try on, from 0"`
	Total    int               `json:"total"`
	Reason   string            `json:"reason" doc:"Why it cannot be used for this person"`
	Subject  document.Document `json:"subject"`
	Body     document.Document `json:"body"`
	HTML     string            `json:"html" doc:"The page that is sent; empty for a plain body"`
	Text     string            `json:"text" doc:"The plain part"`
	Gaps     int               `json:"gaps"`
	StandIn  bool              `json:"standIn" doc:"There is nobody that it fits yet; this is a made-up person"`
	Facts    []records.Fact    `json:"facts" doc:"The values of the person, as they would be written"`
}

// TryOn merges wording with a person: a given one, or the one at an index of
// those found by a search, by name, of the kinds that fit, for a deal its newest open one.
func (a *Service) TryOn(ctx context.Context, u domain.User, w Input, personID int64, search string, index int) (Trial, error) {
	t, err := a.MergeFor(ctx, u, w, personID, search, index)
	t.HTML = letter.ShowPictures(t.HTML, PicturePath)
	return t, err
}

// MergeFor is TryOn with pictures by their content, as they are sent.
func (a *Service) MergeFor(ctx context.Context, u domain.User, w Input, personID int64, search string, index int) (Trial, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return Trial{}, err
	}
	program, template, checked, err := a.compileInput(ctx, cat, u, w)
	if err != nil {
		return Trial{}, err
	}
	if len(checked.Notes) > 0 && checked.Notes[0].Code == "markup" {
		return Trial{}, domain.Invalid("body", "line %d, column %d: %s", checked.Notes[0].Line, checked.Notes[0].Column, checked.Notes[0].Message)
	}
	out := Trial{PersonID: personID, Index: index}
	if personID == 0 {
		q := domain.PeopleQuery{Search: search, InDeal: program.NeedsDeal(), Limit: 1, Offset: max(0, index)}
		if fits := program.Fits(); len(fits) == 1 {
			q.Kind = fits[0]
		} else if len(fits) == 2 {
			q.Kind = field.Contact
		}
		page, err := a.store.People(ctx, q)
		if err != nil {
			return Trial{}, err
		}
		if len(page.Rows) == 0 && search != "" {
			return Trial{}, &domain.StateError{Why: "Nobody has that name. Search for somebody else."}
		}
		if len(page.Rows) > 0 {
			out.PersonID, out.Total = page.Rows[0].ID, page.Total
		}
	}
	var dealID *int64
	if program.NeedsDeal() && out.PersonID != 0 {
		deals, err := a.store.DealsOf(ctx, out.PersonID)
		if err != nil {
			return Trial{}, err
		}
		// The newest open one, as for the reach.
		if i := slices.IndexFunc(deals, domain.Deal.Open); i >= 0 {
			dealID = &deals[i].ID
		}
	}
	s, err := a.settingOrStandIn(ctx, cat, u, out.PersonID, dealID)
	if err != nil {
		return Trial{}, err
	}
	out.StandIn = out.PersonID == 0
	out.Name, out.Kind, out.Reason = s.Person.Name(), s.Person.Kind, s.WhyNot(program)
	l := program.Merge(s.Values, nil, s.ReaderFor(&template))
	out.Subject, out.Body, out.Gaps = l.Subject, l.Body, len(l.Gaps)
	out.Facts = records.Facts(cat, s.Values, s.ReaderFor(&template))
	st, err := a.StationeryOf(ctx, w.Stationery, template.Body.Attrs.Body)
	if err != nil {
		return Trial{}, err
	}
	var x *MergedStationery
	if st != nil {
		x = a.MergeStationery(st, s, s.ReaderFor(&template))
	}
	out.HTML, out.Text = x.Wrap(l.Body, l.Text, render.RenderText(l.Subject))
	return out, nil
}

func (a *Service) settingOrStandIn(ctx context.Context, cat *field.Catalogue, u domain.User, personID int64, dealID *int64) (*Setting, error) {
	if personID == 0 {
		return a.standIn(ctx, cat, u)
	}
	return a.Setting(ctx, u, personID, dealID)
}
