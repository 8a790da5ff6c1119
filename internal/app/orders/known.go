package orders

import (
	"context"
	"fmt"

	"lucidletter/core/access"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// known is what the user of k knows of the letters of a standing order.
func (k *maker) known(o *domain.Order) *compose.Known {
	return &compose.Known{Store: k.a.store, User: k.User.ID, Thing: fmt.Sprint("order:", o.ID)}
}

// partsOfActs gives what the letters of some acts of an order are made of.
func (k *maker) partsOfActs(ctx context.Context, acts ...domain.OrderAct) (compose.Parts, error) {
	out := compose.Parts{}
	for i := range acts {
		if acts[i].TemplateID == nil {
			continue
		}
		m, err := k.Template(ctx, *acts[i].TemplateID)
		if err == nil {
			err = k.MadeOf(ctx, &out, m.List)
		}
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Looked notes that the owner of a standing order knows its letters as they are, if that is how
// they were when they looked (Sheet.Seen).
func (a *Service) Looked(ctx context.Context, u domain.User, id int64, seen string) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		o, err := a.forUser(ctx, u, access.EditOrder, id)
		if err != nil || o.OwnerID != u.ID {
			return err
		}
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		list, err := k.partsOfActs(ctx, o.Said.Do...)
		if err != nil {
			return err
		}
		return k.known(&o).Looked(ctx, list, seen)
	})
}

// knows notes that, when it is the owner who looked.
func (a *Service) knows(ctx context.Context, u domain.User, o *domain.Order) error {
	if o.OwnerID != u.ID {
		return nil
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return err
	}
	list, err := k.partsOfActs(ctx, o.Said.Do...)
	if err != nil {
		return err
	}
	return k.known(o).Note(ctx, list)
}
