package plan

import (
	"maps"
	"slices"
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/ar"
	"github.com/rickar/cal/v2/at"
	"github.com/rickar/cal/v2/au"
	"github.com/rickar/cal/v2/be"
	"github.com/rickar/cal/v2/bg"
	"github.com/rickar/cal/v2/br"
	"github.com/rickar/cal/v2/ca"
	"github.com/rickar/cal/v2/ch"
	"github.com/rickar/cal/v2/cz"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/dk"
	"github.com/rickar/cal/v2/es"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/gr"
	"github.com/rickar/cal/v2/hr"
	"github.com/rickar/cal/v2/ie"
	"github.com/rickar/cal/v2/it"
	"github.com/rickar/cal/v2/jp"
	"github.com/rickar/cal/v2/lt"
	"github.com/rickar/cal/v2/lv"
	"github.com/rickar/cal/v2/mw"
	"github.com/rickar/cal/v2/nl"
	"github.com/rickar/cal/v2/no"
	"github.com/rickar/cal/v2/nz"
	"github.com/rickar/cal/v2/pl"
	"github.com/rickar/cal/v2/ro"
	"github.com/rickar/cal/v2/ru"
	"github.com/rickar/cal/v2/se"
	"github.com/rickar/cal/v2/si"
	"github.com/rickar/cal/v2/sk"
	"github.com/rickar/cal/v2/ua"
	"github.com/rickar/cal/v2/us"
	"github.com/rickar/cal/v2/za"
)

// known are the public holidays of countries (ISO 3166-1), those of their regions left out.
func known() map[string][]*cal.Holiday {
	out := map[string][]*cal.Holiday{
		"AR": ar.Holidays,
		"AT": at.Holidays,
		"AU": au.HolidaysACT,
		"BE": be.Holidays,
		"BG": bg.Holidays,
		"BR": br.Holidays,
		"CA": ca.Holidays,
		"CH": ch.Holidays,
		"CZ": cz.Holidays,
		"DE": de.Holidays,
		"DK": dk.Holidays,
		"ES": es.Holidays,
		"FR": fr.Holidays,
		"GB": gb.Holidays,
		"GR": gr.Holidays,
		"HR": hr.Holidays,
		"IE": ie.Holidays,
		"IT": it.Holidays,
		"JP": jp.Holidays,
		"LT": lt.Holidays,
		"LV": lv.Holidays,
		"MW": mw.Holidays,
		"NL": nl.Holidays,
		"NO": no.Holidays,
		"NZ": nz.Holidays,
		"PL": pl.Holidays,
		"RO": ro.Holidays,
		"RU": ru.Holidays,
		"SE": se.Holidays,
		"SI": si.Holidays,
		"SK": sk.Holidays,
		"UA": ua.Holidays,
		"US": us.Holidays,
		"ZA": za.Holidays,
	}
	for code, list := range later {
		out[code] = append(slices.Clip(out[code]), list...)
	}
	return out
}

// later are holidays that laws brought since the lists above were made, or that they have wrong.
var later = map[string][]*cal.Holiday{
	// Good Friday, and what Ley 27.399 moves to a Monday.
	"AR": {
		{Name: "Viernes Santo", Offset: -2, Func: cal.CalcEasterOffset}, toMonday("Güemes", time.June, 17), toMonday("San Martín", time.August, 17),
		toMonday("Diversidad Cultural", time.October, 12), toMonday("Soberanía Nacional", time.November, 20),
	},
	"BR": {yearly("Dia da Consciência Negra", time.November, 20, 2024)}, // Lei 14.759/2023
	"IT": {yearly("San Francesco", time.October, 4, 2026)},              // Legge 151/2025
	"NZ": {{Name: "Matariki", StartYear: 2022, EndYear: 2021 + len(matarikiDays), Func: matariki}},
	"PL": {yearly("Wigilia", time.December, 24, 2025)},
	"RO": {yearly("Bobotează", time.January, 6, 2024), yearly("Sfântul Ioan", time.January, 7, 2024)}, // Legea 52/2023
	"RU": {yearly("Новогодние каникулы", time.January, 2, 2013), yearly("Новогодние каникулы", time.January, 8, 2013)},
	"UA": {yearly("День Української Державності", time.July, 15, 2024), yearly("День захисників і захисниць України", time.October, 1, 2023)},
}

func yearly(name string, month time.Month, day, from int) *cal.Holiday {
	return &cal.Holiday{Name: name, Month: month, Day: day, StartYear: from, Func: cal.CalcDayOfMonth}
}

// toMonday is a holiday that is kept on the Monday before when it falls on a Tuesday or
// Wednesday, and on the Monday after on a Thursday or Friday.
func toMonday(name string, month time.Month, day int) *cal.Holiday {
	return &cal.Holiday{Name: name, Month: month, Day: day, Func: func(h *cal.Holiday, year int) time.Time {
		at := cal.CalcDayOfMonth(h, year)
		switch at.Weekday() {
		case time.Tuesday, time.Wednesday:
			return at.AddDate(0, 0, int(time.Monday-at.Weekday()))
		case time.Thursday, time.Friday:
			return at.AddDate(0, 0, 8-int(at.Weekday()))
		}
		return at
	}}
}

// matarikiDays are months and days from 2022 on: Te Kāhui o Matariki Public Holiday Act 2022,
// Schedule 1.
var matarikiDays = [...]int{
	624, 714, 628, 620, 710, 625, 714, 706, 621, 711, 702, 624, 707, 629, 718, 710,
	625, 715, 706, 719, 711, 703, 624, 707, 629, 719, 703, 625, 715, 630, 621,
}

func matariki(_ *cal.Holiday, year int) time.Time {
	md := matarikiDays[year-2022]
	return time.Date(year, time.Month(md/100), md%100, 0, 0, 0, 0, cal.DefaultLoc)
}

var holidaysOf = known()

// Countries are the codes of the countries whose holidays are known, in their order.
func Countries() []string { return slices.Sorted(maps.Keys(holidaysOf)) }
