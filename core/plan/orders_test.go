package plan

import (
	"slices"
	"testing"
	"time"
)

func TestTriggerFires(t *testing.T) {
	status := Trigger{On: OnChanged, Record: "person", Path: "lead.status", Value: "Qualified"}
	for _, c := range []struct {
		t    Trigger
		e    Event
		want bool
	}{
		{status, Event{OnChanged, "person", "lead.status", "qualified"}, true},
		{status, Event{OnChanged, "person", "lead.status", "parked"}, false},
		{status, Event{OnChanged, "deal", "lead.status", "qualified"}, false},
		{status, Event{OnChanged, "person", "lead.source", "qualified"}, false},
		{Trigger{On: OnChanged, Record: "person", Path: "person.city"}, Event{OnChanged, "person", "person.city", ""}, true},
		{Trigger{On: OnChanged, Record: "person", Path: "lead.city"}, Event{OnChanged, "person", "person.city", "York"}, true},
		{Trigger{On: OnCreated, Record: "deal"}, Event{Kind: OnCreated, Record: "deal"}, true},
		{Trigger{On: OnCreated, Record: "deal"}, Event{Kind: OnCreated, Record: "person"}, false},
		{Trigger{On: OnReply}, Event{Kind: OnReply, Record: "person"}, true},
		{Trigger{On: OnReply}, Event{Kind: OnClick, Record: "person"}, false},
		{Trigger{On: OnDate, Record: "person", Path: "contact.since"}, Event{OnChanged, "person", "contact.since", "2026-01-01"}, false},
	} {
		if got := c.t.Fires(&c.e); got != c.want {
			t.Errorf("%+v on %+v: %v", c.t, c.e, got)
		}
	}
}

func TestTriggerFiresOn(t *testing.T) {
	for _, c := range []struct {
		date   string
		days   int
		yearly bool
		want   []string // days of 2027 and 2028 on which it acts
	}{
		{"2027-03-31", 0, false, []string{"2027-03-31"}},
		{"2027-03-31", -31, false, []string{"2027-02-28"}},
		{"2028-03-01", -1, false, []string{"2028-02-29"}},
		{"2020-06-15", -14, true, []string{"2027-06-01", "2028-06-01"}},
		{"2020-02-29", 0, true, []string{"2027-02-28", "2028-02-29"}},
		{"2020-02-29", -1, true, []string{"2027-02-27", "2028-02-28"}},
		{"2020-01-03", -7, true, []string{"2027-12-27", "2028-12-27"}},
		{"2020-12-30", 5, true, []string{"2027-01-04", "2028-01-04"}},
		{"2028-05-05", 0, true, []string{"2028-05-05"}}, // not before it was
	} {
		trigger := Trigger{On: OnDate, Record: "person", Path: "contact.since", Days: c.days, Yearly: c.yearly}
		var got []string
		for d := day(t, "2027-01-01"); d <= day(t, "2028-12-31"); d++ {
			fires := trigger.FiresOn(day(t, c.date), d)
			if fires {
				got = append(got, d.Date().Format(time.DateOnly))
			}
			// What is looked for in the store holds every date that acts.
			if fires && !slices.ContainsFunc(trigger.Dates(d), func(like string) bool { return like == c.date || like[4:] == c.date[4:] && like[:4] == "____" }) {
				t.Errorf("%s is not looked for on %s: %v", c.date, d.Date(), trigger.Dates(d))
			}
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s %+d (yearly %v): %v, want %v", c.date, c.days, c.yearly, got, c.want)
		}
	}
}

func TestLoop(t *testing.T) {
	on := func(id int64, path, value string, sets ...Sets) Rule {
		return Rule{ID: id, When: Trigger{On: OnChanged, Record: "person", Path: path, Value: value}, Sets: sets}
	}
	for _, c := range []struct {
		what  string
		rules []Rule
		want  []int64
	}{
		{"nothing", nil, nil},
		{"one after the other", []Rule{on(1, "lead.status", "qualified", Sets{"person.city", "York"}), on(2, "person.city", "", Sets{"lead.source", "fair"})}, nil},
		{"two that undo each other", []Rule{on(1, "lead.status", "qualified", Sets{"lead.status", "parked"}), on(2, "lead.status", "parked", Sets{"lead.status", "qualified"})}, []int64{1, 2, 1}},
		{"two values that do not meet", []Rule{on(1, "lead.status", "qualified", Sets{"lead.status", "parked"}), on(2, "lead.status", "new", Sets{"lead.status", "qualified"})}, nil},
		{"one that wakes itself", []Rule{on(7, "person.city", "", Sets{"person.city", "York"})}, []int64{7, 7}},
		{"by another name of the field", []Rule{on(1, "lead.city", "York", Sets{"contact.city", "york"})}, []int64{1, 1}},
		{"over three", []Rule{on(1, "a.x", "", Sets{"a.y", "1"}), on(5, "b.q", ""), on(2, "a.y", "1", Sets{"a.z", "1"}), on(3, "a.z", "", Sets{"a.x", "1"})}, []int64{1, 2, 3, 1}},
		{"begun from outside", []Rule{{ID: 9, When: Trigger{On: OnReply}, Sets: []Sets{{"a.x", "1"}}}, on(1, "a.x", "", Sets{"a.x", "2"})}, []int64{1, 1}},
	} {
		if got := Loop(c.rules); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
}

func TestTriggerCheck(t *testing.T) {
	for _, good := range []Trigger{{On: OnReply}, {On: OnCreated, Record: "deal"}, {On: OnChanged, Record: "person", Path: "lead.status"}, {On: OnDate, Record: "deal", Path: "deal.close_date", Days: -7}} {
		if why := good.Check(); why != "" {
			t.Errorf("%+v: %s", good, why)
		}
	}
	for _, bad := range []Trigger{{}, {On: "opened"}, {On: OnCreated}, {On: OnCreated, Record: "company"}, {On: OnChanged, Record: "person"}, {On: OnDate, Record: "person", Path: "x", Days: 400}} {
		if bad.Check() == "" {
			t.Errorf("%+v is taken", bad)
		}
	}
}
