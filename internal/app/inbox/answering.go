package inbox

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// maxQuoted is how many bytes of a letter its answer quotes.
const maxQuoted = 20_000

// StartAnswer makes a draft that answers a letter which came in, to whoever it says,
// from a template or from nothing: in its conversation, with its subject and its words
// quoted below. All gives a copy to everybody else who got the letter. Somebody who is
// in no record becomes a lead.
func (a *Service) StartAnswer(ctx context.Context, u domain.User, id int64, templateID *int64, all bool) (desk.LetterSheet, error) {
	in, err := a.incomingFor(ctx, u, id)
	if err != nil {
		return desk.LetterSheet{}, err
	}
	if in.Kind != domain.IncomingAnswer {
		return desk.LetterSheet{}, &domain.StateError{Why: "This is an automatic message, and nobody reads replies to it. Write to the person instead."}
	}
	bytes, err := a.store.IncomingBytes(ctx, id)
	if err != nil {
		return desk.LetterSheet{}, err
	}
	m := a.reader.ReadIncoming(bytes)
	email := in.FromEmail
	if field.CheckEmail(m.ReplyTo) == nil {
		email = m.ReplyTo
	}
	var out desk.LetterSheet
	err = a.store.Within(ctx, func(ctx context.Context) error { // who answers may be new
		p, err := a.personToAnswer(ctx, u, &in, email)
		if err != nil {
			return err
		}
		deal := in.DealID
		if in.PersonID == nil || *in.PersonID != p.ID {
			deal = nil // the deal may not be theirs
		}
		var copies []domain.Address
		if all {
			if copies, err = a.othersOf(ctx, u, m.All, email); err != nil {
				return err
			}
		}
		var thread *int64
		if in.LetterID != nil {
			first, err := a.store.LetterHead(ctx, *in.LetterID)
			if err != nil {
				return err
			}
			if thread = first.ThreadID; thread == nil {
				thread = &first.ID
			}
			if in.MessageID == "" { // the other program gave none: it goes on from ours
				in.MessageID = first.MessageID
			}
		}
		out, err = a.desk.Start(ctx, u, p.ID, templateID, deal, func(l *domain.Letter) {
			l.ThreadID = thread
			subject := "Re: " + strings.Join(strings.Fields(letter.BareSubject(in.Subject)), " ")
			l.Subject = document.NewPlain(strings.TrimSpace(subject))
			l.AnswersID = &in.ID
			l.InReplyTo, l.References = in.MessageID, strings.TrimSpace(in.References+" "+in.MessageID)
			name := cmp.Or(in.FromName, p.Name())
			l.Extras.Quote = &domain.Quote{
				Who:   name + " <" + in.FromEmail + ">, " + in.At.Format("2 January 2006") + ":",
				Words: clipQuote(letter.NewWords(in.Text)),
			}
			l.Extras.Cc = copies
			if p.Email != "" && field.EmailKey(p.Email) != field.EmailKey(email) { // they wrote from another address
				l.Extras.AlsoTo = []domain.Address{{Name: p.Name(), Email: email}}
			}
		})
		return err
	})
	return out, err
}

func clipQuote(s string) string {
	if len(s) <= maxQuoted {
		return s
	}
	return strings.ToValidUTF8(s[:maxQuoted], "") + "\n[…]"
}

// personToAnswer gives whose record has an address, or makes a lead of who wrote.
func (a *Service) personToAnswer(ctx context.Context, u domain.User, in *domain.Incoming, email string) (domain.Person, error) {
	if err := field.CheckEmail(email); err != nil {
		return domain.Person{}, domain.Invalid("from", "%v; the letter names no address to answer to", err)
	}
	people, err := a.store.PeopleByEmail(ctx, field.EmailKey(email))
	if err != nil {
		return domain.Person{}, err
	}
	var theirs domain.Person
	if in.PersonID != nil {
		if theirs, err = a.personNow(ctx, *in.PersonID); err != nil {
			return theirs, err
		}
	}
	switch {
	case slices.ContainsFunc(people, func(p domain.Person) bool { return p.ID == theirs.ID }), len(people) == 0 && theirs.ID != 0:
		if theirs.DeletedAt != nil { // no second record is made beside theirs
			why, err := a.records.GoneWords(ctx, &theirs)
			return theirs, cmp.Or(err, error(&domain.StateError{Why: why}))
		}
		return theirs, nil
	case len(people) > 0: // somebody else answered
		return people[0], nil
	}
	return a.records.AddLead(ctx, u, (&domain.Address{Name: strings.Map(plainName, in.FromName), Email: email}).Line())
}

// personNow gives a person, or the record that took their place.
func (a *Service) personNow(ctx context.Context, id int64) (domain.Person, error) {
	p, err := a.store.Person(ctx, id)
	if err != nil || p.DeletedAt == nil {
		return p, err
	}
	kept, err := a.store.KeptOf(ctx, id)
	if errors.Is(err, domain.ErrNotFound) || err == nil && kept == id {
		return p, nil
	}
	if err != nil {
		return p, err
	}
	return a.store.Person(ctx, kept)
}

// plainName leaves out of a name what an address line is cut at.
func plainName(r rune) rune {
	if strings.ContainsRune("<>()[]{}\",;\r\n\x00", r) {
		return -1
	}
	return r
}

// othersOf gives who else got a letter: not the one who is answered, and nobody's
// address that the user writes from.
func (a *Service) othersOf(ctx context.Context, u domain.User, list []domain.Address, answered string) ([]domain.Address, error) {
	var out []domain.Address
	seen := []string{field.EmailKey(answered)}
	for _, one := range list {
		key := field.EmailKey(one.Email)
		if slices.Contains(seen, key) || field.CheckEmail(one.Email) != nil || strings.ContainsAny(one.Name, "\r\n\x00") {
			continue
		}
		seen = append(seen, key)
		if tokenIn.MatchString(one.Email) {
			continue // where letters are returned to
		}
		owner, err := a.team.UserOf(ctx, one.Email)
		if err == nil && owner.ID == u.ID {
			continue
		}
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return nil, err
		}
		out = append(out, one)
	}
	return out[:min(len(out), desk.MaxCopies)], nil
}

// SetQuote saves the wording with other words quoted below; none leaves the quote out.
func (a *Service) SetQuote(ctx context.Context, u domain.User, id int64, w desk.Wording, words string) (desk.LetterSheet, error) {
	if len(words) > maxQuoted+100 {
		return desk.LetterSheet{}, domain.Invalid("words", "are longer than %d bytes; quote less", maxQuoted)
	}
	return a.desk.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		if l.Extras.Quote == nil {
			return &domain.StateError{Why: "This letter isn’t a reply, so it quotes nothing."}
		}
		q := *l.Extras.Quote
		q.Words = strings.ReplaceAll(strings.ReplaceAll(words, "\r\n", "\n"), "\r", "\n")
		l.Extras.Quote = &q
		return nil
	})
}

// IncomingOf lists what came in for a letter.
func (a *Service) IncomingOf(ctx context.Context, u domain.User, letterID int64) ([]domain.IncomingRow, error) {
	if _, err := a.desk.Seen(ctx, u, letterID); err != nil {
		return nil, err
	}
	return withSaid(a.store.IncomingOf(ctx, letterID))
}
