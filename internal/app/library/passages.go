package library

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// Book finds passages for those who write templates: each finds those that they
// may see, of two with one shortcut their own.
type Book struct {
	All    []domain.Passage
	rights folderRights
	users  map[int64]domain.User
}

// Book gives the passages of the workspace.
func (a *Service) Book(ctx context.Context) (*Book, error) {
	b := &Book{users: map[int64]domain.User{}}
	var err error
	if b.All, err = a.store.Passages(ctx); err != nil || len(b.All) == 0 {
		return b, err
	}
	if b.rights, _, err = a.FolderRights(ctx, HoldsPassages); err != nil {
		return b, err
	}
	users, err := a.store.Users(ctx)
	for _, u := range users {
		b.users[u.ID] = u
	}
	return b, err
}

func (b *Book) thing(p *domain.Passage) access.Thing {
	return b.rights.Thing(p.OwnerID, false, p.FolderID, p.Rights)
}

// Find gives the passage that a user means by a shortcut, or nil.
func (b *Book) Find(user int64, shortcut string) *domain.Passage {
	u := b.users[user]
	var found *domain.Passage
	for i := range b.All {
		p := &b.All[i]
		if p.Shortcut == shortcut && access.May(u.As(), access.SeeTemplate, b.thing(p)) && (found == nil || p.OwnerID == user) {
			found = p
		}
	}
	return found
}

// Of gives the passages of a user.
func (b *Book) Of(user int64) template.Passages {
	return func(shortcut string) (document.Document, bool) {
		found := b.Find(user, shortcut)
		if found == nil {
			return document.Document{}, false
		}
		return found.Body, true
	}
}

// Wording is a template as it is compiled: with the passages of its owner.
func (b *Book) Wording(t *domain.Template) template.Template {
	body := t.Body
	body.Attrs.Lang = LanguageOf(t.Subject, t.Body)
	return template.Template{Subject: t.Subject, Body: body, Text: t.Extras.TextPart, Passages: b.Of(t.OwnerID)}
}

// PassageSheet is a passage as its list and its editor show it.
type PassageSheet struct {
	domain.Passage
	OwnerName string
	BodyText  string
	Words     string // for people
	MayEdit   bool
	Mine      bool
}

func (b *Book) sheet(cat *field.Catalogue, u domain.User, p domain.Passage) PassageSheet {
	owner := b.users[p.OwnerID]
	return PassageSheet{
		Passage: p, OwnerName: owner.Name(), BodyText: markup.Print(p.Body), Words: readable(cat, p.Body),
		MayEdit: access.May(u.As(), access.EditTemplate, b.thing(&p)), Mine: p.OwnerID == u.ID,
	}
}

// Passages lists those that the user may see; search are words of which each
// begins a word of name, shortcut or text.
func (a *Service) Passages(ctx context.Context, u domain.User, search string, folder int64) ([]PassageSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return nil, err
	}
	words := strings.Fields(strings.ToLower(search))
	out := []PassageSheet{}
	for i := range b.All {
		p := b.All[i]
		if !access.May(u.As(), access.SeeTemplate, b.thing(&p)) || folder > 0 && (p.FolderID == nil || *p.FolderID != folder) || folder == domain.NoFolder && p.FolderID != nil {
			continue
		}
		text := " " + strings.ToLower(p.Name+" "+p.Shortcut+" "+render.Words(p.Body))
		if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, " "+w) && !strings.Contains(text, "\n"+w) }) {
			continue
		}
		out = append(out, b.sheet(cat, u, p))
	}
	return out, nil
}

// passageFor loads a passage for what a user wants to do with it.
func (a *Service) passageFor(ctx context.Context, u domain.User, what access.Action, id int64, deleted bool) (domain.Passage, *Book, error) {
	p, err := a.store.Passage(ctx, id)
	if err != nil {
		return p, nil, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return p, b, err
	}
	if b.rights == nil {
		if b.rights, _, err = a.FolderRights(ctx, HoldsPassages); err != nil {
			return p, b, err
		}
	}
	switch {
	case p.DeletedAt != nil != deleted, !access.May(u.As(), access.SeeTemplate, b.thing(&p)):
		return p, b, domain.ErrNotFound
	case !access.May(u.As(), what, b.thing(&p)):
		return p, b, domain.ErrDenied
	}
	return p, b, nil
}

// Passage gives one passage.
func (a *Service) Passage(ctx context.Context, u domain.User, id int64) (PassageSheet, error) {
	p, b, err := a.passageFor(ctx, u, access.SeeTemplate, id, false)
	if err != nil {
		return PassageSheet{}, err
	}
	cat, err := a.records.Catalogue(ctx)
	return b.sheet(cat, u, p), err
}

// PassageInput is what is set on a passage. Its words come as those of a template.
type PassageInput struct {
	Name     string
	Shortcut string
	Body     string
	Kind     string
	Doc      *document.Document
	FolderID *int64
	Rights   access.Rights
}

