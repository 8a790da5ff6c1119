// Package mail makes and reads email: MIME out of a letter (RFC 5322, RFC 2045
// to 2047), the SMTP client (RFC 5321), and reading what arrived. Every value
// that goes into a header is checked for CR and LF here, whatever was checked
// before.
package mail

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	netmail "net/mail"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	gomail "github.com/wneessen/go-mail"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Composer implements app.Composer.
type Composer struct{}

// Compose makes the bytes of one email, with CRLF line ends: the text, or the text
// and the HTML as two forms of the same (RFC 2046 section 5.1.4). They are sent as
// UTF-8, quoted-printable; as base64 when more than a third of it is not
// ASCII, which is then the shorter form.
func (Composer) Compose(m domain.Mail) ([]byte, error) {
	if err := checkHead(&m); err != nil {
		return nil, err
	}
	encoding := gomail.EncodingQP
	if 3*(nonASCII(m.Text)+nonASCII(m.HTML)) > len(m.Text)+len(m.HTML) {
		encoding = gomail.EncodingB64
	}
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent(), gomail.WithCharset(gomail.CharsetUTF8), gomail.WithEncoding(encoding))
	if err := setHead(msg, &m); err != nil {
		return nil, err
	}
	// SMTP ends every letter with a line end (RFC 5321 section 4.1.1.4); with
	// one of our own, what arrives is what was filed, to the byte.
	msg.SetBodyString(gomail.TypeTextPlain, withLineEnds(m.Text))
	if m.HTML != "" {
		msg.AddAlternativeString(gomail.TypeTextHTML, withLineEnds(m.HTML))
	}
	for _, f := range m.Pictures {
		if err := addFile(msg.EmbedReader, f); err != nil {
			return nil, err
		}
	}
	for _, f := range m.Attachments {
		if err := addFile(msg.AttachReader, f); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	out.Grow(sizeOf(&m))
	if _, err := msg.WriteTo(&out); err != nil {
		return nil, fmt.Errorf("compose: %w", err)
	}
	if m.DKIM != nil {
		return sign(out.Bytes(), m.DKIM)
	}
	return out.Bytes(), nil
}

// sizeOf guesses how many bytes a letter has, rather too many.
func sizeOf(m *domain.Mail) int {
	n := 2048 + (len(m.Text)+len(m.HTML))*5/4
	for _, list := range [][]domain.MailFile{m.Pictures, m.Attachments} {
		for i := range list {
			n += 512 + len(list[i].Bytes)*7/5 // base64 in lines
		}
	}
	return n
}

// checkHead refuses what would end a header, and addresses that are none.
func checkHead(m *domain.Mail) error {
	for _, one := range [][2]string{
		{"subject", m.Subject}, {"sender's name", m.FromName}, {"recipient's name", m.ToName},
		{"sender's address", m.FromEmail}, {"recipient's address", m.ToEmail}, {"Message-ID", m.MessageID}, {"address for answers", m.ReplyTo}, {"address for opting out", m.OptOut},
		{"letter that it answers", m.InReplyTo}, {"mark of a machine", m.AutoSubmitted}, {"conversation", strings.Join(m.References, " ")},
	} {
		if strings.ContainsAny(one[1], "\r\n\x00") {
			return fmt.Errorf("the %s holds a line break", one[0])
		}
	}
	addresses := []string{m.FromEmail, m.ToEmail}
	if m.ReplyTo != "" {
		addresses = append(addresses, m.ReplyTo)
	}
	for _, one := range slices.Concat(m.AlsoTo, m.Cc) {
		if strings.ContainsAny(one.Name, "\r\n\x00") {
			return fmt.Errorf("the name of a copy holds a line break")
		}
		addresses = append(addresses, one.Email)
	}
	for _, email := range addresses {
		if err := field.CheckEmail(email); err != nil {
			return err
		}
	}
	return nil
}

