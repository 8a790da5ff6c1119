package mail

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // charsets other than UTF-8
	gomessage "github.com/emersion/go-message/mail"

	"lucidletter/internal/app"
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
// HTML part. An unknown charset or encoding is read as well as it can be.
func (Reader) Read(raw []byte) (app.ReadMail, error) {
	var out app.ReadMail
	r, err := gomessage.CreateReader(bytes.NewReader(raw))
	if err != nil && !unknown(err) {
		return out, fmt.Errorf("read letter: %w", err)
	}
	h := r.Header
	out.Subject, _ = h.Subject() // what cannot be decoded comes as it is
	out.From, _ = h.Text("From")
	out.To, _ = h.Text("To")
	out.Date, _ = h.Date() // a bad date is the zero time
	for fields := h.Fields(); fields.Next() && len(out.Headers) < maxHeaders; {
		value, err := fields.Text()
		if err != nil {
			value = fields.Value()
		}
		out.Headers = append(out.Headers, app.MailHeader{Name: fields.Key(), Value: value})
	}
	for {
		part, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil && !unknown(err) {
			return out, fmt.Errorf("read letter: %w", err)
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

func unknown(err error) bool { return message.IsUnknownCharset(err) || message.IsUnknownEncoding(err) }