var shortcutForm = regexp.MustCompile(`^[a-z][a-z0-9_]{0,29}$`)

// Limits of a passage.
const maxPassageName = 80

func (a *Service) intoPassage(ctx context.Context, u domain.User, p *domain.Passage, in PassageInput) error {
	p.Name, p.Shortcut = strings.TrimSpace(in.Name), strings.TrimSpace(in.Shortcut)
	switch {
	case p.Name == "":
		return domain.Invalid("name", "is missing; say what the passage is")
	case len(p.Name) > maxPassageName:
		return domain.Invalid("name", "is longer than %d bytes", maxPassageName)
	case !shortcutForm.MatchString(p.Shortcut):
		return domain.Invalid("shortcut", "must be small letters, figures and _, begin with a letter and have at most 30 signs")
	}
	if in.FolderID != nil && !SameID(in.FolderID, p.FolderID) {
		if _, _, err := a.folderFor(ctx, u, HoldsPassages, *in.FolderID); err != nil {
			return err
		}
	}
	p.FolderID = in.FolderID
	read, _, wrong, err := Input{Subject: "s", Body: in.Body, Kind: in.Kind, Doc: in.Doc}.Read()
	switch {
	case err != nil:
		return err
	case in.Kind == document.BodyHTML:
		return domain.Invalid("kind", "a passage is plain or formatted; a page cannot be put into a letter")
	case len(wrong) > 0:
		return domain.Invalid("body", "line %d, column %d: %s", wrong[0].Line, wrong[0].Column, wrong[0].Message)
	case read.Body.Blank():
		return domain.Invalid("body", "is empty; write the words of the passage")
	}
	p.Body = read.Body
	if p.Rights, err = a.CheckRights(ctx, in.Rights); err != nil {
		return err
	}
	return a.checkPassage(ctx, p)
}

// checkPassage refuses a passage with red notes, one that stands in itself, and a
// shortcut that somebody who sees it has already.
func (a *Service) checkPassage(ctx context.Context, p *domain.Passage) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return err
	}
	own := template.OnlyPassage(p.Shortcut)
	find := b.Of(p.OwnerID)
	with := func(shortcut string) (document.Document, bool) {
		if shortcut == p.Shortcut {
			return p.Body, true
		}
		return find(shortcut)
	}
	if slices.Contains(template.PassagesIn(template.Expand(own, with)), p.Shortcut) {
		return domain.Invalid("body", "the passage stands in itself; take {{>%s}} out", p.Shortcut)
	}
	_, notes := template.Compile(template.Template{Subject: document.NewPlain("s"), Body: p.Body, Passages: with}, cat)
	for _, n := range notes {
		if n.Severity == document.Stops {
			return domain.Invalid("body", "line %d, column %d: %s", n.Line, n.Column, n.Message)
		}
	}
	for i := range b.All {
		other := &b.All[i]
		switch {
		case other.ID == p.ID || other.Shortcut != p.Shortcut:
		case other.OwnerID == p.OwnerID:
			return domain.Invalid("shortcut", "is that of your passage “%s”; choose another", other.Name)
		case p.Rights.Audience.Who != access.OnlyOwner && b.thing(other).Audience.Who != access.OnlyOwner:
			return domain.Invalid("shortcut", "is that of the shared passage “%s”; choose another", other.Name)
		}
	}
	return nil
}

// AddPassage makes a passage that belongs to the user.
func (a *Service) AddPassage(ctx context.Context, u domain.User, in PassageInput) (PassageSheet, error) {
	now := a.now()
	p := domain.Passage{OwnerID: u.ID, Version: 1, CreatedAt: now, UpdatedAt: now, UpdatedBy: u.ID}
	if err := a.intoPassage(ctx, u, &p, in); err != nil {
		return PassageSheet{}, err
	}
	id, err := a.store.AddPassage(ctx, p)
	if err != nil {
		return PassageSheet{}, err
	}
	a.forgetDigests()
	return a.Passage(ctx, u, id)
}

// ChangePassage stores a passage made on version, or gives ErrStale.
func (a *Service) ChangePassage(ctx context.Context, u domain.User, id int64, version int, in PassageInput) (PassageSheet, error) {
	p, _, err := a.passageFor(ctx, u, access.EditTemplate, id, false)
	if err != nil {
		return PassageSheet{}, err
	}
	if p.Version != version {
		return PassageSheet{}, domain.ErrStale
	}
	if err := a.intoPassage(ctx, u, &p, in); err != nil {
		return PassageSheet{}, err
	}
	p.UpdatedAt, p.UpdatedBy = a.now(), u.ID
	if err := a.store.UpdatePassage(ctx, p); err != nil {
		return PassageSheet{}, err
	}
	a.forgetDigests()
	return a.Passage(ctx, u, id)
}

