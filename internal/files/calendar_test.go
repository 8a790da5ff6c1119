package files

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"

	"lucidletter/internal/domain"
)

func TestCalendar(t *testing.T) {
	now := time.Date(2026, 11, 25, 16, 0, 0, 0, time.UTC)
	person := int64(7)
	long := "Rückruf; mit Komma, und \\ und einem sehr langen Text, der über fünfundsiebzig Oktette hinausgeht – größer als eine Zeile"
	due := now.Add(time.Hour)
	raw, err := Calendar(
		[]domain.Task{{ID: 1, Text: long, DueAt: now.Add(24 * time.Hour), PersonID: &person}, {ID: 2, Text: "Plain", DueAt: now}},
		[]domain.LetterRow{{Letter: domain.Letter{ID: 9, SubjectLine: "Your quote", DueAt: &due}, PersonName: "Ada Quill"}, {}},
		[]domain.ComingStep{{RunID: 4, Key: 2, Person: "Bea Stone", Plan: "Opening", Name: "Call Bea, please", At: due}},
		"https://letters.fernhollow.example/", now)
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.SplitSeq(string(raw), "\r\n") {
		if len(line) > maxLine || strings.ContainsAny(line, "\r\n") {
			t.Errorf("a line of %d octets: %q", len(line), line)
		}
	}
	cal, err := ical.NewDecoder(bytes.NewReader(raw)).Decode()
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, c := range cal.Children {
		summary, err := c.Props.Text(ical.PropSummary)
		if err != nil {
			t.Fatal(err)
		}
		got = append(got, c.Name+" "+summary+" "+c.Props.Get(ical.PropURL).Value)
	}
	want := []string{
		"VTODO " + long + " https://letters.fernhollow.example/people/7", "VTODO Plain https://letters.fernhollow.example/today",
		"VEVENT Letter to Ada Quill: Your quote https://letters.fernhollow.example/letters/9",
		"VEVENT Bea Stone: Call Bea, please (Opening) https://letters.fernhollow.example/runs/4",
	}
	if strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("%q", got)
	}
	// RFC 5545 section 3.3.5, form 2: a time in UTC ends with Z.
	if !strings.Contains(string(raw), "DUE:20261126T160000Z\r\n") || !strings.Contains(string(raw), "DTSTART:20261125T170000Z\r\n") {
		t.Errorf("%s", raw)
	}
	empty, err := Calendar(nil, nil, nil, "http://x", now)
	if err != nil || !bytes.HasPrefix(empty, []byte("BEGIN:VCALENDAR\r\n")) || !bytes.HasSuffix(empty, []byte("END:VCALENDAR\r\n")) {
		t.Errorf("%q %v", empty, err)
	}
}

// The example of RFC 5545 section 3.1: a long line may be split between any two
// characters, and reads the same when the line ends and spaces are taken out.
func TestFold(t *testing.T) {
	line := "DESCRIPTION:This is a long description that exists on a long line, which is äöü" + strings.Repeat("ß", 80)
	got := string(fold([]byte(line + "\r\nEND:X\r\n")))
	if strings.ReplaceAll(got, "\r\n ", "") != line+"\r\nEND:X\r\n" {
		t.Errorf("%q", got)
	}
}
