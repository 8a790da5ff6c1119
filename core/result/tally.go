package result

import "time"

// Event is one kind of thing that came back of a letter, so often.
type Event struct {
	Kind    Kind
	Machine bool
	Link    int64     // which link was followed, 0 none
	At      time.Time // the latest
	Times   int       // how often
}

// Kind says what came back.
type Kind int

// What can come back.
const (
	Opened Kind = iota
	Clicked
	Document // a document that was sent as a link was looked at
	Replied
	Away // an automatic answer
	Delayed
	Bounced
	Complained
	OptedOut
)

// Tally is what came back of one letter. Opened is true of a reader who opened it,
// followed a link, looked at a document or answered, also where opens are not
// measured: each of them implies an open.
type Tally struct {
	Opens         int
	MachineOpens  int
	Clicks        int
	MachineClicks int
	Documents     int
	Replies       int
	Opened        bool
	Away          bool
	Delayed       bool
	Bounced       bool
	Complained    bool
	OptedOut      bool
	LastOpen      *time.Time
	ByLink        map[int64]int
}

// Add counts an event.
func (t *Tally) Add(e Event) {
	switch e.Kind {
	case Opened:
		if e.Machine {
			t.MachineOpens += e.Times
			return
		}
		t.Opens += e.Times
		if t.LastOpen == nil || e.At.After(*t.LastOpen) {
			at := e.At
			t.LastOpen = &at
		}
	case Clicked:
		if e.Machine {
			t.MachineClicks += e.Times
			return
		}
		t.Clicks += e.Times
		if t.ByLink == nil {
			t.ByLink = map[int64]int{}
		}
		t.ByLink[e.Link] += e.Times
	case Document:
		if e.Machine {
			return
		}
		t.Documents += e.Times
		if t.ByLink == nil {
			t.ByLink = map[int64]int{}
		}
		t.ByLink[e.Link] += e.Times
	case Replied:
		t.Replies += e.Times
	case Away:
		t.Away = true
		return
	case Delayed:
		t.Delayed = true
		return
	case Bounced:
		t.Bounced = true
		return
	case Complained:
		t.Complained = true
		return
	case OptedOut:
		t.OptedOut = true
		return
	}
	t.Opened = true
}
