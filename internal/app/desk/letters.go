package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/advice"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// LetterSheet is a letter as the desk shows it.
type LetterSheet struct {
	domain.Letter
	Person       domain.Person
	TemplateName string
	TemplateNews string // what happened to the template since, for a draft
	DealName     string
	Deals        []domain.Deal // of the person
	Asked        []domain.Asked
	Facts        []records.Fact
	Gaps         []document.Gap
	Storable     []string        // the paths of gaps of which the value can be stored on the person's record
	Stops        []document.Note // what keeps it from going, gaps included
	Suggestions  []library.Suggestion
	Advice       advice.Report
	Times        Times
	Tracking     compose.Tracking     // of a draft
	Strangers    []string             // who gets a copy and is in no record
	RecordNews   []compose.RecordNews // what changed on the records since a draft was written from them
	Kept         []domain.KeptWords   // what of a draft may speak of the records before
	Before       int64                // the discarded draft that keeps the words of before, 0 none
	Instead      string               // why this draft holds words that were saved to another letter: discarded, sent or given
}

// notDeleted refuses to write to somebody who was deleted.
func (a *Service) notDeleted(ctx context.Context, p *domain.Person) error {
	if p.DeletedAt == nil {
		return nil
	}
	why, err := a.records.GoneWords(ctx, p)
	if err != nil {
		return err
	}
	return &domain.StateError{Why: why}
}

// StartLetter makes a draft to a person, from a template or from nothing.
func (a *Service) StartLetter(ctx context.Context, u domain.User, personID int64, templateID, dealID *int64) (LetterSheet, error) {
	return a.Start(ctx, u, personID, templateID, dealID, func(*domain.Letter) {})
}

// Start is StartLetter with a change to the draft before it is stored.
func (a *Service) Start(ctx context.Context, u domain.User, personID int64, templateID, dealID *int64, change func(*domain.Letter)) (LetterSheet, error) {
	return a.startFor(ctx, u, nil, personID, templateID, dealID, change)
}

