package plan

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// On is what a standing order acts on.
type On string

// What it can act on.
const (
	OnCreated On = "created" // a record was made
	OnChanged On = "changed" // a field or stage has another value
	OnDate    On = "date"    // a day is near, or so long ago
	OnReply   On = "replied"
	OnClick   On = "clicked"  // a link of a letter was followed
	OnAnswer  On = "answered" // a question of a letter was answered
)

// Trigger says when a standing order acts.
type Trigger struct {
	On     On     `json:"on" enum:"created,changed,date,replied,clicked,answered"`
	Record string `json:"record,omitempty" enum:",person,deal" doc:"Of created, changed and date: whose"`
	Path   string `json:"path,omitempty" maxLength:"120" doc:"Of changed and date: the field"`
	Value  string `json:"value,omitempty" maxLength:"500" doc:"Of changed: the value that it gets; empty any"`
	Days   int    `json:"days,omitempty" minimum:"-366" maximum:"366" doc:"Of date: how many days after it; before it less than 0"`
	Yearly bool   `json:"yearly,omitempty" doc:"Of date: every year on its day"`
}

// Do is what a standing order does.
type Do string

// What it can do.
const (
	SendLetter Do = "letter" // a template, to the person
	SendNote   Do = "note"   // a template, to colleagues
	StartPlan  Do = "start"
	StopPlan   Do = "stop"
	MakeTask   Do = "task"
	SetField   Do = "set"
)

// Event is what happened: Kind is created, changed, replied, clicked or answered.
type Event struct {
	Kind   On
	Record string
	Path   string
	Value  string
}

// MostActs is how often an order acts on one record within a day; more is taken for a loop.
const MostActs = 3

// Fires tells whether a trigger other than OnDate acts on an event.
func (t *Trigger) Fires(e *Event) bool {
	switch {
	case t.On != e.Kind, t.On == OnDate:
		return false
	case t.On == OnCreated:
		return t.Record == e.Record
	case t.On == OnChanged:
		return t.Record == e.Record && sameField(t.Path, e.Path) && (t.Value == "" || sameValue(t.Value, e.Value))
	}
	return true
}

// sameField tells whether two paths are of one field: person.city, lead.city and contact.city
// are, own fields only where they are called the same.
func sameField(a, b string) bool {
	if a == b {
		return true
	}
	kind := func(path string) string {
		record, key, _ := strings.Cut(path, ".")
		if record == "lead" || record == "contact" {
			record = "person"
		}
		return record + "." + key
	}
	return kind(a) == kind(b)
}

func sameValue(a, b string) bool {
	return strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b))
}

// FiresOn tells whether a trigger on a date acts on a day: as many days after the date as it
// says, or before it. Every year the 29th of February is the 28th where there is none (common
// practice, no source).
func (t *Trigger) FiresOn(date, today Day) bool {
	if !t.Yearly {
		return date+Day(t.Days) == today
	}
	first := date.Date()
	for year := yearOf(today) - 1; year <= yearOf(today)+1; year++ {
		at := time.Date(year, first.Month(), first.Day(), 0, 0, 0, 0, time.UTC)
		if at.Month() != first.Month() {
			at = at.AddDate(0, 0, -1)
		}
		if d := DayOf(at); d >= date && d+Day(t.Days) == today {
			return true
		}
	}
	return false
}

// Dates gives the dates, as they are stored, on which a trigger acts today: for a yearly one
// of every year, with four underscores for it.
func (t *Trigger) Dates(today Day) []string {
	day := (today - Day(t.Days)).Date()
	if !t.Yearly {
		return []string{day.Format(time.DateOnly)}
	}
	out := []string{day.Format("____-01-02")}
	if leap := day.AddDate(0, 0, 1); day.Month() == time.February && leap.Month() == time.March && day.Day() == 28 {
		out = append(out, "____-02-29")
	}
	return out
}

// Sets is a field that an order sets, and the value.
type Sets struct {
	Path  string
	Value string
}

// Rule is a standing order as loops are looked for: what it acts on, and which fields it sets.
type Rule struct {
	ID   int64
	When Trigger
	Sets []Sets
}

// wakes tells whether what a sets makes b act.
func wakes(a, b *Rule) bool {
	return b.When.On == OnChanged && slices.ContainsFunc(a.Sets, func(s Sets) bool {
		return sameField(s.Path, b.When.Path) && (b.When.Value == "" || sameValue(s.Value, b.When.Value))
	})
}

// Loop gives the orders, by their numbers, that would wake each other for ever, in their order;
// the first once more at the end. It gives none when there is no such loop. That a filter may
// keep one from acting is not looked at.
func Loop(rules []Rule) []int64 {
	const open, done = 1, 2
	state := make([]int, len(rules))
	var way []int
	var visit func(int) []int64
	visit = func(i int) []int64 {
		state[i], way = open, append(way, i)
		for j := range rules {
			if !wakes(&rules[i], &rules[j]) {
				continue
			}
			if state[j] == open {
				var out []int64
				for _, k := range way[slices.Index(way, j):] {
					out = append(out, rules[k].ID)
				}
				return append(out, rules[j].ID)
			}
			if state[j] == 0 {
				if loop := visit(j); loop != nil {
					return loop
				}
			}
		}
		state[i], way = done, way[:len(way)-1]
		return nil
	}
	for i := range rules {
		if state[i] == 0 {
			if loop := visit(i); loop != nil {
				return loop
			}
		}
	}
	return nil
}

// Check says what is wrong with a trigger, or "". That its field is one is for the caller.
func (t *Trigger) Check() string {
	switch t.On {
	case OnReply, OnClick, OnAnswer:
		return ""
	case OnCreated, OnChanged, OnDate:
	default:
		return fmt.Sprintf("%q is nothing that an order can act on; choose another", t.On)
	}
	switch {
	case t.Record != "person" && t.Record != "deal":
		return "say whether it is about a person or a deal"
	case t.On == OnCreated:
		return ""
	case t.Path == "":
		return "choose the field"
	case t.On == OnDate && (t.Days < -366 || t.Days > 366):
		return "choose from 366 days before to 366 days after"
	}
	return ""
}

// Words say when an order acts, such as “3 days before Inspection”; name says what a field is
// called.
func (t *Trigger) Words(name func(path string) string) string {
	record := map[string]string{"person": "person", "deal": "deal"}[t.Record]
	switch t.On {
	case OnCreated:
		return "When a " + record + " is added"
	case OnChanged:
		if t.Value == "" {
			return fmt.Sprintf("When %s changes", name(t.Path))
		}
		return fmt.Sprintf("When %s becomes “%s”", name(t.Path), t.Value)
	case OnDate:
		every := ""
		if t.Yearly {
			every = ", every year"
		}
		switch {
		case t.Days < 0:
			return fmt.Sprintf("%s before %s%s", inDays(-t.Days), name(t.Path), every)
		case t.Days > 0:
			return fmt.Sprintf("%s after %s%s", inDays(t.Days), name(t.Path), every)
		}
		return fmt.Sprintf("On the day of %s%s", name(t.Path), every)
	case OnReply:
		return "When somebody replies"
	case OnClick:
		return "When somebody follows a link"
	}
	return "When somebody answers a question in a letter"
}

func inDays(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
