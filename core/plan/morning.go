// Package plan computes when letters go: working days, holidays, mornings.
package plan

import (
	"maps"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/at"
	"github.com/rickar/cal/v2/au"
	"github.com/rickar/cal/v2/be"
	"github.com/rickar/cal/v2/ca"
	"github.com/rickar/cal/v2/ch"
	"github.com/rickar/cal/v2/cz"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/dk"
	"github.com/rickar/cal/v2/es"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/ie"
	"github.com/rickar/cal/v2/it"
	"github.com/rickar/cal/v2/nl"
	"github.com/rickar/cal/v2/no"
	"github.com/rickar/cal/v2/nz"
	"github.com/rickar/cal/v2/pl"
	"github.com/rickar/cal/v2/se"
	"github.com/rickar/cal/v2/us"
)

// MorningHour is when letters of a working morning go.
const MorningHour = 9

// holidays gives the public holidays of a country (ISO 3166-1), those of its
// regions left out.
func holidays(region string) []*cal.Holiday {
	switch region {
	case "AT":
		return at.Holidays
	case "AU":
		return au.HolidaysACT
	case "BE":
		return be.Holidays
	case "CA":
		return ca.Holidays
	case "CH":
		return ch.Holidays
	case "CZ":
		return cz.Holidays
	case "DE":
		return de.Holidays
	case "DK":
		return dk.Holidays
	case "ES":
		return es.Holidays
	case "FR":
		return fr.Holidays
	case "GB":
		return gb.Holidays
	case "IE":
		return ie.Holidays
	case "IT":
		return it.Holidays
	case "NL":
		return nl.Holidays
	case "NO":
		return no.Holidays
	case "NZ":
		return nz.Holidays
	case "PL":
		return pl.Holidays
	case "SE":
		return se.Holidays
	case "US":
		return us.Holidays
	}
	return nil
}

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

// Holiday gives the name of the public holiday of a day in a country, or "". The
// days of regions and of countries that are not known are none.
func Holiday(day time.Time, country string) string {
	for _, h := range holidays(field.CountryCode(country)) {
		actual, observed := h.Calc(day.Year())
		if sameDay(day, observed) || sameDay(day, actual) {
			return h.Name
		}
	}
	return ""
}

func sameDay(a, b time.Time) bool {
	return !b.IsZero() && a.Year() == b.Year() && a.Month() == b.Month() && a.Day() == b.Day()
}

// Works tells whether people work on a day in a country.
func Works(day time.Time, country string) bool {
	weekend, other := weekends[field.CountryCode(country)]
	if !other {
		weekend = [2]time.Weekday{time.Saturday, time.Sunday}
	}
	return day.Weekday() != weekend[0] && day.Weekday() != weekend[1] && Holiday(day, country) == ""
}

// WorkingMorning gives the next 9 o'clock of a working day, after now, in a zone
// and a country. Over is the last holiday that it waits for, or "".
func WorkingMorning(now time.Time, zone *time.Location, country string) (at time.Time, over string) {
	local := now.In(zone)
	for i := range 30 {
		at = time.Date(local.Year(), local.Month(), local.Day()+i, MorningHour, 0, 0, 0, zone)
		if !at.After(now) {
			continue
		}
		if Works(at, country) {
			return at, over
		}
		if h := Holiday(at, country); h != "" {
			over = h
		}
	}
	return at, over
}
