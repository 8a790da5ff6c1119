package mail

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"net/textproto"
	"regexp"
	"strings"

	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/core/result"
	"lucidletter/internal/app"
)

// status reads a delivery status (RFC 3464 section 2): a group of fields for the
// letter, and one for each recipient.
func (r *incoming) status(body []byte) {
	groups := fieldGroups(body)
	delayed, failed := false, false
	for _, g := range groups {
		recipient := typed(g.Get("Final-Recipient"))
		if recipient == "" {
			recipient = typed(g.Get("Original-Recipient"))
		}
		action := strings.ToLower(strings.TrimSpace(g.Get("Action")))
		if action == "" {
			continue // of the letter
		}
		if r.out.OriginalTo == "" {
			r.out.OriginalTo = recipient
		}
		one := app.Returned{Email: recipient, Status: enhanced.FindString(g.Get("Status")), Said: said(g.Get("Diagnostic-Code"))}
		switch action {
		case "failed":
			failed = true
			one.Final, one.Gone = true, result.AddressGone(one.Status)
		case "delayed":
			delayed = true
		default: // delivered, relayed, expanded: it arrived
			continue
		}
		r.out.Returned = append(r.out.Returned, one)
	}
	switch {
	case failed:
		r.out.Kind = app.IncomingBounce
	case delayed:
		r.out.Kind = app.IncomingDelay
	default:
		r.out.Kind = app.IncomingAutomatic
	}
}

// enhanced is a status code of RFC 3463 section 2.
var enhanced = regexp.MustCompile(`\b[245]\.\d{1,3}\.\d{1,3}\b`)

// typed reads a value behind its type, such as rfc822;ada@quill.example.
func typed(value string) string {
	_, rest, ok := strings.Cut(value, ";")
	if !ok {
		rest = value
	}
	return addressIn.FindString(rest)
}

// said gives words without the type before them, such as smtp; 550 no.
func said(value string) string {
	rest := typeBefore.ReplaceAllString(value, "")
	return clip(strings.Join(strings.Fields(strings.ToValidUTF8(rest, "\uFFFD")), " "), 500)
}

var typeBefore = regexp.MustCompile(`^\s*[A-Za-z0-9-]+\s*;`)

// fieldGroups reads groups of fields between empty lines.
func fieldGroups(body []byte) []textproto.MIMEHeader {
	var out []textproto.MIMEHeader
	t := textproto.NewReader(bufio.NewReader(bytes.NewReader(body)))
	for len(out) < 100 {
		h, err := t.ReadMIMEHeader()
		if len(h) > 0 {
			out = append(out, h)
		}
		if errors.Is(err, io.EOF) || err != nil && len(h) == 0 {
			return out
		}
	}
	return out
}

// complaint reads a report of RFC 5965 section 3.
func (r *incoming) complaint(body []byte) {
	r.out.Kind = app.IncomingComplaint
	for _, g := range fieldGroups(body) {
		for _, name := range []string{"Original-Rcpt-To", "Removal-Recipient"} {
			if email := addressIn.FindString(g.Get(name)); email != "" {
				r.out.OriginalTo = email
			}
		}
		if kind := strings.ToLower(g.Get("Feedback-Type")); kind == "not-spam" {
			r.out.Kind = app.IncomingAutomatic
		}
	}
}

var (
	daemons    = regexp.MustCompile(`(?i)^(mailer-daemon|postmaster|mail-daemon|mdaemon)@`)
	returnedTo = regexp.MustCompile(`(?i)(undeliver|not delivered|delivery (?:status|failure|has failed|problem|incomplete)|failure notice|returned mail|mail delivery (?:failed|failure|system)|could not be delivered|unzustellbar|nicht zugestellt|delayed)`)
	delayWords = regexp.MustCompile(`(?i)(delayed|warning:? (?:message|could not)|will (?:keep|continue) (?:trying|to try)|not (?:yet )?been delivered|still being retried)`)
	replyCode  = regexp.MustCompile(`\b([45])\d\d[ -]`)
	originalID = regexp.MustCompile(`(?im)^>?\s*Message-ID:\s*<([^<>\s]+)>`)
	unknownBox = regexp.MustCompile(`(?i)(user unknown|no such (?:user|mailbox|recipient)|unknown (?:user|recipient|mailbox|address)|mailbox (?:unavailable|not found|does not exist)|address (?:rejected|not found)|does(?: not|n't) exist|account (?:is )?disabled)`)
)

// looksReturned tells whether a letter without a report was returned by a mail server
// (common practice, no source).
func looksReturned(h *gomessage.Header) bool {
	if h.Get("X-Failed-Recipients") != "" {
		return true
	}
	return daemons.MatchString(addressIn.FindString(h.Get("From"))) && returnedTo.MatchString(textOf(h, "Subject"))
}

// guess reads what a server says in words alone.
func (r *incoming) guess(h *gomessage.Header) {
	text := clip(r.out.Text, 64<<10)
	one := app.Returned{Email: addressIn.FindString(h.Get("X-Failed-Recipients")), Status: enhanced.FindString(text)}
	subject := textOf(h, "Subject")
	r.out.Kind = app.IncomingBounce
	if delayWords.MatchString(subject) || strings.HasPrefix(one.Status, "4.") && delayWords.MatchString(text) {
		r.out.Kind = app.IncomingDelay
	}
	for line := range strings.Lines(text) {
		if one.Email == "" && !daemons.MatchString(addressIn.FindString(line)) {
			one.Email = addressIn.FindString(line)
		}
		if one.Said == "" && (enhanced.MatchString(line) || replyCode.MatchString(line) || unknownBox.MatchString(line)) {
			one.Said = said(strings.TrimSpace(line))
		}
	}
	one.Final = r.out.Kind == app.IncomingBounce
	if code := replyCode.FindStringSubmatch(one.Said); one.Status == "" && code != nil {
		one.Status = code[1] + ".0.0"
	}
	one.Gone = one.Final && (result.AddressGone(one.Status) && one.Status != "5.0.0" || unknownBox.MatchString(text))
	if r.out.OriginalTo == "" {
		r.out.OriginalTo = one.Email
	}
	if m := originalID.FindStringSubmatch(text); r.out.OriginalID == "" && m != nil {
		r.out.OriginalID = m[1]
	}
	r.out.Returned = []app.Returned{one}
}
