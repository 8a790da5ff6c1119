package field

import (
	"strings"
	"sync"
	"unicode"

	"github.com/nyaruka/phonenumbers"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// Tidying is one way in which values of files are untidy.
type Tidying string

// The ways, in the order in which they are looked for.
const (
	TidySpaces   Tidying = "spaces"   // doubled, no-break and invisible ones
	TidyJunk     Tidying = "junk"     // stands for a missing value
	TidyCapitals Tidying = "capitals" // names and towns in capitals or small letters alone
	TidyPhones   Tidying = "phones"   // not in the international form
	TidyCountry  Tidying = "country"  // a code, or a name in another language
)

// Tidyings are all ways.
func Tidyings() []Tidying {
	return []Tidying{TidySpaces, TidyJunk, TidyCapitals, TidyPhones, TidyCountry}
}

// Tidied offers the tidy form of a value as people write it, and says in which way it was
// untidy; "" when it was not. Country is that of the record, by its name or code: a phone
// number without a country is read as one from there.
func Tidied(d Def, s, country string) (string, Tidying) {
	if d.Type == Long {
		return s, ""
	}
	if spaced := spaces(s); spaced != s {
		return spaced, TidySpaces
	}
	switch {
	case s == "":
	case Junk(d, Value{Type: d.Type, Text: s}):
		return "", TidyJunk
	case d.Type == Phone:
		if phone := internationalPhone(s, CountryCode(country)); phone != "" && phone != s {
			return phone, TidyPhones
		}
	case strings.HasSuffix(d.Path, ".country"):
		if name := CountryName(CountryCode(s)); name != "" && name != s {
			return name, TidyCountry
		}
	case strings.HasSuffix(d.Path, ".city"):
		if upper := strings.ToUpper(s); s == upper && len([]rune(s)) > 3 {
			if place, ok := RepairName(Def{Path: "person.last_name"}, s); ok {
				return place, TidyCapitals
			}
		}
	default:
		if name, ok := RepairName(d, s); ok {
			return name, TidyCapitals
		}
	}
	return s, ""
}

// spaces has one plain space between words and none at the ends; what is invisible and joins
// nothing goes.
func spaces(s string) string {
	seen := strings.Map(func(r rune) rune {
		switch r {
		case '\u200b', '\u2060', '\ufeff', '\u00ad':
			return -1
		}
		return r
	}, s)
	return strings.Join(strings.FieldsFunc(seen, unicode.IsSpace), " ")
}

// internationalPhone gives a number in the form of ITU-T E.123, 2.1 (+44 20 7946 0000), or "".
func internationalPhone(s, region string) string {
	n, err := phonenumbers.Parse(s, region)
	if err != nil || !phonenumbers.IsValidNumber(n) {
		return ""
	}
	return phonenumbers.Format(n, phonenumbers.INTERNATIONAL)
}

// Languages in which the name of a country is known.
var countryLanguages = []language.Tag{
	language.English, language.German, language.French, language.Spanish, language.Italian, language.Dutch, language.Portuguese, language.Polish,
	language.Swedish, language.Danish, language.Norwegian, language.Finnish, language.Czech, language.Hungarian,
}

// Names beside those of CLDR (common practice, no source).
var moreCountries = map[string]string{
	"uk": "GB", "great britain": "GB", "england": "GB", "scotland": "GB", "wales": "GB", "northern ireland": "GB", "usa": "US", "united states of america": "US", "america": "US",
	"holland": "NL", "the netherlands": "NL", "czech republic": "CZ", "republic of ireland": "IE", "eire": "IE",
}

var countries = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for _, l := range countryLanguages {
		names := display.Regions(l)
		for a := 'A'; a <= 'Z'; a++ {
			for b := 'A'; b <= 'Z'; b++ {
				r, err := language.ParseRegion(string(a) + string(b))
				if err != nil || !r.IsCountry() || r.Canonicalize() != r {
					continue
				}
				name := strings.ToLower(names.Name(r))
				if _, there := out[name]; name != "" && !there {
					out[name] = r.String()
				}
			}
		}
	}
	for name, code := range moreCountries {
		out[name] = code
	}
	return out
})

// CountryCode gives the ISO 3166-1 code of a country by its code or its name in one of some
// languages (CLDR, territories), or "".
func CountryCode(country string) string {
	country = strings.TrimSpace(country)
	if code := countries()[strings.ToLower(country)]; code != "" {
		return code
	}
	if n := len(country); n != 2 && (n != 3 || country != strings.ToUpper(country)) {
		return ""
	}
	r, err := language.ParseRegion(country)
	if err != nil || !r.IsCountry() {
		return ""
	}
	if code := r.Canonicalize().String(); CountryName(code) != "" {
		return code
	}
	return ""
}

// CountryName gives the English name of a country by its code, or "".
func CountryName(code string) string {
	r, err := language.ParseRegion(code)
	if err != nil || !r.IsCountry() {
		return ""
	}
	return display.Regions(language.English).Name(r)
}
