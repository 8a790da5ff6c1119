package rounds

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/preflight"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Offer is the templates that a round may go out in, those that fit the most people first.
type Offer struct {
	Templates []Fit  `json:"templates"`
	Others    int    `json:"others" doc:"Ready templates that fit nobody of the round"`
	Why       string `json:"why" doc:"Why there is none, and what to do"`
	Running   bool   `json:"running" doc:"Not everybody was looked at yet; ask again"`
	Looked    int    `json:"looked"`
	Of        int    `json:"of"`
}

// Fit is a template and how many of the people looked at it fits.
type Fit struct {
	ID        int64  `json:"id"`
	Name      string `json:"name"`
	WhenToUse string `json:"whenToUse"`
	Complete  int    `json:"complete" doc:"People for whom nothing is missing"`
	Gaps      int    `json:"gaps" doc:"People for whom something is missing"`
	Unfit     int    `json:"unfit" doc:"People of another kind, or without the deal that it needs"`
	Blanks    int    `json:"blanks" doc:"Blanks that it asks for"`
}

// offer counts on from request to request.
type offer struct {
	turn  chan struct{} // held by who goes on with it
	stamp string        // what it was counted for
	ids   []int64
	next  int
	cat   *field.Catalogue
	all   []*candidate
}

type candidate struct {
	fit     Fit
	program *template.Program
	counted preflight.Reach
}

// offerStep is how many people are looked at for one request.
const offerStep = 400

// mostOffers is how many counts are kept.
const mostOffers = 20

// Templates offers the ready templates for a round. It looks at so many people as one step
// takes; the next call goes on.
func (a *Service) Templates(ctx context.Context, u domain.User, id int64) (Offer, error) {
	r, err := a.mine(ctx, u, id)
	if err != nil {
		return Offer{}, err
	}
	a.mu.Lock()
	if a.fits[id] == nil {
		if len(a.fits) >= mostOffers {
			clear(a.fits)
		}
		a.fits[id] = &offer{turn: make(chan struct{}, 1)}
	}
	o := a.fits[id]
	a.mu.Unlock()
	select {
	case o.turn <- struct{}{}:
		defer func() { <-o.turn }()
	case <-ctx.Done():
		return Offer{}, ctx.Err()
	}
	if err := a.candidates(ctx, u, &r, o); err != nil {
		return Offer{}, err
	}
	some := o.ids[o.next:min(len(o.ids), o.next+offerStep)]
	err = a.library.EachSetting(ctx, o.cat, u, some, func(s *library.Setting) error {
		for _, c := range o.all {
			c.counted.Add(s.Person.ID, s.Values, s.DealID != nil)
		}
		return ctx.Err()
	})
	if err != nil {
		o.stamp = "" // begin anew
		return Offer{}, err
	}
	o.next += len(some)
	return o.told(), nil
}

// candidates begins a count, unless it is the same as before.
func (a *Service) candidates(ctx context.Context, u domain.User, r *domain.Round, o *offer) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	list, err := a.usable(ctx, u, r)
	if err != nil {
		return err
	}
	ids, err := a.store.MemberIDs(ctx, r.ID)
	if err != nil {
		return err
	}
	edition, err := a.store.PeopleEdition(ctx)
	if err != nil {
		return err
	}
	stamp := fmt.Sprintf("%p %d %d", cat, len(ids), edition)
	for i := range list {
		stamp += fmt.Sprintf(" %d.%d", list[i].ID, list[i].Version)
	}
	// One that runs goes on to its end although people change: else it would never end.
	if o.stamp == stamp || o.stamp != "" && o.next < len(o.ids) && o.cat == cat {
		return nil
	}
	*o = offer{turn: o.turn, stamp: stamp, ids: ids, cat: cat}
	b, err := a.library.Book(ctx)
	if err != nil {
		return err
	}
	for i := range list {
		t := &list[i]
		c := &candidate{fit: Fit{ID: t.ID, Name: t.Name, WhenToUse: t.WhenToUse}, program: a.library.Program(cat, b, t)}
		c.counted.Program, c.fit.Blanks = c.program, len(c.program.Blanks())
		o.all = append(o.all, c)
	}
	return nil
}

// usable gives the ready templates that the user may choose for a round; of those with
// several wordings the first.
func (a *Service) usable(ctx context.Context, u domain.User, r *domain.Round) ([]domain.Template, error) {
	list, err := a.store.AllTemplates(ctx, domain.TemplateReady)
	if err != nil {
		return nil, err
	}
	var only []int64
	if r.RecipeID != nil {
		recipe, err := a.store.Recipe(ctx, *r.RecipeID)
		if err != nil {
			return nil, err
		}
		only = recipe.Said.Templates
	}
	rights, _, err := a.library.FolderRights(ctx, library.HoldsTemplates)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(list, func(t domain.Template) bool {
		return t.SisterOf != nil || !access.May(u.As(), access.UseTemplate, rights.Template(t.Key())) || r.RecipeID != nil && !slices.Contains(only, t.ID)
	}), nil
}

func (o *offer) told() Offer {
	out := Offer{Templates: []Fit{}, Looked: o.next, Of: len(o.ids), Running: o.next < len(o.ids)}
	for _, c := range o.all {
		f := c.fit
		f.Complete, f.Unfit = c.counted.Complete, c.counted.Unfit
		f.Gaps = c.counted.Records - f.Complete - f.Unfit
		if f.Complete+f.Gaps == 0 && !out.Running {
			out.Others++
			continue
		}
		out.Templates = append(out.Templates, f)
	}
	slices.SortStableFunc(out.Templates, func(x, y Fit) int {
		if x.Complete != y.Complete {
			return y.Complete - x.Complete
		}
		return strings.Compare(strings.ToLower(x.Name), strings.ToLower(y.Name))
	})
	switch {
	case out.Running:
	case len(o.all) == 0:
		out.Why = "No template is ready that you may use. Make one ready in Templates, or copy one from the starter shelf."
	case len(out.Templates) == 0:
		out.Why = "No ready template fits these people: they are for another kind of record, or need a deal. Choose other people, or a template for them."
	}
	return out
}
