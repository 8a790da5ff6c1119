package mail

import (
	"bytes"
	"io"
	"mime"
	netmail "net/mail"
	"regexp"
	"strings"
	"unicode"

	"github.com/emersion/go-message"
	"github.com/emersion/go-message/charset"
	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/core/letter"
	"lucidletter/internal/app"
)

// Limits of reading what comes in: what is deeper or more is left out, so that a
// hostile letter is read as fast as another.
const (
	maxDepth  = 12
	maxParts  = 200
	maxReport = 256 << 10
)

// incoming collects the parts of one letter.
type incoming struct {
	out    app.ReadIncoming
	parts  int
	report map[string][]byte // what machines say, by type
	orig   *message.Header   // of the letter that is returned
	want   int               // which file is to be kept, -1 none
	kept   []byte
}

// ReadIncoming reads a letter that came in as well as it can be read, whatever is
// wrong with it: never an error. What kind it is, is read from the fields of RFC 3464
// (delivery status), RFC 5965 (complaints), RFC 3834 (automatic answers), and of what
// machines write without them.
func (Reader) ReadIncoming(raw []byte) app.ReadIncoming {
	r := incoming{report: map[string][]byte{}, want: -1}
	r.read(raw)
	return r.out
}

// ReadFile gives the bytes of one of the files of a letter that came in; false when it
// has no such file.
func (Reader) ReadFile(raw []byte, at int) (app.MailPart, []byte, bool) {
	r := incoming{report: map[string][]byte{}, want: at}
	r.read(raw)
	if at < 0 || at >= len(r.out.Files) {
		return app.MailPart{}, nil, false
	}
	return r.out.Files[at], r.kept, true
}

func (r *incoming) read(raw []byte) {
	r.out.Files = []app.MailPart{}
	e, err := message.ReadWithOptions(bytes.NewReader(raw), &message.ReadOptions{MaxHeaderBytes: maxReport})
	if e == nil || err != nil && !unknown(err) {
		r.out.Subject, r.out.Text, r.out.Kind = "(cannot be read)", "This letter cannot be read.", app.IncomingAnswer
		return
	}
	h := gomessage.Header{Header: e.Header}
	r.head(&h)
	r.entity(e, 0)
	if strings.TrimSpace(r.out.Text) == "" && r.out.HTML != "" {
		r.out.Text = letter.PageText(r.out.HTML)
	}
	r.out.Text = clip(r.out.Text, maxReport)
	r.kind(&h)
}

// clip cuts a text between two characters.
func clip(s string, n int) string {
	if len(s) <= n {
		return s
	}
	return strings.ToValidUTF8(s[:n], "")
}

func (r *incoming) head(h *gomessage.Header) {
	r.out.Subject = clip(oneLine(textOf(h, "Subject")), 998)
	r.out.From, r.out.To = clip(addresses(h, "From"), maxReport), clip(addresses(h, "To"), maxReport)
	parser := netmail.AddressParser{WordDecoder: &mime.WordDecoder{CharsetReader: charset.Reader}}
	if list, err := parser.ParseList(h.Get("From")); err == nil && len(list) > 0 {
		r.out.FromName, r.out.FromEmail = clip(oneLine(list[0].Name), 200), list[0].Address
	} else if m := addressIn.FindString(h.Get("From")); m != "" {
		r.out.FromEmail = m
	}
	if list, err := parser.ParseList(h.Get("Reply-To")); err == nil && len(list) > 0 {
		r.out.ReplyTo = list[0].Address
	}
	for _, name := range []string{"To", "Cc"} {
		list, _ := parser.ParseList(h.Get(name)) // of one that cannot be read nobody gets a copy
		for _, one := range list[:min(len(list), app.MaxCopies)] {
			r.out.All = append(r.out.All, app.Address{Name: one.Name, Email: one.Address})
		}
	}
	r.out.Date, _ = h.Date() // a bad date is the zero time
	for fields := h.Fields(); fields.Next() && len(r.out.Headers) < maxHeaders; {
		value, err := fields.Text()
		if err != nil {
			value = fields.Value()
		}
		r.out.Headers = append(r.out.Headers, app.MailHeader{Name: fields.Key(), Value: strings.ToValidUTF8(clip(value, 4096), "\uFFFD")})
	}
	r.out.MessageID = first(ids(h.Get("Message-Id")))
	r.out.InReplyTo, r.out.References = ids(h.Get("In-Reply-To")), ids(h.Get("References"))
}

// oneLine makes one line of words, without control characters.
func oneLine(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, s)
	return strings.Join(strings.Fields(s), " ")
}

func textOf(h *gomessage.Header, name string) string {
	text, err := h.Text(name)
	if err != nil {
		text = h.Get(name)
	}
	return strings.ToValidUTF8(text, "\uFFFD")
}

var (
	idForm    = regexp.MustCompile(`<([^<>\s]{1,250})>`)
	addressIn = regexp.MustCompile(`[A-Za-z0-9.!#$%&'*+/=?^_{|}~-]+@[A-Za-z0-9.-]+[A-Za-z0-9]`)
)

