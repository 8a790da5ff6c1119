package letter

import (
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
)

// OnDay gives a letter as it reads on a day: today's date, and how far dates are
// from it, are written for the day where they stand as they were written on one of
// the days from first to it. Nothing else changes; the input is left as it is.
func OnDay(d document.Document, r Record, first, day time.Time) document.Document {
	o := dayWriter{r: r, day: field.DateOf(day)}
	for at := day; !at.Before(first) && len(o.days) < maxDays; at = at.AddDate(0, 0, -1) {
		o.days = append(o.days, field.DateOf(at))
	}
	found := false
	eachWord(d.Content, func(n *document.Node) {
		_, changed := o.words(n)
		found = found || changed
	})
	if !found {
		return d
	}
	d.Content = document.Clone(d.Content)
	eachWord(d.Content, func(n *document.Node) {
		if words, changed := o.words(n); changed {
			n.Text = words
		}
	})
	return d
}

// maxDays is how many days a letter is looked back for.
const maxDays = 400

type dayWriter struct {
	r    Record
	day  field.Value
	days []field.Value
}

// words gives what a merged node says on the day, and whether that is something else.
func (o *dayWriter) words(n *document.Node) (string, bool) {
	m := document.MergedMark(n)
	if m == nil || n.Type != document.Text {
		return "", false
	}
	if m.Path == "today" {
		for _, as := range append([]field.Form{""}, field.FormsOf(field.Date)...) {
			for _, at := range o.days {
				if string(o.r.Reader.Append(nil, at, as)) == n.Text {
					words := string(o.r.Reader.Append(nil, o.day, as))
					return words, words != n.Text
				}
			}
		}
		return "", false
	}
	value := o.r.Values.Get(m.Path)
	if value.Type != field.Date {
		return "", false
	}
	for _, at := range o.days {
		if string(o.r.Reader.AppendRelative(nil, value, at)) == n.Text {
			words := string(o.r.Reader.AppendRelative(nil, value, o.day))
			return words, words != n.Text
		}
	}
	return "", false
}
