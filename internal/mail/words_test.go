package mail

import (
	"mime"
	netmail "net/mail"
	"strings"
	"testing"

	"lucidletter/internal/domain"
)

// What looks like an encoded word (RFC 2047 section 2) is read as it was written, in a
// subject, in a name and in the name of a file. Go's own reader is the reference.
func TestCompose_looksEncoded(t *testing.T) {
	for _, subject := range []string{"=?utf-8?q?=48i?=", "For you =?iso-8859-1?B?SGVsbG8=?=", strings.Repeat("=?utf-8?q?=48i?= ", 20), "=?utf-8?q?=48i?= für dich 🌷", "a =? b"} {
		m := sample()
		m.Subject, m.FromName = subject, `=?utf-8?q?Your_bank?= "x"`
		m.Attachments = append(m.Attachments, domain.MailFile{Name: "=?utf-8?q?a=2Eexe?=.pdf", Type: "application/pdf", Bytes: []byte("%PDF")})
		raw, err := Composer{}.Compose(m)
		if err != nil {
			t.Fatal(err)
		}
		read, err := netmail.ReadMessage(strings.NewReader(string(raw)))
		if err != nil {
			t.Fatal(err)
		}
		got, err := new(mime.WordDecoder).DecodeHeader(read.Header.Get("Subject"))
		if err != nil || got != strings.TrimSpace(subject) && got != subject {
			t.Errorf("%q is read as %q, %v", subject, got, err)
		}
		for line := range strings.SplitSeq(string(raw), "\r\n") {
			if len(line) > 78 && strings.HasPrefix(line, "Subject") {
				t.Errorf("%q", line)
			}
		}
		if from, err := read.Header.AddressList("From"); err != nil || strings.Contains(from[0].Name, "Your bank") {
			t.Errorf("%v, %v", from, err)
		}
		if strings.Contains(string(raw), "=?utf-8?q?a=2Eexe?=") {
			t.Error("a file has the name of another kind")
		}
	}
}

// A name that turns round what stands around it reads as what it is.
func TestReader_ReadIncoming_directions(t *testing.T) {
	got := Reader{}.ReadIncoming([]byte("From: =?utf-8?b?4oCuYWRh?= <ada@quill.example>\r\nSubject: =?utf-8?b?4oCub2xsZWg=?=\r\nContent-Type: application/pdf; name=\"=?utf-8?b?YeKArmZkcC5leGU=?=\"\r\n\r\nx"))
	if got.FromName != "ada" || got.Subject != "olleh" || len(got.Files) != 1 || got.Files[0].Name != "afdp.exe" {
		t.Errorf("%q %q %+v", got.FromName, got.Subject, got.Files)
	}
	if got.From != "ada <ada@quill.example>" {
		t.Errorf("the sender is shown as %q", got.From)
	}
	for _, h := range got.Headers {
		if strings.ContainsRune(h.Value, 0x202E) {
			t.Errorf("%q", h)
		}
	}
	read, err := Reader{}.Read([]byte("From: =?utf-8?b?4oCuYWRh?= <ada@quill.example>\r\nSubject: =?utf-8?b?4oCub2xsZWg=?=\r\n\r\nx"))
	if err != nil || read.From != "ada <ada@quill.example>" || read.Subject != "olleh" {
		t.Errorf("%+v, %v", read, err)
	}
}
