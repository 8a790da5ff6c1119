package library

import (
	"context"
	"errors"
	"fmt"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// Input is wording that is being typed, in the text form: subject, body, the kind
// of body ("" plain) and the language of the template ("" the reader's). A
// subject and a formatted body may come as the editor's documents instead. TextPart is
// the plain-text part in the text form when it is written by hand, TextOf what the
// body said then. TemplateID is that of the template that is being changed.
type Input struct {
	Subject    string
	Body       string
	Kind       string
	Language   string
	Doc        *document.Document
	SubjectDoc *document.Document
	TextPart   *string
	TextOf     string
	Stationery int64
	TemplateID int64
}

// Read gives the template of the wording. What an HTML body cannot hold is taken
// out and listed; markup that cannot be read is a red note.
func (w Input) Read() (t template.Template, removed []interchange.Removed, wrong []document.Note, err error) {
	if len(w.Subject) > 4*document.MaxSubject {
		return t, nil, nil, domain.Invalid("subject", "is longer than %d bytes; shorten it", document.MaxSubject)
	}
	if len(w.Body) > document.MaxBody {
		return t, nil, nil, domain.Invalid("body", "is longer than 1 MiB; shorten it")
	}
	if w.SubjectDoc != nil {
		if err := w.SubjectDoc.Check(); err != nil || w.SubjectDoc.Attrs.Body != document.BodyPlain {
			return t, nil, nil, domain.Invalid("subject", "cannot be read: %v", err)
		}
		w.Subject = markup.Print(markup.WithCodes(*w.SubjectDoc))
	}
	t.Subject = markup.Parse(w.Subject)
	switch {
	case w.Doc != nil && w.Doc.Attrs.Body != document.BodyFormatted:
		return t, nil, nil, domain.Invalid("doc", "is a %q body; only formatted ones come as documents", w.Doc.Attrs.Body)
	case w.Doc != nil:
		if err = w.Doc.Check(); err == nil {
			t.Body = markup.Canonical(markup.WithCodes(*w.Doc))
			err = checkPrinted(t.Body)
		}
	case w.Kind == document.BodyHTML:
		t.Body, removed, err = interchange.ImportHTML(w.Body)
	default:
		t.Body, err = markup.ParseBody(w.Body, w.Kind)
	}
	var text *markup.MarkupError
	var form *document.FormError
	switch {
	case errors.As(err, &text):
		wrong, err = []document.Note{text.Note()}, nil
	case errors.As(err, &form):
		return t, nil, nil, domain.Invalid("body", "%v", form)
	}
	if err != nil {
		return t, nil, nil, err
	}
	if w.TextPart != nil && t.Body.Attrs.Body != document.BodyPlain {
		if len(*w.TextPart) > document.MaxBody || len(w.TextOf) > 2*document.MaxBody {
			return t, nil, nil, domain.Invalid("textPart", "is longer than 1 MiB; shorten it")
		}
		text := markup.Parse(*w.TextPart)
		t.Text = &text
	}
	if w.Language != "" {
		tag, known := field.KnownLocale(w.Language)
		if !known {
			return t, nil, nil, domain.Invalid("language", "%q is not a language that dates and amounts can be written in; choose one such as en-GB or pt-BR", w.Language)
		}
		w.Language = tag
	}
	t.Body.Attrs.Lang = w.Language
	t.Body.Attrs.Lang = LanguageOf(t.Subject, t.Body)
	return t, removed, wrong, nil
}

// checkPrinted tells whether a document has a text form that can be read again and
// is not too long.
func checkPrinted(d document.Document) error {
	text := markup.Print(d)
	if len(text) > document.MaxBody {
		return domain.Invalid("body", "is longer than 1 MiB; shorten it")
	}
	_, err := markup.ParseMarkup(text)
	return err
}

// compileInput reads and compiles the wording with the passages of the template's
// owner. In an HTML body the places of the notes are those of the page as it was
// typed.
func (a *Service) compileInput(ctx context.Context, cat *field.Catalogue, u domain.User, w Input) (*template.Program, template.Template, Checked, error) {
	t, removed, wrong, err := w.Read()
	if err != nil {
		return nil, t, Checked{}, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return nil, t, Checked{}, err
	}
	owner := u.ID
	if w.TemplateID != 0 {
		stored, err := a.TemplateFor(ctx, u, access.SeeTemplate, w.TemplateID)
		if err != nil {
			return nil, t, Checked{}, err
		}
		owner = stored.OwnerID
	}
	t.Passages = b.Of(owner)
	p, notes := template.Compile(t, cat)
	read := p
	if w.Kind == document.BodyHTML {
		typed := t
		typed.Body = markup.ParseHTML(w.Body)
		read, notes = template.Compile(typed, cat)
	}
	notes = append(notes, sentence.WhenEmpty(read, cat)...)
	c := Checked{Notes: append(append(wrong, notes...), noteTextPart(&t, w.TextOf)...), Fits: p.Fits(), Removed: removed}
	c.Language = t.Body.Attrs.Lang
	if reads := field.GuessLanguage(render.Words(t.Subject) + "\n" + render.Words(t.Body)); reads != "" && !field.SameLanguage(reads, c.Language) {
		c.Notes = append(c.Notes, document.Note{
			Severity: document.Advises, Code: "language", Part: document.Body, Line: 1, Column: 1, Text: reads,
			Message: fmt.Sprintf("The text reads like %s, but its dates and amounts are in %s. Choose the language at the top.", field.LanguageName(reads), field.LanguageName(c.Language)),
		})
	}
	if len(wrong) > 0 {
		c.Notes, c.Fits = wrong, nil
	}
	return p, t, c, nil
}

// Checked is what is to say about wording that is being typed.
type Checked struct {
	Notes    []document.Note
	Fits     []field.Record
	Removed  []interchange.Removed // from an HTML body
	Language string                // that its values are written in, given or recognised
}

// CheckTemplate gives the notes on wording that is being typed, and the kinds
// of record it fits.
func (a *Service) CheckTemplate(ctx context.Context, u domain.User, w Input) (Checked, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return Checked{}, err
	}
	_, _, c, err := a.compileInput(ctx, cat, u, w)
	return c, err
}

