package postoffice_test

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"testing"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/postoffice"
	"lucidletter/internal/testbed"
)

var ctx = context.Background()

// send hands a letter over as any mail program does.
func send(t *testing.T, addr, from string, to []string, body string) error {
	t.Helper()
	c, err := smtp.Dial(addr)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Close() }() // Quit closed it, or the server did
	if err := c.Mail(from, nil); err != nil {
		return err
	}
	for _, r := range to {
		if err := c.Rcpt(r, nil); err != nil {
			return err
		}
	}
	w, err := c.Data()
	if err != nil {
		return err
	}
	if _, err := w.Write([]byte(body)); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	return c.Quit()
}

func letter(subject, text string) string {
	return "From: imre@fernhollow.example\r\nTo: ada@quill.example\r\nSubject: " + subject + "\r\n\r\n" + text + "\r\n"
}

func TestServer_keepsWhatArrives(t *testing.T) {
	b := testbed.New(t)
	for _, row := range []struct {
		name  string
		to    []string
		body  string
		boxes string
	}{
		{"one", []string{"Ada@Quill.example"}, letter("One", "hello"), "ada@quill.example 1"},
		{"two recipients", []string{"bo@quill.example", "cy@quill.example"}, letter("Two", "hello"), "bo@quill.example 1, cy@quill.example 1"},
		{"again", []string{"bo@quill.example"}, letter("Again", "hello"), "bo@quill.example 2"},
		{"dots at the start of lines", []string{"dot@quill.example"}, letter("Dots", ".\r\n..\r\n.hidden"), "dot@quill.example 1"},
		{"a subject that cannot be decoded", []string{"odd@quill.example"}, letter("=?x-nonsense?Q?=FF?=", "hello"), "odd@quill.example 1"},
		{"no headers", []string{"bare@quill.example"}, "\r\njust words\r\n", "bare@quill.example 1"},
		{"binary", []string{"bin@quill.example"}, "\x00\xFF\xFE", "bin@quill.example 1"},
	} {
		if err := send(t, b.Post.Addr(), "imre@fernhollow.example", row.to, row.body); err != nil {
			t.Errorf("%s: %v", row.name, err)
			continue
		}
		var got []string
		for _, to := range row.to {
			boxes, err := b.App.Postbox.Mailboxes(ctx, to)
			if err != nil || len(boxes) != 1 {
				t.Errorf("%s: %v, %v", row.name, boxes, err)
				continue
			}
			got = append(got, fmt.Sprint(boxes[0].Name, " ", boxes[0].Count))
		}
		if strings.Join(got, ", ") != row.boxes {
			t.Errorf("%s: %v, want %s", row.name, got, row.boxes)
		}
	}
	list, err := b.Store.PostLetters(ctx, "dot@quill.example", 9)
	if err != nil || len(list) != 1 {
		t.Fatal(list, err)
	}
	one, err := b.Store.PostLetter(ctx, list[0].ID)
	if err != nil || !strings.HasSuffix(string(one.Bytes), "\r\n.\r\n..\r\n.hidden\r\n") || one.Sender != "imre@fernhollow.example" || one.Subject != "Dots" {
		t.Errorf("%q, %+v, %v", one.Bytes, one, err)
	}
}

func TestServer_limits(t *testing.T) {
	b := testbed.New(t)
	var many []string
	for i := range 101 {
		many = append(many, fmt.Sprintf("p%d@quill.example", i))
	}
	var answer *smtp.SMTPError
	if err := send(t, b.Post.Addr(), "a@b.example", many, letter("x", "y")); !errors.As(err, &answer) || answer.Code/100 != 4 {
		t.Errorf("101 recipients: %v", err)
	}
	if err := send(t, b.Post.Addr(), "a@b.example", many[:100], letter("x", "y")); err != nil {
		t.Errorf("100 recipients: %v", err)
	}
	if err := send(t, b.Post.Addr(), "a@b.example", many[:1], letter("x", strings.Repeat("0123456789abcde\r\n", 27<<20/17))); !errors.As(err, &answer) || answer.Code != 552 {
		t.Errorf("27 MiB: %.80v", err)
	}
}

// When the letter cannot be kept the sender is told to try again.
func TestServer_brokenStore(t *testing.T) {
	b := testbed.New(t)
	if err := b.Store.Close(); err != nil {
		t.Fatal(err)
	}
	var answer *smtp.SMTPError
	if err := send(t, b.Post.Addr(), "a@b.example", []string{"ada@quill.example"}, letter("x", "y")); !errors.As(err, &answer) || answer.Code != 451 || strings.Contains(answer.Message, "sql") {
		t.Errorf("%v", err)
	}
}

func TestListen_takenPort(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = l.Close() }()
	if _, err := postoffice.Listen(l.Addr().String(), nil, postoffice.Options{}); err == nil || !strings.Contains(err.Error(), "open the post office") {
		t.Errorf("a port that is taken: %v", err)
	}
}
