package document

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// Severity tells red notes from ochre ones.
type Severity string

// Stops keeps a template from being ready or a letter from going; Advises does
// not.
const (
	Stops   Severity = "stops"
	Advises Severity = "advises"
)

// MaxNotes is how many notes are given; the others come when these are mended.
const MaxNotes = 1000

// Part tells the subject from the body and from its plain-text part.
type Part string

// The parts of a letter.
const (
	Subject  Part = "subject"
	Body     Part = "body"
	TextPart Part = "text"     // the plain-text part, when it was written by hand
	Envelope Part = "envelope" // to whom it goes, from whom, and with what
)

// Unreadable stands where bytes could not be read (Unicode's replacement character, U+FFFD).
const Unreadable = '\uFFFD'

// Note is one finding about a template, tied to its place in the text form.
type Note struct {
	Severity Severity
	Code     string // malformed, unknown, form, kinds, unsafe, address, twolines, toolong, toomany, empty
	Part     Part
	Line     int    // from 1
	Where    string // the block of a formatted body, such as content[3]; "" in others
	Column   int    // from 1, in characters
	Offset   int    // in bytes of the text form
	Length   int
	Text     string   // the offending text
	Message  string   // what is wrong and what to do
	Fixes    []string // texts that may stand there instead, the likeliest first
}

// String gives the note as a compiler would: "body 3:7: …".
func (n Note) String() string {
	return fmt.Sprintf("%s %d:%d: %s", n.Part, n.Line, n.Column, n.Message)
}

// Stopping tells whether any of the notes is red.
func Stopping(notes []Note) bool {
	for _, n := range notes {
		if n.Severity == Stops {
			return true
		}
	}
	return false
}

// Positions turn byte offsets into lines and columns, in one pass when they ascend.
type Positions struct {
	Src                        string
	at, line, lineFrom, column int // of the offset last asked for
}

// Of gives the line and the column, both from 1, of an offset in bytes.
func (p *Positions) Of(offset int) (line, column int) {
	switch {
	case p.line == 0 || offset < p.lineFrom:
		*p = Positions{Src: p.Src, line: 1}
	case offset < p.at: // back on the same line
		p.at, p.column = p.lineFrom, 0
	}
	between := p.Src[p.at:offset]
	if n := strings.Count(between, "\n"); n > 0 {
		p.line += n
		p.lineFrom = p.at + strings.LastIndexByte(between, '\n') + 1
		between, p.column = p.Src[p.lineFrom:offset], 0
	}
	p.column += utf8.RuneCountInString(between)
	p.at = offset
	return p.line, p.column + 1
}

// FirstStop gives the message of the first note that stops, "" when none does.
func FirstStop(notes []Note) string {
	for _, n := range notes {
		if n.Severity == Stops {
			return n.Message
		}
	}
	return ""
}
