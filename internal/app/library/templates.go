package library

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// TemplateSheet is a template as the library and the template sheet show it.
// Subject and Body are in the text form.
type TemplateSheet struct {
	domain.Template
	OwnerName   string
	SubjectText string
	BodyText    string
	Notes       []document.Note
	Fits        []field.Record
	MayEdit     bool
	Counts      access.Rights // what counts, with the folders around it
	Wordings    []WordingLine // of it and its sisters in other languages
}

// SheetOf shows a template that need not be stored.
func SheetOf(cat *field.Catalogue, b *Book, t domain.Template) TemplateSheet {
	w := b.Wording(&t)
	p, notes := template.Compile(w, cat)
	notes = append(notes, sentence.WhenEmpty(p, cat)...)
	s := TemplateSheet{
		Template: t, SubjectText: markup.Print(t.Subject), BodyText: markup.Print(t.Body),
		Notes: append(notes, noteTextPart(&w, t.Extras.TextOf)...), Fits: p.Fits(),
	}
	return s
}

// Input gives the wording as it is typed.
func (s *TemplateSheet) Input() Input {
	w := Input{
		Subject: s.SubjectText, Body: s.BodyText, Kind: s.Body.Attrs.Body, Language: s.Body.Attrs.Lang,
		TextOf: s.Extras.TextOf, Stationery: s.Extras.Stationery, TemplateID: s.ID,
	}
	if s.Extras.TextPart != nil {
		w.TextPart = new(markup.Print(*s.Extras.TextPart))
	}
	return w
}

// Template gives one template.
func (a *Service) Template(ctx context.Context, u domain.User, id int64) (TemplateSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	t, err := a.TemplateFor(ctx, u, access.SeeTemplate, id)
	if err != nil {
		return TemplateSheet{}, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	s := SheetOf(cat, b, t)
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return TemplateSheet{}, err
	}
	thing := rights.Template(t.Key())
	s.MayEdit, s.Counts = access.May(u.As(), access.EditTemplate, thing), thing.Rights
	owner, err := a.store.User(ctx, t.OwnerID)
	if err != nil {
		return TemplateSheet{}, err
	}
	s.OwnerName = owner.Name()
	list, err := a.store.WordingsOf(ctx, t.First())
	if err != nil {
		return TemplateSheet{}, err
	}
	s.Wordings = WordingLines(list)
	return s, nil
}

// TemplateInput is what a writer sets on a template.
type TemplateInput struct {
	Name      string
	WhenToUse string
	Input
	State     domain.TemplateState
	FolderID  *int64 // where a new template is put
	Tags      []string
	MayNot    []domain.Addition
	Untracked bool // opens and clicks of its letters are not measured
	Documents []int64
}

// Limits of a template's settings.
const MaxName, maxWhen, maxTag, maxTags = 120, 300, 40, 12

