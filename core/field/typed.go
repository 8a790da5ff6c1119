package field

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"sync"
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

// Look is how a file writes numbers and dates. The zero Look is that of files which do
// not say: points before decimals, dates as 2026-12-03.
type Look struct {
	Comma    bool // a comma stands before decimals, points part thousands
	DayFirst bool // 3/12/2026 is the third of December
	Slashes  bool // dates with slashes can be told: DayFirst counts
}

var localDate = regexp.MustCompile(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4})$`)

// Marks part thousands only where three digits stand between them; any other mark is
// taken as it would be by itself, so that 12,5 is never read as 125.
var (
	groupedByPoints = regexp.MustCompile(`^-?\d{1,3}(?:\.\d{3})*(?:,\d*)?$|^-?\d+,\d+$`)
	groupedByCommas = regexp.MustCompile(`^-?\d{1,3}(?:,\d{3})*(?:\.\d*)?$`)
)

// Parse reads a value of a file as the file writes them, in canonical form too: 1.250,50
// or 1,250.50 as it looks, 3.12.2026 with the day first, 3/12/2026 where the file shows
// which comes first, yes and no in any language.
func (l Look) Parse(d Def, s string) (Value, error) {
	s = strings.TrimSpace(s)
	switch d.Type {
	case Number, Money:
		number, code := s, ""
		if d.Type == Number {
			s = strings.TrimSpace(strings.TrimSuffix(s, "%")) // the field says what it counts
			number = s
		}
		if d.Type == Money {
			if number, code = withoutCurrency(s); code != "" {
				code = " " + code
			}
		}
		number = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "’", "").Replace(number)
		switch {
		case l.Comma && groupedByPoints.MatchString(number):
			number = strings.ReplaceAll(strings.ReplaceAll(number, ".", ""), ",", ".")
		case !l.Comma && groupedByCommas.MatchString(number):
			number = strings.ReplaceAll(number, ",", "")
		}
		if v, err := Parse(d.Type, number+code, nil); err == nil {
			return v, nil
		}
		return ParseGiven(d, s, "")
	case Date:
		m := localDate.FindStringSubmatch(s)
		if m == nil || m[2] == "-" && !l.Slashes {
			break
		}
		day, month := m[1], m[3]
		switch {
		case m[2] == ".", l.Slashes && l.DayFirst:
		case l.Slashes:
			day, month = month, day
		default:
			return Value{}, fmt.Errorf("%q can be read as two dates; write it like 2026-12-03", s)
		}
		return Parse(Date, fmt.Sprintf("%s-%02s-%02s", m[4], month, day), nil)
	case YesNo:
		if v, ok := saidYes(s); ok {
			return v, nil
		}
	}
	return Parse(d.Type, s, d.Choices)
}

// saidYes reads yes and no in any language of the table.
func saidYes(s string) (Value, bool) {
	yes, known := yesWords()[strings.ToLower(s)]
	if !known {
		return Value{}, false
	}
	v := Value{Type: YesNo}
	if yes {
		v.Units = 1
	}
	return v, true
}

// yesWords tells the words for yes from those for no; what is both is neither.
var yesWords = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	both := map[string]bool{}
	for _, raw := range locales().Locales {
		var words struct {
			YesNo []string `json:"y"`
		}
		if json.Unmarshal(raw, &words) != nil || len(words.YesNo) != 2 {
			continue
		}
		for i, word := range words.YesNo {
			word = strings.ToLower(word)
			if was, there := out[word]; there && was != (i == 1) {
				both[word] = true
			}
			out[word] = i == 1
		}
	}
	for word := range both {
		delete(out, word)
	}
	for word, yes := range map[string]bool{"yes": true, "y": true, "true": true, "1": true, "x": true, "no": false, "n": false, "false": false, "0": false} {
		out[word] = yes
	}
	return out
})

// LookOf tells how a file writes numbers and dates from some of its cells. Where no
// cell tells, a file whose cells are parted by semicolons has commas before decimals.
func LookOf(cells []string, semicolons bool) Look {
	var comma, point, dayFirst, monthFirst int
	for _, c := range cells {
		c = strings.TrimSpace(c)
		if number, _ := withoutCurrency(c); decimalForm.MatchString(number) {
			mark := number[strings.LastIndexAny(number, ",."):]
			switch whole := strings.ContainsAny(number[:len(number)-len(mark)], ",."); {
			case len(mark) == 4 && !whole && !strings.HasPrefix(number, "0"):
				// 1,250 and 1.250 say nothing.
			case mark[0] == ',':
				comma++
			default:
				point++
			}
		}
		if m := localDate.FindStringSubmatch(c); m != nil && m[2] != "." {
			switch {
			case len(m[1]) == 2 && m[1] > "12":
				dayFirst++
			case len(m[3]) == 2 && m[3] > "12":
				monthFirst++
			}
		}
	}
	return Look{
		Comma:   comma > point || comma == point && semicolons,
		Slashes: dayFirst > 0 != (monthFirst > 0), DayFirst: dayFirst > 0,
	}
}

// decimalForm is a number with a mark that may stand before decimals.
var decimalForm = regexp.MustCompile(`^-?\d{1,3}(?:[.,' \x{a0}\x{202f}’]?\d{3})*[.,]\d+$`)

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

// A number has one decimal mark or none, or its thousands are parted: three digits behind the
// last mark, two or three between others (12,34,567).
var (
	unparted = regexp.MustCompile(`^[-+]?\d*[.,]?\d*$`)
	parted   = regexp.MustCompile("^[-+]?\\d{1,3}(?:[ \u00a0\u202f'’,.]\\d{2,3})*[ \u00a0\u202f'’,.]\\d{3}(?:[.,]\\d*)?$")
)

// plainDecimal brings the marks of a number into the canonical form; what is no number stays.
func plainDecimal(s string) string {
	if !unparted.MatchString(s) && !parted.MatchString(s) {
		return s
	}
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
