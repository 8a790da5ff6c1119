package rounds

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/question"
	"lucidletter/core/template"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// setTemplate has a round go out in the newest version of a template that the user may use.
func (a *Service) setTemplate(ctx context.Context, u domain.User, r *domain.Round, id int64) error {
	t, err := a.mayUse(ctx, u, r.RecipeID, id)
	if err != nil {
		return err
	}
	r.TemplateID, r.TemplateVersion, r.SeenVersion = &t.ID, t.Version, t.Version
	r.Said.Wording, r.Said.Seen = nil, t.State
	if r.Said.Sisters, err = a.sisters(ctx, t.ID); err != nil {
		return err
	}
	r.Said.Parts, err = a.parts(ctx, r)
	return err
}

// mayUse gives a template that a user may use, in a round of a recipe or of none.
func (a *Service) mayUse(ctx context.Context, u domain.User, recipeID *int64, id int64) (domain.Template, error) {
	t, err := a.library.TemplateFor(ctx, u, access.UseTemplate, id)
	if errors.Is(err, domain.ErrDenied) {
		return t, &domain.StateError{Why: fmt.Sprintf("The template “%s” isn’t ready to use; make it ready first, or choose another.", t.Name)}
	}
	if err != nil || recipeID == nil {
		return t, err
	}
	recipe, err := a.store.Recipe(ctx, *recipeID)
	if err != nil {
		return t, err
	}
	if !slices.Contains(recipe.Said.Templates, t.First()) {
		return t, domain.Invalid("templateId", "the recipe “%s” doesn’t allow the template “%s”; choose one of those that it does", recipe.Name, t.Name)
	}
	return t, nil
}

// change stores what a round is made of, if it is still of the version that the user saw.
func (a *Service) change(ctx context.Context, u domain.User, id int64, version int, f func(ctx context.Context, r *domain.Round) error) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mineOpen(ctx, u, id)
		switch {
		case err != nil:
			return err
		case r.Version != version:
			return domain.ErrStale
		case r.State == domain.RoundSending:
			return &domain.StateError{Why: "The letters are being sent; pause the round to change it."}
		}
		news, err := a.partNews(ctx, &r)
		if err != nil {
			return err
		}
		if err := f(ctx, &r); err != nil {
			return err
		}
		if news == "" && r.TemplateID != nil { // what the sender changes is no news
			if r.Said.Parts, err = a.parts(ctx, &r); err != nil {
				return err
			}
		}
		r.UpdatedAt = a.now()
		return a.store.UpdateRound(ctx, r)
	})
	a.look(id)
	return err
}

// SetTemplate chooses the template of a round, in its newest version; wording of the round's
// own goes.
func (a *Service) SetTemplate(ctx context.Context, u domain.User, id int64, version int, templateID int64) error {
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		return a.setTemplate(ctx, u, r, templateID)
	})
}

// KeepTemplate settles what happened to the template since: the round keeps the wording that
// it has.
func (a *Service) KeepTemplate(ctx context.Context, u domain.User, id int64, version int) error {
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		if r.TemplateID == nil {
			return errNoTemplate
		}
		t, err := a.store.Template(ctx, *r.TemplateID)
		if err != nil {
			return err
		}
		r.SeenVersion, r.Said.Seen = t.Version, compose.StateOf(&t)
		r.Said.Parts, err = a.parts(ctx, r)
		return err
	})
}

// newsOf says what happened to the template of a round since its sender looked, or "".
func newsOf(r *domain.Round, t *domain.Template) string {
	state := compose.StateOf(t)
	switch {
	case state != r.Said.Seen && state == compose.Gone:
		return "was deleted"
	case state != r.Said.Seen && state == domain.TemplateWithdrawn:
		return "was withdrawn"
	case state != r.Said.Seen && state == domain.TemplateDraft:
		return "is being rewritten"
	case t.Version > r.SeenVersion:
		return fmt.Sprintf("was changed (version %d; this round has %d)", t.Version, r.TemplateVersion)
	}
	return ""
}

// SetWording gives a round words of its own; the template stays as it is. Nil takes the
// template's again. Fixed wording stays, and nothing is added that the template forbids.
func (a *Service) SetWording(ctx context.Context, u domain.User, id int64, version int, in *library.Input) error {
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		if r.TemplateID == nil {
			return errNoTemplate
		}
		if r.Said.Wording = nil; in == nil {
			return nil
		}
		t, _, wrong, err := in.Read()
		if err != nil {
			return err
		}
		if err := compose.NotesError(wrong); err != nil {
			return err
		}
		base, err := a.maker(ctx, r)
		if err != nil {
			return err
		}
		r.Said.Wording = &domain.RoundWording{Subject: t.Subject, Body: t.Body}
		own, err := a.maker(ctx, r)
		if err != nil {
			return err
		}
		_, notes := template.Compile(own.list[0].Wording, own.cat)
		return compose.NotesError(append(notes, compose.Breaks(own.cat, &base.list[0], &own.list[0])...))
	})
}

// Wording gives what the letters of a round are merged from, as it is edited.
func (a *Service) Wording(ctx context.Context, u domain.User, id int64) (library.TemplateSheet, error) {
	r, err := a.mine(ctx, u, id)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	k, err := a.maker(ctx, &r)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	return library.SheetOf(k.cat, k.book, k.list[0].Template), nil
}