// UsersOfPassage names the templates that use a passage, of those that the user
// may see; the rest are counted.
func (a *Service) UsersOfPassage(ctx context.Context, u domain.User, id int64) (names []string, others int, err error) {
	p, _, err := a.passageFor(ctx, u, access.EditTemplate, id, false)
	if err != nil {
		return nil, 0, err
	}
	return a.templatesWith(ctx, u, func(t *domain.Template) bool {
		return slices.Contains(template.PassagesIn(t.Subject, t.Body), p.Shortcut)
	})
}

// templatesWith names the templates for which a condition holds.
func (a *Service) templatesWith(ctx context.Context, u domain.User, holds func(*domain.Template) bool) (names []string, others int, err error) {
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return nil, 0, err
	}
	names = []string{}
	for _, state := range []domain.TemplateState{domain.TemplateReady, domain.TemplateDraft, domain.TemplateWithdrawn} {
		list, err := a.store.AllTemplates(ctx, state)
		if err != nil {
			return nil, 0, err
		}
		for i := range list {
			switch t := &list[i]; {
			case !holds(t):
			case access.May(u.As(), access.SeeTemplate, rights.Template(t.Key())):
				name := t.Name
				if t.SisterOf != nil {
					name = fmt.Sprintf("%s (%s)", name, field.LanguageName(LanguageOf(t.Subject, t.Body)))
				}
				names = append(names, name)
			default:
				others++
			}
		}
	}
	return names, others, nil
}

// DeletePassage takes a passage away; templates that use it get a red note.
func (a *Service) DeletePassage(ctx context.Context, u domain.User, id int64) error {
	if _, _, err := a.passageFor(ctx, u, access.EditTemplate, id, false); err != nil {
		return err
	}
	defer a.forgetDigests()
	return a.store.DeletePassage(ctx, id, new(a.now()))
}

// PutBackPassage undoes DeletePassage, unless another one has its shortcut now.
func (a *Service) PutBackPassage(ctx context.Context, u domain.User, id int64) error {
	p, _, err := a.passageFor(ctx, u, access.EditTemplate, id, true)
	if err != nil {
		return err
	}
	if err := a.checkPassage(ctx, &p); err != nil {
		return err
	}
	defer a.forgetDigests()
	return a.store.DeletePassage(ctx, id, nil)
}

// forgetDigests makes the library look at every template again.
func (a *Service) forgetDigests() {
	a.mu.Lock()
	clear(a.digests)
	a.mu.Unlock()
}

// noteTextPart says that a plain-text part written by hand may not match its body.
func noteTextPart(t *template.Template, of string) []document.Note {
	if t.Text == nil || t.Body.Attrs.Body == document.BodyPlain || render.PlainPart(t.Body) == of {
		return nil
	}
	return []document.Note{{
		Severity: document.Advises, Code: "textpart", Part: document.TextPart, Line: 1, Column: 1,
		Message: "The letter was changed since its text part was written by hand. Look whether it still says the same.",
	}}
}

// checkExtras checks what a template sets beside its wording.
func (a *Service) checkExtras(ctx context.Context, u domain.User, e *domain.Extras, kind string) error {
	for _, x := range e.MayNot {
		if !slices.Contains([]domain.Addition{domain.AddLinks, domain.AddPictures, domain.AddFields, domain.AddAttachments}, x) {
			return domain.Invalid("mayNot", "%q isn’t something writers can add", x)
		}
	}
	if kind == document.BodyPlain || kind == "" {
		e.TextPart, e.TextOf = nil, ""
	}
	if kind != document.BodyFormatted {
		e.Stationery = 0
	}
	if e.Stationery > 0 {
		st, err := a.store.Stationery(ctx, e.Stationery)
		if err != nil {
			return domain.Invalid("stationery", "there is no stationery %d; choose another", e.Stationery)
		}
		if st.DeletedAt != nil || !st.Ready {
			return domain.Invalid("stationery", "“%s” is not ready; choose another", st.Name)
		}
	}
	if len(e.Documents) > maxDocuments {
		return domain.Invalid("documents", "are more than %d", maxDocuments)
	}
	for _, id := range e.Documents {
		d, err := a.DocumentFor(ctx, u, id)
		if err != nil || d.DeletedAt != nil {
			return domain.Invalid("documents", "there is no approved document %d that you may use", id)
		}
	}
	return nil
}

const maxDocuments = 10

// UsersOfOwnField names the templates that use a field.
func (a *Service) UsersOfOwnField(ctx context.Context, u domain.User, path string) (names []string, others int, err error) {
	return a.templatesWith(ctx, u, func(t *domain.Template) bool {
		docs := []document.Document{t.Subject, t.Body}
		if t.Extras.TextPart != nil {
			docs = append(docs, *t.Extras.TextPart)
		}
		return slices.Contains(markup.PathsIn(docs...), path)
	})
}
