package desk

import (
	"context"

	"lucidletter/core/advice"
	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// advise looks at a draft as it would go now.
func (a *Service) advise(ctx context.Context, u *domain.User, l *domain.Letter, s *library.Setting) (advice.Report, error) {
	before, err := a.store.WrittenTo(ctx, l.PersonID)
	if err != nil {
		return advice.Report{}, err
	}
	in := advice.Input{
		Subject: l.Subject, Body: l.Written(), Language: s.Reader.Locale(), First: !before && l.AnswersID == nil, Attachments: len(l.Extras.Attachments),
		Names: []string{s.Person.Name(), s.Person.FirstName, s.Person.LastName},
	}
	if l.AnswersID == nil && !l.Internal {
		from, to := plan.Today(a.now(), u.TimeZone, u.Country)
		had, err := a.store.HadLetter(ctx, []int64{l.PersonID}, from, to, l.ID)
		if err != nil {
			return advice.Report{}, err
		}
		in.Today = had[l.PersonID]
	}
	if l.Internal {
		in.Names = []string{l.ToName}
	}
	for _, one := range l.Extras.AlsoTo {
		in.Names = append(in.Names, one.Name)
	}
	if l.Body.Attrs.Lang != "" {
		in.Language = l.Body.Attrs.Lang
	}
	if l.Body.Attrs.Body != document.BodyPlain {
		x, err := a.compose.SheetOf(ctx, l, s)
		if err != nil {
			return advice.Report{}, err
		}
		html, _ := x.Wrap(l.Body, nil, l.SubjectLine)
		in.Size = len(html)
	}
	return advice.Of(in), nil
}