// ids reads Message-IDs (RFC 5322 section 3.6.4), at most 50, whatever stands between.
func ids(value string) []string {
	var out []string
	for _, m := range idForm.FindAllStringSubmatch(clip(value, 32<<10), 50) {
		out = append(out, m[1])
	}
	// QUIRK: some write it without brackets (RFC 5965 appendix B.1 prints one).
	if bare := strings.TrimSpace(value); len(out) == 0 && strings.Count(bare, "@") == 1 && !strings.ContainsAny(bare, "<> \t") {
		out = append(out, clip(bare, 250))
	}
	return out
}

func first(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return list[0]
}

// entity reads one part, and those within.
func (r *incoming) entity(e *message.Entity, depth int) {
	if r.parts++; r.parts > maxParts {
		return
	}
	kind, params, _ := e.Header.ContentType() // an unreadable type is read as a file
	if multi := e.MultipartReader(); multi != nil {
		for depth < maxDepth && r.parts <= maxParts {
			part, err := multi.NextPart()
			if part == nil || err != nil && !unknown(err) {
				return // the end, or nothing more can be read
			}
			r.entity(part, depth+1)
		}
		return
	}
	switch kind {
	case "message/delivery-status", "message/global-delivery-status", "message/feedback-report":
		r.report[strings.Replace(kind, "global-", "", 1)] = readUpTo(e.Body, maxReport)
	case "message/rfc822", "text/rfc822-headers", "message/global", "message/global-headers":
		if r.orig == nil {
			if within, _ := message.ReadWithOptions(e.Body, &message.ReadOptions{MaxHeaderBytes: maxReport}); within != nil {
				r.orig = &within.Header
				return
			}
		}
		r.file(e, kind, params)
	case "text/plain", "text/html":
		if disposition, _, _ := e.Header.ContentDisposition(); disposition == "attachment" {
			r.file(e, kind, params)
			return
		}
		text := strings.ReplaceAll(strings.ToValidUTF8(string(readUpTo(e.Body, maxText)), "\uFFFD"), "\r\n", "\n")
		if into := map[string]*string{"text/plain": &r.out.Text, "text/html": &r.out.HTML}[kind]; *into == "" {
			*into = text
		}
	default:
		r.file(e, kind, params)
	}
}

func readUpTo(from io.Reader, n int64) []byte {
	out, _ := io.ReadAll(io.LimitReader(from, n)) // what was read before an error counts
	return out
}

func (r *incoming) file(e *message.Entity, kind string, params map[string]string) {
	var n int64
	if len(r.out.Files) == r.want {
		r.kept = readUpTo(e.Body, maxIncoming)
		n = int64(len(r.kept))
	} else {
		n, _ = io.Copy(io.Discard, e.Body) // a part that breaks off is listed too
	}
	_, more, _ := e.Header.ContentDisposition()
	name := more["filename"]
	if name == "" {
		name = params["name"]
	}
	r.out.Files = append(r.out.Files, app.MailPart{Name: clip(strings.ToValidUTF8(name, "\uFFFD"), 255), Type: clip(kind, 127), Size: int(n)})
}

// kind says what a letter is.
func (r *incoming) kind(h *gomessage.Header) {
	r.out.Kind = app.IncomingAnswer
	if r.orig != nil {
		r.out.OriginalID = first(ids(r.orig.Get("Message-Id")))
		r.out.OriginalTo = addressIn.FindString(r.orig.Get("To"))
	}
	_, params, _ := h.ContentType() // an unreadable type is none of these
	report, status := r.report["message/feedback-report"], r.report["message/delivery-status"]
	switch {
	case report != nil && strings.EqualFold(params["report-type"], "feedback-report"):
		r.complaint(report)
	case status != nil:
		r.status(status)
	case looksReturned(h):
		r.guess(h)
	case automatic(h):
		r.out.Kind = app.IncomingAutomatic
	}
}

// automatic tells whether a machine answered: RFC 3834 section 5, and the fields of
// programs that are older (common practice, no source).
func automatic(h *gomessage.Header) bool {
	if value, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(h.Get("Auto-Submitted"))), ";"); value != "" && strings.TrimSpace(value) != "no" {
		return true
	}
	if p := strings.ToLower(h.Get("Precedence")); p == "auto_reply" || p == "auto-reply" {
		return true
	}
	for _, name := range []string{"X-Autoreply", "X-Autorespond", "X-Auto-Reply", "X-Autogenerated"} {
		if value := strings.ToLower(h.Get(name)); value != "" && value != "no" {
			return true
		}
	}
	return autoSubject.MatchString(textOf(h, "Subject"))
}

var autoSubject = regexp.MustCompile(`(?i)^\s*(automatic reply|auto(?:matic)?[- ]?(?:reply|response|answer)|out of (?:the )?office|abwesen|automatische antwort|réponse automatique|respuesta automática|risposta automatica|automatisch antwoord)`)
