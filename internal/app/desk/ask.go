package desk

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/question"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// MaxAsked is at how many places one letter asks.
const MaxAsked = 10

// Ask stores what a letter is to ask, and gives the words that ask it, to be put in.
func (a *Service) Ask(ctx context.Context, u domain.User, id int64, s question.Sheet) (document.Document, error) {
	l, err := a.draftOf(ctx, u, id)
	switch {
	case err != nil:
		return document.Document{}, err
	case l.Body.Attrs.Body == document.BodyHTML:
		return document.Document{}, &domain.StateError{Why: "The letter is an HTML page, whose layout can’t be changed. Ask in another letter."}
	case l.Internal:
		return document.Document{}, &domain.StateError{Why: "A letter to colleagues asks no questions on pages; answers would be filed on the person."}
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return document.Document{}, err
	}
	s, err = question.Tidied(s, cat)
	if err != nil {
		return document.Document{}, compose.AskError(err)
	}
	had, err := a.compose.AskedIn(ctx, &l)
	if err != nil {
		return document.Document{}, err
	}
	if len(had) >= MaxAsked {
		return document.Document{}, domain.Invalid("questions", "stand at %d places already; take one out", MaxAsked)
	}
	asked := domain.Asked{LetterID: id, Token: a.newID(), Sheet: s, CreatedAt: a.now()}
	if _, err := a.store.AddAsked(ctx, asked); err != nil {
		return document.Document{}, err
	}
	return a.compose.AskingWords(&asked, l.Body.Attrs.Body), nil
}

// AskNoMore saves the wording without a question.
func (a *Service) AskNoMore(ctx context.Context, u domain.User, id int64, w Wording, askedID int64) (LetterSheet, error) {
	if _, err := a.Mine(ctx, u, id); err != nil {
		return LetterSheet{}, err
	}
	list, err := a.store.AskedIn(ctx, id)
	if err != nil {
		return LetterSheet{}, err
	}
	i := slices.IndexFunc(list, func(q domain.Asked) bool { return q.ID == askedID })
	if i < 0 {
		return LetterSheet{}, domain.Invalid("question", "is not in the letter any more")
	}
	w.Body, _, _ = letter.TakeOut(w.Body, a.compose.AskingWords(&list[i], w.Body.Attrs.Body), document.Document{})
	return a.SaveWith(ctx, u, id, w, func(*domain.Letter) error { return nil })
}

// withoutQuestions gives a body without what it asks, for a wording that goes to
// others.
func (a *Service) withoutQuestions(ctx context.Context, l *domain.Letter, body document.Document) (document.Document, error) {
	list, err := a.store.AskedIn(ctx, l.ID)
	for i := range list {
		body, _, _ = letter.TakeOut(body, a.compose.AskingWords(&list[i], body.Attrs.Body), document.Document{})
	}
	return body, err
}

// AnswerPage is what the page of a question shows.
type AnswerPage struct {
	Sheet   question.Sheet
	Sender  string
	Team    string
	Open    bool // the letter went out
	Answers []string
}

// AnswerPage gives the page of a token, for whoever has it.
func (a *Service) AnswerPage(ctx context.Context, token string) (AnswerPage, error) {
	asked, l, err := a.asked(ctx, token)
	if err != nil {
		return AnswerPage{}, err
	}
	out := AnswerPage{Sheet: asked.Sheet, Answers: asked.Answers, Open: wentOut(l.State)}
	out.Sender, out.Team, err = a.SenderOf(ctx, &l)
	return out, err
}

// SenderOf names who wrote a letter, and their team, "" without one.
func (a *Service) SenderOf(ctx context.Context, l *domain.Letter) (name, team string, err error) {
	u, err := a.store.User(ctx, l.SenderID)
	if err != nil || u.TeamID == nil {
		return u.Name(), "", err
	}
	t, err := a.store.Team(ctx, *u.TeamID)
	return u.Name(), t.Name, err
}

func (a *Service) asked(ctx context.Context, token string) (domain.Asked, domain.Letter, error) {
	asked, err := a.store.AskedBy(ctx, token)
	if err != nil {
		return asked, domain.Letter{}, err
	}
	l, err := a.store.Letter(ctx, asked.LetterID)
	return asked, l, err
}

func wentOut(s domain.LetterState) bool {
	return s == domain.Sent || s == domain.Sending || s == domain.Unsure
}

// Answer files the answers that somebody gave on the page of a token: in the history
// of the person and the deal, and in the fields that the questions name. The last
// answers count.
func (a *Service) Answer(ctx context.Context, token string, given []string) error {
	asked, l, err := a.asked(ctx, token)
	if err != nil {
		return err
	}
	if !wentOut(l.State) {
		return &domain.StateError{Why: "This letter hasn’t been sent yet, so nothing can be answered."}
	}
	answers, err := question.Read(asked.Sheet, given)
	if err != nil {
		return compose.AskError(err)
	}
	if slices.Equal(answers, asked.Answers) {
		return nil // the same once more
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	now := a.now()
	var said []string
	for i, q := range asked.Sheet.Questions {
		if answers[i] != "" {
			said = append(said, q.Text+" "+answers[i])
		}
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		if err := a.store.PutAnswers(ctx, asked.ID, answers, now); err != nil {
			return err
		}
		for i, q := range asked.Sheet.Questions {
			if q.Field == "" || answers[i] == "" {
				continue
			}
			if err := a.intoField(ctx, cat, &l, q.Field, answers[i]); err != nil {
				return err
			}
		}
		return a.store.AddEntry(ctx, domain.Entry{
			PersonID: &l.PersonID, CompanyID: l.CompanyID, DealID: l.DealID, LetterID: &l.ID,
			Kind: domain.EntryAnswered, Text: strings.Join(said, " · "), At: now,
		})
	})
}

// intoField writes an answer into its field. What the field cannot hold, because it
// or the record changed since, stays in the history alone.
func (a *Service) intoField(ctx context.Context, cat *field.Catalogue, l *domain.Letter, path, answer string) error {
	ref, ok := cat.Find(path)
	if !ok {
		return nil
	}
	v, err := field.Parse(ref.Def.Type, answer, ref.Def.Choices)
	if err != nil {
		return nil //nolint:nilerr // said above
	}
	if ref.Def.Record == field.Deal {
		if l.DealID == nil {
			return nil
		}
		d, err := a.store.Deal(ctx, *l.DealID)
		if err != nil {
			return err
		}
		return a.store.SetDealOwn(ctx, d.ID, records.SetOwn(d.Own, ref.Def.Path, v))
	}
	p, err := a.store.Person(ctx, l.PersonID)
	if err != nil {
		return err
	}
	var bad *domain.InvalidError
	if err := records.SetPersonField(cat, &p, path, v.String()); errors.As(err, &bad) {
		return nil
	} else if err != nil {
		return err
	}
	p.UpdatedAt = a.now()
	return a.store.UpdatePerson(ctx, p)
}
