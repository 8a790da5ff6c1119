package result

import (
	"testing"
	"time"
)

func TestWeigh(t *testing.T) {
	const person = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36"
	for _, row := range []struct {
		name string
		v    Visit
		want Weight
	}{
		{"a person", Visit{"GET", person, "", time.Hour}, Reader},
		{"just late enough", Visit{"GET", person, "", AtOnce}, Reader},
		{"at once", Visit{"GET", person, "", AtOnce - 1}, Machine},
		{"before the server's answer", Visit{"GET", person, "", -1}, Machine},
		{"only the head", Visit{"HEAD", person, "", time.Hour}, Nothing},
		{"posted", Visit{"POST", person, "", time.Hour}, Nothing},
		{"nobody", Visit{"GET", "", "", time.Hour}, Nothing},
		{"a robot", Visit{"GET", "Mozilla/5.0 (compatible; SomeBot/2.1)", "", time.Hour}, Nothing},
		{"a scanner at once", Visit{"GET", "LinkScanner 3", "", time.Second}, Nothing},
		{"a library", Visit{"GET", "python-requests/2.31", "", time.Hour}, Nothing},
		{"a proxy for pictures", Visit{"GET", "Mozilla/5.0 (via ImageProxy)", "", time.Hour}, Machine},
		{"a name that hides its system", Visit{"GET", "Mozilla/5.0", "", time.Hour}, Machine},
		{"fetched ahead", Visit{"GET", person, "prefetch;prerender", time.Hour}, Machine},
		{"fetched ahead, older header", Visit{"GET", person, "Prefetch", time.Hour}, Machine},
	} {
		if got := Weigh(row.v); got != row.want {
			t.Errorf("%s: %d, want %d", row.name, got, row.want)
		}
	}
}

func TestTally(t *testing.T) {
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	for _, row := range []struct {
		name   string
		events []Event
		opened bool
		check  func(*Tally) bool
	}{
		{"nothing", nil, false, func(t *Tally) bool { return t.LastOpen == nil }},
		{"machines alone", []Event{{Kind: Opened, Machine: true}, {Kind: Clicked, Machine: true}}, false, func(t *Tally) bool {
			return t.MachineOpens == 1 && t.MachineClicks == 1 && t.Opens == 0 && t.Clicks == 0
		}},
		{"twice", []Event{{Kind: Opened, At: at.Add(time.Hour)}, {Kind: Opened, At: at}}, true, func(t *Tally) bool { return t.Opens == 2 && t.LastOpen.Equal(at.Add(time.Hour)) }},
		{"a click implies an open", []Event{{Kind: Clicked, Link: 7}, {Kind: Clicked, Link: 7}}, true, func(t *Tally) bool { return t.Opens == 0 && t.ByLink[7] == 2 }},
		{"a document too", []Event{{Kind: Document}}, true, func(t *Tally) bool { return t.Documents == 1 }},
		{"a document for a machine", []Event{{Kind: Document, Machine: true}}, false, func(t *Tally) bool { return t.Documents == 0 }},
		{"an answer too", []Event{{Kind: Replied}}, true, func(t *Tally) bool { return t.Replies == 1 }},
		{"an automatic answer is none", []Event{{Kind: Away}}, false, func(t *Tally) bool { return t.Away && t.Replies == 0 }},
		{"returned", []Event{{Kind: Delayed}, {Kind: Bounced}}, false, func(t *Tally) bool { return t.Delayed && t.Bounced }},
		{"not wanted", []Event{{Kind: Complained}, {Kind: OptedOut}}, false, func(t *Tally) bool { return t.Complained && t.OptedOut }},
	} {
		var got Tally
		for _, e := range row.events {
			e.Times = 1
			got.Add(e)
		}
		if got.Opened != row.opened || !row.check(&got) {
			t.Errorf("%s: %+v", row.name, got)
		}
	}
}

// The codes of RFC 3463 section 3 by their meaning.
// Of the codes the meaning is that of RFC 3463 section 3; the words are common practice,
// no source.
func TestAddressGone(t *testing.T) {
	for _, row := range []struct {
		status, said string
		want         bool
	}{
		{"5.1.1", "", true}, {"5.1.2", "", true}, {"5.1.3", "", true}, {"5.1.6", "", true}, {"5.1.10", "", true}, {"5.2.1", "", true},
		{"5.0.0", "", false}, {"5.1.0", "", false}, {"5.1.7", "", false}, {"5.1.8", "", false}, {"5.2.2", "", false}, {"5.2.3", "", false}, {"5.3.4", "", false},
		{"5.4.4", "", false}, {"5.4.6", "", false}, {"5.5.1", "", false}, {"5.6.1", "", false}, {"5.7.1", "", false}, {"4.1.1", "", false}, {"4.2.2", "", false}, {"2.0.0", "", false}, {"", "", false},
		{"5.0.0", "550 user unknown", true}, {"", "550 No such user here", true}, {"", "450 user unknown", false}, {"4.1.1", "450 user unknown", false},
		{"5.4.4", "host not found", true}, {"5.4.1", "550 5.4.1 Recipient address rejected: Access denied", true},
		{"5.1.1", "550 5.1.1 message rejected as spam", false}, {"5.1.1", "550 5.1.1 Recipient rejected: your server is on a block list", false},
		{"5.7.1", "550 5.7.1 blocked by policy", false}, {"5.7.1", "550 5.7.1 user unknown", true}, {"5.7.1", "554 5.7.1 mailbox does not exist or the sender is blacklisted", false},
		{"5.0.0", "554 rejected for spam content", false}, {"5.0.0", "552 mailbox full", false}, {"", "554 5.2.2 over quota", false},
		{"5.2.0", "550 5.2.0 this mailbox is disabled", true}, {"5.0.0", "550 Unbekannter Empfänger", true}, {"5.1.0", "550 5.1.0 Adresse inconnue", true},
		{"5.1.1", "550 largest message size exceeded", false},
		{"5.7.1", "550 5.7.1 no mailbox found", true},
		{"5.0.0", "551 ada@quill.example is a deactivated mailbox", true},
		{"5.0.0", "550 ada@quill.example is not an active address here", true},
	} {
		if got := AddressGone(row.status, row.said); got != row.want {
			t.Errorf("%s %q: %t", row.status, row.said, got)
		}
	}
}
