package field

import (
	"slices"
	"strings"
	"time"

	"github.com/bojanz/currency"
	"github.com/go-playground/locales"
	"github.com/go-playground/locales/ar_EG"
	"github.com/go-playground/locales/de"
	"github.com/go-playground/locales/en_GB"
	"github.com/go-playground/locales/en_US"
	"github.com/go-playground/locales/es"
	"github.com/go-playground/locales/fr"
	"github.com/go-playground/locales/it"
	"github.com/go-playground/locales/ja"
	"github.com/go-playground/locales/nl"
	"github.com/go-playground/locales/pl"
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
	dates  locales.Translator
	region string
	arabic bool
	number *currency.Formatter
	money  *currency.Formatter
}

// NewReader makes the reader of a locale such as "de-DE" or "en". A language
// that is not known, or none, reads English as written in Britain.
func NewReader(locale string) *Reader {
	r := &Reader{dates: translator(locale)}
	r.region = regionOf(locale, r.dates.Locale())
	id := currency.NewLocale(strings.ReplaceAll(r.dates.Locale(), "_", "-"))
	r.money = currency.NewFormatter(id)
	r.number = currency.NewFormatter(id)
	r.number.CurrencyDisplay = currency.DisplayNone
	r.number.MinDigits, r.number.MaxDigits = 0, 6
	lang, _, _ := strings.Cut(r.dates.Locale(), "_")
	for _, code := range codes[lang] {
		r.money.SymbolMap[code] = code
	}
	r.arabic = lang == "ar"
	return r
}

// Locale is the locale in force, such as "en-GB".
func (r *Reader) Locale() string { return strings.ReplaceAll(r.dates.Locale(), "_", "-") }

// regionOf is the country whose telephone numbers are read without their
// country code.
func regionOf(locale, known string) string {
	lang, region, _ := strings.Cut(strings.ReplaceAll(locale, "_", "-"), "-")
	if len(region) == 2 {
		return strings.ToUpper(region)
	}
	if _, r, ok := strings.Cut(known, "_"); ok {
		return strings.ToUpper(r)
	}
	return map[string]string{"de": "DE", "fr": "FR", "es": "ES", "it": "IT", "nl": "NL", "pl": "PL", "ja": "JP"}[strings.ToLower(lang)]
}

func translator(locale string) locales.Translator {
	lang, region, _ := strings.Cut(strings.ReplaceAll(strings.ToLower(locale), "_", "-"), "-")
	switch lang {
	case "de":
		return de.New()
	case "fr":
		return fr.New()
	case "es":
		return es.New()
	case "it":
		return it.New()
	case "nl":
		return nl.New()
	case "pl":
		return pl.New()
	case "ja":
		return ja.New()
	case "ar":
		return ar_EG.New()
	case "en":
		if region == "us" {
			return en_US.New()
		}
	}
	return en_GB.New()
}

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
		return append(dst, r.date(v.Day(), as)...)
	case Number:
		// The code stands only for the separators: it is not displayed.
		n, err := currency.NewAmount(string(appendDecimal(nil, v.Units, v.Scale)), "EUR")
		if err != nil {
			return v.AppendPlain(dst)
		}
		return append(dst, r.digits(r.number.Format(n))...)
	case Money:
		n, err := currency.NewAmountFromInt64(v.Units, v.Text)
		if err != nil {
			return v.AppendPlain(dst)
		}
		return append(dst, r.digits(r.money.Format(n))...)
	case YesNo:
		return append(dst, r.yesNo(v.Units == 1)...)
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

func (r *Reader) digits(s string) string {
	if r.arabic {
		return latin.Replace(s)
	}
	return s
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

func (r *Reader) date(t time.Time, as Form) string {
	switch as {
	case Short:
		return r.corrected(as, r.dates.FmtDateShort(t))
	case Medium:
		return r.corrected(as, r.dates.FmtDateMedium(t))
	case Weekday:
		return r.dates.FmtDateFull(t)
	}
	return r.dates.FmtDateLong(t)
}

// corrected brings a short or medium date from the older CLDR of the library to
// the present one, as Node's Intl has it (checked in e2e/tests/intl.spec.ts).
func (r *Reader) corrected(as Form, s string) string {
	switch locale := r.dates.Locale(); {
	case locale == "en_GB" && as == Medium:
		return strings.Replace(s, " Sep ", " Sept ", 1)
	case locale == "es" && as == Medium:
		return strings.Replace(s, ".", "", 1)
	case locale == "pl" && as == Short:
		return strings.TrimPrefix(s, "0")
	}
	return s
}

// codes are the currencies that a language writes by their code where the
// library has a sign: CLDR by way of Node's Intl, as above.
var codes = map[string][]string{"fr": {"JPY"}, "es": {"GBP", "JPY"}, "pl": {"USD", "GBP", "JPY"}}

// latin writes Arabic digits and separators as Latin ones, which business
// letters in Arabic use too.
var latin = strings.NewReplacer("٠", "0", "١", "1", "٢", "2", "٣", "3", "٤", "4", "٥", "5", "٦", "6", "٧", "7", "٨", "8", "٩", "9", "٫", ".", "٬", ",", "\u200f", "", "\u061c", "")

// The words for yes and no: CLDR 45, main/*.xml, posix/messages (from memory).
func (r *Reader) yesNo(yes bool) string {
	words := [2]string{"no", "yes"}
	lang, _, _ := strings.Cut(r.dates.Locale(), "_")
	switch lang {
	case "de":
		words = [2]string{"nein", "ja"}
	case "fr":
		words = [2]string{"non", "oui"}
	case "es":
		words = [2]string{"no", "sí"}
	case "it":
		words = [2]string{"no", "sì"}
	case "nl":
		words = [2]string{"nee", "ja"}
	case "pl":
		words = [2]string{"nie", "tak"}
	case "ja":
		words = [2]string{"いいえ", "はい"}
	case "ar":
		words = [2]string{"لا", "نعم"}
	}
	if yes {
		return words[1]
	}
	return words[0]
}
