package filter

import (
	"errors"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
)

var cat = field.New([]field.Def{
	{Path: "person.own.volume", Label: "Volume", Type: field.Number, Record: field.Person, Own: true},
	{Path: "lead.own.visit", Label: "Visit", Type: field.Date, Record: field.Lead, Own: true},
	{Path: "person.own.vip", Label: "VIP", Type: field.YesNo, Record: field.Person, Own: true},
})

func TestParse(t *testing.T) {
	for text, want := range map[string]string{
		"":             "",
		"kind is lead": `kind is "lead"`,
		`person.city is "York" and ( written not in last 14 days or opened is filled )`: `person.city is "York" and (written not in last 14 days or opened is filled)`,
		`not (kind is lead and bad yes)`:                                                `not (kind is "lead" and bad yes)`,
		`a is x or b is y and c is z`:                                                   `a is "x" or (b is "y" and c is "z")`,
		`person.last_name is "O'Hara \"the\" {{x}} \\ 👩‍🚀 שלום"`:                        `person.last_name is "O'Hara \"the\" {{x}} \\ 👩\u200d🚀 שלום"`,
		`person.city is and`:                                                            `person.city is "and"`, `person.city is not "not"`: `person.city is not "not"`,
		`deal.amount more than "1000.00 EUR"`: `deal.amount more than "1000.00 EUR"`,
		`created in last 0 day`:               `created in last 0 days`,
		`not not bad yes`:                     `not not bad yes`,
	} {
		e, err := Parse(text)
		if err != nil || Print(e) != want {
			t.Errorf("%s: %s, %v", text, Print(e), err)
		}
	}
	for text, want := range map[string]string{
		`person.city is`:           "ends where what it is compared with",
		`person.city equals York`:  `at 13: "equals" stands where a comparison`,
		`person.city is "York`:     "at 16: the quotation mark is not closed",
		`(kind is lead`:            "ends where “and”, “or” or “)”",
		`kind is lead)`:            `at 13: ")" stands where`,
		`and kind is lead`:         "a field such as",
		`kind is lead kind is x`:   "“and”, “or” or the end",
		`"kind" is lead`:           "a field such as",
		strings.Repeat("(", 5000):  "nested deeper",
		strings.Repeat("x ", 9000): "longer than",
		`kind is (`:                "what it is compared with",
	} {
		var bad *Error
		if _, err := Parse(text); !errors.As(err, &bad) || !strings.Contains(bad.Why, want) {
			t.Errorf("%.40s: %v", text, err)
		}
	}
}

func TestCheck(t *testing.T) {
	for text, want := range map[string]string{
		"person.shoe is 4": "there is no field person.shoe", "person.city more than 4": "cannot be compared by", "kind is deal": "is never", "written in last -1": "no number of days", "written in last 9999": "no number of days",
		"owner is somebody": "no colleague", "person.own.volume more than much": "Volume", "lead.own.visit before soon": "Visit", `person.city is ""`: "compared with nothing",
		"deal.main_contact.city is York": "there is no field", "person.full_name is x": "there is no field", "person.city is " + strings.Repeat("x", 201): "longer than 200",
		strings.TrimSuffix(strings.Repeat("bad yes and ", 61), " and "): "more than 60 conditions", strings.Repeat("not ", 9) + "bad yes": "nested deeper",
	} {
		e, err := Parse(text)
		if err == nil {
			_, err = Check(cat, e)
		}
		var bad *Error
		if !errors.As(err, &bad) || !strings.Contains(bad.Why, want) {
			t.Errorf("%.60s: %v", text, err)
		}
	}
	e, err := Parse(`person.own.volume more than "22,5" and deal.amount less than "1,000 EUR" and person.city is " York " and lead.own.visit after "2026-05-03" and owner is me`)
	if err == nil {
		e, err = Check(cat, e)
	}
	if want := `person.own.volume more than "22.5" and deal.amount less than "1000.00 EUR" and person.city is "York" and lead.own.visit after "2026-05-03" and owner is "me"`; err != nil || Print(e) != want {
		t.Errorf("%s, %v", Print(e), err)
	}
	if _, err := Check(cat, Expr{Test: &Test{Field: "bad", Op: Yes}, Not: &Expr{}}); err == nil {
		t.Error("two things at once")
	}
	if _, err := Check(cat, Expr{}); err != nil {
		t.Errorf("everybody: %v", err)
	}
	for _, f := range Fields(cat) {
		if f.Label == "" || len(f.Ops) == 0 || KindOf(cat, f.Path) != f.Kind {
			t.Errorf("%+v", f)
		}
	}
}