// setHead sets the header of a letter that checkHead let pass.
func setHead(msg *gomail.Msg, m *domain.Mail) error {
	// FromFormat and AddToFormat would lose quotes in a name.
	if err := msg.From(address(m.FromName, m.FromEmail)); err != nil {
		return fmt.Errorf("the sender's address: %w", err)
	}
	if err := msg.To(address(m.ToName, m.ToEmail)); err != nil {
		return fmt.Errorf("the recipient's address: %w", err)
	}
	for _, one := range m.AlsoTo {
		if err := msg.AddTo(address(one.Name, one.Email)); err != nil {
			return fmt.Errorf("the address of a further recipient: %w", err)
		}
	}
	for _, one := range m.Cc {
		if err := msg.AddCc(address(one.Name, one.Email)); err != nil {
			return fmt.Errorf("the address of a copy: %w", err)
		}
	}
	if m.ReplyTo != "" {
		if err := msg.ReplyTo(m.ReplyTo); err != nil {
			return fmt.Errorf("the address for answers: %w", err)
		}
	}
	if m.OptOut != "" {
		// RFC 2369 section 3.2; with HTTPS a mail program may do it by itself
		// (RFC 8058 section 3.1).
		msg.SetGenHeader(gomail.HeaderListUnsubscribe, "<"+m.OptOut+">")
		if strings.HasPrefix(m.OptOut, "https:") {
			msg.SetGenHeader(gomail.HeaderListUnsubscribePost, "List-Unsubscribe=One-Click")
		}
	}
	if m.InReplyTo != "" {
		// RFC 5322 section 3.6.4.
		msg.SetGenHeader(gomail.HeaderInReplyTo, "<"+m.InReplyTo+">")
		msg.SetGenHeader(gomail.HeaderReferences, "<"+strings.Join(m.References, "> <")+">")
	}
	if m.AutoSubmitted != "" {
		msg.SetGenHeader("Auto-Submitted", m.AutoSubmitted)
	}
	msg.Subject(plainWords(m.Subject))
	msg.SetMessageIDWithValue(m.MessageID)
	msg.SetDateWithValue(m.Date)
	return nil
}

var (
	mediaType = regexp.MustCompile(`^[a-z]+/[A-Za-z0-9.+-]+$`)
	contentID = regexp.MustCompile(`^[A-Za-z0-9.-]+@[A-Za-z0-9.-]+$`)
)

// addFile adds a file as base64. What goes into its header is checked here.
func addFile(add func(string, io.Reader, ...gomail.FileOption) error, f domain.MailFile) error {
	if strings.ContainsAny(f.Name, "\r\n\x00") {
		return fmt.Errorf("the name of an attachment holds a line break")
	}
	kind := f.Type
	if !mediaType.MatchString(kind) {
		kind = "application/octet-stream"
	}
	options := []gomail.FileOption{gomail.WithFileContentType(gomail.ContentType(kind))}
	if f.ContentID != "" {
		if !contentID.MatchString(f.ContentID) {
			return fmt.Errorf("%q is no Content-ID", f.ContentID)
		}
		options = append(options, gomail.WithFileContentID("<"+f.ContentID+">"))
	}
	if err := add(noEncodedWord(f.Name), bytes.NewReader(f.Bytes), options...); err != nil {
		return fmt.Errorf("add %s: %w", f.Name, err)
	}
	return nil
}

func withLineEnds(s string) string {
	return strings.ReplaceAll(strings.TrimSuffix(s, "\n")+"\n", "\n", "\r\n")
}

func address(name, email string) string {
	if name == "" {
		return email
	}
	return (&netmail.Address{Name: noEncodedWord(name), Address: email}).String()
}

// noEncodedWord takes apart what would be read as an encoded word (RFC 2047 section 2)
// in a name: programs decode it even between quotes, where they should not.
func noEncodedWord(name string) string { return strings.ReplaceAll(name, "=?", "= ?") }

// plainWords writes words for a header so that they are read as they stand: those that
// look like an encoded word are encoded themselves.
func plainWords(s string) string {
	if !strings.Contains(s, "=?") {
		return s
	}
	var out []string
	for len(s) > 0 {
		n := 0
		for n < len(s) {
			_, size := utf8.DecodeRuneInString(s[n:])
			if n+size > 42 { // with base64 below 75 characters
				break
			}
			n += size
		}
		out = append(out, "=?utf-8?b?"+base64.StdEncoding.EncodeToString([]byte(s[:n]))+"?=")
		s = s[n:]
	}
	return strings.Join(out, " ")
}

func nonASCII(s string) int {
	n := 0
	for i := range len(s) {
		if s[i] >= 0x80 {
			n++
		}
	}
	return n
}
