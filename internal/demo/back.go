package demo

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// answers are what people of the sample workspace write back.
var answers = []string{
	"Thank you, that sounds right for us. Could you come by next Tuesday morning? The lane behind the shop is open until ten.",
	"Yes please, send the drawing. We would rather have the door on the left.",
	"Thanks for writing. We have just bought a cooler and will not need one this year.",
	"Before I decide: does the price include taking the old unit away, and how loud is it outside at night?",
	"I showed it to my partner and we both like the smaller one. What is the next step?",
	"Please write to my colleague in purchasing instead, I only look after the counter.",
	"Good timing. Our inspection is in three weeks; can it be in by then?",
}

// cameBack draws what the recipient of a letter did: opens and clicks of a formatted
// one, of which some are machines'; an answer, a bounce, an automatic answer.
func (m *maker) cameBack(p *domain.Person, l *domain.Letter, sent time.Time) error {
	at := func(minutes int) time.Time { return sent.Add(time.Duration(minutes) * time.Minute) }
	file := func(kind domain.EntryKind, text string, at time.Time, machine bool, link, incoming *int64) error {
		if at.After(m.today) {
			return nil
		}
		return m.s.AddEntry(m.ctx, domain.Entry{
			PersonID: &p.ID, CompanyID: p.CompanyID, DealID: l.DealID, LetterID: &l.ID, Kind: kind, Text: text, At: at, Machine: machine, LinkID: link, IncomingID: incoming,
		})
	}
	if l.Tracked {
		if m.chance(20) {
			if err := file(domain.EntryOpened, l.SubjectLine, sent.Add(2*time.Second), true, nil, nil); err != nil {
				return err
			}
		}
		if m.chance(48) {
			for n := range 1 + m.r.IntN(3) {
				if err := file(domain.EntryOpened, l.SubjectLine, at(20+n*400+m.r.IntN(300)), false, nil, nil); err != nil {
					return err
				}
			}
			links, err := m.s.LinksOf(m.ctx, l.ID)
			if err != nil {
				return err
			}
			if len(links) > 0 && m.chance(35) {
				if err := file(domain.EntryClicked, links[0].URL, at(340+m.r.IntN(60)), false, &links[0].ID, nil); err != nil {
					return err
				}
			}
		}
	}
	switch draw, later := m.r.IntN(100), at(420+m.r.IntN(2600)); {
	case draw < 13:
		return m.answered(p, l, later)
	case draw < 15:
		return file(domain.EntryBounced, "The letter bounced: 5.2.2 The mailbox is full", at(1), false, nil, nil)
	case draw < 18:
		return file(domain.EntryAway, "Automatic reply: back on "+sent.AddDate(0, 0, 8).Format(time.DateOnly), at(1), false, nil, nil)
	}
	return nil
}

// answered takes in what a person wrote back. Old answers were dealt with.
func (m *maker) answered(p *domain.Person, l *domain.Letter, at time.Time) error {
	if at.After(m.today) {
		return nil
	}
	name := strings.TrimSpace(p.FirstName + " " + p.LastName)
	text := answers[m.r.IntN(len(answers))] + "\n\n" + p.FirstName
	id := fmt.Sprintf("back%016x@post.example", m.r.Uint64())
	_, whole := letter.WithQuote("", text, "On "+l.SentAt.Format("2 January 2006")+", "+l.FromName+" wrote:", render.RenderText(l.Body))
	raw, err := m.w.Composer.Compose(domain.Mail{
		FromName: name, FromEmail: p.Email, ToName: l.FromName, ToEmail: l.FromEmail, Subject: "Re: " + l.SubjectLine, Text: whole, Date: at,
		MessageID: id, InReplyTo: l.MessageID, References: []string{l.MessageID},
	})
	if err != nil {
		return err
	}
	sum := sha256.Sum256(raw)
	in := domain.Incoming{
		Digest: hex.EncodeToString(sum[:]), Kind: domain.IncomingAnswer, LetterID: &l.ID, PersonID: &p.ID, CompanyID: p.CompanyID, DealID: l.DealID, UserID: &l.SenderID, Matched: "reply",
		FromName: name, FromEmail: p.Email, ToEmail: l.FromEmail, Subject: "Re: " + l.SubjectLine, Text: whole, MessageID: id, References: l.MessageID, At: at,
	}
	if at.Before(m.today.AddDate(0, 0, -4)) {
		in.ReadAt = &at
	}
	if in.ID, err = m.s.AddIncoming(m.ctx, in, raw); err != nil {
		return err
	}
	return m.s.AddEntry(m.ctx, domain.Entry{
		PersonID: &p.ID, CompanyID: p.CompanyID, DealID: l.DealID, LetterID: &l.ID, IncomingID: &in.ID, Kind: domain.EntryReplied, Text: in.Subject, At: at,
	})
}
