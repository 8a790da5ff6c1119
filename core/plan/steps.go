package plan

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/field"
)

// Limits of a plan.
const (
	MaxSteps = 30
	MaxDays  = 365
)

// Check says what is wrong with a timing, in words that follow its name, or "".
func (t *Timing) Check() string {
	switch {
	case t.Days < 0 || t.Days > MaxDays:
		return fmt.Sprintf("is not from 0 to %d days after the step before it; choose fewer days", MaxDays)
	case t.At == AtOnce && t.Days > 0:
		return "can only follow right after the step before it on the same day; give it a time, or 0 days"
	case t.Clock != Theirs && t.Clock != Mine:
		return "goes by a clock that is not known; choose the recipient’s or yours"
	case t.Free != GoAfter && t.Free != GoBefore && t.Free != GoAnyway:
		return "says nothing that is known about days off; choose what becomes of it"
	}
	if _, ok := Minutes(t.At); !ok && t.At != Morning && t.At != AtOnce {
		return fmt.Sprintf("has the time %q; write it like 14:30", t.At)
	}
	if t.Country != Recipients && t.Country != NoHolidays && !KnowsHolidays(t.Country) {
		return fmt.Sprintf("keeps the holidays of %q, which are not known; choose another country", t.Country)
	}
	return ""
}

// KnowsHolidays tells whether the public holidays of a country are known.
func KnowsHolidays(country string) bool { return holidaysOf[field.CountryCode(country)] != nil }

// Words say when a step comes, such as “3 working days later, at 9 in the morning”.
func (t *Timing) Words(first bool) string {
	var out strings.Builder
	unit := "day"
	if t.Working {
		unit = "working day"
	}
	switch {
	case t.At == AtOnce && first:
		return "right after the start"
	case t.At == AtOnce:
		return "right after the step before"
	case t.Days == 0 && first:
		out.WriteString("on the day of the start")
	case t.Days == 0:
		out.WriteString("on the same day")
	case t.Days == 1:
		fmt.Fprintf(&out, "1 %s later", unit)
	default:
		fmt.Fprintf(&out, "%d %ss later", t.Days, unit)
	}
	if t.At == Morning {
		out.WriteString(", at 9 in the morning")
	} else {
		out.WriteString(", at " + t.At)
	}
	return out.String()
}

// Next gives the step that comes after those that are done, in the order in which they were
// done: the one behind the last that is still in the plan, of those that are not done. It tells
// false when none is left.
func Next(order, done []int) (int, bool) {
	from := 0
	for _, key := range slices.Backward(done) {
		if at := slices.Index(order, key); at >= 0 {
			from = at + 1
			break
		}
	}
	for _, key := range order[min(from, len(order)):] {
		if !slices.Contains(done, key) {
			return key, true
		}
	}
	return 0, false
}

// Left gives the steps that are still to come, in their order.
func Left(order, done []int) []int {
	key, ok := Next(order, done)
	if !ok {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(order[slices.Index(order, key):]), func(k int) bool { return slices.Contains(done, k) })
}

// Effect is what a change of a plan does to somebody who is on it.
type Effect struct {
	Gets   []int // new steps that still come
	Misses []int // new steps that they are past
	Loses  []int // steps that would have come and are gone
	Was    int   // the step that came next; 0 none
	Next   int   // and the one that does now; 0 none
}

// Ends tells whether nothing comes any more although something did.
func (e *Effect) Ends() bool { return e.Was != 0 && e.Next == 0 }

// Change works out what another order of steps does to somebody who has done some of the old
// ones. A step keeps its key when it is moved or reworded.
func Change(old, now, done []int) Effect {
	var out Effect
	out.Was, _ = Next(old, done)
	out.Next, _ = Next(now, done)
	left, leftOld := Left(now, done), Left(old, done)
	for _, key := range now {
		switch comes := slices.Contains(left, key); {
		case slices.Contains(old, key) && slices.Contains(leftOld, key) == comes:
		case comes:
			out.Gets = append(out.Gets, key)
		case !slices.Contains(done, key) && !slices.Contains(old, key):
			out.Misses = append(out.Misses, key)
		}
	}
	for _, key := range leftOld {
		if !slices.Contains(left, key) {
			out.Loses = append(out.Loses, key)
		}
	}
	return out
}
