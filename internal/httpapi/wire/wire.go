// Package wire holds the forms on the wire that several groups of operations share.
package wire

import (
	"time"
	"unicode/utf16"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Note is a margin note. From and To count UTF-16 code units in the text form,
// as editors in a browser do.
type Note struct {
	Severity document.Severity `json:"severity" enum:"stops,advises"`
	Code     string            `json:"code"`
	Part     document.Part     `json:"part" enum:"subject,body,text,envelope"`
	Line     int               `json:"line"`
	Where    string            `json:"where,omitempty" doc:"The block of a formatted body, such as content[3]"`
	Column   int               `json:"column"`
	From     int               `json:"from"`
	To       int               `json:"to"`
	Text     string            `json:"text"`
	Message  string            `json:"message"`
	Fixes    []string          `json:"fixes"`
}

// NotesOf turns notes into their form on the wire; subject and body are the text that they are about.
func NotesOf(list []document.Note, subject, body string) []Note {
	out := make([]Note, 0, len(list))
	for _, n := range list {
		src := body
		switch n.Part {
		case document.Subject:
			src = subject
		case document.TextPart:
			src = "" // its place is its line
		}
		out = append(out, Note{
			n.Severity, n.Code, n.Part, n.Line, n.Where, n.Column, units(src, n.Offset), units(src, n.Offset+n.Length),
			n.Text, n.Message, append([]string{}, n.Fixes...),
		})
	}
	return out
}

func units(s string, offset int) int {
	n := 0
	for _, r := range s[:min(offset, len(s))] {
		n += utf16.RuneLen(r)
	}
	return n
}

// TemplateOut is a template as its sheet shows it.
type TemplateOut struct {
	ID         int64                  `json:"id"`
	Name       string                 `json:"name"`
	WhenToUse  string                 `json:"whenToUse"`
	Subject    string                 `json:"subject" doc:"In the text form"`
	SubjectDoc document.Document      `json:"subjectDoc" doc:"As the editor takes it"`
	Body       string                 `json:"body" doc:"In the text form"`
	Language   string                 `json:"language" doc:"Of the values, such as en-GB; empty: the reader's"`
	Kind       string                 `json:"kind" enum:"plain,formatted,html"`
	Doc        *document.Document     `json:"doc,omitempty" doc:"A formatted body as the editor takes it"`
	State      domain.TemplateState   `json:"state" enum:"draft,ready,withdrawn"`
	Owner      string                 `json:"owner"`
	Version    int                    `json:"version"`
	UpdatedAt  time.Time              `json:"updatedAt"`
	FolderID   *int64                 `json:"folderId,omitempty"`
	Tags       []string               `json:"tags"`
	TextPart   *string                `json:"textPart,omitempty" doc:"The plain-text part in the text form, when it is written by hand"`
	TextOf     string                 `json:"textOf" doc:"What the body said when the plain-text part was written"`
	Stationery int64                  `json:"stationery" doc:"0 the default one, -1 none"`
	Untracked  bool                   `json:"untracked" doc:"Opens and clicks of its letters are not measured"`
	MayNot     []domain.Addition      `json:"mayNot" enum:"links,pictures,fields,attachments" doc:"What writers may not add"`
	Documents  []int64                `json:"documents" doc:"Approved documents that go with every letter"`
	OriginID   *int64                 `json:"originId,omitempty" doc:"The template that this copy follows"`
	Own        access.Rights          `json:"own" doc:"Who may use and edit it, as set on the template itself"`
	Counts     access.Rights          `json:"counts" doc:"The same as it counts, with the folders around it"`
	Fits       []field.Record         `json:"fits"`
	Notes      []Note                 `json:"notes"`
	MayEdit    bool                   `json:"mayEdit"`
	Next       []domain.TemplateState `json:"next" enum:"draft,ready,withdrawn" doc:"The states that it can be stored in"`
	SisterOf   *int64                 `json:"sisterOf,omitempty" doc:"The template that this is another wording of; that one's name, note, tags, folder and rights count"`
	Wordings   []library.WordingLine  `json:"wordings" doc:"This one and those in other languages, the first first"`
}

// TemplateOf is the form on the wire of a template.
func TemplateOf(t library.TemplateSheet) TemplateOut {
	var doc *document.Document
	if t.Body.Attrs.Body == document.BodyFormatted {
		doc = &t.Body
	}
	w := t.Input()
	return TemplateOut{
		ID: t.ID, Name: t.Name, WhenToUse: t.WhenToUse, Subject: w.Subject, SubjectDoc: t.Subject, Body: w.Body, Language: w.Language, Kind: w.Kind, Doc: doc,
		State: t.State, Owner: t.OwnerName, Version: t.Version, UpdatedAt: t.UpdatedAt, FolderID: t.FolderID, Tags: append([]string{}, t.Tags...),
		TextPart: w.TextPart, TextOf: w.TextOf, Stationery: w.Stationery, MayNot: append([]domain.Addition{}, t.Extras.MayNot...), Untracked: t.Extras.Untracked,
		Documents: append([]int64{}, t.Extras.Documents...), OriginID: t.OriginID, Own: t.Rights, Counts: t.Counts,
		Fits: append([]field.Record{}, t.Fits...), Notes: NotesOf(t.Notes, w.Subject, w.Body), MayEdit: t.MayEdit, Next: t.State.Next(),
		SisterOf: t.SisterOf, Wordings: append([]library.WordingLine{}, t.Wordings...),
	}
}

// Input is wording that is being typed, in the text form.
type Input struct {
	Subject    string             `json:"subject"`
	Body       string             `json:"body"`
	Kind       string             `json:"kind,omitempty" enum:"plain,formatted,html" doc:"Of the body; plain when it is left out"`
	Language   string             `json:"language,omitempty" maxLength:"35"`
	Doc        *document.Document `json:"doc,omitempty" doc:"A formatted body as the editor has it, instead of body"`
	SubjectDoc *document.Document `json:"subjectDoc,omitempty" doc:"The subject as the editor has it, instead of subject"`

	TextPart   *string `json:"textPart,omitempty" doc:"The plain-text part when it is written by hand"`
	TextOf     string  `json:"textOf,omitempty" doc:"What the body said when it was written"`
	Stationery int64   `json:"stationery,omitempty" minimum:"-1" doc:"0 the default one, -1 none"`
	TemplateID int64   `json:"templateId,omitempty" doc:"The template that is being changed"`
}

// Wording is the same as the use cases take it.
func (t Input) Wording() library.Input { return library.Input(t) }

// MaxDocument is what a request with a template or a letter may hold.
const MaxDocument = 8 << 20

// Gap is a place of a letter that has no value yet.
type Gap struct {
	Path    string        `json:"path"`
	Label   string        `json:"label"`
	Type    field.Type    `json:"type"`
	Kind    string        `json:"kind" doc:"Of a blank: text, long, choice, date, number, file, colleague; empty for a field"`
	Hint    string        `json:"hint"`
	Choices []string      `json:"choices"`
	Part    document.Part `json:"part" enum:"subject,body,text,envelope"`
	Count   int           `json:"count"`
	Record  bool          `json:"record" doc:"The value can be stored on the person's record with it"`
}

// MadeRecord names what was made.
type MadeRecord struct {
	ID int64 `json:"id"`
}
