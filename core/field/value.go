// Package field holds what a merge field is and what its value is: the typed
// values, the catalogue of field paths, and how a value is written for a reader.
//
// Canonical forms (import files, JSON data, the command line):
//
//	text, long, choice, email, phone, url   the text itself
//	number   "12.5"            at most 18 digits, a point as decimal mark
//	money    "12500.00 EUR"    ISO 4217 code behind the amount
//	date     "2026-03-02"      ISO 8601 calendar date
//	yesno    "true" / "false"
//
// Limits: one-line values 1,000 bytes, long text 100,000 bytes, 18 digits in a
// number. Everything is computed from its arguments: no clock, no globals.
package field

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/bojanz/currency"
)

// Type tells what a value is and how it is written.
type Type string

// The types of fields, named as they stand in files and in the API.
const (
	Text   Type = "text"
	Long   Type = "long"
	Number Type = "number"
	Money  Type = "money"
	Date   Type = "date"
	YesNo  Type = "yesno"
	Choice Type = "choice"
	Email  Type = "email"
	Phone  Type = "phone"
	URL    Type = "url"
)

// Types lists the types that an own field can have.
func Types() []Type { return []Type{Text, Long, Number, Money, Date, YesNo, Choice, Email, Phone, URL} }

// Textual tells whether the values of a type are words on one line, written the
// same for every reader.
func (t Type) Textual() bool {
	return t == Text || t == Choice || t == Email || t == URL
}

// Limits of a value.
const (
	MaxLine   = 1000   // bytes of a one-line value
	MaxLong   = 100000 // bytes of a long text
	maxDigits = 18
)

// Value is one typed value. The zero Value is a missing one.
//
// Units holds the number or amount scaled by ten to the power of Scale, a date
// as days since 1970-01-01, or 1 for yes; Text holds the words of every other
// type, and the currency code of money.
type Value struct {
	Text  string
	Units int64
	Scale uint8
	Type  Type
}

// Filled tells whether the value can be written. A yes/no that is no counts as
// empty, 0 is filled.
func (v Value) Filled() bool {
	switch v.Type {
	case "":
		return false
	case Number, Money, Date:
		return true
	case YesNo:
		return v.Units == 1
	default:
		return v.Text != ""
	}
}

// Of makes a text value; empty or blank text makes a missing one.
func Of(text string) Value {
	text = strings.TrimSpace(text)
	if text == "" {
		return Value{}
	}
	return Value{Type: Text, Text: text}
}

// DateOf makes a date value of the calendar day that t shows in its zone.
func DateOf(t time.Time) Value {
	day := time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
	return Value{Type: Date, Units: day.Unix() / 86400}
}

// Day gives a date value as midnight UTC of its day.
func (v Value) Day() time.Time { return time.Unix(v.Units*86400, 0).UTC() }

// MoneyOf makes an amount from minor units (cents) and an ISO 4217 code.
func MoneyOf(minor int64, code string) Value {
	digits, _ := currency.GetDigits(code)
	return Value{Type: Money, Units: minor, Scale: digits, Text: code}
}

// ErrTooLong is returned by Parse for text over the limits.
var ErrTooLong = errors.New("too long")

// Parse reads the canonical form of a value. Empty or blank text gives the
// missing Value and no error. Choices are the allowed words of a choice field.
// The error says what was expected, for a person to read.
func Parse(t Type, s string, choices []string) (Value, error) {
	s = strings.TrimSpace(s)
	if s == "" {
		return Value{}, nil
	}
	if !utf8.ValidString(s) {
		return Value{}, errors.New("is not valid UTF-8 text")
	}
	if t == Long {
		if len(s) > MaxLong {
			return Value{}, fmt.Errorf("is longer than %d bytes: %w", MaxLong, ErrTooLong)
		}
		return Value{Type: Long, Text: strings.ReplaceAll(s, "\r\n", "\n")}, nil
	}
	if len(s) > MaxLine {
		return Value{}, fmt.Errorf("is longer than %d bytes: %w", MaxLine, ErrTooLong)
	}
	if strings.ContainsFunc(s, isBreak) {
		return Value{}, errors.New("holds a line break or control character; put it on one line")
	}
	switch t {
	case Number:
		units, scale, err := parseDecimal(s)
		if err != nil {
			return Value{}, err
		}
		return Value{Type: Number, Units: units, Scale: scale}, nil
	case Money:
		return parseMoney(s)
	case Date:
		day, err := time.Parse(time.DateOnly, s)
		if err != nil {
			return Value{}, fmt.Errorf("%q is not a date; write it as 2026-03-02", s)
		}
		return DateOf(day), nil
	case YesNo:
		return parseYesNo(s)
	case Choice:
		for _, c := range choices {
			if strings.EqualFold(c, s) {
				return Value{Type: Choice, Text: c}, nil
			}
		}
		return Value{}, fmt.Errorf("%q is not one of %s", s, strings.Join(choices, ", "))
	case Email:
		if err := CheckEmail(s); err != nil {
			return Value{}, err
		}
	case URL:
		if err := checkURL(s); err != nil {
			return Value{}, err
		}
	}
	return Value{Type: t, Text: s}, nil
}

func isBreak(r rune) bool {
	return unicode.IsControl(r) || r == '\u2028' || r == '\u2029'
}

func parseYesNo(s string) (Value, error) {
	switch strings.ToLower(s) {
	case "true", "yes", "1":
		return Value{Type: YesNo, Units: 1}, nil
	case "false", "no", "0":
		return Value{Type: YesNo}, nil
	}
	return Value{}, fmt.Errorf("%q is not true or false", s)
}

