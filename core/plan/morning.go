// Package plan computes when letters go: working days, holidays, mornings.
package plan

import (
	"maps"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
)

// MorningHour is when letters of a working morning go.
const MorningHour = 9

// zones of the countries that have one, by ISO 3166-1 (tz database, zone1970.tab).
var zones = map[string]string{
	"AT": "Europe/Vienna", "BE": "Europe/Brussels", "CH": "Europe/Zurich", "CZ": "Europe/Prague", "DE": "Europe/Berlin", "DK": "Europe/Copenhagen",
	"FR": "Europe/Paris", "GB": "Europe/London", "IE": "Europe/Dublin", "IT": "Europe/Rome", "NL": "Europe/Amsterdam", "NO": "Europe/Oslo",
	"PL": "Europe/Warsaw", "SE": "Europe/Stockholm", "FI": "Europe/Helsinki", "EE": "Europe/Tallinn", "LV": "Europe/Riga", "LT": "Europe/Vilnius",
	"HU": "Europe/Budapest", "SK": "Europe/Bratislava", "SI": "Europe/Ljubljana", "HR": "Europe/Zagreb", "RO": "Europe/Bucharest", "BG": "Europe/Sofia",
	"GR": "Europe/Athens", "LU": "Europe/Luxembourg", "LI": "Europe/Vaduz", "IS": "Atlantic/Reykjavik", "MT": "Europe/Malta", "RS": "Europe/Belgrade",
	"TR": "Europe/Istanbul", "IL": "Asia/Jerusalem", "JP": "Asia/Tokyo", "KR": "Asia/Seoul", "IN": "Asia/Kolkata", "SG": "Asia/Singapore", "HK": "Asia/Hong_Kong",
	"TW": "Asia/Taipei", "TH": "Asia/Bangkok", "AE": "Asia/Dubai", "SA": "Asia/Riyadh", "EG": "Africa/Cairo", "ZA": "Africa/Johannesburg", "CO": "America/Bogota", "PE": "America/Lima",
}

// ZoneOf gives the time zone of a country that has one, or "".
func ZoneOf(country string) string { return zones[field.CountryCode(country)] }

// SuggestZones gives time zones that may be meant by words that name none: those of
// the country, and those in whose name the words stand; at least one, at most three.
func SuggestZones(words, country string) []string {
	var out []string
	add := func(zone string) {
		if zone != "" && len(out) < 3 && !slices.Contains(out, zone) {
			out = append(out, zone)
		}
	}
	add(ZoneOf(words))
	add(ZoneOf(country))
	words = strings.ToLower(strings.ReplaceAll(strings.TrimSpace(words), " ", "_"))
	for _, zone := range slices.Sorted(maps.Values(zones)) {
		if words != "" && strings.Contains(strings.ToLower(zone), words) {
			add(zone)
		}
	}
	for _, zone := range []string{"Europe/London", "Europe/Berlin", "America/New_York"} {
		add(zone)
	}
	return out
}

// weekends that are not Saturday and Sunday (CLDR, supplemental weekData,
// weekendStart and weekendEnd; from memory).
var weekends = map[string][2]time.Weekday{
	"BH": {time.Friday, time.Saturday}, "DZ": {time.Friday, time.Saturday}, "EG": {time.Friday, time.Saturday}, "IL": {time.Friday, time.Saturday},
	"IQ": {time.Friday, time.Saturday}, "JO": {time.Friday, time.Saturday}, "KW": {time.Friday, time.Saturday}, "LY": {time.Friday, time.Saturday},
	"OM": {time.Friday, time.Saturday}, "QA": {time.Friday, time.Saturday}, "SA": {time.Friday, time.Saturday}, "SD": {time.Friday, time.Saturday},
	"SY": {time.Friday, time.Saturday}, "YE": {time.Friday, time.Saturday},
}

// WorkingMorning gives the next 9 o'clock of a working day, after now, in a zone
// and a country. Over is the last holiday that it waits for, or "".
func WorkingMorning(now time.Time, zone *time.Location, country string) (at time.Time, over string) {
	var c Calendar
	for day := DayOf(now.In(zone)); ; day++ {
		at = At(day, MorningHour*60, zone)
		if !at.After(now) {
			continue
		}
		if c.Works(day, country) {
			return at, over
		}
		if h := c.Holiday(day, country); h != "" {
			over = h
		}
	}
}

// Today gives when the day of now begins and ends on the clock of a zone or a country, UTC
// where neither is known.
func Today(now time.Time, zone, country string) (from, to time.Time) {
	z := Zone(zone, country)
	if z == nil {
		z = time.UTC
	}
	day := DayOf(now.In(z))
	return At(day, 0, z).UTC(), At(day+1, 0, z).UTC()
}

// Zone gives a time zone by its name, or that of a country which has one; nil for none.
func Zone(name, country string) *time.Location {
	for _, one := range []string{name, ZoneOf(country)} {
		if one == "" || one == "Local" {
			continue
		}
		if z, err := time.LoadLocation(one); err == nil {
			return z
		}
	}
	return nil
}
