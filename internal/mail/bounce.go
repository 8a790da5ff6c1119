package mail

import (
	"bufio"
	"bytes"
	"cmp"
	"errors"
	"io"
	"net/textproto"
	"regexp"
	"slices"
	"strings"

	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/core/result"
	"lucidletter/internal/domain"
)

// status reads a delivery status (RFC 3464 section 2): a group of fields for the
// letter, and one for each recipient. It tells whether it could be read.
func (r *incoming) status(body []byte, to string) bool {
	delayed, failed, read := false, false, false
	words := result.ReadReturned(clip(r.out.Text, 64<<10), to)
	for _, g := range fieldGroups(body) {
		recipient := typed(g.Get("Final-Recipient"))
		if recipient == "" {
			recipient = typed(g.Get("Original-Recipient"))
		}
		one := domain.Returned{Email: recipient, Status: enhanced.FindString(g.Get("Status")), Said: said(g.Get("Diagnostic-Code"))}
		// QUIRK: some write more behind the word, such as "failed (5.1.1 unknown)".
		action := first(strings.FieldsFunc(strings.ToLower(g.Get("Action")), func(c rune) bool { return c < 'a' || c > 'z' }))
		if !slices.Contains(actions, action) && recipient != "" && one.Status != "" { // QUIRK: and some leave it out, or write another one
			action = map[byte]string{'5': "failed", '4': "delayed", '2': "delivered"}[one.Status[0]]
		}
		if action == "" {
			continue // of the letter
		}
		read = true
		if r.out.OriginalTo == "" {
			r.out.OriginalTo = recipient
		}
		if one.Said == "" {
			if i := slices.IndexFunc(words, func(f result.Failed) bool { return strings.EqualFold(f.Email, recipient) || len(words) == 1 }); i >= 0 {
				one.Said = said(words[i].Said)
				if one.Status == "" {
					one.Status = words[i].Status
				}
			}
		}
		switch action {
		case "failed", "fail", "failure", "undeliverable", "bounced", "rejected":
			failed = true
			one.Final, one.Gone = true, result.AddressGone(one.Status, one.Said)
		case "delayed", "delay", "retrying", "deferred":
			delayed = true
		default: // delivered, relayed, expanded: it arrived
			continue
		}
		r.out.Returned = append(r.out.Returned, one)
	}
	switch {
	case failed:
		r.out.Kind = domain.IncomingBounce
	case delayed:
		r.out.Kind = domain.IncomingDelay
	default:
		r.out.Kind = domain.IncomingAutomatic
	}
	return read
}

// actions are those of RFC 3464 section 2.3.3, and what some write in their place.
var actions = []string{
	"failed", "fail", "failure", "undeliverable", "bounced", "rejected",
	"delayed", "delay", "retrying", "deferred", "delivered", "relayed", "expanded",
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
	r.out.Kind = domain.IncomingComplaint
	for _, g := range fieldGroups(body) {
		for _, name := range []string{"Original-Rcpt-To", "Removal-Recipient"} {
			if email := addressIn.FindString(g.Get(name)); email != "" {
				r.out.OriginalTo = email
			}
		}
		if kind := strings.ToLower(g.Get("Feedback-Type")); kind == "not-spam" {
			r.out.Kind = domain.IncomingAutomatic
		}
	}
}

// answerForm is a line of a server: a code of RFC 3463 or of RFC 5321.

var originalID = regexp.MustCompile(`(?im)^>?\s*Message-ID:\s*<([^<>\s]+)>`)

// machine reads what a machine says in words alone: whether a letter was returned, is
// late, or was answered by nobody (result.KindOf).
func (r *incoming) machine(h *gomessage.Header, report bool) {
	text := clip(r.out.Text, 64<<10)
	to := first(addressIn.FindAllString(h.Get("To"), 1))
	kind := result.KindOf(result.Signs{
		From: strings.TrimLeft(cmp.Or(r.out.FromEmail, h.Get("From")), `"< `), FromName: r.out.FromName, Subject: textOf(h, "Subject"), Text: text, To: to,
		NullReturn: nobody(h, "Return-Path") || strings.HasSuffix(strings.TrimSpace(h.Get("From")), "<>"), FailedHeader: h.Get("X-Failed-Recipients") != "",
		Report: report, Original: r.orig != nil, Automatic: automatic(h),
	})
	switch kind {
	case result.KindBounce:
		r.out.Kind = domain.IncomingBounce
	case result.KindDelay:
		r.out.Kind = domain.IncomingDelay
	case result.KindAutomatic:
		r.out.Kind = domain.IncomingAutomatic
		return
	default:
		return
	}
	final := kind == result.KindBounce
	words := result.ReadReturned(text, to)
	for _, email := range addressIn.FindAllString(h.Get("X-Failed-Recipients"), 100) {
		if i := slices.IndexFunc(words, func(f result.Failed) bool { return strings.EqualFold(f.Email, email) }); i < 0 {
			words = append(words, result.Failed{Email: email})
		}
	}
	why := firstLine(text) // of those of whom it says no more
	if i := slices.IndexFunc(words, func(f result.Failed) bool { return f.Said != "" }); i >= 0 {
		why = words[i].Said
	}
	if len(words) == 0 { // it may say why without saying who
		words = []result.Failed{{}}
	}
	for _, f := range words {
		one := domain.Returned{Email: f.Email, Status: f.Status, Said: said(cmp.Or(f.Said, why)), Final: final}
		if one.Status == "" {
			one.Status = result.StatusIn(one.Said)
		}
		one.Gone = final && result.AddressGone(one.Status, one.Said)
		r.out.Returned = append(r.out.Returned, one)
	}
	if r.out.OriginalTo == "" {
		r.out.OriginalTo = r.out.Returned[0].Email
	}
	if m := originalID.FindStringSubmatch(r.out.Text); r.out.OriginalID == "" && m != nil {
		r.out.OriginalID = m[1]
	}
}

// nobody tells whether a field of addresses is there and names none.
func nobody(h *gomessage.Header, name string) bool {
	return h.Has(name) && strings.Trim(h.Get(name), " <>\t") == ""
}

// firstLine gives the first line in which a server says that something failed.
func firstLine(text string) string {
	for line := range strings.Lines(text) {
		if result.StatusIn(line) != "" {
			return strings.TrimSpace(line)
		}
	}
	return ""
}
