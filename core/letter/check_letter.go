// Package letter is a merged letter at the desk: its gaps and fixed wording, other words
// for another recipient, templates put into it and taken out, its signature and foot, and
// what keeps it from being sent. In go letters of package template, and out come letters;
// nothing that is given is changed.
package letter

import (
	"fmt"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
)

// CheckLetter tells what keeps a letter from going: gaps, marks left in its
// text, addresses that lead nowhere, a subject that is empty, of two lines or too long, an empty body. An
// empty result means that the wording may go.
func CheckLetter(subject, body document.Document) []document.Note {
	var notes []document.Note
	add := func(part document.Part, code, text, message string) {
		notes = append(notes, document.Note{Severity: document.Stops, Code: code, Part: part, Line: 1, Column: 1, Text: text, Message: message})
	}
	for _, g := range document.Gaps(subject, body) {
		notes = append(notes, document.Note{
			Severity: document.Stops, Code: "gap", Part: g.Part, Line: g.Line, Column: 1, Text: g.Path,
			Message: fmt.Sprintf("%s is missing; fill it in.", g.Label),
		})
	}
	line, text := render.RenderText(subject), render.RenderText(body)
	for i, part := range []document.Part{document.Subject, document.Body} {
		if left := leftOverMark([]string{line, text}[i]); left != "" {
			add(part, "mark", left, fmt.Sprintf("%s is an unfilled placeholder in the %s; replace it.", left, part))
		}
	}
	for i, part := range []document.Part{document.Subject, document.Body} {
		if strings.ContainsRune([]string{line, text}[i], document.Unreadable) {
			add(part, "unreadable", string(document.Unreadable), fmt.Sprintf("There is a sign in the %s that could not be read (�); type what was meant.", part))
		}
	}
	for i, d := range []document.Document{subject, body} {
		words, blockOf := typedWords(d)
		for _, l := range template.Leftovers(words) {
			add([]document.Part{document.Subject, document.Body}[i], "leftover", l.Text, fmt.Sprintf("%s looks like an unfilled placeholder; replace it.", l.Text))
			notes[len(notes)-1].Line = blockOf[strings.Count(words[:l.From], "\n")]
		}
	}
	for i, d := range []document.Document{subject, body} {
		words, blockOf := typedWords(d)
		for _, s := range slips([]document.Part{document.Subject, document.Body}[i], words) {
			add([]document.Part{document.Subject, document.Body}[i], s.code, s.text, s.message)
			notes[len(notes)-1].Line = blockOf[strings.Count(words[:s.at], "\n")]
		}
	}
	lang := sentence.LanguageOf(body, text)
	notes = append(append(notes, sentence.BrokenNotes(document.Subject, subject, lang)...), sentence.BrokenNotes(document.Body, body, lang)...)
	for _, l := range linksOf(body) {
		if why := safehtml.WrongAddress(l.href) + safehtml.UnfinishedAddress(l.href); why != "" && !strings.Contains(l.href, "{{") {
			if l.words != "" {
				why = fmt.Sprintf("The link “%s” does not work for your reader: %s", markup.Clip(l.words, 40), why)
			}
			add(document.Body, "address", l.href, why)
			notes[len(notes)-1].Line = l.block
		}
	}
	switch {
	case strings.TrimSpace(line) == "":
		add(document.Subject, "empty", "", "The subject is empty; write one.")
	case strings.Contains(line, "\n"):
		add(document.Subject, "twolines", "", "The subject must be one line; remove the line break.")
	case len(line) > document.MaxSubject:
		add(document.Subject, "toolong", "", fmt.Sprintf("The subject is longer than %d bytes; shorten it.", document.MaxSubject))
	}
	switch {
	case strings.TrimSpace(text) == "":
		add(document.Body, "empty", "", "The letter is empty; write something.")
	case len(text) > document.MaxBody:
		add(document.Body, "toolong", "", "The letter is longer than 1 MiB; shorten it.")
	}
	return notes
}

func leftOverMark(s string) string {
	start := strings.Index(s, "{{")
	if start < 0 {
		return ""
	}
	end := strings.Index(markup.FirstLine(s[start:]), "}}")
	if end < 0 {
		return ""
	}
	return s[start : start+end+2]
}

// CheckTextPart tells what keeps a plain-text part that was written by hand from
// going: gaps that the rest does not have, marks left in it, an empty part.
func CheckTextPart(subject, body, text document.Document) []document.Note {
	var notes []document.Note
	add := func(code, where, message string) {
		notes = append(notes, document.Note{Severity: document.Stops, Code: code, Part: document.TextPart, Line: 1, Column: 1, Text: where, Message: message})
	}
	for _, g := range document.Gaps(subject, body, text) {
		if g.Part == document.TextPart {
			add("gap", g.Path, fmt.Sprintf("%s is missing in the plain-text part; fill it in.", g.Label))
		}
	}
	words := render.RenderText(text)
	if left := leftOverMark(words); left != "" {
		add("mark", left, fmt.Sprintf("%s is an unfilled placeholder in the plain-text part; replace it.", left))
	}
	if strings.TrimSpace(words) == "" {
		add("empty", "", "The plain-text part is empty; write it, or make it automatically.")
	}
	return notes
}
