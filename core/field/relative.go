package field

import (
	"strconv"
	"strings"
)

// days holds how a language says a number of days from today: CLDR, main/*.xml,
// fields/day (relative and relativeTime), checked against Node's
// Intl.RelativeTimeFormat with numeric "auto" in e2e/tests. {0} is the number.
type days struct {
	near   map[int64]string
	future func(n int64) string
	past   func(n int64) string
}

func same(pattern string) func(int64) string { return func(int64) string { return pattern } }

var relativeDays = map[string]days{
	"en": {map[int64]string{-1: "yesterday", 0: "today", 1: "tomorrow"}, same("in {0} days"), same("{0} days ago")},
	"de": {map[int64]string{-2: "vorgestern", -1: "gestern", 0: "heute", 1: "morgen", 2: "übermorgen"}, same("in {0} Tagen"), same("vor {0} Tagen")},
	"fr": {map[int64]string{-2: "avant-hier", -1: "hier", 0: "aujourd’hui", 1: "demain", 2: "après-demain"}, same("dans {0} jours"), same("il y a {0} jours")},
	"es": {map[int64]string{-2: "anteayer", -1: "ayer", 0: "hoy", 1: "mañana", 2: "pasado mañana"}, same("dentro de {0} días"), same("hace {0} días")},
	"it": {map[int64]string{-2: "l’altro ieri", -1: "ieri", 0: "oggi", 1: "domani", 2: "dopodomani"}, same("tra {0} giorni"), same("{0} giorni fa")},
	"nl": {map[int64]string{-2: "eergisteren", -1: "gisteren", 0: "vandaag", 1: "morgen", 2: "overmorgen"}, same("over {0} dagen"), same("{0} dagen geleden")},
	"pl": {map[int64]string{-2: "przedwczoraj", -1: "wczoraj", 0: "dzisiaj", 1: "jutro", 2: "pojutrze"}, same("za {0} dni"), same("{0} dni temu")},
	"ja": {map[int64]string{-2: "一昨日", -1: "昨日", 0: "今日", 1: "明日", 2: "明後日"}, same("{0} 日後"), same("{0} 日前")},
	"ar": {map[int64]string{-2: "أول أمس", -1: "أمس", 0: "اليوم", 1: "غدًا", 2: "بعد الغد"},
		func(n int64) string { return "خلال {0} " + arabicDays(n) }, func(n int64) string { return "قبل {0} " + arabicDays(n) }},
}

// arabicDays follows the plural rules of CLDR for Arabic: few, many, other.
func arabicDays(n int64) string {
	switch n %= 100; {
	case n >= 3 && n <= 10:
		return "أيام"
	case n >= 11:
		return "يومًا"
	}
	return "يوم"
}

// AppendRelative writes a date as a distance from today: "in 3 days".
func (r *Reader) AppendRelative(dst []byte, v, today Value) []byte {
	lang, _, _ := strings.Cut(r.dates.Locale(), "_")
	words, ok := relativeDays[lang]
	if !ok || v.Type != Date || today.Type != Date {
		return r.Append(dst, v, "")
	}
	n := v.Units - today.Units
	if near, ok := words.near[n]; ok {
		return append(dst, near...)
	}
	pattern := words.future
	if n < 0 {
		pattern, n = words.past, -n
	}
	number := r.Append(nil, Value{Type: Number, Units: n}, "")
	if lang == "es" && n < 10000 {
		number = strconv.AppendInt(nil, n, 10)
	}
	return append(dst, strings.Replace(pattern(n), "{0}", string(number), 1)...)
}
