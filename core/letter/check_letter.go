package letter

import (
	"fmt"
	"slices"
	"strings"
)

// CheckLetter tells what keeps a letter from going: gaps, marks left in its
// text, addresses that lead nowhere, a subject that is empty, of two lines or too long, an empty body. An
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
			add(part, "mark", left, fmt.Sprintf("%s is an unfilled placeholder in the %s; replace it.", left, part))
		}
	}
	for i, d := range []Document{subject, body} {
		words, blockOf := typedWords(d)
		for _, l := range Leftovers(words) {
			add([]Part{Subject, Body}[i], "leftover", l.Text, fmt.Sprintf("%s looks like an unfilled placeholder; replace it.", l.Text))
			notes[len(notes)-1].Line = blockOf[strings.Count(words[:l.From], "\n")]
		}
	}
	for i, d := range []Document{subject, body} {
		words, blockOf := typedWords(d)
		for _, s := range slips([]Part{Subject, Body}[i], words) {
			add([]Part{Subject, Body}[i], s.code, s.text, s.message)
			notes[len(notes)-1].Line = blockOf[strings.Count(words[:s.at], "\n")]
		}
	}
	for _, l := range linksOf(body) {
		if why := wrongAddress(l.href) + unfinishedAddress(l.href); why != "" && !strings.Contains(l.href, "{{") {
			if l.words != "" {
				why = fmt.Sprintf("The link “%s” does not work for your reader: %s", clip(l.words, 40), why)
			}
			add(Body, "address", l.href, why)
			notes[len(notes)-1].Line = l.block
		}
	}
	switch {
	case strings.TrimSpace(line) == "":
		add(Subject, "empty", "", "The subject is empty; write one.")
	case strings.Contains(line, "\n"):
		add(Subject, "twolines", "", "The subject must be one line; remove the line break.")
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
// of words, breaks and gaps alone, in blocks that always stand. What addresses lead
// to is not looked at: CheckLetter tells of those that may not be followed.
func CheckLetterForm(d Document) error {
	if err := d.Check(); err != nil {
		return err
	}
	return checkLetterNodes("", d.Content)
}

var letterInlines = []NodeType{Text, GapNode, Break}

func checkLetterNodes(where string, nodes []Node) error {
	for i := range nodes {
		n := &nodes[i]
		at := fmt.Sprintf("%scontent[%d]", where, i)
		if n.Type == OnlyWhen || slices.Contains(inlines, n.Type) && !slices.Contains(letterInlines, n.Type) {
			return &FormError{at, fmt.Sprintf("a letter cannot hold a %q", n.Type)}
		}
		if err := checkLetterNodes(at+".", n.Content); err != nil {
			return err
		}
	}
	return nil
}

// CheckTextPart tells what keeps a plain-text part that was written by hand from
// going: gaps that the rest does not have, marks left in it, an empty part.
func CheckTextPart(subject, body, text Document) []Note {
	var notes []Note
	add := func(code, where, message string) {
		notes = append(notes, Note{Severity: Stops, Code: code, Part: TextPart, Line: 1, Column: 1, Text: where, Message: message})
	}
	for _, g := range Gaps(subject, body, text) {
		if g.Part == TextPart {
			add("gap", g.Path, fmt.Sprintf("%s is missing in the plain-text part; fill it in the margin.", g.Label))
		}
	}
	words := RenderText(text)
	if left := leftOverMark(words); left != "" {
		add("mark", left, fmt.Sprintf("%s is an unfilled placeholder in the plain-text part; replace it.", left))
	}
	if strings.TrimSpace(words) == "" {
		add("empty", "", "The plain-text part is empty; write it, or make it automatically.")
	}
	return notes
}
