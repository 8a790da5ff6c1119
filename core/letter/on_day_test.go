package letter_test

import (
	"testing"
	"time"

	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/render"
)

func TestOnDay(t *testing.T) {
	written := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	r := lettertest.RecordOf(t, map[string]string{"person.first_name": "Ada", "deal.close_date": "2026-12-01", "today": "2026-11-25"})
	const body = "{{today as weekday}} · {{today as short}} · {{today}} · {{deal.close_date as relative}} · {{deal.close_date}} · {{person.first_name}}"
	d := lettertest.MergedFor(t, "", body, r).Body
	before := render.RenderText(d)
	for _, c := range []struct {
		day  time.Time
		want string
	}{
		{written, before},
		{written.AddDate(0, 0, 3), "Saturday, 28 November 2026 · 28/11/2026 · 28 November 2026 · in 3 days · 1 December 2026 · Ada"},
		{written.AddDate(0, 0, 6), "Tuesday, 1 December 2026 · 01/12/2026 · 1 December 2026 · today · 1 December 2026 · Ada"},
		{written.AddDate(0, 0, 8), "Thursday, 3 December 2026 · 03/12/2026 · 3 December 2026 · 2 days ago · 1 December 2026 · Ada"},
	} {
		got := letter.OnDay(d, r, written, c.day)
		if text := render.RenderText(got); text != c.want {
			t.Errorf("got  %q\nwant %q", text, c.want)
		}
		// From there on to another day.
		if again := render.RenderText(letter.OnDay(got, r, written, c.day.AddDate(0, 0, 1))); again == render.RenderText(got) {
			t.Errorf("it stays %q a day later", again)
		}
	}
	if render.RenderText(d) != before {
		t.Error("the letter that was given has changed")
	}
	// What the writer made of it stays.
	touched := letter.Correct(d, "deal.close_date", "soon")
	if got := render.RenderText(letter.OnDay(touched, r, written, written.AddDate(0, 0, 3))); got != "Saturday, 28 November 2026 · 28/11/2026 · 28 November 2026 · soon · soon · Ada" {
		t.Errorf("%q", got)
	}
}
