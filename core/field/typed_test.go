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
