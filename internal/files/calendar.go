package files

import (
	"bytes"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-ical"

	"lucidletter/internal/domain"
)

const productID = "-//Lucid Letter//Tasks//EN"

// Calendar writes a user's tasks as to-dos, and the letters that wait for their time and the steps
// of plans that are to come as events (RFC 5545, sections 3.6.2 and 3.6.1), with lines folded at 75 octets
// (section 3.1). Base is the address of the screens.
func Calendar(tasks []domain.Task, letters []domain.LetterRow, steps []domain.ComingStep, base string, now time.Time) ([]byte, error) {
	base = strings.TrimSuffix(base, "/")
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, productID)
	add := func(kind, uid, summary, due string, at time.Time, address string) *ical.Component {
		c := ical.NewComponent(kind)
		c.Props.SetText(ical.PropUID, uid+"@lucidletter")
		c.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
		c.Props.SetText(ical.PropSummary, summary)
		c.Props.SetDateTime(due, at.UTC())
		url := ical.NewProp(ical.PropURL)
		url.Value = base + address
		c.Props.Set(url)
		cal.Children = append(cal.Children, c)
		return c
	}
	for _, t := range tasks {
		address := "/today"
		if t.PersonID != nil {
			address = fmt.Sprintf("/people/%d", *t.PersonID)
		} else if t.DealID != nil {
			address = fmt.Sprintf("/deals/%d", *t.DealID)
		}
		c := add(ical.CompToDo, fmt.Sprintf("task-%d", t.ID), t.Text, ical.PropDue, t.DueAt, address)
		c.Props.SetText(ical.PropStatus, "NEEDS-ACTION")
	}
	for i := range letters {
		l := &letters[i]
		if l.DueAt == nil {
			continue
		}
		c := add(ical.CompEvent, fmt.Sprintf("letter-%d", l.ID), fmt.Sprintf("Letter to %s: %s", l.PersonName, l.SubjectLine), ical.PropDateTimeStart, *l.DueAt, fmt.Sprintf("/letters/%d", l.ID))
		c.Props.SetText(ical.PropTransparency, "TRANSPARENT")
	}
	for i := range steps {
		s := &steps[i]
		c := add(ical.CompEvent, fmt.Sprintf("run-%d-step-%d", s.RunID, s.Key), fmt.Sprintf("%s: %s (%s)", s.Person, s.Name, s.Plan), ical.PropDateTimeStart, s.At, fmt.Sprintf("/runs/%d", s.RunID))
		c.Props.SetText(ical.PropTransparency, "TRANSPARENT")
	}
	if len(cal.Children) == 0 { // which the library refuses; programs that follow an address do not
		return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:" + productID + "\r\nEND:VCALENDAR\r\n"), nil
	}
	var b bytes.Buffer
	if err := ical.NewEncoder(&b).Encode(cal); err != nil {
		return nil, fmt.Errorf("write the calendar: %w", err)
	}
	return fold(b.Bytes()), nil
}

// maxLine is the octets of a line without its end.
const maxLine = 75

// fold cuts lines that are too long, between characters; the rest begins with a
// space.
func fold(in []byte) []byte {
	var out bytes.Buffer
	for line := range strings.SplitSeq(strings.TrimSuffix(string(in), "\r\n"), "\r\n") {
		room := maxLine
		for len(line) > room {
			at := room
			for !utf8.RuneStart(line[at]) {
				at--
			}
			out.WriteString(line[:at] + "\r\n ")
			line, room = line[at:], maxLine-1
		}
		out.WriteString(line + "\r\n")
	}
	return out.Bytes()
}
