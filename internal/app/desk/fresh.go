package desk

import (
	"context"
	"slices"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/question"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// blankLetter is a draft to somebody that says nothing yet and is stored nowhere.
func (a *Service) blankLetter(u *domain.User, s *library.Setting) domain.Letter {
	now := a.now()
	return domain.Letter{
		PersonID: s.Person.ID, CompanyID: s.Person.CompanyID, DealID: s.DealID, SenderID: u.ID, State: domain.Draft,
		ToName: s.ToName(), ToEmail: s.Person.Email, FromName: u.Name(), FromEmail: u.Email,
		Subject: document.NewPlain(""), Body: document.NewPlain(""), Version: 1, CreatedAt: now, UpdatedAt: now,
	}
}

// beginWith gives a letter the words that were merged from a template, and what comes with it.
func (a *Service) beginWith(ctx context.Context, l *domain.Letter, t *domain.Template, merged template.Letter) (err error) {
	l.Subject, l.Body, l.Fixed = merged.Subject, merged.Body, letter.FixedWording(merged.Body)
	l.TemplateID, l.TemplateVersion = &t.ID, &t.Version
	l.Extras, err = a.extrasFor(ctx, t, merged)
	l.Extras.Begun = true
	return err
}

// Fresh gives a letter that is stored nowhere: merged from a template for s, and signed as
// from writes. What it asks, if anything, stands before its closing; the
// caller stores that, and notes what the records said.
func (a *Service) Fresh(ctx context.Context, u domain.User, s *library.Setting, t *domain.Template, merged template.Letter, from *domain.FromAddress, asks *domain.Asked) (domain.Letter, error) {
	l := a.blankLetter(&u, s)
	l.FromName, l.FromEmail = from.Name, from.Email
	if err := a.beginWith(ctx, &l, t, merged); err != nil {
		return l, err
	}
	if asks != nil {
		l.Body = letter.BeforeClosing(l.Body, a.askingWords(asks, l.Body.Attrs.Body))
		if l.Extras.TextPart != nil {
			l.Extras.TextPart = new(letter.BeforeClosing(*l.Extras.TextPart, a.askingWords(asks, document.BodyPlain)))
		}
	}
	if err := a.sign(ctx, u, &l, s); err != nil {
		return l, err
	}
	l.SubjectLine = render.RenderText(l.Subject)
	return l, nil
}

// Stops is everything that keeps a letter from going, also one that is stored nowhere.
func (a *Service) Stops(ctx context.Context, l *domain.Letter, s *library.Setting) ([]document.Note, error) {
	return a.stops(ctx, l, s)
}

// ProofOfFresh shows a letter that is stored nowhere as it would go at a time.
func (a *Service) ProofOfFresh(ctx context.Context, l domain.Letter, at time.Time) (Proof, error) {
	l.MessageID = "proof@" + domain.EmailDomain(l.FromEmail)
	bytes, err := a.compose(ctx, &l, at)
	if err != nil {
		return Proof{}, err
	}
	m, err := a.reader.Read(bytes)
	if err != nil {
		return Proof{}, err
	}
	m.HTML = letter.ShowSent(m.HTML, library.PicturePath)
	return Proof{Mail: m, Size: len(bytes)}, nil
}

// RecordNewsOf tells what changed on the records of a draft since it was written, of what it
// says.
func (a *Service) RecordNewsOf(ctx context.Context, l *domain.Letter, s *library.Setting) ([]RecordNews, error) {
	return a.recordNews(ctx, l, s)
}

// OtherNow says what the records say now that a letter on its way was not written from, or "".
func (a *Service) OtherNow(ctx context.Context, l *domain.Letter) (string, error) {
	sender, err := a.store.User(ctx, l.SenderID)
	if err != nil {
		return "", err
	}
	s, err := a.library.SettingOf(ctx, sender, l.PersonID, l.DealID)
	if err != nil {
		return "", err
	}
	news, err := a.recordNews(ctx, l, s)
	if err != nil || len(news) == 0 {
		return "", err
	}
	return news[0].words() + " Take it back and look at it.", nil
}

// Zone gives the time zone of a person, from the record or the country; UTC when neither
// tells it.
func Zone(p *domain.Person) *time.Location {
	zone, _ := zoneOf(p)
	return zone
}

// CheckAsked brings what letters of a template are to ask into its form, or says why they
// cannot.
func (a *Service) CheckAsked(ctx context.Context, t *domain.Template, s question.Sheet) (question.Sheet, error) {
	switch {
	case t.Body.Attrs.Body == document.BodyHTML:
		return s, &domain.StateError{Why: "The template is an HTML page, whose layout can’t be changed. Ask with another template."}
	case slices.Contains(t.Extras.MayNot, domain.AddLinks):
		return s, &domain.StateError{Why: "This template doesn’t allow writers to add links, and answers are links. Ask with another template."}
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return s, err
	}
	s, err = question.Tidied(s, cat)
	return s, askError(err)
}
