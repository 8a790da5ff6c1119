package preflight

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/template"
)

func TestAppendReasons(t *testing.T) {
	day := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	ok := Facts{Email: "ada@quill.example", Basis: "Asked us", NeedsBasis: true}
	for _, row := range []struct {
		name   string
		change func(*Facts)
		want   string
	}{
		{"all is well", func(*Facts) {}, ""},
		{"no address", func(f *Facts) { f.Email = "" }, "No email address"},
		{"malformed", func(f *Facts) { f.Email = "ada@quill" }, "The address "},
		{"opted out", func(f *Facts) { f.OptedOut = day }, "Unsubscribed on 2 March 2026"},
		{"bounced", func(f *Facts) { f.Bounced = day }, "Letters came back from this address on 2 March 2026"},
		{"another kind", func(f *Facts) { f.WhyNot = "is for a lead; this is a contact" }, "The template is for a lead; this is a contact"},
		{"one address on two people", func(f *Facts) { f.Twin = "Bo Quill" }, "Has the same address as Bo Quill"},
		{"wrote since", func(f *Facts) { f.Answered = day }, "Wrote to you on 2 March 2026, since this round began"},
		{"by a colleague", func(f *Facts) { f.Colleague, f.ColleagueAt = "Celia Voss", day }, "Celia Voss wrote to them on 2 March 2026"},
		{"by a colleague, soon", func(f *Facts) { f.Colleague = "Celia Voss" }, "Celia Voss has a letter to them on its way"},
		{"colleague overruled", func(f *Facts) { f.Colleague, f.Allowed = "Celia Voss", []Code{Colleague} }, ""},
		{"plan", func(f *Facts) { f.Plan = "After the fair" }, "Is going through the plan “After the fair”"},
		{"no basis", func(f *Facts) { f.Basis = "" }, "No basis recorded for writing to them"},
		{"no basis where none is needed", func(f *Facts) { f.Basis, f.NeedsBasis = "", false }, ""},
		{"again", func(f *Facts) { f.Again, f.AgainAt = true, day }, "Had a letter of this template on 2 March 2026"},
		{"again, soon", func(f *Facts) { f.Again = true }, "A letter of this template is on its way to them"},
		{"deleted says it all", func(f *Facts) { f.Deleted, f.Email = true, "" }, "The record was deleted"},
		{"merged", func(f *Facts) { f.Deleted, f.MergedInto = true, "Bo Quill" }, "The record was merged into Bo Quill"},
		{"several", func(f *Facts) { f.Email, f.Basis, f.Plan = "", "", "P" }, "No email address; Is going through the plan “P”; No basis recorded for writing to them"},
	} {
		f := ok
		row.change(&f)
		var words []string
		for _, r := range AppendReasons(nil, &f) {
			words = append(words, r.Words())
		}
		got := strings.Join(words, "; ")
		if row.name == "malformed" && strings.HasPrefix(got, row.want) {
			continue
		}
		if got != row.want {
			t.Errorf("%s: got %q, want %q", row.name, got, row.want)
		}
	}
}

// What keeps letters from an address is never overruled, whatever somebody asks for.
func TestAppendReasons_neverOverruled(t *testing.T) {
	day := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	f := Facts{OptedOut: day, Bounced: day, WhyNot: "x", Twin: "Bo", Allowed: []Code{OptedOut, NoAddress, Bounced, Unfit, Twin}}
	if n := len(AppendReasons(nil, &f)); n != 5 {
		t.Errorf("%d of 5 reasons are left", n)
	}
}

func TestChecker_states(t *testing.T) {
	cat := field.New(nil)
	p := program(t, cat, "Dear {{person.first_name}}, {{person.city|}} {{?why: text optional}} {{?offer}}")
	r := field.NewReader("en")
	var c Checker
	full := template.Blanks{"offer": field.Of("10 %")}
	look := func(email string, b template.Blanks, pairs ...string) Verdict {
		return c.Look(&Facts{Email: email}, p, values(cat, field.Lead, pairs...), b, r)
	}
	ready := look("ada@quill.example", full, "person.first_name", "Ada", "person.city", "Leeds")
	if ready.State != Ready || ready.Sum == 0 || len(ready.Missing) > 0 {
		t.Errorf("ready: %+v", ready)
	}
	if v := look("ada@quill.example", full, "person.first_name", "Ada", "person.city", "York"); v.Sum == ready.Sum {
		t.Error("other words have the same sum")
	}
	if v := look("ada@quill.example", full, "person.first_name", "Ada", "person.city", "Leeds", "person.phone", "1"); v.Sum != ready.Sum {
		t.Error("the sum changed with a value that the letter does not say")
	}
	if v := look("ada@quill.example", nil, "person.city", "Leeds"); v.State != Gap || fmt.Sprint(v.Missing) != "[person.first_name ?offer]" || v.Hard() <= ready.Hard() {
		t.Errorf("gaps: %+v", v)
	}
	if v := look("", nil, "person.city", "Leeds"); v.State != Skipped || len(v.Missing) != 2 || v.Reasons[0].Code != NoAddress {
		t.Errorf("skipped with gaps: %+v", v)
	}
	if v := c.Look(&Facts{Deleted: true}, nil, nil, nil, nil); v.State != Skipped || v.Sum != 0 {
		t.Errorf("deleted: %+v", v)
	}
}

// A round of any size is checked in the memory of one letter.
func TestChecker_memory(t *testing.T) {
	cat := field.New(nil)
	p := program(t, cat, "Dear {{person.first_name}}")
	r, v := field.NewReader("en"), values(cat, field.Lead, "person.first_name", "Ada")
	var c Checker
	f := Facts{Email: "ada@quill.example"}
	c.Look(&f, p, v, nil, r)
	if n := testing.AllocsPerRun(200, func() { c.Look(&f, p, v, nil, r) }); n > 0 {
		t.Errorf("a check allocates %v times", n)
	}
}

func TestCounts_add(t *testing.T) {
	c := Counts{1, 2, 3, 4, 5, 6, 7, 8, 9, 10}
	if c.Total() != 55 {
		t.Error("the counts do not add up:", c.Total())
	}
	want := "10 not checked yet, 1 ready, 2 with a gap, 3 set aside, 4 skipped, 5 waiting, 6 sent, 7 refused, 8 unsure, 9 taken out of the outbox"
	if c.String() != want {
		t.Errorf("%q", c.String())
	}
}
