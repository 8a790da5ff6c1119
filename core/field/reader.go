package field

import (
	"slices"
	"strings"

	"github.com/nyaruka/phonenumbers"
)

// Form says how an occurrence wants its value written. The empty Form is the
// type's own: dates long, numbers and money in the reader's form.
type Form string

// The forms: the first four are CLDR's short, medium, long and full date
// patterns; Plain is the canonical form.
const (
	Short   Form = "short"
	Medium  Form = "medium"
	LongDay Form = "long"
	Weekday Form = "weekday"
	Plain   Form = "plain"
	// Relative is "in 3 days".
	Relative Form = "relative"
)

// FormsOf gives the forms that a type of field can be written in; none for
// types with a single form.
func FormsOf(t Type) []Form {
	switch t {
	case Date:
		return []Form{Short, Medium, LongDay, Weekday, Relative, Plain}
	case Number, Money:
		return []Form{Plain}
	}
	return nil
}

// Takes tells whether a type of field can be written in this form.
func (f Form) Takes(t Type) bool { return f == "" || slices.Contains(FormsOf(t), f) }

// Reader writes values in the language and habits of the one who reads the
// letter. Make it once for a locale; Append may be called from several
// goroutines.
type Reader struct {
	locale string
	region string
	words  *localeWords
}

// NewReader makes the reader of a locale such as "de-AT" or "pt". One that KnownLocale
// refuses, or none, reads English as written in Britain.
func NewReader(locale string) *Reader {
	tag, ok := KnownLocale(locale)
	if !ok {
		tag = "en-GB"
	}
	return &Reader{locale: tag, region: regionOf(tag), words: wordsOfLocale(tag)}
}

// Locale is the locale in force, such as "en-GB".
func (r *Reader) Locale() string { return r.locale }

// Append writes the value as this reader reads it. A missing value writes
// nothing. A line break in a value that stands on one line becomes a space.
func (r *Reader) Append(dst []byte, v Value, as Form) []byte {
	switch {
	case v.Type == "":
		return dst
	case as == Plain:
		return v.AppendPlain(dst)
	}
	switch v.Type {
	case Date:
		return r.words.appendDate(dst, v.Day(), as)
	case Number:
		return r.words.appendNumber(dst, v.Units, v.Scale)
	case Money:
		return r.words.appendMoney(dst, v.Units, v.Scale, v.Text)
	case YesNo:
		return append(dst, r.words.YesNo[v.Units&1]...)
	case Long:
		return append(dst, v.Text...)
	case Phone:
		return append(dst, r.phone(v.Text)...)
	}
	if strings.IndexFunc(v.Text, isBreak) < 0 {
		return append(dst, v.Text...)
	}
	return append(dst, plainLine(v.Text)...)
}

// phone writes a number that is given with its country code (E.164, spaces
// allowed) in the national form for a reader of the same country, else in the
// international one. What is no such number is written as it stands.
func (r *Reader) phone(s string) string {
	if !strings.HasPrefix(s, "+") {
		return plainLine(s)
	}
	n, err := phonenumbers.Parse(s, "")
	if err != nil || !phonenumbers.IsPossibleNumber(n) {
		return plainLine(s)
	}
	if phonenumbers.GetRegionCodeForNumber(n) == r.region {
		return phonenumbers.Format(n, phonenumbers.NATIONAL)
	}
	return phonenumbers.Format(n, phonenumbers.INTERNATIONAL)
}

// plainLine puts a space for every break and control character.
func plainLine(s string) string {
	return strings.Map(func(c rune) rune {
		if isBreak(c) {
			return ' '
		}
		return c
	}, s)
}
