package plan

import (
	"testing"
	"time"
)

func TestBackOn(t *testing.T) {
	came := time.Date(2026, 3, 2, 15, 0, 0, 0, time.UTC) // a Monday
	for text, want := range map[string]string{
		"I am out of the office until 14 March 2026 and read no letters.":    "2026-03-16", // a Saturday
		"I will be away until 5 March.":                                      "2026-03-06",
		"I'm back on Monday, 9 March 2026.":                                  "2026-03-09",
		"Back on Thursday":                                                   "2026-03-05",
		"I am away from 1 March until March 10th, 2026":                      "2026-03-11",
		"I shall return on 2026-04-01.":                                      "2026-04-01",
		"I return to the office on 3rd of April":                             "2026-04-03",
		"Ich bin bis zum 13.03.2026 nicht im Büro.":                          "2026-03-16",
		"Ich bin ab dem 16. März wieder erreichbar":                          "2026-03-16",
		"Je suis absente jusqu’au 20 mars 2026":                              "2026-03-23",
		"De retour le lundi 16 mars":                                         "2026-03-16",
		"Estaré fuera hasta el 12 de marzo":                                  "2026-03-13",
		"Ik ben afwezig tot en met 6 maart 2026":                             "2026-03-09",
		"Fino al 11 marzo sono assente":                                      "2026-03-12",
		"away until 25/03/2026":                                              "2026-03-26",
		"away until 03/25/2026":                                              "2026-03-26",
		"away until 04/03/2026":                                              "", // April or March
		"away until 2 January":                                               "2027-01-04",
		"away until 30 February 2026":                                        "",
		"away until 1 March 2024, an old text":                               "",
		"away until further notice":                                          "",
		"Thank you for your letter, which I read until the end. Call at 16.": "",
		"": "",
	} {
		got := ""
		if at, ok := BackOn(text, came); ok {
			got = at.Format(time.DateOnly)
		}
		if got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

func FuzzBackOn(f *testing.F) {
	f.Add("back on 31.12.26")
	came := time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, text string) {
		if at, ok := BackOn(text, came); ok && (at.Before(came) || at.After(came.AddDate(1, 0, 4))) {
			t.Errorf("%q: %s", text, at)
		}
	})
}
