package mail_test

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/mail"
	"lucidletter/internal/testbed"
)

func door(t *testing.T, lmtp bool) (*testbed.Bed, *mail.Inbound) {
	t.Helper()
	b := testbed.New(t)
	d, err := mail.OpenInbound("127.0.0.1:0", lmtp, b.App, slog.New(slog.NewTextHandler(io.Discard, nil)))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := d.Close(); err != nil {
			t.Error(err)
		}
	})
	return b, d
}

// hand gives a letter to the door as a mail server does.
func hand(t *testing.T, d *mail.Inbound, to string, raw []byte) error {
	t.Helper()
	c, err := smtp.Dial(d.Addr())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Close() }() // Quit closed it, or the server did
	return c.SendMail("ada@quill.example", []string{to}, bytes.NewReader(raw))
}

func TestDoor(t *testing.T) {
	b, d := door(t, false)
	raw := crlf("From: ada@quill.example\nSubject: Hello\n\nhello\n")
	if err := hand(t, d, "IMRE@fernhollow.example", raw); err != nil {
		t.Fatal(err)
	}
	var said *smtp.SMTPError
	if err := hand(t, d, "ada@quill.example", raw); !errors.As(err, &said) || said.Code != 550 {
		t.Errorf("for somebody else: %v", err)
	}
	if err := hand(t, d, "imre@fernhollow.example", bytes.Repeat([]byte("0123456789abcde\r\n"), 31<<20/17)); !errors.As(err, &said) || said.Code != 552 {
		t.Errorf("31 MiB: %v", err)
	}
	if list, err := b.App.Inbox.IncomingToAnswer(context.Background(), b.Rep); err != nil || len(list) != 1 || list[0].Subject != "Hello" {
		t.Errorf("%+v %v", list, err)
	}
	if err := b.Store.Close(); err != nil {
		t.Fatal(err)
	}
	if err := hand(t, d, "imre@fernhollow.example", raw); !errors.As(err, &said) || said.Code != 451 || strings.Contains(said.Message, "sql") {
		t.Errorf("a broken store: %v", err)
	}
}

func TestDoor_lmtp(t *testing.T) {
	b, d := door(t, true)
	conn, err := net.Dial("tcp", d.Addr())
	if err != nil {
		t.Fatal(err)
	}
	c := smtp.NewClientLMTP(conn)
	defer func() { _ = c.Close() }() // Quit closed it
	if err := c.Mail("ada@quill.example", nil); err != nil {
		t.Fatal(err)
	}
	for _, to := range []string{"imre@fernhollow.example", "greta@fernhollow.example"} {
		if err := c.Rcpt(to, nil); err != nil {
			t.Fatal(err)
		}
	}
	n := 0
	w, err := c.Data()
	if err != nil {
		t.Fatal(err)
	}
	if _, err = w.Write(crlf("From: ada@quill.example\nSubject: Hello\n\nhello\n")); err == nil {
		all, wrong := w.CloseWithLMTPResponse()
		n, err = len(all), wrong
	}
	if list, more := b.App.Inbox.IncomingToAnswer(context.Background(), b.Rep); err != nil || more != nil || n != 2 || len(list) != 1 {
		t.Errorf("%v %v, %d taken, %+v", err, more, n, list)
	}
}

