package field

import (
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// appendDate writes a day by the pattern of a form.
func (w *localeWords) appendDate(dst []byte, t time.Time, as Form) []byte {
	pattern := w.Dates[2]
	switch as {
	case Short:
		pattern = w.Dates[0]
	case Medium:
		pattern = w.Dates[1]
	case Weekday:
		pattern = w.Dates[3]
	}
	for {
		start := strings.IndexByte(pattern, '{')
		if start < 0 {
			return append(dst, pattern...)
		}
		dst = append(dst, pattern[:start]...)
		end := start + strings.IndexByte(pattern[start:], '}')
		switch token := pattern[start+1 : end]; token[0] {
		case 'd':
			dst = w.appendPadded(dst, t.Day(), len(token))
		case 'M':
			dst = w.appendPadded(dst, int(t.Month()), len(token))
		case 'y':
			year := t.Year()
			if len(token) == 2 {
				year %= 100
			}
			dst = w.appendPadded(dst, year, len(token))
		case 'E':
			dst = append(dst, w.Weekdays[t.Weekday()]...)
		case 'N':
			dst = append(dst, w.Months[token[1]-'0'][t.Month()-1]...)
		}
		pattern = pattern[end+1:]
	}
}

func (w *localeWords) appendPadded(dst []byte, n, width int) []byte {
	s := strconv.Itoa(n)
	for range width - len(s) {
		s = "0" + s
	}
	return w.appendDigits(dst, s)
}

// appendDigits writes ASCII digits in those of the locale.
func (w *localeWords) appendDigits(dst []byte, s string) []byte {
	if w.Number.Zero == "0" {
		return append(dst, s...)
	}
	zero, _ := utf8.DecodeRuneInString(w.Number.Zero)
	for i := range len(s) {
		dst = utf8.AppendRune(dst, zero+rune(s[i]-'0'))
	}
	return dst
}

// mostFraction is how many digits of a number are written behind its point.
const mostFraction = 6

func (w *localeWords) appendNumber(dst []byte, units int64, scale uint8) []byte {
	whole, fraction, negative := decimal(units, scale)
	if len(fraction) > mostFraction {
		whole, fraction = rounded(whole, fraction)
	}
	fraction = strings.TrimRight(fraction, "0")
	if negative {
		dst = append(dst, w.Number.Minus...)
	}
	return w.appendGrouped(dst, whole, fraction, w.Number.Point, w.Number.Group, w.Number.Sizes, w.Number.Least)
}

// decimal parts a scaled number into its digits.
func decimal(units int64, scale uint8) (whole, fraction string, negative bool) {
	s := strconv.FormatInt(units, 10)
	if s, negative = strings.CutPrefix(s, "-"); len(s) <= int(scale) {
		s = strings.Repeat("0", int(scale)+1-len(s)) + s
	}
	at := len(s) - int(scale)
	return s[:at], s[at:], negative
}

// rounded cuts a fraction to what is written of it, half away from zero.
func rounded(whole, fraction string) (string, string) {
	up := fraction[mostFraction] >= '5'
	digits := []byte(whole + fraction[:mostFraction])
	for i := len(digits) - 1; up && i >= 0; i-- {
		if digits[i]++; digits[i] <= '9' {
			up = false
		} else {
			digits[i] = '0'
		}
	}
	if up {
		digits = append([]byte{'1'}, digits...)
	}
	at := len(digits) - mostFraction
	return string(digits[:at]), string(digits[at:])
}

func (w *localeWords) appendGrouped(dst []byte, whole, fraction, point, group, sizes string, least int) []byte {
	last, others := int(sizes[0]-'0'), int(sizes[1]-'0')
	if group == "" || len(whole) < last+least {
		dst = w.appendDigits(dst, whole)
	} else {
		head := whole[:len(whole)-last]
		first := len(head) % others
		if first > 0 {
			dst = append(w.appendDigits(dst, head[:first]), group...)
		}
		for i := first; i < len(head); i += others {
			dst = append(w.appendDigits(dst, head[i:i+others]), group...)
		}
		dst = w.appendDigits(dst, whole[len(whole)-last:])
	}
	if fraction != "" {
		dst = w.appendDigits(append(dst, point...), fraction)
	}
	return dst
}

// appendMoney writes an amount with the sign of its currency. Between letters of a
// currency and digits stands a space (Unicode TR 35, part 3, section 2.3 "Currency
// spacing").
func (w *localeWords) appendMoney(dst []byte, units int64, scale uint8, code string) []byte {
	symbol := w.Symbols[code]
	if symbol == "" {
		symbol = code
	}
	whole, fraction, negative := decimal(units, scale)
	m, other := w.Others[code]
	if !other {
		m = w.Money
	}
	shape := m.Positive
	if negative {
		shape = m.Negative
	}
	before := rune(0) // what was written last
	for i, r := range shape {
		switch r {
		case '#':
			dst = w.appendGrouped(dst, whole, fraction, m.Point, m.Group, m.Sizes, m.Least)
		case '-':
			dst = append(dst, m.Minus...)
		case '¤':
			first, _ := utf8.DecodeRuneInString(symbol)
			if before == '#' && spaced(first) {
				dst = append(dst, "\u00a0"...)
			}
			dst = append(dst, symbol...)
			last, _ := utf8.DecodeLastRuneInString(symbol)
			if next, _ := utf8.DecodeRuneInString(shape[i+len("¤"):]); next == '#' && spaced(last) {
				dst = append(dst, "\u00a0"...)
			}
		default:
			dst = utf8.AppendRune(dst, r)
		}
		before = r
	}
	return dst
}

// spaced tells whether a sign of a currency is kept apart from digits.
func spaced(r rune) bool { return !unicode.In(r, unicode.S, unicode.Z) }

// List writes names as an enumeration: "Ada, Bo and Cy".
func (r *Reader) List(names []string) string {
	w := r.words.Lists
	var b strings.Builder
	for i, name := range names {
		switch {
		case i == 0:
		case len(names) == 2:
			b.WriteString(w[0])
		case i == len(names)-1:
			b.WriteString(w[3])
		case i == 1:
			b.WriteString(w[1])
		default:
			b.WriteString(w[2])
		}
		b.WriteString(name)
	}
	switch {
	case len(names) == 2:
		b.WriteString(w[4])
	case len(names) > 2:
		b.WriteString(w[5])
	}
	return b.String()
}
