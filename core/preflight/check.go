package preflight

import (
	"fmt"
	"hash/crc32"
	"slices"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/safehtml"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
)

// State says how a letter of a round stands before it is sent.
type State string

// The states that a check finds.
const (
	Ready   State = "ready"
	Gap     State = "gap"
	Skipped State = "skipped"
)

// Code says why somebody of a selection gets no letter.
type Code string

// The reasons. Those that may be overruled by who sends are in Overruled.
const (
	Deleted   Code = "deleted"    // the record is not there any more
	NoAddress Code = "noaddress"  // no email address
	Malformed Code = "badaddress" // one that is none
	OptedOut  Code = "optedout"
	Bounced   Code = "bounced"   // letters to the address came back
	Unfit     Code = "unfit"     // the template is for another kind of record, or needs a deal
	Twin      Code = "twin"      // another of the selection has the same address
	Answered  Code = "answered"  // wrote since the round began
	Colleague Code = "colleague" // was written to by a colleague lately, or is about to be
	OnPlan    Code = "plan"      // is going through a plan
	NoBasis   Code = "nobasis"   // it is not on record why they may be written to
	Again     Code = "again"     // had a letter of this template already
	Broken    Code = "broken"    // the letter could not be put together, for a fault of the program
)

// Overruled tells whether who sends a round may write all the same.
func (c Code) Overruled() bool {
	return slices.Contains([]Code{Colleague, OnPlan, NoBasis, Again, Answered}, c)
}

// Reason is why somebody is skipped. Who and At say more, as the code needs it.
type Reason struct {
	Code Code      `json:"code"`
	Who  string    `json:"who,omitempty"`
	At   time.Time `json:"at,omitzero"`
}

// Words says the reason in English, without the name of whom it is about.
func (r Reason) Words() string {
	on := ""
	if !r.At.IsZero() {
		on = r.At.Format(" on 2 January 2006")
	}
	switch r.Code {
	case Deleted:
		if r.Who != "" {
			return "The record was merged into " + r.Who
		}
		return "The record was deleted"
	case Broken:
		return "Something unexpected happened with this letter; it was noted for the administrator"
	case NoAddress:
		return "No email address"
	case Malformed:
		return "The address " + r.Who
	case OptedOut:
		return "Unsubscribed" + on
	case Bounced:
		return "Letters came back from this address" + on
	case Unfit:
		return "The template " + r.Who
	case Twin:
		return "Has the same address as " + r.Who
	case Answered:
		return "Wrote to you" + on + ", since this round began"
	case Colleague:
		if r.At.IsZero() {
			return r.Who + " has a letter to them on its way"
		}
		return r.Who + " wrote to them" + on
	case OnPlan:
		return "Is going through the plan “" + r.Who + "”"
	case NoBasis:
		return "No basis recorded for writing to them"
	case Again:
		if r.At.IsZero() {
			return "A letter of this template is on its way to them"
		}
		return "Had a letter of this template" + on
	}
	return string(r.Code)
}

// Facts are what is known of somebody of a selection beside the values of the
// letter. Zero times and empty names mean that it is not so.
type Facts struct {
	Deleted     bool
	MergedInto  string // the name of the record that took the place of the deleted one
	Email       string
	OptedOut    time.Time
	Bounced     time.Time
	WhyNot      string // why the template does not fit
	Twin        string // another of the selection who has the address and may get a letter
	Answered    time.Time
	Colleague   string // who wrote lately, or is about to
	ColleagueAt time.Time
	Plan        string
	Basis       string
	NeedsBasis  bool
	Again       bool
	AgainAt     time.Time // zero while that letter is on its way
	Allowed     []Code    // what was overruled
}

// Verdict is what a check says. Its slices hold until the next call of Look.
type Verdict struct {
	State   State
	Reasons []Reason
	Missing []string // paths in the order of the eye, blanks with their question mark
	Size    int      // bytes of the letter
	// Sum is of every word of the letter: another one means that it says something else
	// (two cyclic redundancy checks; it is no seal). It is 0 for somebody whom the template
	// cannot serve.
	Sum uint64
}

// Hard is how much a letter asks of who proofreads it: one with gaps before all
// others, then the longest.
func (v Verdict) Hard() int { return len(v.Missing)*1_000_000 + min(v.Size, 999_999) }

// Checker looks at one person of a selection after the other. Its memory does not
// grow with them; the zero value is ready. It is for one goroutine.
type Checker struct {
	buf     []byte
	missing []string
	reasons []Reason
}

