package field

import (
	_ "embed" // the table of locales
	"encoding/json"
	"maps"
	"regexp"
	"slices"
	"strings"
	"sync"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// What is known of every locale that CLDR covers at its modern level, written by
// scripts/locales.mjs from Node's Intl: see there what stands in it.
//
//go:embed locales.json
var localesJSON []byte

// localeWords is how a locale writes values.
type localeWords struct {
	Dates    []string              `json:"d"` // short, medium, long, full; tokens in braces
	Months   [][]string            `json:"m"` // the lists that {N0}, {N1} … take their names from
	Weekdays []string              `json:"w"` // from Sunday
	Number   numberSigns           `json:"n"`
	Money    moneySigns            `json:"c"`
	Others   map[string]moneySigns `json:"o"` // of currencies that are written in another way
	Symbols  map[string]string     `json:"s"` // of currencies; others are their code
	Relative relativeWords         `json:"r"`
	Lists    []string              `json:"l"` // between two; after the first, between, before the last of more; behind two, behind more
	YesNo    []string              `json:"y"` // no, yes
}

type numberSigns struct {
	Point string `json:"p"`
	Group string `json:"g"`
	Sizes string `json:"s"` // of the last group and of the others, a digit each
	Least int    `json:"l"` // how many digits must stand before the last group
	Minus string `json:"m"`
	Zero  string `json:"z"` // the digit 0
}

type moneySigns struct {
	Point    string `json:"p"`
	Group    string `json:"g"`
	Least    int    `json:"l"`
	Positive string `json:"a"` // ¤ the currency, # the number, - the sign
	Negative string `json:"b"`
	Sizes    string `json:"s"`
	Minus    string `json:"m"`
}

type relativeWords struct {
	Near   map[int64]string  `json:"n"`
	Future map[string]string `json:"f"` // by the category of the number: z 1 t f m o
	Past   map[string]string `json:"p"`
	Kinds  string            `json:"k"` // the category of each number up to 199
}

type localeTable struct {
	Aliases map[string]string          `json:"aliases"`
	Homes   map[string][]string        `json:"homes"` // where a language is official
	Locales map[string]json.RawMessage `json:"locales"`
}

var locales = sync.OnceValue(func() localeTable {
	var t localeTable
	if err := json.Unmarshal(localesJSON, &t); err != nil {
		panic("core/field/locales.json: " + err.Error()) // it is part of the program
	}
	return t
})

var (
	tagForm = regexp.MustCompile(`^[A-Za-z]{2,3}([-_][A-Za-z]{4})?([-_]([A-Za-z]{2}|[0-9]{3}))?$`)
)

// KnownLocale gives the canonical form of a locale (RFC 5646 section 2.1.1: language,
// script, region, such as pt-BR, sr-Latn, es-419) and whether values can be written for
// it: its language is one that CLDR covers at the modern level. A region of which the
// language knows nothing of its own is known too, and reads as the language.
func KnownLocale(s string) (tag string, known bool) {
	s = strings.TrimSpace(s)
	if !tagForm.MatchString(s) {
		return s, false
	}
	parts := strings.FieldsFunc(s, func(r rune) bool { return r == '-' || r == '_' })
	for i, p := range parts {
		switch {
		case i == 0:
			parts[i] = strings.ToLower(p)
		case len(p) == 4:
			parts[i] = strings.ToUpper(p[:1]) + strings.ToLower(p[1:])
		default:
			parts[i] = strings.ToUpper(p)
		}
	}
	if parts[0] == "no" || parts[0] == "nb" {
		parts[0] = "nb" // Norwegian, in CLDR an alias of Bokmål
	}
	tag = strings.Join(parts, "-")
	_, known = locales().Locales[parts[0]]
	if known && len(parts) > 1 && len(parts[1]) == 4 {
		_, script := locales().Locales[parts[0]+"-"+parts[1]]
		known = script || usualScript[parts[1]]
	}
	return tag, known
}

// usualScript are scripts that stand in tags though they are the usual one.
var usualScript = map[string]bool{"Latn": true, "Cyrl": true, "Arab": true, "Hans": true, "Jpan": true, "Kore": true, "Deva": true, "Grek": true, "Hebr": true, "Thai": true}

// SameLanguage tells whether two locales are of one language, whatever their regions;
// none is of no language.
func SameLanguage(a, b string) bool { return a != "" && Language(a) == Language(b) }

// Language is the language of a locale, in small letters: "pt" of "pt-BR".
func Language(locale string) string {
	tag, _ := KnownLocale(locale)
	lang, _, _ := strings.Cut(tag, "-")
	return strings.ToLower(lang)
}

// LanguageName is the English name of a locale's language (CLDR, by x/text), such as
// "Portuguese".
func LanguageName(locale string) string {
	tag, err := language.Parse(Language(locale))
	if err != nil {
		return locale
	}
	return display.English.Languages().Name(tag)
}

// LanguageNamed gives the code of a language by its name in English or in the language
// itself, such as "German" or "Deutsch"; "" for none.
func LanguageNamed(name string) string {
	name = strings.ToLower(strings.TrimSpace(name))
	for _, code := range Languages() {
		tag, err := language.Parse(code)
		if err == nil && name != "" && (name == strings.ToLower(display.English.Languages().Name(tag)) || name == strings.ToLower(display.Self.Name(tag))) {
			return code
		}
	}
	return ""
}

// Languages lists the languages that letters can be written in, by their code.
func Languages() []string {
	var out []string
	for id := range locales().Locales {
		if !strings.Contains(id, "-") && id != "no" { // an alias of Bokmål
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}

// InCountry gives the variant of a language that is read in a country (ISO 3166-1),
// where the language is official: en and GB make en-GB. Elsewhere the country says
// nothing: "" is given. A country never decides the language.
func InCountry(locale, country string) string {
	lang, country := Language(locale), strings.ToUpper(strings.TrimSpace(country))
	if !slices.Contains(locales().Homes[lang], country) {
		return ""
	}
	return lang + "-" + country
}

// LocaleFor settles how the values in a letter are written. The words around decide:
// their language is that of the values, and where it is not known ("") the person's,
// then the team's. The person and their country (ISO 3166-1) decide only the variant
// within that language; then the words themselves do, and then the team.
func LocaleFor(words, person, country, team string) string {
	base := words
	for _, other := range []string{person, team} {
		if base == "" {
			base = other
		}
	}
	if SameLanguage(person, base) && strings.Contains(person, "-") {
		return person
	}
	if here := InCountry(base, country); here != "" {
		return here
	}
	if !strings.Contains(base, "-") && SameLanguage(team, base) {
		return team
	}
	return base
}

// lineage gives the tables that a locale is put together from, the widest first.
func lineage(tag string) []string {
	t := locales()
	if other, ok := t.Aliases[tag]; ok {
		tag = other
	}
	switch tag {
	case "en": // without a region, as the program always wrote it
		tag = "en-GB"
	case "nb", "nb-NO":
		tag = "nb"
	}
	var out []string
	for at := tag; at != ""; {
		if _, ok := t.Locales[at]; ok {
			out = append(out, at)
		}
		i := strings.LastIndexByte(at, '-')
		if i < 0 {
			break
		}
		at = at[:i]
	}
	if len(out) == 0 || out[len(out)-1] != "en" {
		out = append(out, "en")
	}
	slices.Reverse(out)
	return out
}

// known are the locales that were put together; they are never changed.
var known sync.Map

// wordsOfLocale gives how a known locale writes values.
func wordsOfLocale(tag string) *localeWords {
	if w, ok := known.Load(tag); ok {
		return w.(*localeWords)
	}
	w, _ := known.LoadOrStore(tag, putTogether(tag))
	return w.(*localeWords)
}

// putTogether reads from the tables how a known locale writes values.
func putTogether(tag string) *localeWords {
	w := &localeWords{}
	symbols := map[string]string{}
	for _, id := range lineage(tag) {
		w.Symbols = nil
		// What a narrower table does not say stays as the wider one says it; lists and
		// maps are whole, but for the currencies.
		var more localeWords
		if err := json.Unmarshal(locales().Locales[id], &more); err != nil {
			panic("core/field/locales.json: " + id + ": " + err.Error())
		}
		w.overlay(&more)
		maps.Copy(symbols, more.Symbols)
	}
	w.Symbols = symbols
	return w
}

func (w *localeWords) overlay(more *localeWords) {
	if more.Dates != nil {
		w.Dates = more.Dates
	}
	if more.Months != nil {
		w.Months = more.Months
	}
	if more.Weekdays != nil {
		w.Weekdays = more.Weekdays
	}
	if more.Number.Sizes != "" {
		w.Number = more.Number
	}
	if more.Money.Positive != "" {
		w.Money = more.Money
	}
	if more.Others != nil {
		w.Others = more.Others
	}
	if more.Relative.Kinds != "" {
		w.Relative = more.Relative
	}
	if more.Lists != nil {
		w.Lists = more.Lists
	}
	if more.YesNo != nil {
		w.YesNo = more.YesNo
	}
}

// regionOf is the country whose telephone numbers are read without their country code.
func regionOf(tag string) string {
	parts := strings.Split(tag, "-")
	if last := parts[len(parts)-1]; len(parts) > 1 && len(last) == 2 {
		return last
	}
	// Where a language is at home in one country (CLDR, likelySubtags), for those that
	// are written to most.
	return map[string]string{
		"de": "DE", "fr": "FR", "es": "ES", "it": "IT", "nl": "NL", "pl": "PL", "ja": "JP", "da": "DK", "sv": "SE", "nb": "NO", "fi": "FI", "cs": "CZ", "sk": "SK",
		"hu": "HU", "ro": "RO", "bg": "BG", "el": "GR", "hr": "HR", "sl": "SI", "et": "EE", "lv": "LV", "lt": "LT", "tr": "TR", "ko": "KR", "uk": "UA", "is": "IS",
	}[parts[0]]
}
