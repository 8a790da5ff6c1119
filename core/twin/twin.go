// Package twin tells which records may be of one and the same person or company: in go
// names, addresses and companies as they were typed, out come whether two are likely to be
// the same, and why. Nothing is decided by it: people look.
//
// Names are compared without accents, signs and case, by the measure of Jaro and Winkler
// (W. E. Winkler, String Comparator Metrics and Enhanced Decision Rules in the
// Fellegi-Sunter Model of Record Linkage, 1990).
package twin

import (
	"slices"
	"strings"

	"github.com/xrash/smetrics"

	"lucidletter/core/field"
)

// Person is what is compared of a person.
type Person struct {
	First, Last string
	Email       string
	Company     string // its name
}

// Reason says why two are likely to be the same; "" when they are not.
type Reason string

// The reasons, the strongest first.
const (
	SameEmail   Reason = "email"
	SameName    Reason = "name"    // and nothing that tells them apart
	CloseName   Reason = "close"   // at the same company
	SameCompany Reason = "company" // of two companies
)

// From these on names are close. Common practice, no source: links of records are looked at
// from about nine tenths on.
const closeName, closeCompany = 0.92, 0.94

// People tells why two people are likely to be one.
func People(a, b Person) Reason {
	if key := field.EmailKey(a.Email); key != "" && key == field.EmailKey(b.Email) {
		return SameEmail
	}
	one, other := nameOf(a), nameOf(b)
	if one == "" || other == "" {
		return ""
	}
	apart := a.Company != "" && b.Company != "" && !Companies(a.Company, b.Company)
	switch {
	case one == other && !apart && strings.Contains(one, " "):
		return SameName
	case a.Company != "" && b.Company != "" && !apart && (closeWords(one, other) || initials(a, b) || initials(b, a)):
		return CloseName
	}
	return ""
}

// Companies tells whether two names of companies are likely to be of one: without the
// form of the company, and with small slips.
func Companies(a, b string) bool {
	x, y := companyWords(a), companyWords(b)
	return x != "" && (x == y || len([]rune(x)) > 3 && len([]rune(y)) > 3 && jaroWinkler(x, y) >= closeCompany)
}

func nameOf(p Person) string { return field.PlainWords(p.First + " " + p.Last) }

// closeWords compares names of the same or the other order of their words.
func closeWords(a, b string) bool {
	if jaroWinkler(a, b) >= closeName {
		return true
	}
	x, y := strings.Fields(a), strings.Fields(b)
	slices.Sort(x)
	slices.Sort(y)
	return jaroWinkler(strings.Join(x, " "), strings.Join(y, " ")) >= closeName
}

// initials tells whether a has the first letter of b's first name, and the same last name.
func initials(a, b Person) bool {
	first, whole := field.PlainWords(a.First), field.PlainWords(b.First)
	last := field.PlainWords(a.Last)
	return len([]rune(first)) == 1 && strings.HasPrefix(whole, first) && last != "" && last == field.PlainWords(b.Last)
}

func jaroWinkler(a, b string) float64 { return smetrics.JaroWinkler(a, b, 0.7, 4) }

// forms of companies in the countries that letters go to most (from memory).
var forms = []string{
	"ltd", "limited", "plc", "llc", "llp", "inc", "incorporated", "corp", "corporation", "co", "company", "gmbh", "ag", "kg", "ohg", "ug", "mbh", "se", "ev",
	"sa", "sas", "sarl", "sprl", "srl", "spa", "bv", "nv", "ab", "as", "aps", "oy", "oyj", "sl", "slu", "lda", "doo", "sro", "zrt", "kft", "group", "the",
}

// companyWords gives the words of a company's name but for its form; all when nothing else
// is left.
func companyWords(name string) string {
	all := strings.Fields(field.PlainWords(strings.ReplaceAll(name, ".", "")))
	rest := slices.DeleteFunc(slices.Clone(all), func(w string) bool { return slices.Contains(forms, w) })
	if len(rest) == 0 {
		rest = all
	}
	return strings.Join(rest, " ")
}
