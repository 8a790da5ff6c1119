package field

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// sample is one value as we write it; e2e/tests/intl.spec.ts asks Node's Intl
// for the same.
type sample struct {
	Locale string
	Kind   string // date, number, money, relative, list
	Form   Form
	Value  string // canonical
	Ours   string
}

// intlLocales are all that the table holds, and as many with a region that it leaves to
// their language.
func intlLocales() []string {
	out := []string{"de-DE", "fr-FR", "es-ES", "it-IT", "ja-JP", "pl-PL", "pt-BR", "sv-SE", "da-DK", "tr-TR", "nb-NO", "cs-CZ", "hu-HU", "ko-KR", "el-GR", "ro-RO", "uk-UA", "zh-CN", "zh-TW", "hi-IN", "th-TH", "he-IL"}
	for id := range locales().Locales {
		if id != "en" && id != "no" && !strings.Contains(id, "valencia") && !strings.Contains(id, "polyton") && !strings.Contains(id, "tarask") {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}

func TestReader_samplesForIntl(t *testing.T) {
	var samples []sample
	today := DateOf(time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC))
	for _, locale := range intlLocales() {
		if tag, ok := KnownLocale(locale); !ok || tag != locale {
			t.Errorf("%s is taken for %q, %v", locale, tag, ok)
		}
		r := NewReader(locale)
		add := func(kind string, form Form, v Value, ours []byte) {
			samples = append(samples, sample{locale, kind, form, v.String(), string(ours)})
		}
		for month := time.January; month <= time.December; month++ {
			day := DateOf(time.Date(2026, month, 3*int(month)-2, 0, 0, 0, 0, time.UTC))
			for _, form := range []Form{Short, Medium, LongDay, Weekday} {
				add("date", form, day, r.Append(nil, day, form))
			}
		}
		for _, s := range []string{"0", "7", "-12.5", "999", "1000", "1234.5", "9999.99", "10000", "1234567.891", "-1000000"} {
			v, err := Parse(Number, s, nil)
			if err != nil {
				t.Fatal(err)
			}
			add("number", "", v, r.Append(nil, v, ""))
		}
		for _, s := range []string{"0.00 EUR", "1.50 EUR", "999.99 USD", "1234.50 EUR", "12500.00 EUR", "1234567.89 GBP", "12500 JPY", "-42.00 EUR", "1000.00 PLN", "-5000.00 CHF", "250.00 SEK", "10.00 TRY", "99.90 BRL", "1200 KRW"} {
			v, err := Parse(Money, s, nil)
			if err != nil {
				t.Fatal(err)
			}
			add("money", "", v, r.Append(nil, v, ""))
		}
		for _, n := range []int64{-400, -100, -31, -11, -10, -3, -2, -1, 0, 1, 2, 3, 10, 11, 31, 99, 100, 103, 111, 400} {
			v := today
			v.Units += n
			ours := r.AppendRelative(nil, v, today)
			if n == -400 {
				samples = append(samples, sample{locale, "list", "", "2", r.List([]string{"Ada", "Bo"})}, sample{locale, "list", "", "4", r.List([]string{"Ada", "Bo", "Cy", "Dee"})})
			}
			if len(ours) == 0 {
				t.Errorf("%s: nothing for %d days", locale, n)
			}
			samples = append(samples, sample{locale, "relative", Relative, Value{Type: Number, Units: n}.String(), string(ours)})
		}
	}
	if dir := os.Getenv("LUCID_INTL"); dir != "" {
		raw, err := json.Marshal(samples)
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, "samples.json"), raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
}
