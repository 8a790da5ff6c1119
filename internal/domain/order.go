package domain

import (
	"database/sql/driver"
	"time"

	"lucidletter/core/plan"
)

// Order is a standing order: a rule that acts by itself. It acts with the rights of its owner.
type Order struct {
	ID        int64      `db:"id"`
	OwnerID   int64      `db:"owner_id"`
	Name      string     `db:"name"`
	On        bool       `db:"is_on"`
	Said      OrderSaid  `db:"said"`
	FromEvent int64      `db:"from_event"` // changes of records up to here are not acted on
	FromEntry int64      `db:"from_entry"` // nor entries of the history
	LastDay   int        `db:"last_day"`   // the day that dates were last looked at for
	Version   int        `db:"version"`
	CreatedAt time.Time  `db:"created_at"`
	UpdatedAt time.Time  `db:"updated_at"`
	DeletedAt *time.Time `db:"deleted_at"`
}

// OrderSaid is what an order acts on, whom it is for, and what it does.
type OrderSaid struct {
	When   plan.Trigger `json:"when"`
	Filter string       `json:"filter,omitempty"` // in its text form; "" everybody
	Do     []OrderAct   `json:"do"`
}

// Value writes what was said as JSON.
func (s OrderSaid) Value() (driver.Value, error) { return toJSON(s) }

// Scan reads what was said from JSON.
func (s *OrderSaid) Scan(src any) error { return fromJSON(src, s) }

// OrderAct is one thing that an order does.
type OrderAct struct {
	Again      bool     `json:"again,omitempty" doc:"A letter goes also to who had this template within 90 days, or another letter of an order today"`
	Do         plan.Do  `json:"do" enum:"letter,note,start,stop,task,set"`
	TemplateID *int64   `json:"templateId,omitempty" doc:"Of a letter or a note"`
	Colleagues []int64  `json:"colleagues,omitempty" maxItems:"50" doc:"Who gets a note"`
	PlanID     *int64   `json:"planId,omitempty" doc:"Which is started or stopped; stopped are all without one"`
	Task       TaskKind `json:"task,omitempty" enum:",call,visit,note"`
	Words      string   `json:"words,omitempty" maxLength:"4000" doc:"Of a task, in the text form"`
	Days       int      `json:"days,omitempty" minimum:"0" maximum:"365" doc:"In how many days a task is due"`
	Path       string   `json:"path,omitempty" maxLength:"120" doc:"The field that is set"`
	Value      string   `json:"value,omitempty" maxLength:"2000"`
}

// OrderResult is what came of an order for one record.
type OrderResult string

// What can come of it.
const (
	OrderDone    OrderResult = "done"
	OrderWaiting OrderResult = "waiting" // a letter waits to be proofread
	OrderLeft    OrderResult = "left"    // it did not act, for a reason
	OrderFailed  OrderResult = "failed"
)

// OrderEntry is one line of the log of an order.
type OrderEntry struct {
	ID       int64       `json:"id" db:"id"`
	OrderID  int64       `json:"orderId" db:"order_id"`
	Event    string      `json:"-" db:"event"`
	PersonID *int64      `json:"personId,omitempty" db:"person_id"`
	DealID   *int64      `json:"dealId,omitempty" db:"deal_id"`
	Result   OrderResult `json:"result" db:"result" enum:"done,waiting,left,failed"`
	Text     string      `json:"text" db:"text"`
	LetterID *int64      `json:"letterId,omitempty" db:"letter_id"`
	At       time.Time   `json:"at" db:"at"`
	Person   string      `json:"person" db:"person"`
	Order    string      `json:"order" db:"order_name"`
}

// OrdersStopped tells who stopped all orders, and when.
type OrdersStopped struct {
	ByID int64     `db:"by_id"`
	By   string    `db:"by_name"`
	At   time.Time `db:"at"`
}

// HistoryEvent is an entry of the history that orders can act on.
type HistoryEvent struct {
	ID       int64     `db:"id"`
	Kind     EntryKind `db:"kind"`
	PersonID int64     `db:"person_id"`
	DealID   *int64    `db:"deal_id"`
	At       time.Time `db:"at"`
}

// Rule is an order as loops are looked for.
func (o *Order) Rule() plan.Rule {
	r := plan.Rule{ID: o.ID, When: o.Said.When}
	for _, act := range o.Said.Do {
		if act.Do == plan.SetField {
			r.Sets = append(r.Sets, plan.Sets{Path: act.Path, Value: act.Value})
		}
	}
	return r
}

// Event is the change as triggers look at it.
func (e *RecordEvent) Event() *plan.Event {
	out := &plan.Event{Kind: plan.On(e.Kind), Record: "person", Path: e.Path, Value: e.Value}
	if e.DealID != nil {
		out.Record = "deal"
	}
	return out
}
