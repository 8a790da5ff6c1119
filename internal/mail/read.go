package mail

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime"
	netmail "net/mail"
	"strings"

	"github.com/emersion/go-message"
	"github.com/emersion/go-message/charset"
	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/internal/domain"
)

// Limits of reading: more is cut off, so that a hostile letter cannot fill the
// memory.
const (
	maxText    = 2 << 20
	maxHeaders = 200
)

// Reader implements app.MailReader.
type Reader struct{}

// Read reads an email: its headers decoded, the first plain text and the first
// HTML part, and what is attached by name. An unknown charset or encoding is read as well as it can be.
func (Reader) Read(raw []byte) (domain.ReadMail, error) {
	out := domain.ReadMail{Files: []domain.MailPart{}}
	r, err := gomessage.CreateReader(bytes.NewReader(raw))
	if err != nil && !unknown(err) {
		return out, fmt.Errorf("read letter: %w", err)
	}
	h := r.Header
	out.Subject, _ = h.Subject() // what cannot be decoded comes as it is
	out.Subject = noTurning(out.Subject)
	out.From, out.To = addresses(&h, "From"), addresses(&h, "To")
	out.Date, _ = h.Date() // a bad date is the zero time
	for fields := h.Fields(); fields.Next() && len(out.Headers) < maxHeaders; {
		value, err := fields.Text()
		if err != nil {
			value = fields.Value()
		}
		out.Headers = append(out.Headers, domain.MailHeader{Name: fields.Key(), Value: noTurning(value)})
	}
	for {
		part, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil && !unknown(err) {
			return out, fmt.Errorf("read letter: %w", err)
		}
		if attached, ok := part.Header.(*gomessage.AttachmentHeader); ok {
			n, err := io.Copy(io.Discard, part.Body)
			if err != nil {
				return out, fmt.Errorf("read letter: %w", err)
			}
			f := domain.MailPart{Size: int(n)}
			f.Name, _ = attached.Filename() // one without a name is listed too
			f.Name = noTurning(f.Name)
			f.Type, _, _ = attached.ContentType()
			out.Files = append(out.Files, f)
			continue
		}
		inline, ok := part.Header.(*gomessage.InlineHeader)
		if !ok {
			continue
		}
		kind, _, _ := inline.ContentType() // an unreadable type is not shown
		body, err := io.ReadAll(io.LimitReader(part.Body, maxText))
		if err != nil {
			return out, fmt.Errorf("read letter: %w", err)
		}
		text := strings.ReplaceAll(strings.ToValidUTF8(string(body), "\uFFFD"), "\r\n", "\n")
		switch {
		case kind == "text/plain" && out.Text == "":
			out.Text = text
		case kind == "text/html" && out.HTML == "":
			out.HTML = text
		}
	}
}

// addresses writes the addresses of a header as a mail program shows them. Known
// departure: comments inside an address (RFC 5322 appendix A.5), which nobody
// writes, are shown as they stand.
func addresses(h *gomessage.Header, name string) string {
	parser := netmail.AddressParser{WordDecoder: &mime.WordDecoder{CharsetReader: charset.Reader}}
	list, err := parser.ParseList(h.Get(name))
	if err != nil {
		text, _ := h.Text(name) // what cannot be read comes as it is
		return noTurning(text)
	}
	words := make([]string, len(list))
	for i, a := range list {
		words[i] = a.Address
		if a.Name != "" {
			words[i] = a.Name + " <" + a.Address + ">"
		}
	}
	return noTurning(strings.Join(words, ", "))
}

func unknown(err error) bool { return message.IsUnknownCharset(err) || message.IsUnknownEncoding(err) }
