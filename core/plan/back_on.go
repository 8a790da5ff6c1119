package plan

import (
	"regexp"
	"strconv"
	"strings"
	"time"
)

// The words of automatic answers behind which the day of return stands, and those
// that say the last day away; English, German, French, Spanish, Italian and Dutch
// (common practice, no source).
var (
	backWords  = regexp.MustCompile(`(?i)\b(back (?:in the office |at work |at my desk )?(?:on|from)?|return(?:ing)?(?: to the office)?(?: on)?|available again(?: from| on)?|wieder (?:im büro |da |erreichbar )?(?:ab|am)|ab dem|zurück (?:am|ab)|de retour (?:le|au bureau le)|à partir du|de vuelta el|vuelvo el|a partir del|di ritorno il|torno il|dal|weer (?:aanwezig|terug) (?:op|vanaf)|terug op)\b`)
	untilWords = regexp.MustCompile(`(?i)\b(until|till|through|thru|up to and including|bis(?: zum| einschließlich)?|jusqu['’]au|hasta el|fino al|tot(?: en met)?)\b`)
	dayWords   = regexp.MustCompile(`(?i)^\W*(?:(?:the|and including|einschließlich|inclusive|mon|tue|wed|thu|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday|montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag|lundi|mardi|mercredi|jeudi|vendredi|samedi|dimanche|lunes|martes|miércoles|jueves|viernes|lunedì|martedì|mercoledì|giovedì|venerdì|maandag|dinsdag|woensdag|donderdag|vrijdag|den|dem|le|el|il|de)[\s,.]+)*`)
	isoDate    = regexp.MustCompile(`^(\d{4})-(\d{1,2})-(\d{1,2})`)
	dotDate    = regexp.MustCompile(`^(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4}|\d{2})?`)
	slashDate  = regexp.MustCompile(`^(\d{1,2})[/-](\d{1,2})(?:[/-](\d{4}|\d{2}))?`)
	dayMonth   = regexp.MustCompile(`^(\d{1,2})(?:st|nd|rd|th|er|\.|º)?\s+(?:of |de |di )?(\pL+)\.?(?:,?\s+(?:de )?(\d{4}))?`)
	monthDay   = regexp.MustCompile(`^(\pL+)\.?\s+(\d{1,2})(?:st|nd|rd|th)?(?:,?\s+(\d{4}))?`)
	weekdayIn  = regexp.MustCompile(`(?i)^\W*(?:next )?(monday|tuesday|wednesday|thursday|friday|montag|dienstag|mittwoch|donnerstag|freitag)`)
)

// months by the first letters of their names in the languages above.
var months = monthNames()

func monthNames() map[string]time.Month {
	out := map[string]time.Month{}
	for i, names := range [...]string{
		"january jan januar jänner janvier enero gennaio januari", "february feb februar février fevrier fév febrero febbraio februari",
		"march mar märz maerz mrz mars marzo maart", "april apr avril avr abril aprile", "may mai mayo maggio mei", "june jun juni juin junio giugno",
		"july jul juli juillet julio luglio", "august aug août aout agosto augustus", "september sep sept septembre septiembre settembre",
		"october oct oktober okt octobre octubre ottobre", "november nov novembre noviembre", "december dec dezember dez décembre decembre diciembre dicembre",
	} {
		for name := range strings.FieldsSeq(names) {
			out[name] = time.Month(i + 1)
		}
	}
	return out
}

// lookedAt is how many bytes of an answer are read for a date; it stands at the top.
const lookedAt = 8 << 10

// BackOn reads from an automatic answer the day on which its writer is back: the
// working day after a last day away, or the day of return itself. Dates without a
// year are the next ones; one with a slash whose order is not certain is not read.
// It tells false where none is stated, or it is not within a year of the day the
// answer came.
func BackOn(text string, came time.Time) (time.Time, bool) {
	text = text[:min(len(text), lookedAt)]
	day := time.Date(came.Year(), came.Month(), came.Day(), 0, 0, 0, 0, time.UTC)
	if at, ok := dateAfter(backWords, text, day); ok {
		return at, true
	}
	at, ok := dateAfter(untilWords, text, day)
	if !ok {
		return at, false
	}
	at = at.AddDate(0, 0, 1)
	for at.Weekday() == time.Saturday || at.Weekday() == time.Sunday {
		at = at.AddDate(0, 0, 1)
	}
	return at, true
}

func dateAfter(words *regexp.Regexp, text string, came time.Time) (time.Time, bool) {
	for _, at := range words.FindAllStringIndex(text, -1) {
		rest := text[at[1]:]
		if day, ok := weekday(rest, came); ok {
			rest2 := dayWords.ReplaceAllString(rest, "")
			if exact, ok := readDate(rest2, came); ok {
				return exact, true
			}
			return day, true
		}
		if day, ok := readDate(dayWords.ReplaceAllString(rest, ""), came); ok {
			return day, true
		}
	}
	return time.Time{}, false
}

var weekdays = map[string]time.Weekday{
	"monday": 1, "tuesday": 2, "wednesday": 3, "thursday": 4, "friday": 5, "montag": 1, "dienstag": 2, "mittwoch": 3, "donnerstag": 4, "freitag": 5,
}

// weekday reads a day of the week alone: the next one.
func weekday(rest string, came time.Time) (time.Time, bool) {
	m := weekdayIn.FindStringSubmatch(rest)
	if m == nil {
		return time.Time{}, false
	}
	at := came.AddDate(0, 0, 1)
	for at.Weekday() != weekdays[strings.ToLower(m[1])] {
		at = at.AddDate(0, 0, 1)
	}
	return at, true
}

func readDate(rest string, came time.Time) (time.Time, bool) {
	switch {
	case isoDate.MatchString(rest):
		m := isoDate.FindStringSubmatch(rest)
		return dateOf(m[1], m[2], m[3], came)
	case dotDate.MatchString(rest):
		m := dotDate.FindStringSubmatch(rest)
		return dateOf(m[3], m[2], m[1], came)
	case slashDate.MatchString(rest):
		m := slashDate.FindStringSubmatch(rest)
		first, second := number(m[1]), number(m[2])
		switch {
		case first > 12 && second <= 12:
			return dateOf(m[3], m[2], m[1], came)
		case second > 12 && first <= 12:
			return dateOf(m[3], m[1], m[2], came)
		}
	case dayMonth.MatchString(rest):
		m := dayMonth.FindStringSubmatch(rest)
		if month, ok := months[strings.ToLower(m[2])]; ok {
			return dateOf(m[3], strconv.Itoa(int(month)), m[1], came)
		}
	case monthDay.MatchString(rest):
		m := monthDay.FindStringSubmatch(rest)
		if month, ok := months[strings.ToLower(m[1])]; ok {
			return dateOf(m[3], strconv.Itoa(int(month)), m[2], came)
		}
	}
	return time.Time{}, false
}

func number(s string) int {
	n, _ := strconv.Atoi(s) // digits, or nothing for 0
	return n
}

func dateOf(year, month, day string, came time.Time) (time.Time, bool) {
	y, m, d := number(year), number(month), number(day)
	next := year == ""
	switch {
	case next:
		y = came.Year()
	case y < 100:
		y += 2000
	}
	at := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	if m < 1 || m > 12 || at.Day() != d {
		return time.Time{}, false
	}
	if next && at.Before(came) {
		at = at.AddDate(1, 0, 0)
	}
	return at, !at.Before(came) && at.Before(came.AddDate(1, 0, 1))
}
