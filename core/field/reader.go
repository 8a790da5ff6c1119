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
)

// FormsOf gives the forms that a type of field can be written in; none for
// types with a single form.
func FormsOf(t Type) []Form {
	switch t {
	case Date:
		return []Form{Short, Medium, LongDay, Weekday, Plain}
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
	number *currency.Formatter
	money  *currency.Formatter
}

// NewReader makes the reader of a locale such as "de-DE" or "en". A language
// that is not known, or none, reads English as written in Britain.
func NewReader(locale string) *Reader {
	r := &Reader{dates: translator(locale)}
	id := currency.NewLocale(strings.ReplaceAll(r.dates.Locale(), "_", "-"))
	r.money = currency.NewFormatter(id)
	r.number = currency.NewFormatter(id)
	r.number.CurrencyDisplay = currency.DisplayNone
	r.number.MinDigits, r.number.MaxDigits = 0, 6
	return r
}

// Locale is the locale in force, such as "en-GB".
func (r *Reader) Locale() string { return strings.ReplaceAll(r.dates.Locale(), "_", "-") }

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
		return append(dst, r.number.Format(n)...)
	case Money:
		n, err := currency.NewAmountFromInt64(v.Units, v.Text)
		if err != nil {
			return v.AppendPlain(dst)
		}
		return append(dst, r.money.Format(n)...)
	case YesNo:
		return append(dst, r.yesNo(v.Units == 1)...)
	case Long:
		return append(dst, v.Text...)
	}
	if strings.IndexFunc(v.Text, isBreak) < 0 {
		return append(dst, v.Text...)
	}
	for _, c := range v.Text {
		if isBreak(c) {
			c = ' '
		}
		dst = append(dst, string(c)...)
	}
	return dst
}

func (r *Reader) date(t time.Time, as Form) string {
	switch as {
	case Short:
		return r.dates.FmtDateShort(t)
	case Medium:
		return r.dates.FmtDateMedium(t)
	case Weekday:
		return r.dates.FmtDateFull(t)
	}
	return r.dates.FmtDateLong(t)
}

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
