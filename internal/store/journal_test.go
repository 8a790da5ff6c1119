package store_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store"
)

func journal(t *testing.T, folder string) *store.Journal {
	t.Helper()
	j, err := store.OpenJournal(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = j.Close() }) // some tests close it themselves
	return j
}

// What was noted is there after a crash, but for a line that was not written whole.
func TestJournal(t *testing.T) {
	folder := t.TempDir()
	at := time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)
	j := journal(t, folder)
	letter := int64(7)
	end := domain.Change{To: domain.Refused, Reason: "550 no such user", HandedOver: &at, Bad: &domain.BadAddress{Reason: "550", At: at, LetterID: &letter}}
	for _, err := range []error{j.Begin("a 1", at), j.Begin("b 1", at), j.End("b 1", end), j.Begin("c 1", at), j.Settled("c 1"), j.Close()} {
		if err != nil {
			t.Fatal(err)
		}
	}
	name := filepath.Join(folder, store.JournalName)
	text, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(name, append(text, `{"try":"d 1","at":"2026-0`...), 0o600); err != nil {
		t.Fatal(err)
	}
	j = journal(t, folder)
	if n, ok := j.Of("a 1"); !ok || !n.At.Equal(at) || n.End != nil {
		t.Errorf("%+v %t", n, ok)
	}
	n, ok := j.Of("b 1")
	if !ok || n.End == nil || n.End.To != domain.Refused || n.End.Reason != end.Reason || !n.End.HandedOver.Equal(at) || n.End.Bad == nil || *n.End.Bad.LetterID != 7 {
		t.Errorf("%+v %t", n, ok)
	}
	if _, ok := j.Of("d 1"); ok {
		t.Error("half a line was read")
	}
	if err := j.Begin("e 1", at); err != nil {
		t.Fatal(err)
	}
	// A disk that was full for a moment leaves half a line before the next.
	f, err := os.OpenFile(name, os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := f.WriteString(`{"try":"f 1","at"`); err != nil {
		t.Fatal(err)
	}
	for _, err := range []error{f.Close(), j.Begin("g 1", at)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	j = journal(t, folder)
	for _, key := range []string{"a 1", "e 1", "g 1"} {
		if _, ok := j.Of(key); !ok {
			t.Errorf("%s, which was noted beside half a line, is lost", key)
		}
	}
	if err := j.Clear(); err != nil {
		t.Fatal(err)
	}
	if _, ok := j.Of("a 1"); ok {
		t.Error("it was cleared")
	}
}

// The file does not grow for ever, and is not emptied while it is needed.
func TestJournal_grows(t *testing.T) {
	folder := t.TempDir()
	j := journal(t, folder)
	size := func() int64 {
		info, err := os.Stat(filepath.Join(folder, store.JournalName))
		if err != nil {
			t.Fatal(err)
		}
		return info.Size()
	}
	at := time.Now()
	long := strings.Repeat("x", 1000)
	if err := j.Begin("kept", at); err != nil {
		t.Fatal(err)
	}
	for range 100 {
		for _, err := range []error{j.Begin(long, at), j.End(long, domain.Change{To: domain.Sent}), j.Settled(long)} {
			if err != nil {
				t.Fatal(err)
			}
		}
	}
	if size() < 200_000 {
		t.Errorf("%d bytes; it was emptied", size())
	}
	if err := j.Settled("kept"); err != nil || size() > 100 || j.Seq() == 0 {
		t.Errorf("%d bytes, %v", size(), err)
	}
	if err := j.Begin("next", at); err != nil || size() == 0 {
		t.Errorf("%d bytes, %v", size(), err)
	}
}

// Emptied again and again it is still the file that the next program reads.
func TestJournal_emptiedTwice(t *testing.T) {
	folder, at := t.TempDir(), time.Now()
	j := journal(t, folder)
	for _, key := range []string{"a 1", "b 1", "c 1"} {
		for _, err := range []error{j.Begin(key, at), j.Clear()} {
			if err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := j.Begin("d 1", at); err != nil {
		t.Fatal(err)
	}
	next := journal(t, folder)
	if _, ok := next.Of("d 1"); !ok || next.Seq() != 4 {
		t.Errorf("what was noted last is lost; it tells of %d tries", next.Seq())
	}
	// An earlier version went on in a file of another name.
	name := filepath.Join(folder, store.JournalName)
	if err := os.WriteFile(name+".new", []byte(`{"try":"e 1","at":"2026-03-02T09:00:00Z","seq":5}`+"\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	for range 2 {
		if next = journal(t, folder); next.Seq() != 5 {
			t.Errorf("it tells of %d tries", next.Seq())
		}
	}
	if _, ok := next.Of("e 1"); !ok {
		t.Error("what the earlier version noted is lost")
	}
	if list, err := filepath.Glob(filepath.Join(folder, "*.new*")); err != nil || len(list) > 0 {
		t.Errorf("files are left over: %v", list)
	}
}
