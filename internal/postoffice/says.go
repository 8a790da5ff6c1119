package postoffice

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"lucidletter/core/letter"
	"lucidletter/internal/domain"
)

// words are what recipients say; %s is the day they are back.
var words = map[string]string{
	sayYes:  "Yes, that suits us. Please send what you need from us, and let us fix a day next week.\n\nKind regards",
	sayNo:   "Thank you, but this is not for us at the moment. Please do not follow up on it this year.\n\nKind regards",
	ask:     "Thank you for your letter. Before we decide: how long would the installation take, and does the price include it?\n\nKind regards",
	sayAway: "Thank you for your letter. I am out of the office and read no mail. I am back on %s.\n\nKind regards",
}

// answer writes back to a letter, as its recipient's program would.
func (s *Server) answer(ctx context.Context, l *domain.PostLetter, m *domain.ReadMail, kind string) error {
	from, err := mail.ParseAddress(m.To)
	name := l.Mailbox
	if err == nil && from.Name != "" && strings.EqualFold(from.Address, l.Mailbox) {
		name = from.Name
	}
	to, err := mail.ParseAddress(m.From)
	if err != nil {
		return fmt.Errorf("the letter names no sender: %w", err)
	}
	now := s.app.Now()
	id := strings.Trim(header(m, "Message-Id"), "<> ")
	out := domain.Mail{
		FromName: name, FromEmail: l.Mailbox, ToName: to.Name, ToEmail: to.Address, Subject: "Re: " + letter.BareSubject(m.Subject), Date: now,
		MessageID: fmt.Sprintf("%s@postoffice.example", rand.Text()), InReplyTo: id, References: append(strings.Fields(strings.NewReplacer("<", "", ">", "").Replace(header(m, "References"))), id),
		Text: words[kind] + "\n" + name + "\n",
	}
	envelope := l.Mailbox
	if kind == sayAway {
		out.AutoSubmitted, out.Subject, envelope = "auto-replied", "Automatic answer: "+letter.BareSubject(m.Subject), ""
		out.Text = fmt.Sprintf(out.Text, now.AddDate(0, 0, 7).Format("2 January 2006"))
	} else {
		_, out.Text = letter.WithQuote("", out.Text, fmt.Sprintf("On %s, %s wrote:", m.Date.Format("2 January 2006"), to.Name), m.Text)
	}
	content, err := s.composer.Compose(out)
	if err != nil {
		return err
	}
	return s.mail(ctx, envelope, to.Address, content)
}

// returnedLetter is a delivery status (RFC 3464) that says the mailbox does not exist.
func returnedLetter(l *domain.PostLetter, m *domain.ReadMail, now time.Time) []byte {
	return report(l, m, now, "Undelivered letter", "delivery-status", "Your letter did not reach "+l.Mailbox+": there is no such mailbox.",
		"Reporting-MTA: dns; postoffice.example\r\n\r\nFinal-Recipient: rfc822; "+l.Mailbox+"\r\nAction: failed\r\nStatus: 5.1.1\r\nDiagnostic-Code: smtp; 550 5.1.1 No such mailbox here\r\n")
}

// complaint is a report (RFC 5965) that the recipient did not want the letter.
func complaint(l *domain.PostLetter, m *domain.ReadMail, now time.Time) []byte {
	return report(l, m, now, "A recipient complained", "feedback-report", "The recipient of this letter marked it as not wanted.",
		"Feedback-Type: abuse\r\nUser-Agent: PostOffice/1.0\r\nVersion: 1\r\nOriginal-Rcpt-To: <"+l.Mailbox+">\r\n")
}

func report(l *domain.PostLetter, m *domain.ReadMail, now time.Time, subject, kind, text, fields string) []byte {
	const boundary = "=_postoffice_report"
	head, _, _ := strings.Cut(string(l.Bytes), "\r\n\r\n")
	return []byte("From: Mail system <mailer-daemon@postoffice.example>\r\nTo: <" + l.Sender + ">\r\nSubject: " + subject + "\r\nDate: " + now.UTC().Format(time.RFC1123Z) +
		"\r\nMessage-ID: <report-" + fmt.Sprint(l.ID, "-", kind) + "@postoffice.example>\r\nAuto-Submitted: auto-replied\r\nMIME-Version: 1.0\r\nContent-Type: multipart/report; report-type=" + kind + "; boundary=\"" + boundary + "\"\r\n\r\n--" + boundary +
		"\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n" + text + "\r\n\r\n--" + boundary + "\r\nContent-Type: message/" + kind + "\r\n\r\n" + fields + "\r\n--" + boundary +
		"\r\nContent-Type: text/rfc822-headers\r\n\r\n" + head + "\r\n\r\n--" + boundary + "--\r\n")
}
