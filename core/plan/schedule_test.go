package plan

import (
	"slices"
	"testing"
	"time"
)

func utc(t *testing.T, s string) time.Time {
	t.Helper()
	out, err := time.Parse("2006-01-02T15:04Z", s)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestSlot(t *testing.T) {
	w := &Where{Theirs: Place{load(t, "Europe/Berlin"), "Germany"}, Mine: Place{load(t, "Europe/London"), "GB"}}
	for _, c := range []struct {
		what  string
		step  Timing
		from  string
		now   string // "" from
		want  string
		over  string
		moved int
	}{
		{"the same day at nine", Timing{}, "2026-11-25T07:00Z", "", "2026-11-25T08:00Z", "", 0},
		{"nine is over", Timing{}, "2026-11-25T10:00Z", "", "2026-11-26T08:00Z", "", 1},
		{"at once", Timing{At: AtOnce}, "2026-11-25T10:00Z", "", "2026-11-25T10:00Z", "", 0},
		{"at once, on a Sunday", Timing{At: AtOnce}, "2026-11-29T10:00Z", "", "2026-11-30T08:00Z", "", 1},
		{"at once, whatever day", Timing{At: AtOnce, Free: GoAnyway}, "2026-11-29T10:00Z", "", "2026-11-29T10:00Z", "", 0},
		{"three days, which end on a Saturday", Timing{Days: 3}, "2026-11-25T08:00Z", "", "2026-11-30T08:00Z", "", 2},
		{"the working day before it", Timing{Days: 3, Free: GoBefore}, "2026-11-25T08:00Z", "", "2026-11-27T08:00Z", "", -1},
		{"the day before it is over", Timing{Days: 1, Free: GoBefore}, "2026-11-27T12:00Z", "", "2026-11-30T08:00Z", "", 2},
		{"on Saturday anyway", Timing{Days: 3, Free: GoAnyway}, "2026-11-25T08:00Z", "", "2026-11-28T08:00Z", "", 0},
		{"three working days", Timing{Days: 3, Working: true}, "2026-11-25T08:00Z", "", "2026-11-30T08:00Z", "", 0},
		{"over Christmas", Timing{Days: 2, Working: true}, "2026-12-23T08:00Z", "", "2026-12-28T08:00Z", "26. Dezember", 0},
		{"over Christmas at home", Timing{Days: 2, Working: true, Clock: Mine}, "2026-12-23T08:00Z", "", "2026-12-29T09:00Z", "Boxing Day", 0},
		{"by the holidays of another country", Timing{Days: 1, Country: "US", At: "14:30"}, "2026-11-25T08:00Z", "", "2026-11-27T13:30Z", "Thanksgiving Day", 1},
		{"by no holidays", Timing{Days: 1, Country: NoHolidays}, "2026-12-24T08:00Z", "", "2026-12-25T08:00Z", "", 0},
		{"the day there, not here", Timing{Days: 1, At: "00:30"}, "2026-11-24T23:15Z", "", "2026-11-25T23:30Z", "", 0},
		{"from the 31st", Timing{Days: 1, Free: GoAnyway}, "2026-01-31T08:00Z", "", "2026-02-01T08:00Z", "", 0},
		{"over the leap day", Timing{Days: 1, Free: GoAnyway}, "2028-02-28T08:00Z", "", "2028-02-29T08:00Z", "", 0},
		{"a year from the leap day", Timing{Days: 365, Free: GoAnyway}, "2028-02-29T08:00Z", "", "2029-02-28T08:00Z", "", 0},
		{"the clocks went forward", Timing{Days: 2, Free: GoAnyway}, "2026-03-27T08:00Z", "", "2026-03-29T07:00Z", "", 0},
		{"not before now", Timing{Days: 1}, "2026-11-02T08:00Z", "2026-11-25T09:00Z", "2026-11-26T08:00Z", "", 23},
		{"the clock was set back", Timing{Days: 1}, "2026-11-25T08:00Z", "2025-11-25T08:00Z", "2026-11-26T08:00Z", "", 0},
	} {
		from := utc(t, c.from)
		now := from
		if c.now != "" {
			now = utc(t, c.now)
		}
		var s Scheduler
		got := s.Slot(&c.step, w, from, now)
		if !got.At.Equal(utc(t, c.want)) || c.over != "" && got.Over == "" || c.over == "" && got.Over != "" || got.Moved != c.moved {
			t.Errorf("%s: %s over %q, moved %d; want %s over %q, moved %d", c.what, got.At.UTC().Format("2006-01-02T15:04Z"), got.Over, got.Moved, c.want, c.over, c.moved)
		}
	}
}

// Changes of the clocks in 2026 as they stand in the IANA time-zone database (files europe,
// northamerica, australasia and southamerica; from memory), in both hemispheres.
func TestNightsWhenClocksChange(t *testing.T) {
	for _, c := range []struct{ zone, local, want string }{
		{"Europe/London", "2026-03-29 01:30", "2026-03-29T01:30Z"}, // is 02:30 there
		{"Europe/London", "2026-10-25 01:30", "2026-10-25T00:30Z"}, // the first of two
		{"Europe/Berlin", "2026-03-29 02:30", "2026-03-29T01:30Z"},
		{"America/New_York", "2026-03-08 02:30", "2026-03-08T07:30Z"},
		{"America/New_York", "2026-11-01 01:30", "2026-11-01T05:30Z"},
		{"Australia/Sydney", "2026-10-04 02:30", "2026-10-03T16:30Z"},
		{"Australia/Sydney", "2026-04-05 02:30", "2026-04-04T15:30Z"},
		{"Australia/Lord_Howe", "2026-10-04 02:15", "2026-10-03T15:45Z"}, // by half an hour
		{"Pacific/Auckland", "2026-09-27 02:30", "2026-09-26T14:30Z"},
		{"Pacific/Auckland", "2026-04-05 02:30", "2026-04-04T13:30Z"},
		{"America/Santiago", "2026-09-06 00:30", "2026-09-06T04:30Z"}, // midnight does not exist
		{"America/Santiago", "2026-04-04 23:30", "2026-04-05T02:30Z"},
		{"Pacific/Apia", "2011-12-30 09:00", "2011-12-30T19:00Z"}, // a day that does not exist
		{"Asia/Kathmandu", "2026-06-01 09:00", "2026-06-01T03:15Z"},
	} {
		naive, err := time.Parse("2006-01-02 15:04", c.local)
		if err != nil {
			t.Fatal(err)
		}
		got := At(DayOf(naive), naive.Hour()*60+naive.Minute(), load(t, c.zone))
		if !got.Equal(utc(t, c.want)) {
			t.Errorf("%s in %s: %s, want %s", c.local, c.zone, got.UTC(), c.want)
		}
	}
}

// At is checked against a search through all instants: the first one that has the wall
// clock, or none.
func TestAtAgainstSearch(t *testing.T) {
	for _, name := range []string{
		"Europe/London", "America/New_York", "America/St_Johns", "Australia/Lord_Howe", "Pacific/Chatham", "America/Santiago", "Africa/Casablanca", "Asia/Tehran",
		"Africa/Cairo", "America/Havana", "Asia/Beirut", "Atlantic/Azores", "Pacific/Kiritimati", "UTC",
	} {
		zone := load(t, name)
		first := map[string]time.Time{}
		begin := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
		for m := range 366 * 96 {
			one := begin.Add(time.Duration(m) * 15 * time.Minute).In(zone)
			key := one.Format("2006-01-02 15:04")
			if _, ok := first[key]; !ok {
				first[key] = one
			}
		}
		for d := DayOf(begin) + 2; d < DayOf(begin)+363; d++ {
			for minutes := 0; minutes < 24*60; minutes += 15 {
				got, shift := atClock(d, minutes, zone)
				want, ok := first[d.Date().Add(time.Duration(minutes)*time.Minute).Format("2006-01-02 15:04")]
				if shift == ok || ok && !got.Equal(want) {
					t.Fatalf("%s, %s + %d minutes: %s, want %s", name, d.Date(), minutes, got, want)
				}
			}
		}
	}
}

func TestDatesNeverGoBack(t *testing.T) {
	var s Scheduler
	steps := []Timing{{}, {Days: 3, Free: GoBefore}, {At: AtOnce}, {Working: true, Days: 4, At: "16:00", Clock: Mine}, {At: "08:00"}, {Days: 10, Free: GoAnyway, At: "02:30"}, {Days: 1, Country: "US"}, {Days: 31}}
	zones := []string{"Pacific/Kiritimati", "America/Los_Angeles", "Europe/London", "Australia/Sydney"}
	for i, theirs := range zones {
		w := &Where{Theirs: Place{load(t, theirs), "GB"}, Mine: Place{load(t, zones[(i+1)%len(zones)]), "NZ"}}
		for d := range 400 {
			start := time.Date(2026, 1, 1, 7, 13, 0, 0, time.UTC).AddDate(0, 0, d)
			last := start
			for k, slot := range s.Dates(steps, w, start, start, nil) {
				if slot.At.Before(last) {
					t.Fatalf("%s from %s: step %d at %s is before %s", theirs, start, k, slot.At, last)
				}
				if free := steps[k].Free; free != GoAnyway && !s.Calendar.Works(DayOf(slot.At), map[bool]string{true: "NZ", false: "GB"}[steps[k].Clock == Mine]) && steps[k].Country == "" {
					t.Fatalf("%s from %s: step %d on %s, when nobody works", theirs, start, k, slot.At)
				}
				last = slot.At
			}
		}
	}
}

func TestTimingCheck(t *testing.T) {
	for want, step := range map[string]Timing{
		"":                      {Days: 3, Working: true, At: "14:30", Country: "GB"},
		"choose fewer days":     {Days: 400},
		"give it a time, or 0":  {Days: 1, At: AtOnce},
		"write it like 14:30":   {At: "2pm"},
		"write it like 14:30 2": {At: "24:00"},
		"choose another":        {Country: "Atlantis"},
		"is not known":          {Clock: "theirs"},
	} {
		got := step.Check()
		if want == "" != (got == "") {
			t.Errorf("%+v: %q", step, got)
		}
	}
}

func TestTimingWords(t *testing.T) {
	for want, step := range map[string]Timing{
		"3 working days later, at 9 in the morning": {Days: 3, Working: true},
		"1 day later, at 14:30":                     {Days: 1, At: "14:30"},
		"right after the step before":               {At: AtOnce},
		"on the same day, at 9 in the morning":      {},
	} {
		if got := step.Words(false); got != want {
			t.Errorf("%+v: %q, want %q", step, got, want)
		}
	}
	if got := (&Timing{}).Words(true); got != "on the day of the start, at 9 in the morning" {
		t.Error(got)
	}
}

func TestChange(t *testing.T) {
	for _, c := range []struct {
		what                string
		old, now, done      []int
		gets, misses, loses []int
		was, next           int
	}{
		{"a step behind", []int{1, 2, 3}, []int{1, 2, 3, 4}, []int{1}, []int{4}, nil, nil, 2, 2},
		{"a step before", []int{1, 2, 3}, []int{4, 1, 2, 3}, []int{1}, nil, []int{4}, nil, 2, 2},
		{"a step in between", []int{1, 2, 3}, []int{1, 4, 2, 3}, []int{1}, []int{4}, nil, nil, 2, 4},
		{"the next one is gone", []int{1, 2, 3}, []int{1, 3}, []int{1}, nil, nil, []int{2}, 2, 3},
		{"the last done is gone", []int{1, 2, 3}, []int{1, 3}, []int{1, 2}, nil, nil, nil, 3, 3},
		{"nothing is left", []int{1, 2}, []int{1}, []int{1}, nil, nil, []int{2}, 2, 0},
		{"one that is done moves to the end", []int{1, 2, 3}, []int{2, 3, 1}, []int{1}, nil, nil, []int{2, 3}, 2, 0},
		{"two to come change places", []int{1, 2, 3}, []int{1, 3, 2}, []int{1}, nil, nil, nil, 2, 3},
		{"all are new", []int{1, 2}, []int{3, 4}, []int{1}, []int{3, 4}, nil, []int{2}, 2, 3},
		{"after the end a step more", []int{1}, []int{1, 2}, []int{1}, []int{2}, nil, nil, 0, 2},
	} {
		e := Change(c.old, c.now, c.done)
		if !slices.Equal(e.Gets, c.gets) || !slices.Equal(e.Misses, c.misses) || !slices.Equal(e.Loses, c.loses) || e.Was != c.was || e.Next != c.next {
			t.Errorf("%s: %+v", c.what, e)
		}
		if e.Ends() != (c.was != 0 && c.next == 0) {
			t.Errorf("%s: ends %v", c.what, e.Ends())
		}
	}
}

// Whatever the plans are: nobody gets a step twice, and what is left is what Next gives one
// after the other.
func FuzzNext(f *testing.F) {
	f.Add([]byte{1, 2, 3}, []byte{2})
	f.Fuzz(func(t *testing.T, a, b []byte) {
		var order, done []int
		for _, k := range a {
			if k > 0 && !slices.Contains(order, int(k)) {
				order = append(order, int(k))
			}
		}
		for _, k := range b {
			if !slices.Contains(done, int(k)) {
				done = append(done, int(k))
			}
		}
		left := Left(order, done)
		for i := 0; ; i++ {
			key, ok := Next(order, done)
			if !ok {
				if i != len(left) {
					t.Fatalf("%v after %v: %d of %v", order, done, i, left)
				}
				return
			}
			if slices.Contains(done, key) || left[i] != key {
				t.Fatalf("%v after %v: %d, left %v", order, done, key, left)
			}
			done = append(done, key)
		}
	})
}
