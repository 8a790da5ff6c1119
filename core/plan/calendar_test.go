package plan

import (
	"testing"
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/jp"
	"github.com/rickar/cal/v2/us"
)

func day(t *testing.T, s string) Day {
	t.Helper()
	at, err := time.Parse(time.DateOnly, s)
	if err != nil {
		t.Fatal(err)
	}
	return DayOf(at)
}

// The public holidays of 2026 as they are published, all that fall on a weekday or are kept
// on one: GOV.UK, "UK bank holidays", England and Wales; Bundesministerium des Innern,
// "Nationale Feiertage"; service-public.fr, "Jours fériés"; OPM, "2026 Holiday Schedule"; Citizens
// Information, "Public holidays in Ireland"; Rijksoverheid, "Officiële feestdagen"; Norwegian
// "Lov om helligdager"; Cabinet Office of Japan, 「国民の祝日」. The lists are from memory.
func TestHolidaysAsPublished(t *testing.T) {
	for country, days := range map[string][]string{
		"United Kingdom": {"01-01", "04-03", "04-06", "05-04", "05-25", "08-31", "12-25", "12-28"},
		"Germany":        {"01-01", "04-03", "04-06", "05-01", "05-14", "05-25", "12-25"},
		"FR":             {"01-01", "04-06", "05-01", "05-08", "05-14", "05-25", "07-14", "11-11", "12-25"},
		"US":             {"01-01", "01-19", "02-16", "05-25", "06-19", "07-03", "09-07", "10-12", "11-11", "11-26", "12-25"},
		"Ireland":        {"01-01", "02-02", "03-17", "04-06", "05-04", "06-01", "08-03", "10-26", "12-25"},
		"NL":             {"01-01", "04-03", "04-06", "04-27", "05-05", "05-14", "05-25", "12-25"},
		"Norway":         {"01-01", "04-02", "04-03", "04-06", "05-01", "05-14", "05-25", "12-25"},
		"Japan":          {"01-01", "01-12", "02-11", "02-23", "03-20", "04-29", "05-04", "05-05", "05-06", "07-20", "08-11", "09-21", "09-22", "09-23", "10-12", "11-03", "11-23"},
	} {
		var c Calendar
		want := map[string]bool{}
		for _, d := range days {
			want["2026-"+d] = true
		}
		for d := day(t, "2026-01-01"); d <= day(t, "2026-12-31"); d++ {
			if w := d.Weekday(); w == time.Saturday || w == time.Sunday {
				if c.Works(d, country) {
					t.Errorf("%s: people work on %s", country, d.Date().Format("Monday 2006-01-02"))
				}
				continue
			}
			name := d.Date().Format(time.DateOnly)
			if c.Works(d, country) == want[name] {
				t.Errorf("%s: %s is free: %v (%s)", country, name, want[name], c.Holiday(d, country))
			}
		}
	}
}

// Day is checked against the standard library's Gregorian calendar.
func TestDay(t *testing.T) {
	at := time.Date(1899, 12, 1, 12, 0, 0, 0, time.UTC)
	for range 366 * 210 {
		d := DayOf(at)
		if d.Weekday() != at.Weekday() || yearOf(d) != at.Year() || d.Date().YearDay() != at.YearDay() {
			t.Fatalf("%s: %s, %d", at, d.Weekday(), yearOf(d))
		}
		at = at.AddDate(0, 0, 1)
	}
	tokyo := load(t, "Asia/Tokyo")
	if DayOf(time.Date(2026, 3, 1, 0, 0, 0, 0, tokyo)) != day(t, "2026-03-01") || DayOf(time.Date(1960, 2, 29, 23, 59, 0, 0, load(t, "America/New_York"))) != day(t, "1960-02-29") {
		t.Error("days on other clocks")
	}
}

func TestWorkingDays(t *testing.T) {
	var c Calendar
	for _, x := range []struct {
		from    string
		n       int
		country string
		want    string
	}{
		{"2026-11-27", 0, "GB", "2026-11-27"},
		{"2026-11-27", 1, "GB", "2026-11-30"},
		{"2026-11-28", 1, "GB", "2026-11-30"}, // from a Saturday
		{"2026-12-24", 1, "GB", "2026-12-29"},
		{"2026-12-24", 1, "", "2026-12-25"},
		{"2026-04-02", 3, "GB", "2026-04-09"}, // Easter
		{"2026-01-30", 1, "US", "2026-02-02"}, // past the 31st
		{"2028-02-28", 1, "GB", "2028-02-29"},
		{"2028-02-28", 2, "GB", "2028-03-01"},
		{"2026-03-26", 1, "Israel", "2026-03-29"}, // Friday and Saturday are free
		{"2021-12-30", 2, "GB", "2022-01-04"},     // New Year's Day of 2022 is kept on Monday
		{"2021-12-30", 1, "US", "2022-01-03"},     // and on Friday
	} {
		if got := c.Working(day(t, x.from), x.n, x.country).Date().Format(time.DateOnly); got != x.want {
			t.Errorf("%d after %s in %q: %s, want %s", x.n, x.from, x.country, got, x.want)
		}
	}
}

func TestCountriesKnowTheirHolidays(t *testing.T) {
	var c Calendar
	for _, code := range Countries() {
		n := 0
		for d := day(t, "2026-01-01"); d <= day(t, "2026-12-31"); d++ {
			if c.Holiday(d, code) != "" {
				n++
			}
		}
		if n < 6 || n > 25 || !KnowsHolidays(code) {
			t.Errorf("%s has %d holidays", code, n)
		}
	}
	if KnowsHolidays("Atlantis") || KnowsHolidays("") {
		t.Error("holidays of no country")
	}
}

// Working days are checked against the business calendar of rickar/cal, which counts day by day
// in its own way; the lists of holidays are the same, the counting is not ours.
func TestWorkingDaysAgainstLibrary(t *testing.T) {
	for code, list := range map[string][]*cal.Holiday{"GB": gb.Holidays, "DE": de.Holidays, "FR": fr.Holidays, "US": us.Holidays, "JP": jp.Holidays} {
		b := cal.NewBusinessCalendar()
		b.AddHoliday(list...)
		// Days on which a holiday falls that is kept on another day count as free with us too.
		for _, h := range list {
			b.AddHoliday(&cal.Holiday{Name: h.Name, Func: func(h2 *cal.Holiday, year int) time.Time { actual, _ := h.Calc(year); return actual }})
		}
		var c Calendar
		for i := range 400 {
			from := time.Date(2025, 1, 1, 12, 0, 0, 0, time.UTC).AddDate(0, 0, i*3)
			n := 1 + i%40
			want := b.WorkdaysFrom(from, n)
			if got := c.Working(DayOf(from), n, code); got != DayOf(want) {
				t.Fatalf("%d working days after %s in %s: %s, want %s", n, from.Format(time.DateOnly), code, got.Date().Format(time.DateOnly), want.Format(time.DateOnly))
			}
			if is := c.Works(DayOf(from), code); is != b.IsWorkday(from) {
				t.Fatalf("people work on %s in %s: %v", from.Format(time.DateOnly), code, is)
			}
		}
	}
}
