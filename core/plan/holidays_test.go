package plan

import (
	"encoding/json"
	"os"
	"strings"
	"testing"
	"time"
)

// Public holidays are checked against npm date-holidays, whose lists were made by others than
// those of ours (testdata/holidays.json, written by scripts/holidays.mjs): whoever is free there
// gets nothing, in any country whose holidays we know; in most the lists are the same.
func TestHolidaysAgainstLibrary(t *testing.T) {
	var file struct{ Days map[string]string }
	data, err := os.ReadFile("testdata/holidays.json")
	if err == nil {
		err = json.Unmarshal(data, &file)
	}
	if err != nil {
		t.Fatal(err)
	}
	// Where the two differ, and why we leave it.
	except := map[string]string{
		"MW": "2026-03-20 2027-03-09 2028-02-28", // the end of Ramadan, set by the moon
		"UA": "2026-01-02 2026-06-01 2027-01-04 2027-05-04 2027-06-21 2027-12-27 2028-01-04 " + // Mondays for Sundays, which are
			"2028-06-05 2028-07-17 2028-10-02", // not kept since 2022
	}
	// Free with us alone: holidays of regions or by custom.
	more := " AR AU BG BR CA CH DK GB MW NL RO RU SE SK UA US "
	var c Calendar
	for _, code := range Countries() {
		theirs, left := file.Days[code], except[code]
		if len(strings.Fields(theirs)) < 3*5 {
			t.Errorf("%s: the library has %q", code, theirs)
		}
		for d := day(t, "2026-01-01"); d <= day(t, "2028-12-31"); d++ {
			if w := d.Weekday(); w == time.Saturday || w == time.Sunday {
				continue
			}
			name := d.Date().Format(time.DateOnly)
			ours, others := c.Holiday(d, code), strings.Contains(theirs, name)
			switch {
			case ours == "" && others && !strings.Contains(left, name):
				t.Errorf("%s: letters go on %s", code, name)
			case ours == "" && !others && strings.Contains(left, name), ours != "" && strings.Contains(left, name):
				t.Errorf("%s: %s is left out for nothing", code, name)
			case ours != "" && !others && !strings.Contains(more, " "+code+" "):
				t.Errorf("%s: %s is free for %s", code, name, ours)
			}
		}
	}
}
