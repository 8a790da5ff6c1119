package desk

import (
	"context"
	"errors"
	"fmt"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// stops is everything that keeps a letter from going, the recipient included.
func (a *Service) stops(ctx context.Context, l *domain.Letter, s *library.Setting) ([]document.Note, error) {
	p, notes := &s.Person, l.WordingStops()
	x, err := a.pageSheetOf(ctx, l, s)
	if err != nil {
		return nil, err
	}
	add := func(code, message string) { notes = append(notes, stopNote(code, message)) }
	address := field.CheckEmail(l.ToEmail)
	barred, err := a.records.Suppression(ctx, l.ToEmail)
	if err != nil {
		return nil, err
	}
	if p.DeletedAt != nil {
		why, err := a.records.GoneWords(ctx, p)
		if err != nil {
			return nil, err
		}
		add("deleted", why)
	}
	since := barred.OptedOutAt
	if p.OptedOutAt != nil {
		since = p.OptedOutAt
	}
	switch {
	case l.Internal:
		more, err := a.internalStops(ctx, l)
		if err != nil {
			return nil, err
		}
		notes = append(notes, more...)
	case since != nil:
		add("optedout", fmt.Sprintf("%s unsubscribed on %s.", p.Name(), since.Format("2 January 2006")))
	case l.ToEmail == "":
		add("noaddress", fmt.Sprintf("%s has no email address.", p.Name()))
	case address != nil:
		add("badaddress", fmt.Sprintf("The address %v; correct it in the record.", address))
	}
	from, err := a.FromStop(ctx, l)
	if err != nil {
		return nil, err
	}
	if from != "" {
		add("from", from)
	}
	asks, err := a.askStop(ctx, l)
	if err != nil {
		return nil, err
	}
	if asks != "" {
		add("question", asks)
	}
	if links, err := a.linkStop(ctx, l); err != nil {
		return nil, err
	} else if links != "" {
		add("document", links)
	}
	if x != nil {
		for _, g := range x.Missing {
			add("stationery", fmt.Sprintf("The stationery needs %s, which is missing.", g.Label))
		}
	}
	foot, err := a.footStop(ctx, l, s)
	if err != nil {
		return nil, err
	}
	if foot != "" {
		add("foot", foot)
	}
	if barred.Bad != nil && !l.Internal {
		add("bounced", barred.Bad.Words(l.ToEmail))
	}
	copies, err := a.CopyStops(ctx, l)
	if err != nil {
		return nil, err
	}
	for _, message := range copies {
		add("copy", message)
	}
	news, err := a.recordNews(ctx, l, s)
	if err != nil {
		return nil, err
	}
	for _, n := range news {
		add("recordnews", n.words())
	}
	for _, k := range keptStill(l, s) {
		add("kept", fmt.Sprintf("“%s” (%s) was written when the letter was for somebody else, or for other values. Look whether it still fits.", k.Words, k.Label))
	}
	if l.WireSize() > library.MaxLetter {
		add("toolarge", fmt.Sprintf("The attachments make the letter larger than %d MiB; remove one.", library.MaxLetter>>20))
	}
	return notes, nil
}

// pageSheetOf is the stationery of a letter merged for its person, or nil.
func (a *Service) pageSheetOf(ctx context.Context, l *domain.Letter, s *library.Setting) (*library.MergedStationery, error) {
	if l.Extras.Stationery == 0 || l.Body.Attrs.Body != document.BodyFormatted {
		return nil, nil
	}
	st, err := a.store.Stationery(ctx, l.Extras.Stationery)
	if err != nil || st.DeletedAt != nil || !st.Ready {
		return nil, err
	}
	return a.library.MergeStationery(&st, s, s.ReaderFor(&template.Template{Body: l.Body})), nil
}

// FromStop says that the sender may not write from the letter's address, or "".
func (a *Service) FromStop(ctx context.Context, l *domain.Letter) (string, error) {
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