// Reader gives the reader of a letter: in the language of its words, where it is
// known, else of the person, else of the team.
func Reader(words string, p *domain.Person, t *domain.Team) *field.Reader {
	team := ""
	if t != nil {
		team = t.Language
	}
	return field.NewReader(field.LocaleFor(words, p.Language, field.CountryCode(p.Country), team))
}

// LanguageOf is the language of a wording: the one it was given, else the one it is
// recognised to be; "" where there are too few words to tell.
func LanguageOf(subject, body document.Document) string {
	if body.Attrs.Lang != "" {
		return body.Attrs.Lang
	}
	return field.GuessLanguage(render.Words(subject) + "\n" + render.Words(body))
}

// ReaderFor is the reader of the setting's person for a template: in its language, else in the
// one that its words are recognised to be, else in the team's. The language that the person reads
// is not that of words that are in none.
func (s *Setting) ReaderFor(t *template.Template) *field.Reader {
	lang := LanguageOf(t.Subject, t.Body)
	if lang == "" && s.Recs.Team != nil {
		lang = s.Recs.Team.Language
	}
	if lang == "" {
		lang = usualLanguage
	}
	if s.Colleague != nil {
		return field.NewReader(field.LocaleFor(lang, "", field.CountryCode(s.Colleague.Country), lang))
	}
	return Reader(lang, &s.Person, s.Recs.Team)
}

// usualLanguage is that of a team that has set none.
const usualLanguage = "en"

// ReaderOf is the reader of what is written for a colleague, whomever it is about: in the team's
// language, with numbers that are dialled from where the colleague is.
func ReaderOf(u *domain.User, t *domain.Team) *field.Reader {
	lang := usualLanguage
	if t != nil && t.Language != "" {
		lang = t.Language
	}
	return field.NewReader(field.LocaleFor(lang, "", field.CountryCode(u.Country), lang))
}

// InKind gives a wording in a kind of body. A page takes no pieces, since its build
// is not changed, and is put into others as its words.
func InKind(d document.Document, kind string) (document.Document, error) {
	if kind == document.BodyHTML {
		return d, &domain.StateError{Why: "The letter is an HTML page, whose layout can’t be changed. Start again with the other template."}
	}
	if d.Attrs.Body != document.BodyPlain && (d.Attrs.Body == document.BodyHTML || kind == document.BodyPlain) {
		lang := d.Attrs.Lang
		d = markup.Parse(render.PlainPart(d))
		d.Attrs.Lang = lang
	}
	if kind == document.BodyFormatted {
		d = render.Formatted(d)
	}
	return d, nil
}
