package field

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// number gives a random number of up to 18 digits in canonical form.
func number(r *rand.Rand) string {
	digits := 1 + r.IntN(maxDigits)
	var b strings.Builder
	for range digits {
		b.WriteByte(byte('0' + r.IntN(10)))
	}
	s := b.String()
	if at := r.IntN(digits + 1); at < digits && at > 0 {
		s = s[:at] + "." + s[at:]
	}
	if r.IntN(3) == 0 {
		s = "-" + s
	}
	return s
}

// The comparison of decimals without overflow, against math/big.
func TestCompare_againstBigRationals(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 20000 {
		a, b := number(r), number(r)
		if r.IntN(4) == 0 {
			b = a + "0" // the same number with another scale
			if !strings.Contains(a, ".") || len(a) > maxDigits {
				b = a
			}
		}
		x, err1 := Parse(Number, a, nil)
		y, err2 := Parse(Number, b, nil)
		if err1 != nil || err2 != nil {
			continue // one digit too many
		}
		p, _ := new(big.Rat).SetString(a)
		q, _ := new(big.Rat).SetString(b)
		got, ok := Compare(x, y)
		if !ok || got != p.Cmp(q) {
			t.Fatalf("%s and %s: %d %v, want %d", a, b, got, ok, p.Cmp(q))
		}
		if key := strings.Compare(OrderKey(x), OrderKey(y)); key != got {
			t.Fatalf("%s and %s: %d, but %d by their keys", a, b, got, key)
		}
		if back, _ := Compare(y, x); back != -got {
			t.Fatalf("%s and %s: %d one way, %d the other", a, b, got, back)
		}
	}
}

// Every value that Parse takes is written so that Parse gives it again.
func FuzzParse(f *testing.F) {
	for _, s := range []string{"12.50", "-0.1", "12500.00 EUR", "1 JPY", "0.001 KWD", "2026-02-29", "2024-02-29", "true", "no", "ada@quill.example", "https://x.example/a?b=c", "x.example", "+44 1632 960000", "a\nb", " a ", "1e5", "NaN", "۱۲"} {
		for i := range 10 {
			f.Add(uint8(i), s)
		}
	}
	types := []Type{Text, Long, Number, Money, Date, YesNo, Choice, Email, Phone, URL}
	choices := []string{"new", "in touch", "true"}
	readers := []*Reader{NewReader("en-GB"), NewReader("de"), NewReader("ar-EG")}
	f.Fuzz(func(t *testing.T, k uint8, s string) {
		typ := types[int(k)%len(types)]
		v, err := Parse(typ, s, choices)
		if err != nil || v.Type == "" {
			if err == nil && strings.TrimSpace(s) != "" {
				t.Fatalf("%s %q: neither a value nor an error", typ, s)
			}
			return
		}
		again, err := Parse(typ, v.String(), choices)
		if err != nil || again != v {
			t.Fatalf("%s %q: %+v written as %q, read as %+v, %v", typ, s, v, v.String(), again, err)
		}
		for _, r := range readers {
			for _, as := range append(FormsOf(typ), "") {
				words := string(r.Append(nil, v, as))
				if words == "" || !utf8.ValidString(words) || typ != Long && strings.ContainsAny(words, "\n\r") {
					t.Fatalf("%s %q as %q in %s: %q", typ, s, as, r.Locale(), words)
				}
			}
		}
	})
}

func TestParse_limits(t *testing.T) {
	digits := strings.Repeat("9", maxDigits)
	for _, row := range []struct {
		name string
		t    Type
		s    string
		want string // of the error; "" taken
	}{
		{"line at the limit", Text, strings.Repeat("a", MaxLine), ""},
		{"line over it", Text, strings.Repeat("a", MaxLine+1), "longer than 1000"},
		{"long at the limit", Long, strings.Repeat("a", MaxLong), ""},
		{"long over it", Long, strings.Repeat("a", MaxLong+1), "longer than 100000"},
		{"18 digits", Number, digits, ""},
		{"19 digits", Number, digits + "9", "more than 18 digits"},
		{"18 digits of money", Money, digits[:16] + ".99 EUR", ""},
		{"too many when filled up", Money, digits + " EUR", "more than 18 digits"},
		{"too many decimals", Money, "1.234 EUR", "more than 2 decimals"},
		{"no decimals", Money, "1.5 JPY", "more than 0 decimals"},
		{"three decimals", Money, "1.234 KWD", ""},
		{"small currency", Money, "5 eur", ""},
		{"no currency", Money, "5", "write it as 12500.00 EUR"},
		{"no such currency", Money, "5 XQX", "write it as 12500.00 EUR"},
		{"29 February", Date, "2026-02-29", "is not a date"},
		{"29 February of a leap year", Date, "2028-02-29", ""},
		{"another order", Date, "02.03.2026", "write it as 2026-03-02"},
		{"point without digits", Number, "5.", "is not a number"},
		{"comma", Number, "1,5", "write it as 1234.5"},
		{"exponent", Number, "1e5", "is not a number"},
		{"minus alone", Number, "-", "is not a number"},
		{"choice in capitals", Choice, "NEW", ""},
		{"no such choice", Choice, "old", "is not one of new, in touch"},
		{"broken UTF-8", Text, "a\xff", "not valid UTF-8"},
		{"line break", Text, "a\nb", "holds a line break"},
		{"separator", Text, "a\u2028b", "holds a line break"},
		{"no domain", Email, "ada@", "is not an email address"},
		{"two signs", Email, "a@b@c", "is not an email address"},
		{"one label", Email, "ada@quill", "without a dot"},
		{"64 before the sign", Email, strings.Repeat("a", 64) + "@quill.example", ""},
		{"65 before the sign", Email, strings.Repeat("a", 65) + "@quill.example", "too long"},
		{"other letters", Email, "zoë@quill.example", "outside ASCII"},
		{"script", URL, "javascript:alert(1)", "is not a web address"},
		{"ftp", URL, "ftp://x.example", "is not a web address"},
		{"without a scheme", URL, "quill.example/a", ""},
		{"yes", YesNo, "YES", ""},
		{"perhaps", YesNo, "perhaps", "is not true or false"},
	} {
		_, err := Parse(row.t, row.s, []string{"new", "in touch"})
		if (err == nil) != (row.want == "") || err != nil && !strings.Contains(err.Error(), row.want) {
			t.Errorf("%s: %v, want %q", row.name, err, row.want)
		}
	}
}

