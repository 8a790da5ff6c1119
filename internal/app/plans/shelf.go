package plans

import (
	"context"
	"slices"

	"lucidletter/internal/app/plans/shelf"
	"lucidletter/internal/domain"
)

// Shelf lists the starter plans.
func (a *Service) Shelf() ([]shelf.Plan, error) { return shelf.Plans() }

// CopyFromShelf makes a draft of the user's own from a starter plan.
func (a *Service) CopyFromShelf(ctx context.Context, u domain.User, key string) (Sheet, error) {
	list, err := shelf.Plans()
	if err != nil {
		return Sheet{}, err
	}
	at := slices.IndexFunc(list, func(p shelf.Plan) bool { return p.Key == key })
	if at < 0 {
		return Sheet{}, domain.ErrNotFound
	}
	return a.AddPlan(ctx, u, Input{Name: list[at].Name, WhenToUse: list[at].WhenToUse, Steps: slices.Clone(list[at].Steps)})
}
