package mail

import (
	"cmp"
	"io"
	"mime"
	netmail "net/mail"
	"regexp"
	"strings"
	"unicode"

	"github.com/emersion/go-message"
	"github.com/emersion/go-message/charset"
	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
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
	out    domain.ReadIncoming
	parts  int
	report map[string][]byte // what machines say, by type
	orig   *message.Header   // of the letter that is returned
	within []within          // letters within, in their order
	texts  int               // parts that are shown
	depth  int               // of letters within letters
	want   int               // which file is to be kept, -1 none
	kept   []byte
}

// ReadIncoming reads a letter that came in as well as it can be read, whatever is
// wrong with it: never an error. What kind it is, is read from the fields of RFC 3464
// (delivery status), RFC 5965 (complaints), RFC 3834 (automatic answers), and of what
// machines write without them.
func (Reader) ReadIncoming(raw []byte) domain.ReadIncoming {
	r := incoming{report: map[string][]byte{}, want: -1}
	r.read(raw)
	return r.out
}

// ReadFile gives the bytes of one of the files of a letter that came in; false when it
// has no such file.
func (Reader) ReadFile(raw []byte, at int) (domain.MailPart, []byte, bool) {
	r := incoming{report: map[string][]byte{}, want: at}
	r.read(raw)
	if at < 0 || at >= len(r.out.Files) {
		return domain.MailPart{}, nil, false
	}
	return r.out.Files[at], r.kept, true
}

func (r *incoming) read(raw []byte) {
	r.out.Files = []domain.MailPart{}
	e := readEntity(raw)
	if e == nil {
		r.out.Subject, r.out.Text, r.out.Kind = "(cannot be read)", "This letter cannot be read.", domain.IncomingAnswer
		return
	}
	h := gomessage.Header{Header: e.Header}
	r.head(&h)
	out := r.entity(e, 0)
	r.out.HTML, r.out.Text = out.page, clip(out.words(), maxText)
	r.kind(&h)
	r.out.Text = clip(r.out.Text, maxReport)
	r.passedOn()
	if r.texts == 0 && strings.TrimSpace(r.out.Text) == "" {
		r.readElse(raw)
	}
}

// passedOn lists the letters within as files, but for the one that is returned.
func (r *incoming) passedOn() {
	returned := r.out.Kind == domain.IncomingBounce || r.out.Kind == domain.IncomingDelay || r.out.Kind == domain.IncomingComplaint || len(r.report) > 0
	for i, w := range r.within {
		if returned && i == 0 {
			continue
		}
		if w.head != nil && w.params["name"] == "" {
			head := gomessage.Header{Header: *w.head}
			w.params = map[string]string{"name": cmp.Or(clip(oneLine(textOf(&head, "Subject")), 100), "letter") + ".eml"}
		}
		r.fileOf(&w.header, w.kind, w.params, w.raw)
	}
	if !returned {
		r.out.OriginalID, r.out.OriginalTo = "", ""
	}
}

// readElse shows what can be read in a letter that shows nothing: a letter that is passed
// on, or a text that is attached.
func (r *incoming) readElse(raw []byte) {
	if len(r.within) > 0 && r.depth < 3 {
		other := incoming{report: map[string][]byte{}, want: -1, depth: r.depth + 1}
		other.read(r.within[0].raw)
		r.out.Text = clip(strings.TrimSpace("From: "+other.out.From+"\nSubject: "+other.out.Subject+"\n\n"+other.out.Text), maxReport)
		r.out.HTML = ""
		return
	}
	for i, f := range r.out.Files {
		if strings.HasPrefix(f.Type, "text/") && f.Size > 0 && r.want < 0 {
			_, bytes, ok := Reader{}.ReadFile(raw, i)
			if ok {
				out := textShown(f.Type, bytes)
				r.out.HTML, r.out.Text = out.page, clip(out.words(), maxReport)
			}
			return
		}
	}
	for _, kind := range []string{"message/delivery-status", "message/feedback-report"} { // what a machine says to machines
		if r.out.Text == "" {
			r.out.Text = clip(textShown("text/plain", r.report[kind]).text, maxReport)
		}
	}
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
		for _, one := range list[:min(len(list), desk.MaxCopies)] {
			r.out.All = append(r.out.All, domain.Address{Name: one.Name, Email: one.Address})
		}
	}
	r.out.Date, _ = h.Date() // a bad date is the zero time
	for fields := h.Fields(); fields.Next() && len(r.out.Headers) < maxHeaders; {
		value, err := fields.Text()
		if err != nil {
			value = fields.Value()
		}
		r.out.Headers = append(r.out.Headers, domain.MailHeader{Name: fields.Key(), Value: noTurning(strings.ToValidUTF8(clip(value, 4096), "\uFFFD"))})
	}
	r.out.MessageID = first(ids(h.Get("Message-Id")))
	r.out.InReplyTo, r.out.References = ids(h.Get("In-Reply-To")), ids(h.Get("References"))
}

// oneLine makes one line of words, without control characters and those that change the
// direction of what follows (Unicode Standard Annex 9, section 2).
func oneLine(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, noTurning(s))
	return strings.Join(strings.Fields(s), " ")
}

// noTurning takes out of a header what turns what stands around it round: an address
// behind a name would read backwards.
func noTurning(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, s)
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

func readUpTo(from io.Reader, n int64) []byte {
	out, _ := io.ReadAll(io.LimitReader(from, n)) // what was read before an error counts
	return out
}

func (r *incoming) file(e *message.Entity, kind string, params map[string]string) {
	if len(r.out.Files) == r.want {
		r.fileOf(&e.Header, kind, params, readUpTo(e.Body, maxIncoming))
		return
	}
	n, _ := io.Copy(io.Discard, e.Body) // a part that breaks off is listed too
	r.fileOf(&e.Header, kind, params, nil)
	r.out.Files[len(r.out.Files)-1].Size = int(n)
}

// fileOf lists a file whose bytes are known.
func (r *incoming) fileOf(h *message.Header, kind string, params map[string]string, raw []byte) {
	if len(r.out.Files) == r.want {
		r.kept = raw
	}
	_, more, _ := h.ContentDisposition()
	name := cmp.Or(more["filename"], params["name"])
	if decoded, err := (&mime.WordDecoder{CharsetReader: charset.Reader}).DecodeHeader(name); err == nil {
		name = decoded
	}
	r.out.Files = append(r.out.Files, domain.MailPart{Name: clip(oneLine(strings.ToValidUTF8(name, "\uFFFD")), 255), Type: clip(kind, 127), Size: len(raw)})
}

// kind says what a letter is.
func (r *incoming) kind(h *gomessage.Header) {
	r.out.Kind = domain.IncomingAnswer
	if r.orig != nil {
		r.out.OriginalID = first(ids(r.orig.Get("Message-Id")))
		r.out.OriginalTo = addressIn.FindString(r.orig.Get("To"))
	}
	top, params := contentType(&h.Header)
	kindOfReport := strings.ToLower(params["report-type"])
	report, status := r.report["message/feedback-report"], r.report["message/delivery-status"]
	switch {
	case report != nil && kindOfReport == "feedback-report":
		r.complaint(report)
	case status != nil && r.status(status, first(addressIn.FindAllString(h.Get("To"), 1))):
	default:
		r.machine(h, status != nil || top == "multipart/report" && (kindOfReport == "delivery-status" || kindOfReport == "global-delivery-status"))
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
	return false
}