func parseMoney(s string) (Value, error) {
	amount, code, ok := strings.Cut(s, " ")
	code = strings.ToUpper(strings.TrimSpace(code))
	if !ok || !currency.IsValid(code) {
		return Value{}, fmt.Errorf("%q is not an amount; write it as 12500.00 EUR", s)
	}
	units, scale, err := parseDecimal(amount)
	if err != nil {
		return Value{}, err
	}
	digits, _ := currency.GetDigits(code)
	for ; scale < digits; scale++ {
		if units > 1e17 || units < -1e17 {
			return Value{}, fmt.Errorf("%q has more than %d digits", s, maxDigits)
		}
		units *= 10
	}
	if scale > digits {
		return Value{}, fmt.Errorf("%q has more than %d decimals", s, digits)
	}
	return Value{Type: Money, Units: units, Scale: digits, Text: code}, nil
}

func parseDecimal(s string) (int64, uint8, error) {
	whole, frac, point := strings.Cut(s, ".")
	digits := strings.TrimPrefix(whole, "-") + frac
	if digits == "" || strings.Trim(digits, "0123456789") != "" || (point && frac == "") {
		return 0, 0, fmt.Errorf("%q is not a number; write it as 1234.5", s)
	}
	if len(digits) > maxDigits {
		return 0, 0, fmt.Errorf("%q has more than %d digits", s, maxDigits)
	}
	units, err := strconv.ParseInt(whole+frac, 10, 64)
	if err != nil {
		return 0, 0, fmt.Errorf("%q is not a number; write it as 1234.5", s)
	}
	return units, uint8(len(frac)), nil
}

// AppendPlain writes the canonical form that Parse reads.
func (v Value) AppendPlain(dst []byte) []byte {
	switch v.Type {
	case Number:
		return appendDecimal(dst, v.Units, v.Scale)
	case Money:
		dst = appendDecimal(dst, v.Units, v.Scale)
		dst = append(dst, ' ')
		return append(dst, v.Text...)
	case Date:
		return v.Day().AppendFormat(dst, time.DateOnly)
	case YesNo:
		return strconv.AppendBool(dst, v.Units == 1)
	default:
		return append(dst, v.Text...)
	}
}

// String gives the canonical form.
// MinorUnits gives an amount in the smallest unit of its currency, such as cents; an
// error when it has more decimals than that, or is no amount. A missing one is 0.
func MinorUnits(v Value) (int64, error) {
	if v.Type == "" {
		return 0, nil
	}
	if v.Type != Money {
		return 0, errors.New("is no amount")
	}
	units, scale := v.Units, v.Scale
	for want := MoneyOf(0, v.Text).Scale; scale != want; {
		switch {
		case scale < want:
			if units > math.MaxInt64/10 || units < math.MinInt64/10 {
				return 0, errors.New("is too large")
			}
			units, scale = units*10, scale+1
		case units%10 != 0:
			return 0, fmt.Errorf("has more than %d decimals", want)
		default:
			units, scale = units/10, scale-1
		}
	}
	return units, nil
}

func (v Value) String() string { return string(v.AppendPlain(nil)) }

func appendDecimal(dst []byte, units int64, scale uint8) []byte {
	if units < 0 {
		dst = append(dst, '-')
		units = -units
	}
	digits := strconv.FormatInt(units, 10)
	if pad := int(scale) + 1 - len(digits); pad > 0 {
		digits = strings.Repeat("0", pad) + digits
	}
	at := len(digits) - int(scale)
	dst = append(dst, digits[:at]...)
	if scale > 0 {
		dst = append(dst, '.')
		dst = append(dst, digits[at:]...)
	}
	return dst
}

// Compare orders two values: numbers, amounts of one currency and dates by
// size, texts by equality alone (0, or 1 when they differ; upper and lower
// case count as the same). It gives false for what cannot be compared: a
// missing value, two types, two currencies.
func Compare(a, b Value) (order int, comparable bool) {
	if a.Type == "" || b.Type == "" {
		return 0, false
	}
	switch a.Type {
	case Number, Money, Date, YesNo:
		// A figure without its currency is compared with any.
		if a.Type != b.Type || a.Type == Money && a.Text != b.Text && a.Text != "" && b.Text != "" {
			return 0, false
		}
		return compareDecimal(a, b), true
	}
	if strings.EqualFold(a.Text, b.Text) {
		return 0, true
	}
	return 1, b.Type != Number && b.Type != Money && b.Type != Date
}

// compareDecimal compares numbers of up to 18 digits and different scales
// without overflow: whole parts first, then what is left at a common scale.
func compareDecimal(a, b Value) int {
	wholeA, restA := split(a)
	wholeB, restB := split(b)
	if wholeA != wholeB {
		return sign(wholeA, wholeB)
	}
	return sign(restA, restB)
}

// split gives the whole part, rounded down, and the rest in units of 10^-18.
func split(v Value) (whole, rest int64) {
	unit := int64(1)
	for range v.Scale {
		unit *= 10
	}
	whole, rest = v.Units/unit, v.Units%unit
	if rest < 0 {
		whole, rest = whole-1, rest+unit
	}
	for range maxDigits - int(v.Scale) {
		rest *= 10
	}
	return whole, rest
}

func sign(a, b int64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// OrderKey gives a text by which numbers sort, and amounts of one currency after another, as
// Compare orders them.
func OrderKey(v Value) string {
	whole, rest := split(v)
	return fmt.Sprintf("%s %020d.%018d", v.Text, uint64(whole)+1<<63, rest)
}
