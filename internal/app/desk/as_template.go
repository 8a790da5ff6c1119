package desk

import (
	"context"
	"slices"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// FieldOffer is a value of the records that stands in a letter as plain words.
type FieldOffer struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Words string `json:"words"`
	Count int    `json:"count"`
}

// AsTemplate is the wording of a letter as that of a template, and what else could
// be a field in it.
type AsTemplate struct {
	Subject document.Document
	Body    document.Document
	Words   string // for people
	Offers  []FieldOffer
}

// AsTemplate gives the wording of a letter as that of a template. Take is the paths
// of the offers that become fields.
func (a *Service) AsTemplate(ctx context.Context, u domain.User, id int64, take []string) (AsTemplate, error) {
	out := AsTemplate{Offers: []FieldOffer{}}
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return out, err
	}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return out, err
	}
	body, err := a.withoutQuestions(ctx, &l, l.Written())
	if err != nil {
		return out, err
	}
	r := s.ReaderFor(&template.Template{Body: l.Body})
	label := library.LabelIn(s.Cat)
	found := letter.FieldsIn(wordsOfFields(s, r), l.Subject, body)
	var taken []letter.FieldWords
	for _, f := range found {
		out.Offers = append(out.Offers, FieldOffer{f.Path, label(f.Path), f.Words, f.Count})
		if slices.Contains(take, f.Path) {
			taken = append(taken, f)
		}
	}
	of := func(path, words string) (document.Attrs, bool) { return s.FieldOf(r, path, words) }
	out.Subject, out.Body = letter.ToTemplate(l.Subject, of, taken), letter.ToTemplate(body, of, taken)
	out.Words = render.Readable(out.Body, label)
	return out, nil
}

// shortestOffer is the characters of a value below which words are no sign of it.
const shortestOffer = 3

// wordsOfFields gives the values of the records as a letter would have them, each
// words once.
func wordsOfFields(s *library.Setting, r *field.Reader) []letter.FieldWords {
	var out []letter.FieldWords
	for _, d := range s.Cat.Fields() {
		v := s.Values.Get(d.Path)
		if v.Type == "" || d.Type == field.YesNo || field.Junk(d, v) {
			continue
		}
		for _, as := range append([]field.Form{""}, field.FormsOf(d.Type)...) {
			words := string(r.Append(nil, v, as))
			if utf8.RuneCountInString(words) < shortestOffer || slices.ContainsFunc(out, func(f letter.FieldWords) bool { return f.Words == words }) {
				continue
			}
			out = append(out, letter.FieldWords{Path: d.Path, As: string(as), Words: words})
		}
	}
	return out
}

// SaveAsTemplate makes a draft of a template out of a letter.
func (a *Service) SaveAsTemplate(ctx context.Context, u domain.User, id int64, name, whenToUse string, folder *int64, take []string) (library.TemplateSheet, error) {
	t, err := a.AsTemplate(ctx, u, id, take)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	in := library.TemplateInput{Name: name, WhenToUse: whenToUse, State: domain.TemplateDraft, FolderID: folder}
	in.Input = library.Input{Kind: t.Body.Attrs.Body, SubjectDoc: &t.Subject, Body: markup.Print(t.Body), Language: t.Body.Attrs.Lang}
	if t.Body.Attrs.Body == document.BodyFormatted {
		in.Input.Doc = &t.Body
	}
	return a.library.AddTemplate(ctx, u, in)
}
