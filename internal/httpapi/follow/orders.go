package follow

import (
	"context"
	"net/http"
	"time"

	"lucidletter/internal/app/orders"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// OrderOut is a standing order.
type OrderOut struct {
	ID        int64            `json:"id"`
	Name      string           `json:"name"`
	Owner     string           `json:"owner"`
	On        bool             `json:"on"`
	Said      domain.OrderSaid `json:"said"`
	Sentence  string           `json:"sentence" doc:"What it acts on and does"`
	Wrong     []string         `json:"wrong" doc:"What keeps it from being switched on"`
	PartNews  string           `json:"partNews" doc:"What of its letters was changed since its owner looked; they wait to be proofread"`
	PartSeen  string           `json:"partSeen" doc:"How these letters are, for whoever looks at them"`
	Acted     int              `json:"acted" doc:"How often in the last 30 days"`
	MayEdit   bool             `json:"mayEdit"`
	MayHalt   bool             `json:"mayHalt" doc:"Switch it off"`
	Version   int              `json:"version"`
	UpdatedAt time.Time        `json:"updatedAt"`
}

func orderOf(s *orders.Sheet) OrderOut {
	said := s.Said
	said.Do = append([]domain.OrderAct{}, said.Do...)
	return OrderOut{s.ID, s.Name, s.Owner, s.On, said, s.Sentence, s.Wrong, s.News, s.Seen, s.Days, s.MayEdit, s.MayHalt, s.Version, s.UpdatedAt}
}

func orderAnswer(s orders.Sheet, err error) (*web.Body[OrderOut], error) {
	if err != nil {
		return nil, err
	}
	return web.OK(orderOf(&s)), nil
}

// OrderIn is a standing order as it is written down.
type OrderIn struct {
	Name string           `json:"name" maxLength:"200"`
	Said domain.OrderSaid `json:"said"`
}

func (in *OrderIn) app() orders.Input { return orders.Input{Name: in.Name, Said: in.Said} }

// OrdersOut are the standing orders, and whether all are stopped.
type OrdersOut struct {
	Orders    []OrderOut `json:"orders"`
	Stopped   bool       `json:"stopped" doc:"None of them acts"`
	StoppedBy string     `json:"stoppedBy"`
	StoppedAt *time.Time `json:"stoppedAt,omitempty"`
	MayStop   bool       `json:"mayStop"`
}

func (r *routes) orders() {
	web.Handle(r.api, web.Op("orders", http.MethodGet, "/api/orders", "The standing orders that I may see"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*web.Body[OrdersOut], error) {
			list, stopped, err := r.app.Orders.List(ctx, u)
			out := OrdersOut{Orders: []OrderOut{}, MayStop: orders.MayHalt(u)}
			for i := range list {
				out.Orders = append(out.Orders, orderOf(&list[i]))
			}
			if stopped != nil {
				out.Stopped, out.StoppedBy, out.StoppedAt = true, stopped.By, &stopped.At
			}
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("haltOrders", http.MethodPut, "/api/orders-stopped", "Stop all standing orders, or let them act again"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Stopped bool `json:"stopped"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Orders.Halt(ctx, u, in.Body.Stopped)
		})
	web.Handle(r.api, web.Making(web.Op("addOrder", http.MethodPost, "/api/orders", "Make a standing order; it is off")),
		func(ctx context.Context, u domain.User, in *struct{ Body OrderIn }) (*web.Body[OrderOut], error) {
			return orderAnswer(r.app.Orders.Add(ctx, u, in.Body.app()))
		})
	web.Handle(r.api, web.Op("order", http.MethodGet, "/api/orders/{id}", "One standing order"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[OrderOut], error) {
			return orderAnswer(r.app.Orders.Order(ctx, u, in.ID))
		})
	web.Handle(r.api, web.Op("changeOrder", http.MethodPut, "/api/orders/{id}", "Change a standing order"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				OrderIn
				Version int `json:"version" minimum:"1"`
			}
		}) (*web.Body[OrderOut], error) {
			return orderAnswer(r.app.Orders.Change(ctx, u, in.ID, in.Body.Version, in.Body.app()))
		})
	web.Handle(r.api, web.Op("switchOrder", http.MethodPut, "/api/orders/{id}/on", "Switch a standing order on or off"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				On      bool `json:"on"`
				Version int  `json:"version" minimum:"1"`
			}
		}) (*web.Body[OrderOut], error) {
			return orderAnswer(r.app.Orders.Switch(ctx, u, in.ID, in.Body.Version, in.Body.On))
		})
	r.orderLooks()
}

func (r *routes) orderLooks() {
	web.Handle(r.api, web.Op("deleteOrder", http.MethodDelete, "/api/orders/{id}", "Delete a standing order"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Orders.Delete(ctx, u, in.ID, false)
		})
	web.Handle(r.api, web.Op("lookedAtOrder", http.MethodPost, "/api/orders/{id}/looked", "Take the letters of a standing order as they are now"),
		func(ctx context.Context, u domain.User, in *LookedInput) (*struct{}, error) {
			return nil, r.app.Orders.Looked(ctx, u, in.ID, in.Body.Seen)
		})
	web.Handle(r.api, web.Op("putBackOrder", http.MethodPost, "/api/orders/{id}/put-back", "Restore a standing order, switched off"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Orders.Delete(ctx, u, in.ID, true)
		})
	web.Handle(r.api, web.Op("tryOrder", http.MethodPost, "/api/order-trial", "What a standing order would have done in the past 30 days, and to whom"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				OrderIn
				ID int64 `json:"id,omitempty" doc:"Of one that is there already"`
			}
		}) (*web.Body[orders.OrderTrial], error) {
			out, err := r.app.Orders.Try(ctx, u, in.Body.ID, in.Body.app())
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("orderLog", http.MethodGet, "/api/orders/{id}/log", "What a standing order did, the latest first"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[[]domain.OrderEntry], error) {
			list, err := r.app.Orders.Log(ctx, u, in.ID)
			return web.OK(append([]domain.OrderEntry{}, list...)), err
		})
	web.Handle(r.api, web.Op("orderDrafts", http.MethodGet, "/api/order-drafts", "Letters of my standing orders that wait to be proofread"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*web.Body[[]domain.OrderEntry], error) {
			list, err := r.app.Orders.Drafts(ctx, u)
			return web.OK(append([]domain.OrderEntry{}, list...)), err
		})
	web.Handle(r.api, web.Op("onNewPeople", http.MethodGet, "/api/orders-on-new-people", "Which standing orders act on everybody who is added"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*web.Body[[]string], error) {
			list, err := r.app.Orders.OnNewPeople(ctx)
			return web.OK(list), err
		})
}
