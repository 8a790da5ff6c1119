package compose

import (
	"context"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Variant is a template as letters are merged from it without their writer.
type Variant struct {
	Template domain.Template
	Wording  template.Template
	Program  *template.Program
	Broken   string // what has to be mended before a letter can begin with it, or ""
}

// Variant gives a template as it is merged.
func (a *Service) Variant(cat *field.Catalogue, b *library.Book, t domain.Template) Variant {
	return Variant{t, b.Wording(&t), a.library.Program(cat, b, &t), a.library.Broken(cat, b, &t)}
}

// VariantWith gives a template with other words, which it is not stored with.
func VariantWith(cat *field.Catalogue, b *library.Book, t domain.Template, own *domain.RoundWording) Variant {
	t.Subject, t.Body, t.Extras.TextPart = own.Subject, own.Body, nil
	wording := b.Wording(&t)
	p, _ := template.Compile(wording, cat)
	return Variant{t, wording, p, ""}
}

// Variants gives a template and its wordings in other languages that are ready.
func (a *Service) Variants(ctx context.Context, cat *field.Catalogue, b *library.Book, t domain.Template) ([]Variant, error) {
	out := []Variant{a.Variant(cat, b, t)}
	sisters, err := a.store.WordingsOf(ctx, t.ID)
	if err != nil {
		return nil, err
	}
	for _, s := range sisters {
		if s.ID != t.ID && s.State == domain.TemplateReady {
			out = append(out, a.Variant(cat, b, s))
		}
	}
	return out, nil
}

// VariantFor gives the wording in somebody's language that fits them, else the first.
func VariantFor(list []Variant, s *library.Setting) *Variant {
	for i := range list {
		if lang := list[i].Wording.Body.Attrs.Lang; s.Reads(lang) && s.WhyNot(list[i].Program) == "" {
			return &list[i]
		}
	}
	return &list[0]
}

// Blanks gives what was said about the blanks of a template, by ?name; colleagues are said by
// name. What cannot be read is left open.
func (w *Variant) Blanks(users []domain.User, said map[string]string) template.Blanks {
	blanks := template.Blanks{}
	for path, words := range said {
		name, blank := strings.CutPrefix(path, "?")
		at := slices.IndexFunc(w.Program.Blanks(), func(d document.BlankDef) bool { return d.Name == name })
		if !blank || at < 0 {
			continue
		}
		def := w.Program.Blanks()[at]
		if def.Kind == document.BlankColleague {
			setColleague(blanks, users, name, words)
		} else if v, err := field.Given(field.Def{Type: def.Type(), Choices: def.Choices}, words, ""); err == nil && v.Filled() {
			blanks[name] = v
		}
	}
	return blanks
}

// setColleague fills everything that is written of one.
func setColleague(blanks template.Blanks, users []domain.User, blank, name string) {
	for i := range users {
		if c := &users[i]; strings.EqualFold(c.Name(), strings.TrimSpace(name)) {
			blanks[blank] = field.Of(c.Name())
			records.SetUser(func(path, s string) {
				if s != "" {
					blanks[blank+strings.TrimPrefix(path, "c")] = field.Of(s)
				}
			}, "c", c)
			return
		}
	}
}

// Breaks says what of a template its wording for one purpose may not change.
func Breaks(cat *field.Catalogue, base, own *Variant) []document.Note {
	reader := field.NewReader("en")
	was, is := base.Program.Merge(cat.NewValues(), nil, reader), own.Program.Merge(cat.NewValues(), nil, reader)
	l := domain.Letter{
		Subject: is.Subject, Body: is.Body, Fixed: letter.FixedWording(was.Body),
		Extras: domain.LetterExtras{MayNot: base.Template.Extras.MayNot, Had: interchange.InventoryOf(was.Body)},
	}
	return slices.DeleteFunc(l.WordingStops(), func(n document.Note) bool { return n.Code != "fixed" && n.Code != "added" })
}

// NotesError is the error of what stops a wording, nil when nothing does.
func NotesError(notes []document.Note) error {
	var bad domain.InvalidError
	for _, n := range notes {
		if n.Severity == document.Stops {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: string(n.Part), Why: n.Message})
		}
	}
	if len(bad.Fields) == 0 {
		return nil
	}
	return &bad
}