func TestHolds(t *testing.T) {
	now := time.Date(2026, 3, 2, 23, 0, 0, 0, time.UTC)
	ada := func(path string) []string {
		return map[string][]string{
			"person.city": {"Zürich"}, "kind": {"lead"}, "owner": {"3"}, "written": {"2026-02-17T08:00:00Z"}, "created": {"2026-03-02T00:00:00Z"}, "person.own.volume": {"22.50"},
			"deal.stage": {"won", "quoted"}, "deal.amount": {"900.00 EUR", "1200.00 GBP"}, "lead.own.visit": {"2026-03-09"}, "person.own.vip": {"false"}, "bad": {"true"}, "person.phone": {" "},
		}[path]
	}
	for text, want := range map[string]bool{
		"": true, `person.city is "zürich"`: true, `person.city has "ÜR"`: true, `person.city starts "ü"`: false, `person.city is not "York"`: true, "person.job_title is missing": true, "person.phone is missing": true,
		"person.job_title is not x": true, "person.job_title has not x": true, "person.job_title is x": false,
		"written in last 13": true, "written in last 12": false, "written not in last 12": true, "opened not in last 12": true, "opened is missing": true, "created in last 0": true, "written before 2026-02-17": false, "written after 2026-02-16": true,
		"deal.stage is won": true, "deal.stage is not won": false, "deal.stage is lost": false, "deal.amount more than \"1000 EUR\"": false, "deal.amount more than \"1000 GBP\"": true, "deal.amount is \"900 EUR\"": true,
		"person.own.volume is 22.5": true, "person.own.volume less than 22.5": false, "lead.own.visit in next 7": true, "lead.own.visit in next 6": false, "lead.own.visit in last 30": false,
		"person.own.vip yes": false, "person.own.vip no": true, "bad yes": true, "optedout no": true, "owner is me": true, "owner is 4": false, "owner is not 4": true,
		"kind is lead and (bad no or person.city is Zürich)": true, "not (kind is lead and bad yes)": false, "kind is contact or bad yes": true,
	} {
		e, err := Parse(text)
		if err == nil {
			e, err = Check(cat, e)
		}
		if err != nil || Holds(cat, e, ada, now, 3) != want {
			t.Errorf("%s: %t, %v", text, !want, err)
		}
	}
}

// Any returns some filter.
func Any(rng *rand.Rand, fields []Field, depth int) Expr {
	if depth > 3 || rng.IntN(2) == 0 {
		f := fields[rng.IntN(len(fields))]
		words := []string{"York", "", "ü \"x\" \\", "22.5", "100 EUR", "2026-03-02", "me", "14", "won", "a b"}
		return Expr{Test: &Test{f.Path, f.Ops[rng.IntN(len(f.Ops))], words[rng.IntN(len(words))]}}
	}
	var list []Expr
	for range 2 + rng.IntN(2) {
		list = append(list, Any(rng, fields, depth+1))
	}
	switch rng.IntN(3) {
	case 0:
		return Expr{All: list}
	case 1:
		return Expr{Any: list}
	}
	return Expr{Not: &list[0]}
}

// What is printed is read as the same filter.
func TestPrint_roundTrip(t *testing.T) {
	rng, fields := rand.New(rand.NewPCG(1, 2)), Fields(cat) //nolint:gosec // made-up filters
	read := 0
	for range 3000 {
		e, err := Check(cat, Any(rng, fields, 0))
		if err != nil {
			continue
		}
		again, err := Parse(Print(e))
		if err != nil || !reflect.DeepEqual(again, e) {
			t.Fatalf("%s\n%s, %v", Print(e), Print(again), err)
		}
		read++
	}
	if read < 200 {
		t.Errorf("only %d filters were good", read)
	}
}

// Whatever is typed is read or refused, and what was read is printed so that it is read
// alike.
func FuzzParse(f *testing.F) {
	f.Add(`kind is lead and (person.city is "York" or not bad yes)`)
	f.Add(`a in last 14 days`)
	f.Fuzz(func(t *testing.T, text string) {
		e, err := Parse(text)
		if err != nil {
			return
		}
		again, err := Parse(Print(e))
		if err != nil || Print(again) != Print(e) {
			t.Errorf("%q: %q, %v", text, Print(e), err)
		}
	})
}
