package mail_test

import (
	"bufio"
	"net"
	"strings"
	"testing"
	"time"
)

// Talkers who bring no letter do not hold the door shut, however many; each of them ends.
func TestDoor_talkers(t *testing.T) {
	_, d := door(t, false)
	dial := func() (net.Conn, *bufio.Reader) {
		c, err := net.Dial("tcp", d.Addr())
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = c.Close() })
		if err := c.SetDeadline(time.Now().Add(time.Minute)); err != nil {
			t.Fatal(err)
		}
		return c, bufio.NewReader(c)
	}
	for range 70 {
		c, r := dial()
		if _, err := r.ReadString('\n'); err != nil {
			t.Fatal(err)
		}
		if _, err := c.Write([]byte("NOOP\r\n")); err != nil {
			t.Fatal(err)
		}
	}
	if err := hand(t, d, "imre@fernhollow.example", crlf("From: ada@quill.example\nSubject: Through the crowd\n\nhello\n")); err != nil {
		t.Error(err)
	}
	c, r := dial()
	go func() { _, _ = c.Write([]byte(strings.Repeat("NOOP\r\n", 400))) }() // it is hung up on
	answers := 0
	for {
		if _, err := r.ReadString('\n'); err != nil {
			break
		}
		answers++
	}
	if answers > 300 {
		t.Errorf("%d commands without a letter were answered", answers)
	}
}
