package compose

import (
	"context"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// BlankLetter is a draft to somebody that says nothing yet and is stored nowhere.
func (a *Service) BlankLetter(u *domain.User, s *library.Setting) domain.Letter {
	now := a.now()
	return domain.Letter{
		PersonID: s.Person.ID, CompanyID: s.Person.CompanyID, DealID: s.DealID, SenderID: u.ID, State: domain.Draft,
		ToName: s.ToName(), ToEmail: s.Person.Email, FromName: u.Name(), FromEmail: u.Email,
		Subject: document.NewPlain(""), Body: document.NewPlain(""), Version: 1, CreatedAt: now, UpdatedAt: now,
	}
}

// BeginWith gives a letter the words that were merged from a template, and what comes with it.
func (a *Service) BeginWith(ctx context.Context, l *domain.Letter, t *domain.Template, merged template.Letter) (err error) {
	l.Subject, l.Body, l.Fixed = merged.Subject, merged.Body, letter.FixedWording(merged.Body)
	l.TemplateID, l.TemplateVersion = &t.ID, &t.Version
	l.Extras, err = a.ExtrasFor(ctx, t, merged)
	l.Extras.Begun = true
	return err
}

// NewLetter gives a letter that is stored nowhere: merged from a template for s, and signed as
// from writes. What it asks, if anything, stands before its closing; the
// caller stores that, and notes what the records said.
func (a *Service) NewLetter(ctx context.Context, u domain.User, s *library.Setting, t *domain.Template, merged template.Letter, from *domain.FromAddress, asks *domain.Asked) (domain.Letter, error) {
	l := a.BlankLetter(&u, s)
	l.FromName, l.FromEmail = from.Name, from.Email
	if err := a.BeginWith(ctx, &l, t, merged); err != nil {
		return l, err
	}
	if asks != nil {
		l.Body = letter.BeforeClosing(l.Body, a.AskingWords(asks, l.Body.Attrs.Body))
		if l.Extras.TextPart != nil {
			l.Extras.TextPart = new(letter.BeforeClosing(*l.Extras.TextPart, a.AskingWords(asks, document.BodyPlain)))
		}
	}
	if err := a.Sign(ctx, u, &l, s); err != nil {
		return l, err
	}
	l.SubjectLine = render.RenderText(l.Subject)
	return l, nil
}

// ExtrasFor gives what a letter has from its template beside the wording.
func (a *Service) ExtrasFor(ctx context.Context, t *domain.Template, merged template.Letter) (domain.LetterExtras, error) {
	out := domain.LetterExtras{TextPart: merged.Text, MayNot: t.Extras.MayNot, Untracked: t.Extras.Untracked}
	if len(out.MayNot) > 0 {
		out.Had = interchange.InventoryOf(merged.Body)
	}
	st, err := a.library.StationeryOf(ctx, t.Extras.Stationery, t.Body.Attrs.Body)
	if err != nil {
		return out, err
	}
	if st != nil {
		out.Stationery = st.ID
	}
	out.Attachments, err = a.library.AttachmentsOf(ctx, t.Extras.Documents)
	return out, err
}

// Sign places the signature in a letter that was begun: where its template has the
// field, else at the end.
func (a *Service) Sign(ctx context.Context, u domain.User, l *domain.Letter, s *library.Setting) error {
	l.Extras.Signature = nil
	sig, err := a.library.Signature(ctx, u, l.FromEmail, l.Body.Attrs.Body, s.ReaderFor(&template.Template{Body: l.Body}))
	if err != nil {
		return err
	}
	if letter.IsBlank(sig) {
		if !letter.EndsOpen(l.Body) || l.Body.Attrs.Body == document.BodyHTML {
			return nil
		}
		// Somebody without a signature signs with their name.
		if sig, err = library.InKind(document.NewPlain(u.Name()), l.Body.Attrs.Body); err != nil {
			return err
		}
	}
	body, placed := letter.PlaceSignature(l.Body, sig)
	if !placed {
		body = letter.AppendSignature(body, sig)
	}
	l.Body, l.Extras.Signature = body, &sig
	if text := l.Extras.TextPart; text != nil {
		if _, has := letter.PlaceSignature(*text, document.Document{}); !has {
			l.Extras.TextPart = new(letter.AppendSignature(*text, document.NewPlain(render.RenderText(sig))))
		}
	}
	if len(l.Extras.MayNot) > 0 {
		l.Extras.Had = interchange.InventoryOf(l.Body)
	}
	return nil
}

// FixedWith gives the fixed wording of a letter and of what was put into it, in the
// order in which it stands in the body.
func FixedWith(had, more []string, body document.Document) []string {
	all := slices.Concat(had, more)
	if len(all) == 0 {
		return nil
	}
	stands := letter.FixedWording(body)
	left := slices.Clone(stands)
	for _, stretch := range all {
		i := slices.Index(left, stretch)
		if i < 0 {
			return all // a gap in it was filled, or it is not there
		}
		left = slices.Delete(left, i, i+1)
	}
	return stands
}
