package desk

import (
	"cmp"
	"context"
	"errors"

	"lucidletter/core/access"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// SaveDraft stores the wording of a draft. Words that are saved to a letter which was
// discarded, which went from another window or was given to somebody else there, are kept
// as a new draft; Instead of what is given back says so.
func (a *Service) SaveDraft(ctx context.Context, u domain.User, id int64, w Wording) (LetterSheet, error) {
	l, err := a.store.Letter(ctx, id)
	switch {
	case errors.Is(err, domain.ErrNotFound) && w.PersonID != 0:
		return a.keepWords(ctx, u, nil, w, InsteadOfDiscarded)
	case err != nil:
		return LetterSheet{}, err
	case domain.May(u, access.EditLetter, access.Thing{OwnerID: l.SenderID}) != nil:
		return LetterSheet{}, domain.ErrNotFound
	case l.DeletedAt != nil:
		return a.keepWords(ctx, u, &l, w, InsteadOfDiscarded)
	case l.State != domain.Draft && !sameWords(&l, w):
		return a.keepWords(ctx, u, &l, w, InsteadOfSent)
	case l.Version == w.Version && w.PersonID != 0 && w.PersonID != l.PersonID:
		same, err := a.records.MergedInto(ctx, w.PersonID, l.PersonID)
		if err != nil {
			return LetterSheet{}, err
		}
		if !same {
			return a.keepWords(ctx, u, nil, w, InsteadOfGiven)
		}
		w.PersonID = l.PersonID
	}
	return a.SaveWith(ctx, u, id, w, nil)
}

// What happened to a letter whose words were kept in a new draft.
const (
	InsteadOfDiscarded = "discarded"
	InsteadOfSent      = "sent"
	InsteadOfGiven     = "given" // to somebody else
)

func sameWords(l *domain.Letter, w Wording) bool {
	return render.RenderText(l.Subject) == render.RenderText(w.Subject) && render.RenderText(l.Body) == render.RenderText(w.Body)
}

// keepWords makes a new draft of words that cannot be saved where they were meant to
// go; l is that letter, nil when nothing is known of it.
func (a *Service) keepWords(ctx context.Context, u domain.User, l *domain.Letter, w Wording, why string) (LetterSheet, error) {
	if l != nil && w.PersonID != 0 && l.PersonID != w.PersonID {
		l = nil // the letter was given to somebody else
	}
	if err := mended(&w); err != nil {
		return LetterSheet{}, err
	}
	kept := domain.Letter{}
	if l != nil {
		kept = *l
		w.PersonID = l.PersonID
	}
	s, err := a.library.SettingOf(ctx, u, w.PersonID, kept.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	now := a.now()
	fresh := domain.Letter{
		PersonID: s.Person.ID, CompanyID: s.Person.CompanyID, DealID: s.DealID, TemplateID: kept.TemplateID, TemplateVersion: kept.TemplateVersion,
		SenderID: u.ID, State: domain.Draft, Internal: kept.Internal, Fixed: kept.Fixed, Extras: kept.Extras, Seen: kept.Seen,
		ToName: s.ToName(), ToEmail: s.Person.Email, FromName: cmp.Or(kept.FromName, u.Name()), FromEmail: cmp.Or(kept.FromEmail, u.Email),
		Subject: w.Subject, Body: w.Body, SubjectLine: render.RenderText(w.Subject), Version: 1, CreatedAt: now, UpdatedAt: now,
	}
	if kept.Internal {
		fresh.ToName, fresh.ToEmail = kept.ToName, kept.ToEmail
	}
	if why != InsteadOfSent {
		fresh.AnswersID, fresh.ThreadID, fresh.InReplyTo, fresh.References = kept.AnswersID, kept.ThreadID, kept.InReplyTo, kept.References
	}
	id, err := a.store.AddLetter(ctx, fresh)
	if err != nil {
		return LetterSheet{}, err
	}
	out, err := a.Letter(ctx, u, id)
	out.Instead = why
	return out, err
}

// WriteAgain makes a new draft of the words of a letter that was cancelled or refused.
func (a *Service) WriteAgain(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	if _, err := a.Mine(ctx, u, id); err != nil {
		return LetterSheet{}, err
	}
	l, err := a.store.Letter(ctx, id)
	switch {
	case err != nil:
		return LetterSheet{}, err
	case l.State != domain.Cancelled && l.State != domain.Refused:
		return LetterSheet{}, &domain.StateError{Why: "Only a letter that was cancelled or refused can be written again."}
	}
	return a.keepWords(ctx, u, &l, Wording{Subject: l.Subject, Body: l.Body}, "")
}

// Discard takes a draft away; it can be restored.
func (a *Service) Discard(ctx context.Context, u domain.User, id int64) error {
	if _, err := a.Mine(ctx, u, id); err != nil {
		return err
	}
	return a.store.DeleteDraft(ctx, id, new(a.now()))
}

// Restore brings back a draft that was discarded.
func (a *Service) Restore(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	if _, err := a.Mine(ctx, u, id); err != nil && !errors.Is(err, domain.ErrDiscarded) {
		return LetterSheet{}, err
	}
	if err := a.store.DeleteDraft(ctx, id, nil); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}
