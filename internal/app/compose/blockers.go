package compose

import (
	"cmp"
	"context"
	"errors"
	"fmt"

	"lucidletter/core/document"
	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Blockers is everything that keeps a letter from going, the recipient included; also of one that is
// stored nowhere.
func (a *Service) Blockers(ctx context.Context, l *domain.Letter, s *library.Setting) ([]document.Note, error) {
	p, notes := &s.Person, l.WordingStops()
	x, err := a.SheetOf(ctx, l, s)
	if err != nil {
		return nil, err
	}
	add := func(code, message string) { notes = append(notes, stopNote(code, message)) }
	blockers, err := a.records.Blockers(ctx, p, l.ToEmail)
	if err != nil {
		return nil, err
	}
	for _, r := range blockers {
		if !l.Internal || r.Code == eligibility.Deleted { // colleagues may be written to about anybody
			add(string(r.Code), r.Sentence(p.Name()))
		}
	}
	if l.Internal {
		more, err := a.internalBlockers(ctx, l)
		if err != nil {
			return nil, err
		}
		notes = append(notes, more...)
	}
	from, err := a.FromBlocker(ctx, l)
	if err != nil {
		return nil, err
	}
	if from != "" {
		add("from", from)
	}
	if asks, err := a.askBlocker(ctx, l); err != nil {
		return nil, err
	} else if asks != "" {
		add("question", asks)
	}
	if links, err := a.linkBlocker(ctx, l); err != nil {
		return nil, err
	} else if links != "" {
		add("document", links)
	}
	around, err := a.aroundBlockers(ctx, l, s, x)
	if err != nil {
		return nil, err
	}
	notes = append(notes, around...)
	copies, err := a.CopyBlockers(ctx, l)
	if err != nil {
		return nil, err
	}
	for _, m := range copies {
		add("copy", m)
	}
	older, err := a.olderWords(ctx, l, s)
	if err != nil {
		return nil, err
	}
	notes = append(notes, older...)
	if l.WireSize() > library.MaxLetter {
		add("toolarge", fmt.Sprintf("The attachments make the letter larger than %d MiB; remove one.", library.MaxLetter>>20))
	}
	return notes, nil
}

// aroundBlockers is what stationery and foot of a letter lack.
func (a *Service) aroundBlockers(ctx context.Context, l *domain.Letter, s *library.Setting, x *library.MergedStationery) (notes []document.Note, err error) {
	if x != nil {
		for _, g := range x.Missing {
			notes = append(notes, stopNote("stationery", fmt.Sprintf("The stationery needs %s, which is missing.", g.Label)))
		}
	}
	foot, err := a.footBlocker(ctx, l, s)
	if foot != "" {
		notes = append(notes, stopNote("foot", foot))
	}
	return notes, err
}

// olderWords is what a letter says of records that are not so any more, and of those before them.
func (a *Service) olderWords(ctx context.Context, l *domain.Letter, s *library.Setting) (notes []document.Note, err error) {
	news, err := a.RecordNewsOf(ctx, l, s)
	for i := range news {
		notes = append(notes, stopNote("recordnews", news[i].Words()))
	}
	for _, k := range KeptStill(l, s) {
		notes = append(notes, stopNote("kept", fmt.Sprintf("“%s” (%s) was written when the letter was for somebody else, or for other values. Look whether it still fits.", k.Words, k.Label)))
	}
	return notes, err
}

// SheetOf is the stationery of a letter merged for its person, or nil.
func (a *Service) SheetOf(ctx context.Context, l *domain.Letter, s *library.Setting) (*library.MergedStationery, error) {
	if l.Extras.Stationery == 0 || l.Body.Attrs.Body != document.BodyFormatted {
		return nil, nil
	}
	st, err := a.store.Stationery(ctx, l.Extras.Stationery)
	if err != nil || st.DeletedAt != nil || !st.Ready {
		return nil, err
	}
	return a.library.MergeStationery(&st, s, s.ReaderFor(&template.Template{Body: l.Body})), nil
}

// FromBlocker says that the sender may not write from the letter's address, or "".
func (a *Service) FromBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	sender, err := a.store.User(ctx, l.SenderID)
	if err != nil {
		return "", err
	}
	if _, err = a.team.FromAddress(ctx, sender, l.FromEmail); errors.Is(err, domain.ErrNotFound) {
		return l.FromEmail + " is no longer one of your From addresses; choose another.", nil
	}
	if err != nil {
		return "", err
	}
	return a.team.AccountStop(ctx, &sender, l.FromEmail)
}

// PartBlocker says what of the parts of a letter which waits is not what was proofread, or "": a
// document that was taken from the shelf, stationery that was changed.
func (a *Service) PartBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	for _, at := range l.Extras.Attachments {
		if at.DocumentID == 0 {
			continue
		}
		d, err := a.store.SharedDocument(ctx, at.DocumentID)
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return "", err
		}
		if err != nil || d.DeletedAt != nil {
			return fmt.Sprintf("The document “%s” was taken from the shelf since this letter was proofread. Take it back and look at it.", cmp.Or(d.Name, at.Name)), nil
		}
	}
	if l.QueuedAt == nil || l.RoundID != nil || l.Extras.Stationery == 0 || // a round watches its own
		l.Body.Attrs.Body != document.BodyFormatted {
		return "", nil
	}
	st, err := a.store.Stationery(ctx, l.Extras.Stationery)
	if err != nil || !st.UpdatedAt.After(*l.QueuedAt) && (st.DeletedAt == nil || !st.DeletedAt.After(*l.QueuedAt)) {
		return "", err
	}
	return fmt.Sprintf("The stationery “%s” was changed since this letter was proofread. Take it back and look at it.", st.Name), nil
}

// CopyBlockers says which copies may not go.
func (a *Service) CopyBlockers(ctx context.Context, l *domain.Letter) ([]string, error) {
	var out []string
	for _, one := range l.Copies() {
		why, err := a.records.Blockers(ctx, &domain.Person{}, one.Email)
		if err != nil {
			return nil, err
		}
		if len(why) > 0 {
			out = append(out, why[0].CopySentence())
		}
	}
	return out, nil
}

// strangers names who of an internal letter's readers does not work here.
func (a *Service) strangers(ctx context.Context, l *domain.Letter) ([]string, error) {
	if !l.Internal {
		return nil, nil
	}
	var out []string
	for _, email := range l.Recipients() {
		_, err := a.store.UserByEmail(ctx, field.EmailKey(email))
		if errors.Is(err, domain.ErrNotFound) {
			out = append(out, email)
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// internalBlockers is what keeps an internal letter from going, its words apart.
func (a *Service) internalBlockers(ctx context.Context, l *domain.Letter) ([]document.Note, error) {
	out, err := a.strangers(ctx, l)
	var notes []document.Note
	for _, email := range out {
		notes = append(notes, stopNote("stranger", email+" does not work here; a letter to colleagues goes to nobody else. Take the address out."))
	}
	return notes, err
}

func stopNote(code, message string) document.Note {
	return document.Note{Severity: document.Stops, Code: code, Part: document.Envelope, Line: 1, Column: 1, Message: message}
}
