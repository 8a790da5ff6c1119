package rounds

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Start says whom a round is for: people by their ids, or those of a list; and with which
// template, if that is known.
type Start struct {
	Name       string
	People     []int64
	ListID     *int64
	TemplateID *int64
	RecipeID   *int64
}

// StartRound begins a round. Those of a list are the ones that it holds now.
func (a *Service) StartRound(ctx context.Context, u domain.User, in Start) (int64, error) {
	now := a.now()
	r := domain.Round{OwnerID: u.ID, State: domain.RoundOpen, Version: 1, CreatedAt: now, UpdatedAt: now, RecipeID: in.RecipeID}
	if in.RecipeID != nil {
		if err := a.fromRecipe(ctx, &r, &in); err != nil {
			return 0, err
		}
	}
	ids, err := a.chosen(ctx, u, &r, &in)
	if err != nil {
		return 0, err
	}
	if in.TemplateID != nil {
		if err := a.setTemplate(ctx, u, &r, *in.TemplateID); err != nil {
			return 0, err
		}
	}
	if r.Name = strings.Join(strings.Fields(in.Name), " "); r.Name == "" {
		r.Name = fmt.Sprintf("Round of %s", now.Format("2 January 2006"))
	}
	if len(r.Name) > maxName {
		return 0, domain.Invalid("name", "is longer than %d bytes; shorten it", maxName)
	}
	id := int64(0)
	err = a.store.Within(ctx, func(ctx context.Context) error {
		if id, err = a.store.AddRound(ctx, r); err != nil {
			return err
		}
		n, err := a.store.AddMembers(ctx, id, ids)
		if err == nil && n == 0 {
			err = domain.Invalid("people", "are not in your records any more; choose others")
		}
		return err
	})
	if err == nil {
		a.look(id)
	}
	return id, err
}

// chosen gives whom a round is for, each once, and notes where they come from.
func (a *Service) chosen(ctx context.Context, u domain.User, r *domain.Round, in *Start) ([]int64, error) {
	ids := in.People
	if in.ListID != nil {
		l, err := a.listOf(ctx, u, *in.ListID)
		if err != nil {
			return nil, err
		}
		if ids, err = a.inList(ctx, u, l.Filter); err != nil {
			return nil, err
		}
		r.ListID, r.Filter = &l.ID, l.Filter
		if in.Name == "" {
			in.Name = l.Name
		}
		if len(ids) == 0 {
			return nil, domain.Invalid("list", "“%s” holds nobody at the moment; choose another list, or change its filter", l.Name)
		}
	}
	seen := make(map[int64]bool, len(ids))
	once := make([]int64, 0, len(ids))
	for _, id := range ids {
		if seen[id] {
			r.Doubles++
			continue
		}
		seen[id] = true
		once = append(once, id)
	}
	switch {
	case len(once) == 0:
		return nil, domain.Invalid("people", "are missing; select somebody in People, or choose a list")
	case len(once) > MaxPeople:
		return nil, domain.Invalid("people", "are more than %d; choose a smaller list", MaxPeople)
	}
	return once, nil
}

// listOf gives a list that somebody may use.
func (a *Service) listOf(ctx context.Context, u domain.User, id int64) (domain.List, error) {
	l, err := a.store.List(ctx, id)
	if err == nil && (l.DeletedAt != nil || l.OwnerID != u.ID && !l.Shared) {
		err = domain.ErrNotFound
	}
	return l, err
}

// inList gives whom a filter holds now, for a user.
func (a *Service) inList(ctx context.Context, u domain.User, filter string) ([]int64, error) {
	return a.records.IDsIn(ctx, u, records.Asked{Where: filter}, domain.PeopleQuery{}, MaxPeople+1)
}

// ListNews is who came to the list of a round or went from it since, and was not decided
// about. Of many the first are named.
type ListNews struct {
	List  string       `json:"list"`
	Added []NamedOne   `json:"added"`
	Gone  []NamedOne   `json:"gone"`
	More  NewsOverflow `json:"more"`
}

// NewsOverflow counts those of ListNews.
type NewsOverflow struct {
	Added int `json:"added" doc:"How many came"`
	Gone  int `json:"gone" doc:"How many went"`
}

// NamedOne is somebody by name.
type NamedOne struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

const mostNamed = 50