// startFor makes a draft about a person that is to them or, with one, to a colleague.
func (a *Service) startFor(ctx context.Context, u domain.User, to *domain.User, personID int64, templateID, dealID *int64, change func(*domain.Letter)) (LetterSheet, error) {
	s, err := a.library.Setting(ctx, u, personID, dealID)
	if err != nil {
		return LetterSheet{}, err
	}
	s.Colleague = to
	if err := a.notDeleted(ctx, &s.Person); err != nil {
		return LetterSheet{}, err
	}
	l := a.compose.BlankLetter(&u, s)
	if templateID != nil {
		if err := a.begin(ctx, u, &l, s, *templateID); err != nil {
			return LetterSheet{}, err
		}
	}
	if err := a.compose.Sign(ctx, u, &l, s); err != nil {
		return LetterSheet{}, err
	}
	change(&l)
	l.Seen = s.Snapshot()
	l.SubjectLine = render.RenderText(l.Subject)
	id, err := a.store.AddLetter(ctx, l)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

// Letter gives one letter. A draft's recipient is always the person's present
// address.
func (a *Service) Letter(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	l, err := a.store.Letter(ctx, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if !access.May(u.As(), access.SeeLetter, access.Thing{OwnerID: l.SenderID, Draft: l.State != domain.Sent}) {
		return LetterSheet{}, domain.ErrNotFound
	}
	if l.DeletedAt != nil {
		return LetterSheet{}, domain.ErrDiscarded
	}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	out := LetterSheet{Letter: l, Person: s.Person}
	if out.Asked, err = a.compose.AskedIn(ctx, &l); err != nil {
		return out, err
	}
	if l.State == domain.Draft {
		if !l.Internal {
			out.ToEmail, out.ToName = cmp.Or(s.Person.Email, l.Extras.Address), s.ToName()
		}
		if out.RecordNews, err = a.compose.RecordNewsOf(ctx, &l, s); err != nil {
			return out, err
		}
		out.Kept = compose.KeptStill(&l, s)
		compose.OnDay(&out.Letter, s, a.now())
		if err := a.library.Refresh(ctx, &out.Letter); err != nil {
			return out, err
		}
		if out.Stops, err = a.compose.Blockers(ctx, &out.Letter, s); err != nil {
			return out, err
		}
		if out.Advice, err = a.advise(ctx, &u, &out.Letter, s); err != nil {
			return out, err
		}
		out.Times = a.times(&u, &s.Person)
		if out.Tracking, err = a.compose.Tracking(ctx, &l, &s.Person); err != nil {
			return out, err
		}
		if out.Strangers, err = a.unknownCopies(ctx, &l); err != nil {
			return out, err
		}
	}
	if l.TemplateID != nil {
		t, err := a.store.Template(ctx, *l.TemplateID)
		if err != nil {
			return out, err
		}
		out.TemplateName = t.Name
		if l.State == domain.Draft {
			out.TemplateNews = newsOf(&t, l.TemplateVersion)
		}
	}
	if s.Recs.Deal != nil && l.DealID != nil {
		out.DealName = s.Recs.Deal.Name
	}
	out.Deals = s.Deals
	out.Facts = records.Facts(s.Cat, s.Values, s.Reader)
	out.Gaps = l.Gaps()
	for i, g := range out.Gaps {
		if ref, ok := s.Cat.Find(g.Path); ok {
			out.Gaps[i].Type, out.Gaps[i].Choices = ref.Def.Type, ref.Def.Choices
			if records.Storable(&ref.Def, &s.Person) {
				out.Storable = append(out.Storable, g.Path)
			}
		}
	}
	out.Suggestions = Suggestions(s.Cat, &s.Person, &l)
	if l.State == domain.Draft {
		out.Suggestions = append(out.Suggestions, s.Edits(&l)...)
	}
	out.Gaps, err = a.AskColleaguesOnce(ctx, out.Gaps)
	return out, err
}

// newsOf says what happened to a template since a letter was begun from a version.
func newsOf(t *domain.Template, version *int) string {
	switch {
	case t.DeletedAt != nil:
		return "was deleted"
	case t.State == domain.TemplateWithdrawn:
		return "was withdrawn"
	case version != nil && t.Version > *version:
		return fmt.Sprintf("was changed (version %d, this letter has %d)", t.Version, *version)
	}
	return ""
}

// Wording is what is saved of a draft: the documents, the version they were made on,
// and the person whom they speak to; 0 for a caller that has just loaded the letter.
type Wording struct {
	PersonID int64
	Version  int
	Subject  document.Document
	Body     document.Document
	filled   map[string]string // the words that went into gaps, by path
	recorded string            // the path that was stored on the record with it
}

func (a *Service) saveDraft(ctx context.Context, u domain.User, id int64, w Wording, change func(*domain.Letter) error) (domain.Letter, error) {
	l, err := a.draftOf(ctx, u, id)
	if err != nil {
		return l, err
	}
	if err := mended(&w); err != nil {
		return l, err
	}
	if len(render.RenderText(w.Body)) > document.MaxBody {
		return l, domain.Invalid("body", "is longer than 1 MiB; shorten it")
	}
	if l.Version != w.Version || w.PersonID != 0 && w.PersonID != l.PersonID {
		return l, domain.ErrStale
	}
	if w.Body.Attrs.Lang == "" {
		w.Body.Attrs.Lang = l.Body.Attrs.Lang
	}
	if l.Extras.TextPart != nil {
		// What was written by hand says nothing of words that are typed since.
		if w.filled == nil && render.RenderText(w.Body) != render.RenderText(l.Body) {
			l.Extras.TextPart = nil
		}
		for path, words := range w.filled {
			l.Extras.TextPart = new(letter.Fill(*l.Extras.TextPart, path, words))
		}
	}
	l.Subject, l.Body, l.UpdatedAt = w.Subject, w.Body, a.now()
	if w.recorded != "" {
		p, err := a.store.Person(ctx, l.PersonID)
		if err != nil {
			return l, err
		}
		l.Seen = l.Seen.With(w.recorded, p.Value(w.recorded))
	}
	l.SubjectLine = render.RenderText(w.Subject)
	if change != nil {
		if err := change(&l); err != nil {
			return l, err
		}
	}
	if err := a.store.UpdateDraft(ctx, l); err != nil {
		return l, err
	}
	l.Version++
	return l, nil
}

// mended brings what came from an editor into the stored form: a draft is never
// refused for what it says.
func mended(w *Wording) error {
	w.Subject, w.Body = markup.Mend(w.Subject), markup.Mend(w.Body)
	var form *document.FormError
	if errors.As(document.CheckLetterForm(w.Subject), &form) {
		return domain.Invalid("subject."+form.Where, "%s", form.Why)
	}
	if errors.As(document.CheckLetterForm(w.Body), &form) {
		return domain.Invalid("body."+form.Where, "%s", form.Why)
	}
	return nil
}

// Mine loads a letter that the user may change.
func (a *Service) Mine(ctx context.Context, u domain.User, id int64) (domain.Letter, error) {
	l, err := a.store.Letter(ctx, id)
	if err != nil {
		return l, err
	}
	if domain.May(u, access.EditLetter, access.Thing{OwnerID: l.SenderID}) != nil {
		return l, domain.ErrNotFound
	}
	if l.DeletedAt != nil {
		return l, domain.ErrDiscarded
	}
	return l, nil
}

// draftOf loads a letter that the user may change and that is not on its way.
func (a *Service) draftOf(ctx context.Context, u domain.User, id int64) (domain.Letter, error) {
	l, err := a.Mine(ctx, u, id)
	if err == nil && l.State != domain.Draft {
		err = &domain.StateError{Why: "The letter is waiting to go or has been sent, so it can’t be changed. Take it back first."}
	}
	return l, err
}

// FillGap saves the wording with every gap of a field filled. The value is in
// canonical form and written for the reader; with alsoRecord it is stored on
// the person too, or nothing at all happens.
func (a *Service) FillGap(ctx context.Context, u domain.User, id int64, w Wording, path, value string, alsoRecord bool) (LetterSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return LetterSheet{}, err
	}
	if strings.HasPrefix(path, "?") {
		return a.fillBlank(ctx, u, id, w, path, value)
	}
	v := field.Of(value)
	if ref, ok := cat.Find(path); ok {
		if v, err = field.Given(ref.Def, value, ""); err != nil {
			return LetterSheet{}, domain.Invalid(path, "%v", err)
		}
	}
	if v.Type == "" {
		return LetterSheet{}, domain.Invalid(path, "is empty; type a value")
	}
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	p, err := a.store.Person(ctx, l.PersonID)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != domain.Draft || l.Version != w.Version {
		return LetterSheet{}, domain.ErrStale
	}
	words := string(library.Reader(l.Body.Attrs.Lang, &p, nil).Append(nil, v, ""))
	return a.withRecord(ctx, u, id, func(ctx context.Context) error {
		if alsoRecord {
			if _, err := a.records.ChangePerson(ctx, u, p.ID, p.Version, map[string]string{path: value}); err != nil {
				return err
			}
			w.recorded = path
		}
		_, err := a.saveDraft(ctx, u, id, fillBoth(w, path, words), func(l *domain.Letter) error {
			if path == "person.email" {
				l.Extras.Address = v.Text
			}
			return nil
		})
		return err
	})
}

// SetLetterPart saves the wording of a letter that is a page with other words in one
// of its parts.
func (a *Service) SetLetterPart(ctx context.Context, u domain.User, id int64, w Wording, part int, text string) (LetterSheet, error) {
	if w.Body.Attrs.Body != document.BodyHTML {
		return LetterSheet{}, &domain.StateError{Why: "The letter is no page; write in it."}
	}
	body, err := interchange.SetLetterPart(w.Body, part, text)
	if err != nil {
		return LetterSheet{}, domain.Invalid("part", "%d is not in the letter; load it again", part)
	}
	w.Body = body
	return a.SaveDraft(ctx, u, id, w)
}

// unknownCopies names who gets a copy of a letter and is in no record: an answer to
// all may go to strangers.
func (a *Service) unknownCopies(ctx context.Context, l *domain.Letter) ([]string, error) {
	var out []string
	for _, one := range l.Copies() {
		key := field.EmailKey(one.Email)
		people, err := a.store.PeopleByEmail(ctx, key)
		if err != nil {
			return nil, err
		}
		if len(people) > 0 {
			continue
		}
		if _, err := a.team.UserOf(ctx, one.Email); errors.Is(err, domain.ErrNotFound) {
			out = append(out, one.Email)
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}
