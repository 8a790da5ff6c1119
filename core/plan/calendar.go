package plan

import (
	"strings"
	"time"

	"lucidletter/core/field"
)

// Calendar tells which days people work on, by country and year. What it worked out once
// it keeps; one goroutine uses it at a time. The zero value is ready.
type Calendar struct {
	years map[countryYear]*year
	codes map[string]string // of countries as they are written
}

type countryYear struct {
	code string
	year int
}

// year says of each day from 1 January, counted from 0, whether it is free, and the name of
// its holiday.
type year struct {
	first Day // 1 January
	free  [366]bool
	over  [366]string
}

// Day is a day of the Gregorian calendar, counted from 1 January 1970.
type Day int

// DayOf gives the day that it is at a time, on the clock of its location.
func DayOf(at time.Time) Day {
	_, offset := at.Zone()
	return Day(floorDiv(at.Unix()+int64(offset), 86400))
}

func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

// Date gives the day as midnight in UTC.
func (d Day) Date() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// Weekday gives its day of the week; 1 January 1970 was a Thursday.
func (d Day) Weekday() time.Weekday {
	return time.Weekday((int(d)%7 + 7 + int(time.Thursday)) % 7)
}

// Works tells whether people work on a day in a country, with "" from Monday to Friday.
func (c *Calendar) Works(d Day, country string) bool {
	y := c.of(d, country)
	return !y.free[d-y.first]
}

// Holiday gives the name of the public holiday of a day in a country, or "".
func (c *Calendar) Holiday(d Day, country string) string {
	y := c.of(d, country)
	return y.over[d-y.first]
}

// Working gives the day that is n working days after another one; for 0 the day itself.
func (c *Calendar) Working(d Day, n int, country string) Day {
	for ; n > 0; n-- {
		d = c.Next(d+1, country)
	}
	return d
}

// Next gives the first working day that is not before a day. Where there is none within
// a year it gives the day itself.
func (c *Calendar) Next(d Day, country string) Day {
	for i := range Day(366) {
		if c.Works(d+i, country) {
			return d + i
		}
	}
	return d
}

// Before gives the last working day that is not after a day, in the same way.
func (c *Calendar) Before(d Day, country string) Day {
	for i := range Day(366) {
		if c.Works(d-i, country) {
			return d - i
		}
	}
	return d
}

func (c *Calendar) of(d Day, country string) *year {
	if c.years == nil {
		c.years, c.codes = map[countryYear]*year{}, map[string]string{}
	}
	code, ok := c.codes[country]
	if !ok {
		code = field.CountryCode(strings.TrimSpace(country))
		c.codes[country] = code
	}
	key := countryYear{code, yearOf(d)}
	y := c.years[key]
	if y == nil {
		y = yearIn(key)
		c.years[key] = y
	}
	return y
}

// yearOf gives the year of a day, by the arithmetic of the Gregorian calendar: 400 years
// have 146,097 days.
func yearOf(d Day) int {
	shifted := int(d) + 719468 // days since 1 March of the year 0
	era := int(floorDiv(int64(shifted), 146097))
	in := shifted - era*146097
	y := (in - in/1460 + in/36524 - in/146096) / 365
	if day := in - (365*y + y/4 - y/100); day >= 306 { // January and February count to the year before
		y++
	}
	return y + era*400
}

func yearIn(key countryYear) *year {
	y := &year{first: DayOf(time.Date(key.year, 1, 1, 0, 0, 0, 0, time.UTC))}
	weekend, other := weekends[key.code]
	if !other {
		weekend = [2]time.Weekday{time.Saturday, time.Sunday}
	}
	for i := range y.free {
		w := (y.first + Day(i)).Weekday()
		y.free[i] = w == weekend[0] || w == weekend[1]
	}
	// A holiday may be kept on another day, in the year before or after it too.
	for _, h := range holidaysOf[key.code] {
		for in := key.year - 1; in <= key.year+1; in++ {
			actual, observed := h.Calc(in)
			for _, at := range []time.Time{actual, observed} {
				if !at.IsZero() && at.Year() == key.year {
					y.free[at.YearDay()-1], y.over[at.YearDay()-1] = true, h.Name
				}
			}
		}
	}
	return y
}