// ListNewsOf tells whom the list of a round holds that the round does not, and the other way
// round. A filter that cannot be used any more tells nothing.
func (a *Service) ListNewsOf(ctx context.Context, u domain.User, id int64) (ListNews, error) {
	out := ListNews{Added: []NamedOne{}, Gone: []NamedOne{}}
	r, err := a.mine(ctx, u, id)
	if err != nil || r.ListID == nil || r.State.Over() {
		return out, err
	}
	l, added, gone, err := a.listDiff(ctx, u, &r)
	if err != nil {
		return out, err
	}
	out.List, out.More = l.Name, NewsOverflow{len(added), len(gone)}
	if out.Added, err = a.named(ctx, added); err != nil {
		return out, err
	}
	out.Gone, err = a.named(ctx, gone)
	return out, err
}

func (a *Service) listDiff(ctx context.Context, u domain.User, r *domain.Round) (l domain.List, added, gone []int64, err error) {
	if l, err = a.store.List(ctx, *r.ListID); err != nil {
		return l, nil, nil, err
	}
	now, err := a.inList(ctx, u, r.Filter)
	if err != nil {
		return l, nil, nil, err
	}
	in, err := a.store.MemberIDs(ctx, r.ID)
	if err != nil {
		return l, nil, nil, err
	}
	decided, err := a.store.Decided(ctx, r.ID)
	if err != nil {
		return l, nil, nil, err
	}
	known := make(map[int64]bool, len(in)+len(decided))
	for _, id := range slices.Concat(in, decided) {
		known[id] = true
	}
	here := make(map[int64]bool, len(now))
	for _, id := range now {
		if here[id] = true; !known[id] {
			added = append(added, id)
		}
	}
	done := make(map[int64]bool, len(decided))
	for _, id := range decided {
		done[id] = true
	}
	for _, id := range in {
		if !here[id] && !done[id] {
			gone = append(gone, id)
		}
	}
	return l, added, gone, nil
}

func (a *Service) named(ctx context.Context, ids []int64) ([]NamedOne, error) {
	people, err := a.store.PeopleOf(ctx, ids[:min(len(ids), mostNamed)])
	out := []NamedOne{}
	for i := range people {
		out = append(out, NamedOne{people[i].ID, people[i].Name()})
	}
	return out, err
}

// TakeListNews adds those who came to the list, or leaves them out; sets aside those who went
// from it, or keeps them. What was decided is not told again.
func (a *Service) TakeListNews(ctx context.Context, u domain.User, id int64, add, remove *bool) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mineOpen(ctx, u, id)
		if err != nil || r.ListID == nil {
			return err
		}
		_, added, gone, err := a.listDiff(ctx, u, &r)
		if err != nil {
			return err
		}
		if add != nil {
			if *add {
				in, err := a.store.MemberIDs(ctx, id)
				if err != nil {
					return err
				}
				if len(in)+len(added) > MaxPeople {
					return domain.Invalid("people", "would be more than %d; leave some out", MaxPeople)
				}
				if _, err = a.store.AddMembers(ctx, id, added); err != nil {
					return err
				}
			} else if err := a.store.Decide(ctx, id, added); err != nil {
				return err
			}
		}
		if remove == nil {
			return nil
		}
		if *remove {
			if _, err := a.store.SetMany(ctx, id, gone, notReleased, domain.MemberAside); err != nil {
				return err
			}
		}
		return a.store.Decide(ctx, id, gone)
	})
	a.look(id)
	return err
}

// notReleased are the states of those whose letters are not in the outbox, and who are not
// set aside.
var notReleased = []domain.MemberState{domain.MemberUnknown, domain.MemberReady, domain.MemberGap, domain.MemberChanged, domain.MemberSkipped}

// mine gives a round of the user, or ErrNotFound.
func (a *Service) mine(ctx context.Context, u domain.User, id int64) (domain.Round, error) {
	r, err := a.store.Round(ctx, id)
	if err == nil {
		err = mayEdit(u, &r)
	}
	return r, err
}

// mineOpen gives a round of the user that can still be changed.
func (a *Service) mineOpen(ctx context.Context, u domain.User, id int64) (domain.Round, error) {
	r, err := a.mine(ctx, u, id)
	if err == nil && r.State.Over() {
		err = &domain.StateError{Why: "This round is over; start another one with the people who are left."}
	}
	return r, err
}
