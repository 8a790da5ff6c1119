package field

import (
	"fmt"
	"strings"
	"unicode"

	"github.com/bojanz/currency"
)

// currencySigns are signs that stand for one currency where people type them (common
// practice, no source): a dollar is the American one unless it says otherwise.
var currencySigns = map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "US$": "USD", "C$": "CAD", "CA$": "CAD", "A$": "AUD", "¥": "JPY", "zł": "PLN", "Kč": "CZK", "Ft": "HUF", "₹": "INR", "Fr.": "CHF", "₺": "TRY"}

// ParseTyped reads a number or an amount as people write them: 20,000 and 12,5, €20,000,
// 20.000,50 EUR, 1 234.5, 5k is none. One comma or point before exactly three digits at
// the end parts thousands where it is a comma, and is the decimal mark where it is a
// point; where both stand, the last is the decimal mark. An amount without its currency
// has the empty code.
func ParseTyped(t Type, s string) (Value, error) {
	number := strings.TrimSpace(s)
	code := ""
	if t == Money {
		number, code = withoutCurrency(number)
	}
	units, scale, err := parseDecimal(plainDecimal(number))
	if err != nil {
		if t == Money {
			return Value{}, fmt.Errorf("%q is not an amount; write it like 20000 or €20,000", s)
		}
		return Value{}, fmt.Errorf("%q is not a number; write it like 20000 or 12.5", s)
	}
	if t == Number {
		return Value{Type: Number, Units: units, Scale: scale}, nil
	}
	if code == "" {
		return Value{Type: Money, Units: units, Scale: scale}, nil
	}
	return Parse(Money, plainDecimal(number)+" "+code, nil)
}

// ParseGiven reads a value in canonical form or, of numbers and amounts, as people
// write them. Code is the currency of an amount that names none, "" when it must.
func ParseGiven(d Def, s, code string) (Value, error) {
	v, err := Parse(d.Type, s, d.Choices)
	if err == nil || d.Type != Number && d.Type != Money {
		return v, err
	}
	typed, wrong := ParseTyped(d.Type, s)
	switch {
	case wrong != nil:
		return v, err
	case d.Type == Number || typed.Text != "":
		return typed, nil
	case code == "":
		return v, fmt.Errorf("%q needs its currency; write it like 20000 EUR or €20,000", s)
	}
	typed.Text = code
	return Parse(Money, typed.String(), nil)
}

// withoutCurrency takes a sign or a code from either end of an amount.
func withoutCurrency(s string) (number, code string) {
	first := strings.IndexFunc(s, func(r rune) bool { return unicode.IsDigit(r) || r == '-' })
	last := strings.LastIndexFunc(s, unicode.IsDigit)
	if first < 0 || last < 0 {
		return s, ""
	}
	for _, sign := range []string{strings.TrimSpace(s[:first]), strings.TrimSpace(s[last+1:])} {
		switch upper := strings.ToUpper(sign); {
		case sign == "":
		case currencySigns[sign] != "":
			code = currencySigns[sign]
		case currency.IsValid(upper):
			code = upper
		default:
			return s, "" // something else stands there
		}
	}
	return s[first : last+1], code
}

// plainDecimal brings the marks of a number into the canonical form.
func plainDecimal(s string) string {
	s = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "’", "").Replace(s)
	comma, point := strings.LastIndexByte(s, ','), strings.LastIndexByte(s, '.')
	switch {
	case comma >= 0 && point >= 0:
		if comma > point {
			return strings.ReplaceAll(strings.ReplaceAll(s, ".", ""), ",", ".")
		}
		return strings.ReplaceAll(s, ",", "")
	case strings.Count(s, ",") > 1 || comma >= 0 && len(s)-comma == 4 && comma > 0 && comma <= 4:
		return strings.ReplaceAll(s, ",", "")
	case comma >= 0:
		return strings.Replace(s, ",", ".", 1)
	case strings.Count(s, ".") > 1:
		return strings.ReplaceAll(s, ".", "")
	}
	return s
}
