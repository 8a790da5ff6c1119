// Package advice says what could be better in a letter. Nothing of it keeps a
// letter from going; every piece has its reason and where the reason comes from.
package advice

import (
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/render"
)

// CommonPractice is the source of a reason that people of the trade agree on and
// that no publication was found for.
const CommonPractice = "common practice, no source"

// Input is a letter and what is known about its way.
type Input struct {
	Subject, Body document.Document
	Language      string // of the words, RFC 5646; "" English
	First         bool   // no letter went between the two before
	Today         string // the subject of a letter that they have today already
	Attachments   int
	Size          int      // bytes of the HTML as it is sent; 0 of plain letters
	Names         []string // what the recipient may be called
}

// Advice is one piece of it. Line is the line or block that it is about, from 1;
// 0 is the whole letter. Praise says what is good.
type Advice struct {
	Code    string        `json:"code"`
	Part    document.Part `json:"part" enum:"subject,body"`
	Line    int           `json:"line"`
	Message string        `json:"message"`
	Reason  string        `json:"reason"`
	Source  string        `json:"source"`
	Praise  bool          `json:"praise"`
}

// Report is the figures of a letter and the advice on it. Seconds is the time it
// takes to read. Ease is the Flesch Reading Ease, nil where it says nothing: in
// other languages than English and under 20 words.
type Report struct {
	Words     int      `json:"words"`
	Seconds   int      `json:"seconds"`
	Ease      *float64 `json:"ease,omitempty"`
	EaseWords string   `json:"easeWords,omitempty"`
	Questions int      `json:"questions"`
	Notes     []Advice `json:"notes"`
}

// wordsAMinute: silent reading of English non-fiction, Brysbaert, "How many words
// do we read per minute?", Journal of Memory and Language 109 (2019), from memory.
const wordsAMinute = 238

// line is one block of the body and its words.
type line struct {
	number int
	text   string
}

// Of looks at a letter.
func Of(in Input) Report {
	lines := linesOf(in.Body)
	var texts []string
	for _, l := range lines {
		texts = append(texts, l.text)
	}
	text := strings.Join(texts, "\n")
	m := Measure(text)
	r := Report{Words: m.Words, Seconds: (m.Words*60 + wordsAMinute - 1) / wordsAMinute, Questions: questions(text), Notes: []Advice{}}
	english := in.Language == "" || strings.HasPrefix(strings.ToLower(in.Language), "en")
	if english && m.Words >= 20 {
		ease := m.Ease()
		r.Ease, r.EaseWords = &ease, EaseWords(ease)
	}
	c := check{in: in, lines: lines, text: text, report: &r, english: english}
	for _, look := range []func(){c.subject, c.today, c.greeting, c.frames, c.length, c.ease, c.request, c.addresses, c.pictures, c.loud, c.filters, c.attachment, c.size} {
		look()
	}
	return r
}

// linesOf gives the words of each line or block of a body. A page is one line.
func linesOf(body document.Document) []line {
	if body.Attrs.Body == document.BodyHTML {
		return []line{{0, render.RenderText(body)}}
	}
	var out []line
	for i := range body.Content {
		one := body
		one.Content = body.Content[i : i+1]
		out = append(out, line{i + 1, render.RenderText(one)})
	}
	return out
}
