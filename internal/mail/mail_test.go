package mail

import (
	"context"
	"encoding/base64"
	"errors"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net"
	netmail "net/mail"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/domain"
)

func sample() domain.Mail {
	return domain.Mail{
		FromName: "Imre Falk", FromEmail: "imre@fernhollow.example", ToName: "Ada Quill", ToEmail: "ada@quill.example",
		Subject: "Cold", Text: "Dear Ada,\n\nhello.\n", MessageID: "id1@fernhollow.example", Date: time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC),
	}
}

var letters = map[string]func(*domain.Mail){
	"plain":   func(*domain.Mail) {},
	"names":   func(m *domain.Mail) { m.ToName, m.FromName = "Zoë Žižkova-Łęcka", `Falk, Imre "I." (North)` },
	"no name": func(m *domain.Mail) { m.ToName = "" },
	"emoji subject": func(m *domain.Mail) {
		m.Subject = "🌷 Blumen für Müller & Söhne — " + strings.Repeat("länger ", 30) + "Ende"
	},
	"long lines": func(m *domain.Mail) {
		m.Text = strings.Repeat("word ", 2000) + "\n" + strings.Repeat("x", 1500) + "\nend"
	},
	"dots": func(m *domain.Mail) { m.Text = ".\n..\n.hidden\nend\n.\n" },
	"mostly foreign": func(m *domain.Mail) {
		m.Text = "こんにちは、田中さん。\n冷蔵室のお見積りです。\n"
	},
	"odd spaces": func(m *domain.Mail) { m.Text = "trailing  \n\ttab = 50%\nFrom here\n" },
}

// Read back by Go's net/mail (RFC 5322) and the decoders of mime.
func TestCompose_readByNetMail(t *testing.T) {
	for name, change := range letters {
		m := sample()
		change(&m)
		raw, err := Composer{}.Compose(m)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		for i, line := range strings.Split(string(raw), "\r\n") {
			// RFC 5322 section 2.1.1, and no bare CR or LF.
			if len(line) > 998 || strings.ContainsAny(line, "\r\n") {
				t.Errorf("%s: line %d has %d bytes or a bare line break", name, i+1, len(line))
			}
		}
		read, err := netmail.ReadMessage(strings.NewReader(string(raw)))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		subject, err := new(mime.WordDecoder).DecodeHeader(read.Header.Get("Subject"))
		if err != nil || subject != m.Subject {
			t.Errorf("%s: subject %q, %v", name, subject, err)
		}
		for header, want := range map[string]netmail.Address{"From": {Name: m.FromName, Address: m.FromEmail}, "To": {Name: m.ToName, Address: m.ToEmail}} {
			list, err := read.Header.AddressList(header)
			if err != nil || len(list) != 1 || *list[0] != want {
				t.Errorf("%s: %s is %v, %v", name, header, list, err)
			}
		}
		if date, err := read.Header.Date(); err != nil || !date.Equal(m.Date) {
			t.Errorf("%s: date %v, %v", name, date, err)
		}
		if id := read.Header.Get("Message-Id"); id != "<id1@fernhollow.example>" {
			t.Errorf("%s: Message-ID %s", name, id)
		}
		var body io.Reader = quotedprintable.NewReader(read.Body)
		if read.Header.Get("Content-Transfer-Encoding") == "base64" {
			body = base64.NewDecoder(base64.StdEncoding, read.Body)
		}
		text, err := io.ReadAll(body)
		if got := strings.TrimRight(strings.ReplaceAll(string(text), "\r\n", "\n"), "\n"); err != nil || got != strings.TrimRight(m.Text, "\n") {
			t.Errorf("%s: text %q, %v", name, got, err)
		}
		again, err := Reader{}.Read(raw)
		if err != nil || again.Subject != m.Subject || strings.TrimRight(again.Text, "\n") != strings.TrimRight(m.Text, "\n") {
			t.Errorf("%s: our reader gives %q, %q, %v", name, again.Subject, again.Text, err)
		}
		// The same letters are read by an independent reader in e2e/tests.
		if dir := os.Getenv("LUCID_LETTERS"); dir != "" {
			if err := os.WriteFile(filepath.Join(dir, name+".eml"), raw, 0o600); err != nil {
				t.Fatal(err)
			}
		}
	}
}

