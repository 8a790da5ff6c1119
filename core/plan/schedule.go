package plan

import (
	"strconv"
	"strings"
	"time"
)

// Kind is what a step is.
type Kind string

// The kinds of steps.
const (
	Letter Kind = "letter"
	Task   Kind = "task"
	Text   Kind = "text" // a text message
)

// Clock is whose clock a step goes by.
type Clock string

// The clocks.
const (
	Theirs Clock = ""     // the recipient's
	Mine   Clock = "mine" // the sender's
)

// Free is what becomes of a step whose day is none to work on.
type Free string

// What becomes of it.
const (
	GoAfter  Free = ""       // it comes on the next working day
	GoBefore Free = "before" // on the working day before, unless that is over
	GoAnyway Free = "anyway" // on its day: it does not look at working days
)

// The words that stand for a time of day; others are like 14:30.
const (
	Morning = ""       // at MorningHour
	AtOnce  = "atonce" // when the step before it has come; only on the same day
)

// Recipients is the country of a step whose holidays are those of the recipient's, or of the
// sender's on the sender's clock. No holidays at all are NoHolidays.
const (
	Recipients = ""
	NoHolidays = "none"
)

// Timing says when a step comes.
type Timing struct {
	Days    int    `json:"days" minimum:"0" maximum:"365" doc:"How many days after the step before it"`
	Working bool   `json:"working,omitempty" doc:"They are working days"`
	At      string `json:"at,omitempty" maxLength:"6" doc:"A time such as 14:30; empty for 9 in the morning, atonce for right after the step before"`
	Clock   Clock  `json:"clock,omitempty" enum:",mine" doc:"Whose: empty the recipient's"`
	Free    Free   `json:"free,omitempty" enum:",before,anyway" doc:"On a day when nobody works: empty the next working day"`
	Country string `json:"country,omitempty" maxLength:"4" doc:"Whose holidays: a code such as GB, none; empty for those where the clock is"`
}

// Place is where somebody is: their clock, and whose holidays they keep.
type Place struct {
	Zone    *time.Location
	Country string
}

// Where is the places that the dates of one run go by.
type Where struct {
	Theirs, Mine Place
}

// Slot is when a step comes, and why then.
type Slot struct {
	At     time.Time // in the zone of its clock
	Over   string    // the last holiday that it makes room for
	Moved  int       // by how many days a free day moved it
	Shift  bool      // the hour does not exist on this day; it is the one after the change of the clocks
	Pushed bool      // the time was over already; it comes on a later day
}

// Minutes gives a time such as 14:30 as minutes since midnight.
func Minutes(at string) (int, bool) {
	h, m, ok := strings.Cut(at, ":")
	hour, err1 := strconv.Atoi(h)
	minute, err2 := strconv.Atoi(m)
	if !ok || err1 != nil || err2 != nil || len(m) != 2 || len(h) != 2 || hour < 0 || hour > 23 || minute < 0 || minute > 59 {
		return 0, false
	}
	return hour*60 + minute, true
}

// At gives a time of a day on a clock, in minutes since midnight. Where the clocks go over it
// in spring it is as many minutes after the change; of two in autumn it is the first (RFC
// 5545, section 3.3.5, FORM #3).
func At(day Day, minutes int, zone *time.Location) time.Time {
	at, _ := atClock(day, minutes, zone)
	return at
}

func atClock(day Day, minutes int, zone *time.Location) (at time.Time, shift bool) {
	naive := int64(day)*86400 + int64(minutes)*60
	at = time.Unix(naive, 0).In(zone)
	_, offset := at.Zone()
	at = time.Unix(naive-int64(offset), 0).In(zone)
	start, end := at.ZoneBounds()
	if _, now := at.Zone(); now == offset && (start.IsZero() || at.Sub(start) >= widest) && (end.IsZero() || end.Sub(at) > widest) {
		return at, false
	}
	// Near a change of the clocks: by the offset before it where that gives the time that is
	// meant, else by the one after it; by the one before where neither does.
	before := offsetAt(naive-int64(widest/time.Second), zone)
	after := offsetAt(naive+int64(widest/time.Second), zone)
	for _, offset := range []int64{before, after} {
		one := time.Unix(naive-offset, 0).In(zone)
		if _, has := one.Zone(); int64(has) == offset {
			return one, false
		}
	}
	return time.Unix(naive-before, 0).In(zone), true
}

// widest is more than clocks are ever from UTC, and changed by.
const widest = 27 * time.Hour

func offsetAt(unix int64, zone *time.Location) int64 {
	_, offset := time.Unix(unix, 0).In(zone).Zone()
	return int64(offset)
}

// Scheduler works out when steps come, for one goroutine.
type Scheduler struct {
	Calendar Calendar
}

// Slot gives when a step comes that follows something that happened at a time: not before
// that, and not before another time. Days are counted from the one that it was then on the
// clock of the step.
func (s *Scheduler) Slot(t *Timing, w *Where, from, not time.Time) Slot {
	place := &w.Theirs
	if t.Clock == Mine {
		place = &w.Mine
	}
	country := place.Country
	switch t.Country {
	case Recipients:
	case NoHolidays:
		country = ""
	default:
		country = t.Country
	}
	first := DayOf(from.In(place.Zone))
	day := first + Day(t.Days)
	if t.Working {
		day = s.Calendar.Working(first, t.Days, country)
	}
	if t.At == AtOnce {
		at := from
		if not.After(at) {
			at = not
		}
		now := DayOf(at.In(place.Zone))
		if t.Free == GoAnyway || s.Calendar.Works(now, country) {
			return Slot{At: at.In(place.Zone)}
		}
		return s.on(t, place.Zone, country, now, at)
	}
	if not.Before(from) {
		not = from
	}
	out := s.on(t, place.Zone, country, day, not)
	if t.Working && out.Over == "" {
		out.Over = s.over(first+1, day, country)
	}
	return out
}

// on gives a step of a day, or of the first day after it that is not over and not free.
func (s *Scheduler) on(t *Timing, zone *time.Location, country string, meant Day, not time.Time) (out Slot) {
	minutes, ok := Minutes(t.At)
	if !ok {
		minutes = MorningHour * 60
	}
	day := meant
	if t.Free == GoBefore {
		day = s.Calendar.Before(day, country)
		if at, shift := atClock(day, minutes, zone); !at.Before(not) {
			return Slot{At: at, Over: s.over(day, meant, country), Moved: int(day - meant), Shift: shift}
		}
		day = meant
	}
	for {
		if t.Free != GoAnyway {
			day = s.Calendar.Next(day, country)
		}
		out.At, out.Shift = atClock(day, minutes, zone)
		if !out.At.Before(not) {
			break
		}
		out.Pushed = true
		if today := DayOf(not.In(zone)); day < today {
			day = today
		} else {
			day++
		}
	}
	out.Moved = int(day - meant)
	if t.Free != GoAnyway {
		out.Over = s.over(meant, day, country)
	}
	return out
}

// over gives the last holiday between two days, or "".
func (s *Scheduler) over(a, b Day, country string) (name string) {
	for d := a; d <= b; d++ {
		if h := s.Calendar.Holiday(d, country); h != "" {
			name = h
		}
	}
	return name
}

// Dates gives when all steps come, each after the one before it: the first after a start, and
// none before now. The slots go into the caller's.
func (s *Scheduler) Dates(steps []Timing, w *Where, start, now time.Time, into []Slot) []Slot {
	from := start
	for i := range steps {
		slot := s.Slot(&steps[i], w, from, now)
		into = append(into, slot)
		from = slot.At
	}
	return into
}
