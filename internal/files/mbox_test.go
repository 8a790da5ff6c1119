package files

import (
	"bytes"
	"testing"
	"time"

	"lucidletter/internal/app/inbox"
)

func TestMbox(t *testing.T) {
	at := time.Date(2026, 3, 2, 9, 0, 5, 0, time.UTC)
	list := []inbox.MailItem{
		{From: "imre@fernhollow.example", At: at, Bytes: []byte("Subject: a\r\n\r\nFrom here on\r\n>From\r\n>From there\r\n")},
		{At: at, Bytes: []byte("Subject: b\r\n\r\nno end")},
	}
	var out bytes.Buffer
	err := Mbox(&out, func(f func(*inbox.MailItem) error) error {
		for i := range list {
			if err := f(&list[i]); err != nil {
				return err
			}
		}
		return nil
	})
	raw := out.Bytes()
	got := string(raw)
	want := "From imre@fernhollow.example Mon Mar  2 09:00:05 2026\nSubject: a\n\n>From here on\n>From\n>From there\n\n\nFrom MAILER-DAEMON Mon Mar  2 09:00:05 2026\nSubject: b\n\nno end\n\n"
	if err != nil || got != want {
		t.Errorf("%q\n%q", got, want)
	}
}
