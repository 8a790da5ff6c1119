package plan

import (
	"testing"
	"time"
	_ "time/tzdata"
)

func load(t *testing.T, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return z
}

func TestZoneOf(t *testing.T) {
	if ZoneOf("Denmark") != "Europe/Copenhagen" || ZoneOf("US") != "" || ZoneOf("") != "" {
		t.Error("zones of countries")
	}
}

func TestWorkingMorning(t *testing.T) {
	for _, c := range []struct{ now, zone, country, want, over string }{
		{"2026-11-25T07:59:00Z", "Europe/Berlin", "Germany", "2026-11-25T08:00:00Z", ""}, // 08:59 there
		{"2026-11-25T07:58:00Z", "Europe/London", "GB", "2026-11-25T09:00:00Z", ""},
		{"2026-11-25T09:00:00Z", "Europe/London", "GB", "2026-11-26T09:00:00Z", ""}, // nine is over at nine
		{"2026-11-27T12:00:00Z", "Europe/London", "GB", "2026-11-30T09:00:00Z", ""},
		{"2026-12-24T12:00:00Z", "Europe/London", "United Kingdom", "2026-12-29T09:00:00Z", "Boxing Day"},
		{"2026-11-25T15:00:00Z", "America/New_York", "US", "2026-11-27T14:00:00Z", "Thanksgiving Day"},
		{"2026-11-25T23:30:00Z", "Asia/Tokyo", "JP", "2026-11-26T00:00:00Z", ""},         // it is the 26th there
		{"2026-03-27T12:00:00Z", "Europe/Berlin", "DE", "2026-03-30T07:00:00Z", ""},      // summer time begins
		{"2026-11-26T12:00:00Z", "Asia/Jerusalem", "Israel", "2026-11-29T07:00:00Z", ""}, // Friday and Saturday are free
		{"2026-11-27T12:00:00Z", "UTC", "", "2026-11-30T09:00:00Z", ""},
	} {
		now, _ := time.Parse(time.RFC3339, c.now)
		at, over := WorkingMorning(now, load(t, c.zone), c.country)
		if got := at.UTC().Format(time.RFC3339); got != c.want || over != c.over {
			t.Errorf("%s in %s (%s): %s %q, want %s %q", c.now, c.zone, c.country, got, over, c.want, c.over)
		}
	}
}