// The Levenshtein distance against the plain definition.
func TestDistance_againstTheDefinition(t *testing.T) {
	var plain func(a, b string) int
	plain = func(a, b string) int {
		switch {
		case a == "" || b == "":
			return len(a) + len(b)
		case a[0] == b[0]:
			return plain(a[1:], b[1:])
		}
		return 1 + min(plain(a[1:], b), plain(a, b[1:]), plain(a[1:], b[1:]))
	}
	r := rand.New(rand.NewPCG(4, 4))
	word := func() string {
		b := make([]byte, r.IntN(7))
		for i := range b {
			b[i] = "abc_"[r.IntN(4)]
		}
		return string(b)
	}
	for range 3000 {
		a, b := word(), word()
		if got, want := distance(a, b), plain(a, b); got != want {
			t.Fatalf("%q and %q: %d, want %d", a, b, got, want)
		}
	}
}

func TestCatalogue_suggestions(t *testing.T) {
	c := New([]Def{{Path: "deal.own.volume", Record: Deal, Label: "Cold-room volume", Type: Number, Own: true}})
	for _, row := range []struct{ typed, first string }{
		{"person.frist_name", "person.first_name"},
		{"persn.city", "person.city"},
		{"firstname", "person.first_name"},
		{"Person.First_Name", "person.first_name"},
		{"deal.own.volum", "deal.own.volume"},
		{"deal.cold_room_volume", "deal.own.volume"},
		{"company.town", ""},
		{"deal.amonut", "deal.amount"},
		{"sender.booking", ""},
		{"today.", "today"},
		{"xyzzy.plugh", ""},
		{strings.Repeat("a", 5000), ""},
	} {
		got := c.Suggest(row.typed, 3)
		if len(got) > 3 || row.first != "" && (len(got) == 0 || got[0] != row.first) || row.first == "" && slices.Contains(got, row.typed) {
			t.Errorf("%.40q: %v, want %q first", row.typed, got, row.first)
		}
	}
	for _, d := range c.Fields() {
		if got := c.Suggest(d.Path, 1); len(got) != 1 || got[0] != d.Path {
			t.Errorf("%s itself suggests %v", d.Path, got)
		}
	}
}

func TestValues_kindsAndOverrides(t *testing.T) {
	c := New(nil)
	v := c.NewValues()
	v.Kind = Contact
	v.Set("person.first_name", Of("Ada"))
	v.Set("lead.status", Value{Type: Choice, Text: "new"})
	v.Set("nothing.known", Of("x"))
	for path, want := range map[string]string{"person.first_name": "Ada", "contact.first_name": "Ada", "lead.first_name": "", "lead.status": "", "nothing.known": ""} {
		if got := v.Get(path).Text; got != want {
			t.Errorf("%s: %q, want %q", path, got, want)
		}
	}
	for in, want := range map[string]string{"a\u202eb\u202c": "ab", "\u2066a\u2069": "a", "\u200fa\u200e": "\u200fa\u200e", "plain": "plain"} {
		v.Set("person.city", Value{Type: Text, Text: in})
		if got := v.Get("person.city").Text; got != want {
			t.Errorf("%q became %q, want %q", in, got, want)
		}
	}
	slot := func(path string) int { ref, _ := c.Find(path); return ref.Slot }
	for text, want := range map[string]string{"Ada": "Ada true", "A & B": "A & B false", "a\nb": " true"} {
		v.Set("person.city", Value{Type: Text, Text: text})
		words, safe := v.Ready(slot("person.city"))
		if got := fmt.Sprint(words, " ", safe); got != want {
			t.Errorf("%q is ready as %q, want %q", text, got, want)
		}
	}
	v.Set("deal.amount", MoneyOf(100, "EUR"))
	if words, _ := v.Ready(slot("deal.amount")); words != "" {
		t.Errorf("an amount is ready as %q", words)
	}
}