// hostile makes a letter that is wrong in many ways.
func hostile(i int) []byte {
	r := rand.New(rand.NewPCG(uint64(i), 9))
	var b strings.Builder
	head := "From: ada@quill.example\nSubject: hostile " + fmt.Sprint(i) + "\nMIME-Version: 1.0\n"
	switch i % 12 {
	case 0: // nested a hundred deep
		b.WriteString(head)
		for n := range 100 {
			fmt.Fprintf(&b, "Content-Type: multipart/mixed; boundary=b%d\n\n--b%d\n", n, n)
		}
		b.WriteString("Content-Type: text/plain\n\nat the bottom\n")
	case 1: // wrong charsets and encodings
		b.WriteString(head + "Content-Type: text/plain; charset=\"x-" + strings.Repeat("z", r.IntN(300)) + "\"\nContent-Transfer-Encoding: base64\n\n=?!*\xff\xfe\n")
	case 2: // many header fields
		b.WriteString(head)
		for n := range 20_000 {
			fmt.Fprintf(&b, "X-%d: %s\n", n, strings.Repeat("h", 20))
		}
		b.WriteString("\nhello\n")
	case 3: // one long field
		b.WriteString(head + "References: " + strings.Repeat("<a@b.example>\n ", 50_000) + "\n\nhello\n")
	case 4: // a boundary that never comes
		b.WriteString(head + "Content-Type: multipart/alternative; boundary=nowhere\n\n" + strings.Repeat("--nowher\n", 50_000))
	case 5: // thousands of parts
		b.WriteString(head + "Content-Type: multipart/mixed; boundary=x\n\n" + strings.Repeat("--x\nContent-Type: text/plain\n\npart\n", 20_000) + "--x--\n")
	case 6: // a report that lies
		b.WriteString(head + "Content-Type: multipart/report; report-type=delivery-status; boundary=x\n\n--x\nContent-Type: message/delivery-status\n\n" + strings.Repeat("Final-Recipient: rfc822; \x00@\nAction: failed\nStatus: 9.99.999\n\n", 3000) + "--x--\n")
	case 7: // an HTML page nested deeper than anybody reads
		b.WriteString(head + "Content-Type: text/html\n\n" + strings.Repeat("<div><table><td>", 20_000) + "<script>alert(1)</script>")
	case 8: // a subject that is no word
		b.WriteString("From: =?utf-8?B?" + strings.Repeat("/", 4000) + "?= <>,,;:\nSubject: =?utf-8?Q?=0D=0ABcc:_x@y.example=FF" + strings.Repeat("=00", 3000) + "?=\nIn-Reply-To: <<<>>>\n\nhello " + fmt.Sprint(i) + "\n")
	case 9: // nothing but bytes
		for range 5000 {
			b.WriteByte(byte(r.UintN(256)))
		}
	case 10: // no header, or no body
		b.WriteString([]string{"", "\n\n", "Subject:", ":::\n\n"}[r.IntN(4)] + fmt.Sprint(i))
	case 11: // an automatic answer with a date nobody has
		b.WriteString(head + "Auto-Submitted: auto-replied\n\nback on " + strings.Repeat("99.99.9999 until ", 20_000) + "\n")
	}
	return []byte(strings.ReplaceAll(b.String(), "\n", "\r\n"))
}

// Two hundred hostile letters are refused or filed, none of them slows the door down
// for the next, and the program goes on.
func TestDoor_hostile(t *testing.T) {
	b, d := door(t, false)
	ctx := context.Background()
	refused, slowest, which := 0, time.Duration(0), 0
	for i := range 200 {
		began := time.Now()
		if err := hand(t, d, "imre@fernhollow.example", hostile(i)); err != nil {
			refused++
			var said *smtp.SMTPError
			if !errors.As(err, &said) || said.Code == 451 {
				t.Errorf("letter %d: %v", i, err)
			}
		}
		if took := time.Since(began); took > slowest {
			slowest, which = took, i
		}
	}
	list, err := b.Store.IncomingFor(ctx, b.Rep.ID, false, 1000)
	if err != nil || len(list)+refused < 190 || len(list) < 150 {
		t.Errorf("%d filed and %d refused, %v", len(list), refused, err)
	}
	for _, in := range list {
		if _, err := b.App.Inbox.Incoming(ctx, b.Rep, in.ID, false); err != nil {
			t.Errorf("%q cannot be read: %v", in.Subject, err)
		}
		if strings.ContainsAny(in.Subject+in.FromName, "\x00\r\n") {
			t.Errorf("%.80q", in.Subject)
		}
	}
	t.Logf("%d filed, %d refused; the slowest took %s (letter %d)", len(list), refused, slowest, which)
	if err := hand(t, d, "imre@fernhollow.example", crlf("From: ada@quill.example\nSubject: After all that\n\nhello\n")); err != nil {
		t.Error(err)
	}
}

// A line that ends in CR CR LF is answered at once, and without the addresses of this machine; so
// is a dot on such a line, which is the end of nothing.
func TestDoor_lineEnds(t *testing.T) {
	_, d := door(t, false)
	for name, rest := range map[string]string{
		"in the letter": "Subject: x\r\n\r\nhello\r\r\nMAIL FROM:<x@y.example>\r\n.\r\n",
		"at its end":    "Subject: x\r\n\r\nhello\r\n.\r\r\nMAIL FROM:<x@y.example>\r\n",
		"in a command":  "",
	} {
		c, err := net.Dial("tcp", d.Addr())
		if err != nil {
			t.Fatal(err)
		}
		talk := bufio.NewReader(c)
		line := func() string {
			text, _ := talk.ReadString('\n')
			return text
		}
		line()
		commands := []string{"HELO quill.example\r\n", "MAIL FROM:<ada@quill.example>\r\n", "RCPT TO:<imre@fernhollow.example>\r\n", "DATA\r\n", rest}
		if rest == "" {
			commands = []string{"NOOP\r\r\n"}
		}
		last := ""
		for _, say := range commands {
			if _, err := fmt.Fprint(c, say); err != nil {
				t.Fatal(err)
			}
			last = line()
		}
		if rest != "" && !strings.HasPrefix(last, "554 5.6.0 A line ends in CR CR LF") || strings.Contains(last, "127.0.0.1") || !strings.HasPrefix(last, "554") && !strings.HasPrefix(last, "421") {
			t.Errorf("%s: %q", name, last)
		}
		_ = c.Close()
	}
}
