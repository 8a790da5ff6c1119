package field

import "testing"

func TestParseTyped(t *testing.T) {
	for in, want := range map[string]string{
		"20000": "20000", "20,000": "20000", "12,5": "12.5", "12.5": "12.5", "1.234,5": "1234.5", "1,234.5": "1234.5", "1 234.5": "1234.5", "1'234": "1234", "1.234.567": "1234567",
		"1,234,567": "1234567", "-3,25": "-3.25", "many": "", "5k": "", "": "", "1,2,3.4.5": "",
	} {
		v, err := ParseTyped(Number, in)
		if got := v.String(); (err != nil) != (want == "") || err == nil && got != want {
			t.Errorf("%q: %q, %v", in, got, err)
		}
	}
	for in, want := range map[string]string{
		"€20,000": "20000.00 EUR", "20.000,50 EUR": "20000.50 EUR", "£ 5": "5.00 GBP", "USD 1,000": "1000.00 USD", "12500 eur": "12500.00 EUR", "¥1,200": "1200 JPY", "soon": "", "20 apples": "",
	} {
		v, err := ParseTyped(Money, in)
		if got := v.String(); (err != nil) != (want == "") || err == nil && got != want {
			t.Errorf("%q: %q, %v", in, got, err)
		}
	}
	bare, _ := ParseTyped(Money, "20000")
	if order, same := Compare(MoneyOf(2500000, "GBP"), bare); !same || order <= 0 {
		t.Errorf("a bare figure: %d, %v", order, same)
	}
}

// A mark that cannot part thousands is never dropped, whatever the rest of a file does.
func TestLook_Parse_numbers(t *testing.T) {
	for _, row := range []struct {
		look  Look
		in    string
		want  string
		money string
	}{
		{Look{Comma: true}, "1.250,5", "1250.5", ""}, {Look{Comma: true}, "1.250", "1250", ""}, {Look{Comma: true}, "12.5", "12.5", ""}, {Look{Comma: true}, "12,5", "12.5", ""},
		{Look{Comma: true}, "1250,75", "1250.75", ""}, {Look{Comma: true}, "-1.234.567,8", "-1234567.8", ""}, {Look{Comma: true}, "1,250.5", "1250.5", ""},
		{Look{}, "12,5", "12.5", ""}, {Look{}, "1,250", "1250", ""}, {Look{}, "1,250.5", "1250.5", ""}, {Look{}, "1250.5", "1250.5", ""}, {Look{}, "1.250,5", "1250.5", ""}, {Look{}, "0.125", "0.125", ""},
		{Look{Comma: true}, "1.250,50 €", "", "1250.50 EUR"}, {Look{}, "12,50 EUR", "", "12.50 EUR"}, {Look{}, "$1,250", "", "1250.00 USD"},
	} {
		d, want := Def{Type: Number}, row.want
		if row.money != "" {
			d, want = Def{Type: Money}, row.money
		}
		v, err := row.look.Parse(d, row.in)
		if got := v.String(); err != nil || got != want {
			t.Errorf("%+v %q: %q, %v, want %q", row.look, row.in, got, err, want)
		}
	}
}

// Figures with marks between them are a number only where these part thousands.
func TestParseTyped_marks(t *testing.T) {
	for s, want := range map[string]string{"1,2,3": "", "1.2.3": "", "1 2 3": "", "1'2'3": "", "2.5.1": "", "12-3": "", "12,34,567": "1234567", "1.234.567": "1234567", "1 234,5": "1234.5", "1’234.50": "1234.50", "1,234": "1234", "12,5": "12.5", ".5": "0.5", "1,234.567,8": ""} {
		v, err := ParseTyped(Number, s)
		if got := v.String(); got != want || (err == nil) != (want != "") {
			t.Errorf("%q: %q, %v, want %q", s, got, err, want)
		}
	}
}
