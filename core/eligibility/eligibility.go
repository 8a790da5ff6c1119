// Package eligibility decides who may be written to, and says why not. Every way of sending asks
// it: when people are chosen, when a letter is put into the outbox, and when it is handed over.
package eligibility

import (
	"slices"
	"time"

	"lucidletter/core/field"
)

// Code says why somebody gets no letter.
type Code string

// The reasons, the weightiest first. Those that may be overruled by who sends are in Overruled.
const (
	Deleted   Code = "deleted"  // the record is not there any more, or was merged into another
	OptedOut  Code = "optedout" // they asked not to be written to
	NoAddress Code = "noaddress"
	Malformed Code = "badaddress" // an address that is none
	Bounced   Code = "bounced"    // letters to the address came back
	Moved     Code = "moved"      // the record has another address by now, or none, than the letter was for
	Unfit     Code = "unfit"      // the template is for another kind of record, or needs a deal
	Twin      Code = "twin"       // another of the selection has the same address
	Answered  Code = "answered"   // wrote since the round began
	Again     Code = "again"      // had a letter of this template already
	Colleague Code = "colleague"  // was written to by a colleague lately, or is about to be
	OnPlan    Code = "plan"       // is going through a plan
	NoBasis   Code = "nobasis"    // it is not on record why they may be written to
	Broken    Code = "broken"     // the letter could not be put together, for a fault of the program
)

// Overruled reports whether who sends may write all the same.
func (c Code) Overruled() bool {
	return slices.Contains([]Code{Colleague, OnPlan, NoBasis, Again, Answered}, c)
}

// Lasting reports whether nothing that is sent by itself goes to somebody any more for this reason:
// a plan that they are on ends.
func (c Code) Lasting() bool { return slices.Contains([]Code{Deleted, OptedOut, Bounced}, c) }

// Args say more of a reason, as its code needs it.
type Args struct {
	Who string    `json:"who,omitempty"` // a person, a colleague, a plan, or a record that took the place
	At  time.Time `json:"at,omitzero"`
	To  string    `json:"to,omitempty"`  // an address
	Now string    `json:"now,omitempty"` // the one that the record has by now
	Why string    `json:"why,omitempty"` // of an address or a template, what is wrong with it
}

// Reason is why somebody is not written to.
type Reason struct {
	Code Code `json:"code"`
	Args
}

// Facts are what is known of somebody who is to be written to. Zero times and empty names mean
// that it is not so.
type Facts struct {
	Deleted     bool
	MergedInto  string // the name of the record that took the place of the deleted one
	Email       string // where the letter goes
	OptedOut    time.Time
	Bounced     time.Time
	BouncedWhy  string
	Waits       bool // the letter was made, for the address Email; Now is that of the record
	Now         string
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

// AppendReasons appends why somebody gets no letter, the weightiest first. Of a record that is gone
// nothing else matters.
func AppendReasons(dst []Reason, f *Facts) []Reason {
	add := func(is bool, code Code, a Args) {
		if is && !(code.Overruled() && slices.Contains(f.Allowed, code)) {
			dst = append(dst, Reason{code, a})
		}
	}
	if f.Deleted {
		return append(dst, Reason{Deleted, Args{Who: f.MergedInto}})
	}
	malformed := ""
	if f.Email != "" {
		if err := field.CheckEmail(f.Email); err != nil {
			malformed = err.Error()
		}
	}
	add(!f.OptedOut.IsZero(), OptedOut, Args{At: f.OptedOut, To: f.Email})
	add(f.Email == "", NoAddress, Args{})
	add(malformed != "", Malformed, Args{To: f.Email, Why: malformed})
	add(!f.Bounced.IsZero(), Bounced, Args{At: f.Bounced, To: f.Email, Why: f.BouncedWhy})
	add(f.Waits && field.EmailKey(f.Now) != field.EmailKey(f.Email), Moved, Args{To: f.Email, Now: f.Now})
	add(f.WhyNot != "", Unfit, Args{Why: f.WhyNot})
	add(f.Twin != "", Twin, Args{Who: f.Twin})
	add(!f.Answered.IsZero(), Answered, Args{At: f.Answered})
	add(f.Again, Again, Args{At: f.AgainAt})
	add(f.Colleague != "", Colleague, Args{Who: f.Colleague, At: f.ColleagueAt})
	add(f.Plan != "", OnPlan, Args{Who: f.Plan})
	add(f.NeedsBasis && f.Basis == "", NoBasis, Args{})
	return dst
}

// First gives the weightiest reason, nil for somebody who may be written to.
func First(f *Facts) *Reason {
	if list := AppendReasons(nil, f); len(list) > 0 {
		return &list[0]
	}
	return nil
}