// SetAsk has each letter of a round ask something; nil asks nothing.
func (a *Service) SetAsk(ctx context.Context, u domain.User, id int64, version int, s *question.Sheet) error {
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		if r.Said.Ask = nil; s == nil {
			return nil
		}
		k, err := a.maker(ctx, r)
		if err != nil {
			return err
		}
		sheet, err := a.compose.CheckAsked(ctx, &k.list[0].Template, *s)
		r.Said.Ask = &sheet
		return err
	})
}

// Envelope is what the letters of a round have in common beside their words.
type Envelope struct {
	Name        string              `json:"name" maxLength:"120"`
	From        string              `json:"from" doc:"One of the sender's addresses; empty: the own one"`
	ReplyTo     string              `json:"replyTo"`
	Attachments []domain.Attachment `json:"attachments"`
	After       domain.RoundAfter   `json:"after"`
}

// SetEnvelope stores that.
func (a *Service) SetEnvelope(ctx context.Context, u domain.User, id int64, version int, e Envelope) error {
	e.Name, e.ReplyTo = strings.Join(strings.Fields(e.Name), " "), strings.TrimSpace(e.ReplyTo)
	if e.Name == "" || len(e.Name) > maxName {
		return domain.Invalid("name", "must have 1 to %d bytes", maxName)
	}
	if e.ReplyTo != "" {
		if err := field.CheckEmail(e.ReplyTo); err != nil {
			return domain.Invalid("replyTo", "%v", err)
		}
	}
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		if e.From != "" {
			if _, err := a.team.FromAddress(ctx, u, e.From); errors.Is(err, domain.ErrNotFound) {
				return domain.Invalid("from", "%s is not one of your From addresses; choose another", e.From)
			} else if err != nil {
				return err
			}
		}
		if err := a.checkAfter(ctx, u, &e.After); err != nil {
			return err
		}
		list, err := a.desk.CheckAttachments(ctx, u, r.Said.Attachments, e.Attachments)
		if err != nil {
			return err
		}
		r.Name, r.Said.From, r.Said.ReplyTo, r.Said.Attachments, r.Said.After = e.Name, e.From, e.ReplyTo, list, e.After
		return nil
	})
}

// checkAfter refuses a field that cannot be set, a value that it cannot have, and a plan that
// cannot be started.
func (a *Service) checkAfter(ctx context.Context, u domain.User, f *domain.RoundAfter) error {
	f.Task = strings.TrimSpace(f.Task)
	if f.Plan != 0 {
		if _, err := a.plans.MayStart(ctx, u, f.Plan); errors.Is(err, domain.ErrNotFound) {
			return domain.Invalid("after.plan", "is gone; choose another")
		} else if err != nil {
			return err
		}
	}
	if f.Path == "" {
		f.Value = ""
		return nil
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	ref, ok := cat.Find(f.Path)
	if !ok || ref.Def.Record != field.Person && ref.Def.Record != field.Lead && ref.Def.Record != field.Contact {
		return domain.Invalid("after.path", "is not a field of a person; choose another")
	}
	kind := ref.Def.Record
	if kind == field.Person {
		kind = field.Contact
	}
	p := domain.Person{Kind: kind, LastName: "x"}
	return records.SetPersonField(cat, &p, f.Path, f.Value)
}

// Fill answers a blank, or fills a gap, for everybody of a round who lacks the value. An empty
// value takes the answer back.
func (a *Service) Fill(ctx context.Context, u domain.User, id int64, version int, path, value string) error {
	return a.change(ctx, u, id, version, func(ctx context.Context, r *domain.Round) error {
		value, err := a.checkFill(ctx, r, path, value)
		if err != nil {
			return err
		}
		fills := maps.Clone(r.Said.Fills)
		if fills == nil {
			fills = domain.Own{}
		}
		if fills[path] = value; value == "" {
			delete(fills, path)
		}
		r.Said.Fills = fills
		return nil
	})
}

// checkFill checks what fills a gap or a blank of a round, and brings it into canonical form.
func (a *Service) checkFill(ctx context.Context, r *domain.Round, path, value string) (string, error) {
	value = strings.TrimSpace(value)
	if value == "" {
		return "", nil
	}
	k, err := a.maker(ctx, r)
	if err != nil {
		return "", err
	}
	if name, blank := strings.CutPrefix(path, "?"); blank {
		for _, w := range k.list {
			for _, d := range w.Program.Blanks() {
				if d.Name == name {
					return k.checkBlank(&d, value, field.Look{})
				}
			}
		}
		return "", domain.Invalid(path, "is no blank of this template any more")
	}
	ref, ok := k.cat.Find(path)
	if !ok {
		return "", domain.Invalid(path, "is not a field any more")
	}
	v, err := field.Given(ref.Def, value, "")
	if err != nil {
		return "", domain.Invalid(path, "%v", err)
	}
	return v.String(), nil
}

func (k *maker) checkBlank(d *document.BlankDef, value string, look field.Look) (string, error) {
	if d.Kind == document.BlankColleague {
		for i := range k.users {
			if strings.EqualFold(k.users[i].Name(), value) {
				return k.users[i].Name(), nil
			}
		}
		return "", domain.Invalid(d.Label(), "%q isn’t a user here; choose one from the list", value)
	}
	v, err := look.Given(field.Def{Type: d.Type(), Choices: d.Choices}, value)
	if err != nil {
		return "", domain.Invalid(d.Label(), "%v", err)
	}
	return v.String(), nil
}
