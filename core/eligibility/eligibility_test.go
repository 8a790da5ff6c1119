package eligibility

import (
	"strings"
	"testing"
	"time"
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
			words = append(words, r.Label())
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

// Every reason has a sentence of its own, with the name or the address, in which nothing is left open.
func TestReason_sentences(t *testing.T) {
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	seen := map[string]Code{}
	for _, code := range []Code{Deleted, OptedOut, NoAddress, Malformed, Bounced, Moved, Unfit, Twin, Answered, Again, Colleague, OnPlan, NoBasis, Broken} {
		for _, a := range []Args{{Who: map[bool]string{true: "", false: "Bo Quill"}[code == Deleted], To: "ada@quill.example", Why: "ada@quill is none"}, {Who: "Bo Quill", At: at, To: "ada@quill.example", Why: "ada@quill is none"}} {
			r := Reason{code, a}
			for _, words := range []string{r.Sentence("Ada Quill"), r.CopySentence(), r.Label() + "."} {
				if !strings.HasSuffix(words, ".") || strings.HasSuffix(words, "..") || strings.Contains(words, "  ") || strings.Contains(words, " .") || strings.Contains(words, "0001") {
					t.Errorf("%s: %q", code, words)
				}
			}
			if said := r.Sentence("Ada Quill"); !strings.Contains(said, "Ada Quill") && !strings.Contains(said, "ada@quill") {
				t.Errorf("%s names nobody: %q", code, said)
			}
			if !strings.Contains(r.CopySentence(), "ada@quill.example") {
				t.Errorf("%s of a copy names no address: %q", code, r.CopySentence())
			}
		}
		label := Reason{Code: code}.Label()
		if other, was := seen[label]; was {
			t.Errorf("%s and %s both say %q", code, other, label)
		}
		seen[label] = code
	}
}

// The precedence is that of the list of codes: whatever else is known, the weightiest comes first.
func TestAppendReasons_precedence(t *testing.T) {
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	f := Facts{Email: "ada@quill", OptedOut: at, Bounced: at, Waits: true, Now: "ada@rye.example", WhyNot: "x", Twin: "Bo", Answered: at, Again: true, Colleague: "Celia", Plan: "P", NeedsBasis: true}
	var got []string
	for _, r := range AppendReasons(nil, &f) {
		got = append(got, string(r.Code))
	}
	if want := "optedout badaddress bounced moved unfit twin answered again colleague plan nobasis"; strings.Join(got, " ") != want {
		t.Errorf("%s\nwant %s", strings.Join(got, " "), want)
	}
	if f.Deleted = true; First(&f).Code != Deleted || First(&Facts{Email: "ada@quill.example"}) != nil {
		t.Error("the first of the reasons is not the weightiest")
	}
}
