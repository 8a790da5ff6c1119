package mail

import (
	"bytes"
	"cmp"
	"html"
	"mime"
	"regexp"
	"strings"

	"github.com/emersion/go-message"
	"github.com/emersion/go-message/textproto"

	"lucidletter/core/render"
)

// shown is what a part shows: its words, and the page when it has one.
type shown struct{ text, page string }

// mostShown is how many bytes are shown of one letter; whoever sends more in many parts
// has the rest left out.
const mostShown = 2 * maxText

// and puts what another part shows behind it: both are read in their order.
func (s shown) and(next shown) shown {
	if next.text == "" && next.page == "" || len(s.text)+len(s.page) > mostShown {
		return s
	}
	if s.text == "" && s.page == "" {
		return next
	}
	out := shown{text: strings.TrimRight(s.words(), "\n") + "\n\n" + next.words()}
	if s.page != "" || next.page != "" {
		out.page = s.asPage() + next.asPage()
	}
	return out
}

// words gives the words, taken from the page when there is nothing else.
func (s shown) words() string {
	if strings.TrimSpace(s.text) == "" && s.page != "" {
		return render.PageText(s.page)
	}
	return s.text
}

func (s shown) asPage() string {
	if s.page != "" || s.text == "" {
		return s.page
	}
	return `<div style="white-space:pre-wrap">` + html.EscapeString(s.text) + "</div>"
}

// entity reads one part, and those within, and tells what it shows.
func (r *incoming) entity(e *message.Entity, depth int) shown {
	if r.parts++; r.parts > maxParts {
		return shown{}
	}
	kind, params := contentType(&e.Header)
	disposition, more, _ := e.Header.ContentDisposition()
	switch {
	case strings.HasPrefix(kind, "multipart/"):
		return r.multi(e, kind, params, depth)
	case kind == "message/delivery-status", kind == "message/global-delivery-status", kind == "message/feedback-report":
		r.report[strings.Replace(kind, "global-", "", 1)] = readUpTo(e.Body, maxReport)
	case kind == "message/rfc822", kind == "text/rfc822-headers", kind == "message/global", kind == "message/global-headers":
		r.letterWithin(e, kind, params, depth)
	case kind == "text/plain", kind == "text/html", strings.HasPrefix(kind, "text/") && kind != "text/calendar" && more["filename"] == "" && params["name"] == "":
		if disposition == "attachment" {
			r.file(e, kind, params)
			return shown{}
		}
		raw := readUpTo(e.Body, maxText)
		if (more["filename"] != "" || params["name"] != "") && r.texts > 0 { // shown, and there to be stored
			r.fileOf(&e.Header, kind, params, raw)
		}
		r.texts++
		return textShown(kind, raw)
	default:
		r.file(e, kind, params)
	}
	return shown{}
}

func textShown(kind string, raw []byte) shown {
	text := strings.ReplaceAll(strings.ToValidUTF8(string(raw), "\uFFFD"), "\r\n", "\n")
	switch kind {
	case "text/html":
		return shown{page: text}
	case "text/enriched", "text/richtext": // RFC 1896: like a page, with other names
		return shown{text: render.PageText(text)}
	}
	return shown{text: text}
}

// multi reads the parts of a part. Where the line between them is not the one that was
// announced, it is looked for; one whose parts cannot be told apart shows what stands
// there.
func (r *incoming) multi(e *message.Entity, kind string, params map[string]string, depth int) shown {
	body := readUpTo(e.Body, maxIncoming)
	if depth < maxDepth {
		boundary := params["boundary"]
		if boundary == "" || !bytes.Contains(body, []byte("--"+boundary)) {
			boundary = likelyBoundary(body)
		}
		if out, found := r.partsOf(body, boundary, kind, depth); found {
			return out
		}
	}
	return textShown("text/plain", body[:min(len(body), maxText)])
}

func (r *incoming) partsOf(body []byte, boundary, kind string, depth int) (out shown, found bool) {
	if boundary == "" {
		return out, false
	}
	multi := textproto.NewMultipartReader(bytes.NewReader(body), boundary)
	for r.parts <= maxParts {
		within, err := multi.NextPart()
		if err != nil {
			break // the end, or nothing more can be read
		}
		part, err := message.New(message.Header{Header: within.Header}, within)
		if part == nil || err != nil && !unknown(err) {
			continue
		}
		found = true
		next := r.entity(part, depth+1)
		if kind == "multipart/alternative" {
			// The same in several ways: the words of the first, the page of the first that is one.
			out.page, out.text = cmp.Or(out.page, next.page), cmp.Or(out.text, next.text)
			continue
		}
		out = out.and(next)
	}
	return out, found
}

var boundaryLine = regexp.MustCompile(`(?m)^--([0-9A-Za-z'()+_,./:=? -]{0,69}[0-9A-Za-z'()+_,./:=?-])[ \t]*\r?$`)

// likelyBoundary finds a line that may part a body: the first that begins with two dashes
// and comes again, or is followed by a field.
func likelyBoundary(body []byte) string {
	body = body[:min(len(body), maxReport)]
	for _, m := range boundaryLine.FindAllSubmatch(body, 20) {
		line := append([]byte("--"), m[1]...)
		if bytes.Count(body, line) > 1 || bytes.Contains(body, append(line, "\nContent-"...)) || bytes.Contains(body, append(line, "\r\nContent-"...)) {
			return string(m[1])
		}
	}
	return ""
}

// letterWithin keeps a letter within a letter: what is returned, or what somebody passes
// on, which is a file unless nothing else can be read.
func (r *incoming) letterWithin(e *message.Entity, kind string, params map[string]string, depth int) {
	raw := readUpTo(e.Body, maxIncoming)
	within := within{header: e.Header, kind: kind, params: params, raw: raw, at: len(r.out.Files)}
	if entity := readEntity(raw); entity != nil {
		within.head = &entity.Header
		if r.orig == nil {
			r.orig = within.head
		}
	}
	r.within = append(r.within, within)
}

// within is a letter within the one that is read. At is the file before which it stands.
type within struct {
	header message.Header
	kind   string
	params map[string]string
	raw    []byte
	head   *message.Header
	at     int
}

// contentType reads the type of a part, also one that is not written as it should be;
// without one it is words (RFC 2045 section 5.2).
func contentType(h *message.Header) (string, map[string]string) {
	value := h.Get("Content-Type")
	if strings.TrimSpace(value) == "" {
		return "text/plain", nil
	}
	kind, params, err := mime.ParseMediaType(value)
	if err == nil && strings.Contains(kind, "/") {
		return kind, params
	}
	kind, rest, _ := strings.Cut(value, ";")
	kind = strings.ToLower(strings.TrimSpace(kind))
	if !strings.Contains(kind, "/") {
		return "text/plain", nil
	}
	params = map[string]string{}
	for _, m := range looseParam.FindAllStringSubmatch(rest, 20) {
		if name := strings.ToLower(m[1]); params[name] == "" {
			params[name] = strings.Trim(cmp.Or(m[2], m[3]), " \t")
		}
	}
	return kind, params
}

var looseParam = regexp.MustCompile(`([A-Za-z0-9_-]+)\*?(?:0\*?)?\s*=\s*(?:"([^"]*)"?|([^;\s]+))`)
