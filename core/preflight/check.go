package preflight

import (
	"fmt"
	"hash/crc32"

	"lucidletter/core/eligibility"
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

// Verdict is what a check says. Its slices hold until the next call of Look.
type Verdict struct {
	State   State
	Reasons []eligibility.Reason
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
	reasons []eligibility.Reason
}

// Look checks a letter of p for one person: v and b are what it is filled with, r whom it
// is written for.
func (c *Checker) Look(f *eligibility.Facts, p *template.Program, v *field.Values, b template.Blanks, r *field.Reader) Verdict {
	c.reasons = eligibility.AppendReasons(c.reasons[:0], f)
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