// Both forms of one letter: RFC 2046 section 5.1.4, the plainest first.
func TestCompose_bothForms(t *testing.T) {
	m := sample()
	m.HTML = "<!DOCTYPE html><html><body><p>Dear Ada – " + strings.Repeat("<b>x</b>", 400) + "</p>\n</body></html>\n"
	raw, err := Composer{}.Compose(m)
	if err != nil {
		t.Fatal(err)
	}
	if !strings.HasSuffix(string(raw), "\r\n") {
		t.Error("the letter does not end with a line end")
	}
	read, err := netmail.ReadMessage(strings.NewReader(string(raw)))
	if err != nil {
		t.Fatal(err)
	}
	kind, params, err := mime.ParseMediaType(read.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/alternative" {
		t.Fatalf("%s %v", kind, err)
	}
	parts := multipart.NewReader(read.Body, params["boundary"])
	for _, want := range []struct{ kind, text string }{{"text/plain", m.Text}, {"text/html", m.HTML}} {
		part, err := parts.NextPart() // decodes quoted-printable
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(part)
		if got := strings.ReplaceAll(string(text), "\r\n", "\n"); err != nil || strings.TrimRight(got, "\n") != strings.TrimRight(want.text, "\n") || !strings.HasPrefix(part.Header.Get("Content-Type"), want.kind) {
			t.Errorf("%s: %q, %v", part.Header.Get("Content-Type"), got, err)
		}
	}
	again, err := Reader{}.Read(raw)
	if err != nil || !strings.HasPrefix(again.HTML, "<!DOCTYPE") || !strings.HasPrefix(again.Text, "Dear Ada") {
		t.Errorf("our reader gives %+v, %v", again, err)
	}
	if dir := os.Getenv("LUCID_LETTERS"); dir != "" {
		if err := os.WriteFile(filepath.Join(dir, "both forms.eml"), raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
}

func TestCompose_refusesHeaderInjection(t *testing.T) {
	for name, change := range map[string]func(*domain.Mail){
		"subject":    func(m *domain.Mail) { m.Subject = "a\r\nBcc: x@y.example" },
		"to name":    func(m *domain.Mail) { m.ToName = "Ada\nBcc: x@y.example" },
		"from name":  func(m *domain.Mail) { m.FromName = "Imre\rX" },
		"message id": func(m *domain.Mail) { m.MessageID = "a\r\nX: y" },
		"address":    func(m *domain.Mail) { m.ToEmail = "a@b@c" },
		"two":        func(m *domain.Mail) { m.ToEmail = "a@b.example, c@d.example" },
	} {
		m := sample()
		change(&m)
		if raw, err := (Composer{}).Compose(m); err == nil {
			t.Errorf("%s: composed\n%s", name, raw)
		}
	}
}

// Examples printed in RFC 5322 appendix A.
func TestReader_rfc5322Examples(t *testing.T) {
	for _, row := range []struct{ section, raw, from, to, subject, text string }{
		{
			"A.1.1", "From: John Doe <jdoe@machine.example>\r\nTo: Mary Smith <mary@example.net>\r\nSubject: Saying Hello\r\nDate: Fri, 21 Nov 1997 09:55:06 -0600\r\nMessage-ID: <1234@local.machine.example>\r\n\r\nThis is a message just to say hello.\r\nSo, \"Hello\".\r\n",
			"John Doe <jdoe@machine.example>", "Mary Smith <mary@example.net>", "Saying Hello", "This is a message just to say hello.\nSo, \"Hello\".\n",
		},
		{
			"A.1.2", "From: \"Joe Q. Public\" <john.q.public@example.com>\r\nTo: Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>\r\nCc: <boss@nil.test>, \"Giant; \\\"Big\\\" Box\" <sysservices@example.net>\r\nDate: Tue, 1 Jul 2003 10:52:37 +0200\r\nMessage-ID: <5678.21-Nov-1997@example.com>\r\n\r\nHi everyone.\r\n",
			"Joe Q. Public <john.q.public@example.com>", "Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>", "", "Hi everyone.\n",
		},
		{
			"A.5", "From: Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>\r\nTo:A Group(Some people)\r\n     :Chris Jones <c@(Chris's host.)public.example>,\r\n         joe@example.org,\r\n  John <jdoe@one.test> (my dear friend); (the end of the group)\r\nDate: Thu,\r\n      13\r\n        Feb\r\n          1969\r\n      23:32\r\n               -0330 (Newfoundland Time)\r\nMessage-ID:              <testabcd.1234@silly.test>\r\n\r\nTesting.\r\n",
			// Comments inside addresses are shown as they stand: see addresses.
			"Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>", "A Group(Some people) :Chris Jones <c@(Chris's host.)public.example>, joe@example.org, John <jdoe@one.test> (my dear friend); (the end of the group)", "", "Testing.\n",
		},
	} {
		m, err := Reader{}.Read([]byte(row.raw))
		if err != nil || m.From != row.from || m.To != row.to || m.Subject != row.subject || m.Text != row.text {
			t.Errorf("%s: %+v, %v", row.section, m, err)
		}
	}
	for _, bad := range []string{"", "no header at all", "Content-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\n", "Subject: =?utf-8?Q?=ff?=\r\n\r\nx"} {
		if _, err := (Reader{}).Read([]byte(bad)); err != nil {
			t.Logf("%q: %v", bad, err) // refused is fine, a panic is not
		}
	}
}

// server is an SMTP server that answers as the test says.
type server struct {
	mail, rcpt, data error
	hang             bool // closes the connection after the content without an answer
	got              []byte
	conn             *smtp.Conn
}

func (s *server) NewSession(c *smtp.Conn) (smtp.Session, error) { s.conn = c; return s, nil }
func (s *server) Reset()                                        {}
func (s *server) Logout() error                                 { return nil }
func (s *server) Mail(string, *smtp.MailOptions) error          { return s.mail }
func (s *server) Rcpt(string, *smtp.RcptOptions) error          { return s.rcpt }
func (s *server) Data(r io.Reader) (err error) {
	if s.got, err = io.ReadAll(r); err != nil {
		return err
	}
	if s.hang {
		return s.conn.Conn().Close()
	}
	return s.data
}

func listen(t *testing.T, s *server) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	srv := smtp.NewServer(s)
	srv.Domain = "server.example"
	done := make(chan struct{})
	go func() { defer close(done); _ = srv.Serve(l) }() // it ends with an error when it is closed
	t.Cleanup(func() {
		_ = srv.Close()
		_ = l.Close() // the server knows it only once Serve has begun
		<-done
	})
	return l.Addr().String()
}

func TestTransport_answers(t *testing.T) {
	raw, err := Composer{}.Compose(sample())
	if err != nil {
		t.Fatal(err)
	}
	refuse := func(code int) error {
		return &smtp.SMTPError{Code: code, EnhancedCode: smtp.NoEnhancedCode, Message: "because"}
	}
	for _, row := range []struct {
		name   string
		server server
		want   domain.SendError
	}{
		{"greylisted", server{rcpt: refuse(451)}, domain.SendError{Stage: "recipient", Temporary: true, Answer: "451 because"}},
		{"no such mailbox", server{rcpt: refuse(550)}, domain.SendError{Stage: "recipient", Answer: "550 because"}},
		{"sender refused", server{mail: refuse(553)}, domain.SendError{Stage: "sender", Answer: "553 because"}},
		{"content refused", server{data: refuse(554)}, domain.SendError{Stage: "content", Answer: "554 because"}},
		{"full", server{data: refuse(452)}, domain.SendError{Stage: "content", Temporary: true, Answer: "452 because"}},
	} {
		_, err := (&Transport{Addr: listen(t, &row.server), Local: "test.example"}).Send(context.Background(), domain.Account{}, "a@b.example", []string{"c@d.example"}, raw)
		var failed *domain.SendError
		if !errors.As(err, &failed) || *failed != row.want {
			t.Errorf("%s: %+v, want %+v", row.name, err, row.want)
		}
	}
	good := &server{}
	answer, err := (&Transport{Addr: listen(t, good), Local: "test.example"}).Send(context.Background(), domain.Account{}, "a@b.example", []string{"c@d.example"}, raw)
	if err != nil || !strings.HasPrefix(answer, "250 ") || string(good.got) != string(raw) {
		t.Errorf("%q, %v; the server got\n%q\nof\n%q", answer, err, good.got, raw)
	}
	var failed *domain.SendError
	silent := &server{hang: true}
	if _, err := (&Transport{Addr: listen(t, silent), Local: "test.example"}).Send(context.Background(), domain.Account{}, "a@b.example", []string{"c@d.example"}, raw); !errors.As(err, &failed) || !failed.Unsure {
		t.Errorf("no answer after the content: %+v", err)
	}
	if _, err := (&Transport{Addr: "127.0.0.1:1", Local: "test.example"}).Send(context.Background(), domain.Account{}, "a@b.example", []string{"c@d.example"}, raw); !errors.As(err, &failed) || failed.Stage != "connect" || !failed.Temporary {
		t.Errorf("nobody there: %+v", err)
	}
}
