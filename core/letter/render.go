package letter

import (
	"fmt"
	"strings"
)

// RenderText writes the document of a letter as plain text with LF line ends.
// A gap is written as its label in ‹ ›, so that a proof shows where it is; a
// letter with gaps is refused before this by CheckLetter.
func RenderText(d Document) string {
	var b strings.Builder
	for i, p := range d.Content {
		if i > 0 {
			b.WriteByte('\n')
		}
		for _, n := range p.Content {
			switch n.Type {
			case Text:
				b.WriteString(n.Text)
			case GapNode:
				b.WriteString("‹" + n.Attrs.Label + "›")
			}
		}
	}
	return b.String()
}

// CheckLetter tells what keeps a letter from going: gaps, marks left in its
// text, a subject that is empty, of two lines or too long, an empty body. An
// empty result means that the wording may go.
func CheckLetter(subject, body Document) []Note {
	var notes []Note
	add := func(part Part, code, text, message string) {
		notes = append(notes, Note{Severity: Stops, Code: code, Part: part, Line: 1, Column: 1, Text: text, Message: message})
	}
	for _, g := range Gaps(subject, body) {
		notes = append(notes, Note{
			Severity: Stops, Code: "gap", Part: g.Part, Line: g.Line, Column: 1, Text: g.Path,
			Message: fmt.Sprintf("%s is missing; fill it in the margin.", g.Label),
		})
	}
	line, text := RenderText(subject), RenderText(body)
	for i, part := range []Part{Subject, Body} {
		if left := leftOverMark([]string{line, text}[i]); left != "" {
			add(part, "mark", left, fmt.Sprintf("%s stands in the %s as it was typed; put the words there instead.", left, part))
		}
	}
	for i, d := range []Document{subject, body} {
		words := typedWords(d)
		for _, l := range Leftovers(words) {
			add([]Part{Subject, Body}[i], "leftover", l.Text, fmt.Sprintf("%s looks like a mark that was never filled in; put the words there instead.", l.Text))
			notes[len(notes)-1].Line = strings.Count(words[:l.From], "\n") + 1
		}
	}
	switch {
	case strings.TrimSpace(line) == "":
		add(Subject, "empty", "", "The letter has no subject; write one.")
	case strings.Contains(line, "\n"):
		add(Subject, "twolines", "", "The subject must be one line; take the line break out.")
	case len(line) > MaxSubject:
		add(Subject, "toolong", "", fmt.Sprintf("The subject is longer than %d bytes; shorten it.", MaxSubject))
	}
	switch {
	case strings.TrimSpace(text) == "":
		add(Body, "empty", "", "The letter is empty; write something.")
	case len(text) > MaxBody:
		add(Body, "toolong", "", "The letter is longer than 1 MiB; shorten it.")
	}
	return notes
}

func leftOverMark(s string) string {
	start := strings.Index(s, "{{")
	if start < 0 {
		return ""
	}
	end := strings.Index(line(s[start:]), "}}")
	if end < 0 {
		return ""
	}
	return s[start : start+end+2]
}

// CheckLetterForm refuses documents that hold template nodes: a letter is made
// of words and gaps alone.
func CheckLetterForm(d Document) error {
	if err := d.Check(); err != nil {
		return err
	}
	for i, p := range d.Content {
		for j, n := range p.Content {
			if n.Type != Text && n.Type != GapNode {
				return &FormError{fmt.Sprintf("content[%d].content[%d]", i, j), fmt.Sprintf("a letter cannot hold a %q", n.Type)}
			}
		}
	}
	return nil
}