// Look checks a letter of p for one person: v and b are what it is filled with, r whom it
// is written for.
func (c *Checker) Look(f *Facts, p *template.Program, v *field.Values, b template.Blanks, r *field.Reader) Verdict {
	c.reasons = AppendReasons(c.reasons[:0], f)
	out := Verdict{State: Ready, Reasons: c.reasons}
	if p != nil && v != nil && f.WhyNot == "" {
		c.missing = sentence.AppendBroken(p.AppendMissing(c.missing[:0], v, b), p, v, b, r)
		var gaps, more int
		c.buf, gaps = p.AppendSubject(c.buf[:0], v, b, r)
		c.buf, more = p.AppendBody(append(c.buf, 0), v, b, r, escapeOf(p))
		out.Missing, out.Size, out.Sum = c.missing, len(c.buf), Sum(c.buf)
		if gaps+more > 0 || len(c.missing) > 0 {
			out.State = Gap
		}
	}
	if len(out.Reasons) > 0 {
		out.State = Skipped
	}
	return out
}

// castagnoli is computed by the processor, as the other polynomial is.
var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// Sum is of every byte of some words, for Verdict.Sum; never 0.
func Sum(words []byte) uint64 {
	return max(1, uint64(crc32.ChecksumIEEE(words))<<32|uint64(crc32.Checksum(words, castagnoli)))
}

func escapeOf(p *template.Program) safehtml.Escape {
	if p.Plain() {
		return safehtml.AsText
	}
	return safehtml.AsHTML // its addresses count too
}

// AppendReasons gives why somebody gets no letter, the weightiest first, into the
// caller's list.
func AppendReasons(dst []Reason, f *Facts) []Reason {
	add := func(is bool, r Reason) {
		if is && !(r.Code.Overruled() && slices.Contains(f.Allowed, r.Code)) {
			dst = append(dst, r)
		}
	}
	if f.Deleted {
		return append(dst, Reason{Code: Deleted, Who: f.MergedInto})
	}
	malformed := ""
	if f.Email != "" {
		if err := field.CheckEmail(f.Email); err != nil {
			malformed = err.Error()
		}
	}
	add(!f.OptedOut.IsZero(), Reason{Code: OptedOut, At: f.OptedOut})
	add(f.Email == "", Reason{Code: NoAddress})
	add(malformed != "", Reason{Code: Malformed, Who: malformed})
	add(!f.Bounced.IsZero(), Reason{Code: Bounced, At: f.Bounced})
	add(f.WhyNot != "", Reason{Code: Unfit, Who: f.WhyNot})
	add(f.Twin != "", Reason{Code: Twin, Who: f.Twin})
	add(!f.Answered.IsZero(), Reason{Code: Answered, At: f.Answered})
	add(f.Again, Reason{Code: Again, At: f.AgainAt})
	add(f.Colleague != "", Reason{Code: Colleague, Who: f.Colleague, At: f.ColleagueAt})
	add(f.Plan != "", Reason{Code: OnPlan, Who: f.Plan})
	add(f.NeedsBasis && f.Basis == "", Reason{Code: NoBasis})
	return dst
}

// Counts are the people of a round by what became of them; together they are the
// selection.
type Counts struct {
	Ready   int `json:"ready"`
	Gap     int `json:"gap"`
	Aside   int `json:"aside"`
	Skipped int `json:"skipped"`
	Waiting int `json:"waiting" doc:"On their way: in the outbox, or being handed over"`
	Sent    int `json:"sent"`
	Refused int `json:"refused"`
	Unsure  int `json:"unsure"`
	Left    int `json:"left" doc:"Cancelled, or taken back to be sent by hand"`
	Unknown int `json:"unknown" doc:"Not checked yet"`
}

// Total is the size of the selection.
func (c Counts) Total() int {
	return c.Ready + c.Gap + c.Aside + c.Skipped + c.Waiting + c.Sent + c.Refused + c.Unsure + c.Left + c.Unknown
}

// String says the counts that are not nothing, in one line.
func (c Counts) String() string {
	out := ""
	for _, one := range []struct {
		n    int
		what string
	}{{c.Unknown, "not checked yet"}, {c.Ready, "ready"}, {c.Gap, "with a gap"}, {c.Aside, "set aside"}, {c.Skipped, "skipped"}, {c.Waiting, "waiting"}, {c.Sent, "sent"}, {c.Refused, "refused"}, {c.Unsure, "unsure"}, {c.Left, "taken out of the outbox"}} {
		if one.n > 0 {
			if out != "" {
				out += ", "
			}
			out += fmt.Sprintf("%d %s", one.n, one.what)
		}
	}
	return out
}
