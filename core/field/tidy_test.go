package field

import "testing"

func TestTidied(t *testing.T) {
	text := func(path string) Def { return Def{Path: path, Type: Text, Record: Person} }
	phone := Def{Path: "person.phone", Type: Phone, Record: Person}
	for _, row := range []struct {
		d                Def
		s, country, want string
		how              Tidying
	}{
		{text("person.last_name"), "QUILL", "", "Quill", TidyCapitals},
		{text("person.last_name"), "O'HARA-STONE", "", "O'Hara-Stone", TidyCapitals},
		{text("person.last_name"), "Quill", "", "Quill", ""},
		{text("person.last_name"), "van der berg", "", "van der berg", ""},
		{text("person.last_name"), "山田", "", "山田", ""},
		{text("person.first_name"), " Ada\u00a0\u200b Jo ", "", "Ada Jo", TidySpaces},
		{text("person.first_name"), "👩‍🚀 Jo", "", "👩‍🚀 Jo", ""}, // the joiner belongs to the sign
		{text("person.job_title"), "n/a", "", "", TidyJunk},
		{text("person.job_title"), "—", "", "", TidyJunk},
		{text("person.job_title"), "CEO", "", "CEO", ""},
		{text("company.name"), "IBEX LTD", "", "IBEX LTD", ""}, // firms write themselves as they like
		{text("person.city"), "HARROWMERE", "", "Harrowmere", TidyCapitals},
		{text("person.city"), "NYC", "", "NYC", ""},
		{text("person.country"), "Deutschland", "", "Germany", TidyCountry},
		{text("person.country"), "DE", "", "Germany", TidyCountry},
		{text("person.country"), "USA", "", "United States", TidyCountry},
		{text("company.country"), "Royaume-Uni", "", "United Kingdom", TidyCountry},
		{text("person.country"), "Germany", "", "Germany", ""},
		{text("person.country"), "Freedonia", "", "Freedonia", ""},
		{text("person.country"), "de", "", "Germany", TidyCountry},
		{text("person.country"), "und", "", "und", ""},
		{phone, "01632 960001", "United Kingdom", "01632 960001", ""},
		{phone, "020 7946 0018", "UK", "+44 20 7946 0018", TidyPhones},
		{phone, "+442079460018", "", "+44 20 7946 0018", TidyPhones},
		{phone, "+44 20 7946 0018", "", "+44 20 7946 0018", ""},
		{phone, "020 7946 0018", "", "020 7946 0018", ""},
		{phone, "none", "", "", TidyJunk},
		{Def{Path: "person.own.story", Type: Long}, " a  b ", "", " a  b ", ""},
	} {
		got, how := Tidied(row.d, row.s, row.country)
		if got != row.want || how != row.how {
			t.Errorf("%s %q in %q: %q %q, want %q %q", row.d.Path, row.s, row.country, got, how, row.want, row.how)
		}
		if how == "" {
			continue
		}
		if again, how := Tidied(row.d, got, row.country); how != "" && again == got {
			t.Errorf("%q is said to be untidy and stays", got)
		}
	}
}

func TestCountryCode(t *testing.T) {
	for country, want := range map[string]string{"United Kingdom": "GB", "gb": "GB", " Germany ": "DE", "Deutschland": "DE", "Österreich": "AT", "France": "FR", "Nowhere": "", "": "", "Pays-Bas": "NL", "Israel": "IL", "JP": "JP", "Nederland": "NL", "Wales": "GB"} {
		if got := CountryCode(country); got != want {
			t.Errorf("%q is %q, want %q", country, got, want)
		}
	}
}

// Every country has a name that leads back to it (ISO 3166-1 codes, names of CLDR).
func TestCountryCode_everyCountry(t *testing.T) {
	n := 0
	for name, code := range countries() {
		if len(code) != 2 || CountryName(code) == "" {
			t.Errorf("%s is %q", name, code)
		}
	}
	for a := 'A'; a <= 'Z'; a++ {
		for b := 'A'; b <= 'Z'; b++ {
			code := CountryCode(string(a) + string(b))
			if code == "" {
				continue
			}
			if n++; CountryCode(CountryName(code)) != code {
				t.Errorf("%s is %s, which is %s", code, CountryName(code), CountryCode(CountryName(code)))
			}
		}
	}
	if n < 245 {
		t.Errorf("only %d codes are known", n)
	}
}