func (a *Service) intoTemplate(ctx context.Context, u domain.User, t *domain.Template, in TemplateInput, cat *field.Catalogue) error {
	var bad domain.InvalidError
	add := func(where, why string) { bad.Fields = append(bad.Fields, domain.FieldError{Where: where, Why: why}) }
	in.Name, in.WhenToUse = strings.TrimSpace(in.Name), strings.TrimSpace(in.WhenToUse)
	if in.Name == "" {
		add("name", "is missing; give the template a name, recipients never see it")
	}
	if len(in.Name) > MaxName {
		add("name", fmt.Sprintf("is longer than %d bytes", MaxName))
	}
	if len(in.WhenToUse) > maxWhen {
		add("whenToUse", fmt.Sprintf("is longer than %d bytes", maxWhen))
	}
	t.Tags = []string{}
	for _, tag := range in.Tags {
		tag = strings.Join(strings.Fields(tag), " ")
		if len(tag) > maxTag {
			add("tags", fmt.Sprintf("%q is longer than %d bytes", tag, maxTag))
		}
		if tag != "" && !slices.Contains(t.Tags, tag) {
			t.Tags = append(t.Tags, tag)
		}
	}
	if len(t.Tags) > maxTags {
		add("tags", fmt.Sprintf("are more than %d", maxTags))
	}
	read, _, wrong, err := in.Read()
	if err != nil {
		return err
	}
	if len(wrong) > 0 {
		return domain.Invalid("body", "line %d, column %d: %s", wrong[0].Line, wrong[0].Column, wrong[0].Message)
	}
	t.Name, t.WhenToUse, t.State = in.Name, in.WhenToUse, in.State
	t.Subject, t.Body = read.Subject, read.Body
	t.Extras = domain.Extras{TextPart: read.Text, TextOf: in.TextOf, Stationery: in.Stationery, MayNot: in.MayNot, Documents: in.Documents, Untracked: in.Untracked}
	if err := a.checkExtras(ctx, u, &t.Extras, read.Body.Attrs.Body); err != nil {
		return err
	}
	switch in.State {
	case domain.TemplateDraft, domain.TemplateWithdrawn:
	case domain.TemplateReady:
		b, err := a.Book(ctx)
		if err != nil {
			return err
		}
		_, notes := template.Compile(b.Wording(t), cat)
		for _, n := range notes {
			if n.Severity == document.Stops {
				add(string(n.Part), fmt.Sprintf("line %d, column %d: %s", n.Line, n.Column, n.Message))
			}
		}
		if read.Body.Blank() {
			add("body", "is empty; a ready template needs words")
		}
	default:
		add("state", "must be draft, ready or withdrawn")
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	return nil
}

// AddTemplate makes a template that belongs to the user.
func (a *Service) AddTemplate(ctx context.Context, u domain.User, in TemplateInput) (TemplateSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	now := a.now()
	t := domain.Template{OwnerID: u.ID, Version: 1, CreatedAt: now, UpdatedAt: now, UpdatedBy: u.ID}
	if err := a.intoTemplate(ctx, u, &t, in, cat); err != nil {
		return TemplateSheet{}, err
	}
	if in.FolderID != nil {
		if _, _, err := a.folderFor(ctx, u, HoldsTemplates, *in.FolderID); err != nil {
			return TemplateSheet{}, err
		}
		t.FolderID = in.FolderID
	}
	id, err := a.store.AddTemplate(ctx, t)
	if err != nil {
		return TemplateSheet{}, err
	}
	return a.Template(ctx, u, id)
}

// ChangeTemplate stores a new version of a template made on version; when
// somebody stored one since, nothing is changed and the error is ErrStale.
func (a *Service) ChangeTemplate(ctx context.Context, u domain.User, id int64, version int, in TemplateInput) (TemplateSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	t, err := a.TemplateFor(ctx, u, access.EditTemplate, id)
	if err != nil {
		return TemplateSheet{}, err
	}
	if t.Version != version {
		return TemplateSheet{}, domain.ErrStale
	}
	if t.SisterOf != nil { // the settings of all wordings are those of the first
		in.Name, in.WhenToUse, in.Tags = t.Name, t.WhenToUse, t.Tags
	}
	if in.State == domain.TemplateWithdrawn && !slices.Contains(t.State.Next(), in.State) {
		return TemplateSheet{}, domain.Invalid("state", "a template that was never ready cannot be withdrawn; delete it instead")
	}
	had := t.Body.Attrs.Lang
	if err := a.intoTemplate(ctx, u, &t, in, cat); err != nil {
		return TemplateSheet{}, err
	}
	if now := t.Body.Attrs.Lang; now != "" && now != had {
		if err := a.onlyIn(ctx, &t, t.ID, now); err != nil {
			return TemplateSheet{}, err
		}
	}
	t.UpdatedAt, t.UpdatedBy = a.now(), u.ID
	if err := a.store.UpdateTemplate(ctx, t); err != nil {
		return TemplateSheet{}, err
	}
	return a.Template(ctx, u, id)
}
