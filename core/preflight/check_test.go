package preflight

import (
	"fmt"
	"testing"

	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/template"
)

func TestChecker_states(t *testing.T) {
	cat := field.New(nil)
	p := program(t, cat, "Dear {{person.first_name}}, {{person.city|}} {{?why: text optional}} {{?offer}}")
	r := field.NewReader("en")
	var c Checker
	full := template.Blanks{"offer": field.Of("10 %")}
	look := func(email string, b template.Blanks, pairs ...string) Verdict {
		return c.Look(&eligibility.Facts{Email: email}, p, values(cat, field.Lead, pairs...), b, r)
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
	if v := look("", nil, "person.city", "Leeds"); v.State != Skipped || len(v.Missing) != 2 || v.Reasons[0].Code != eligibility.NoAddress {
		t.Errorf("skipped with gaps: %+v", v)
	}
	if v := c.Look(&eligibility.Facts{Deleted: true}, nil, nil, nil, nil); v.State != Skipped || v.Sum != 0 {
		t.Errorf("deleted: %+v", v)
	}
}

// A round of any size is checked in the memory of one letter.
func TestChecker_memory(t *testing.T) {
	cat := field.New(nil)
	p := program(t, cat, "Dear {{person.first_name}}")
	r, v := field.NewReader("en"), values(cat, field.Lead, "person.first_name", "Ada")
	var c Checker
	f := eligibility.Facts{Email: "ada@quill.example"}
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
