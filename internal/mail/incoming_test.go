package mail_test

import (
	"fmt"
	"strings"
	"testing"

	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
)

func crlf(s string) []byte { return []byte(strings.ReplaceAll(s, "\n", "\r\n")) }

// RFC 3464, appendix E.1 ("Simple DSN"), from memory, its original filled in.
const simpleDSN = `Date: Thu, 7 Jul 1994 17:16:05 -0400
From: Mail Delivery Subsystem <MAILER-DAEMON@CS.UTK.EDU>
Message-Id: <199407072116.RAA14128@CS.UTK.EDU>
Subject: Returned mail: Cannot send message for 5 days
To: <owner-info-mime@cs.utk.edu>
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status;
      boundary="RAA14128.773615765/CS.UTK.EDU"

--RAA14128.773615765/CS.UTK.EDU

The original message was received at Sat, 2 Jul 1994 17:10:28 -0400
from root@localhost

   ----- The following addresses had delivery problems -----
<louisl@larry.slip.umd.edu>  (unrecoverable error)

--RAA14128.773615765/CS.UTK.EDU
content-type: message/delivery-status

Reporting-MTA: dns; cs.utk.edu

Original-Recipient: rfc822;louisl@larry.slip.umd.edu
Final-Recipient: rfc822;louisl@larry.slip.umd.edu
Action: failed
Status: 4.0.0
Diagnostic-Code: smtp; 426 connection timed out
Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400

--RAA14128.773615765/CS.UTK.EDU
content-type: message/rfc822

Message-ID: <original@cs.utk.edu>
To: louisl@larry.slip.umd.edu

hello
--RAA14128.773615765/CS.UTK.EDU--
`

// The recipients' fields of RFC 3464, appendix E.2 ("Multi-Recipient DSN"), from
// memory, the addresses changed.
const manyDSN = `From: Mail Delivery Subsystem <MAILER-DAEMON@cs.utk.edu>
Subject: Returned mail: User unknown
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary=b

--b
Content-Type: message/delivery-status

Reporting-MTA: dns; cs.utk.edu

Original-Recipient: rfc822;arathib@one.example
Final-Recipient: rfc822;arathib@one.example
Action: failed
Status: 5.0.0 (permanent failure)
Diagnostic-Code: smtp;
 550 'arathib@one.example' is not a
 registered gateway user
Remote-MTA: dns; one.example

Original-Recipient: rfc822;johnh@two.example
Final-Recipient: rfc822;johnh@two.example
Action: delayed
Status: 4.0.0 (two.example: host name lookup failure)

Original-Recipient: rfc822;wsnell@three.example
Final-Recipient: rfc822;wsnell@three.example
Action: failed
Status: 5.0.0
Diagnostic-Code: smtp; 550 user unknown
Remote-MTA: dns; three.example

--b--
`

// RFC 5965, appendix B.1 ("Example with minimum fields"), from memory.
const abuseReport = `From: <abusedesk@example.com>
Date: Thu, 8 Mar 2005 17:40:36 EDT
Subject: FW: Earn money
To: <abuse@example.net>
MIME-Version: 1.0
Content-Type: multipart/report; report-type=feedback-report;
     boundary="part1_13d.2e68ed54_boundary"

--part1_13d.2e68ed54_boundary
Content-Type: text/plain; charset="US-ASCII"
Content-Transfer-Encoding: 7bit

This is an email abuse report for an email message received from IP
192.0.2.1 on Thu, 8 Mar 2005 14:00:00 EDT.

--part1_13d.2e68ed54_boundary
Content-Type: message/feedback-report

Feedback-Type: abuse
User-Agent: SomeGenerator/1.0
Version: 1
Original-Rcpt-To: <user@example.com>

--part1_13d.2e68ed54_boundary
Content-Type: message/rfc822
Content-Disposition: inline

From: <somespammer@example.net>
To: <Undisclosed Recipients>
Subject: Earn money
MIME-Version: 1.0
Content-type: text/plain
Message-ID: 8787KJKJ3K4J3K4J3K4J3.mail@example.net
Date: Thu, 02 Sep 2004 12:31:03 -0500

Spam Spam Spam
--part1_13d.2e68ed54_boundary--
`

func returned(list []domain.Returned) string {
	var out []string
	for _, r := range list {
		out = append(out, fmt.Sprintf("%s %s final=%t gone=%t %s", r.Email, r.Status, r.Final, r.Gone, r.Said))
	}
	return strings.Join(out, "; ")
}

func TestReader_ReadIncoming_reports(t *testing.T) {
	dsn := func(action, status, diagnostic string) string {
		return "From: postmaster@mx.example\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\n" +
			"Final-Recipient: rfc822; ada@quill.example\nAction: " + action + "\nStatus: " + status + "\nDiagnostic-Code: smtp; " + diagnostic + "\n\n--b--\n"
	}
	for _, row := range []struct {
		name, raw string
		kind      domain.IncomingKind
		id, to    string
		returned  string
	}{
		{"RFC 3464 E.1", simpleDSN, domain.IncomingBounce, "original@cs.utk.edu", "louisl@larry.slip.umd.edu", "louisl@larry.slip.umd.edu 4.0.0 final=true gone=false 426 connection timed out"},
		{"RFC 3464 E.2", manyDSN, domain.IncomingBounce, "", "arathib@one.example", "arathib@one.example 5.0.0 final=true gone=true 550 'arathib@one.example' is not a registered gateway user; johnh@two.example 4.0.0 final=false gone=false ; wsnell@three.example 5.0.0 final=true gone=true 550 user unknown"},
		{"RFC 5965 B.1", abuseReport, domain.IncomingComplaint, "8787KJKJ3K4J3K4J3K4J3.mail@example.net", "user@example.com", ""},
		{"not spam after all", strings.Replace(abuseReport, "Feedback-Type: abuse", "Feedback-Type: not-spam", 1), domain.IncomingAutomatic, "8787KJKJ3K4J3K4J3K4J3.mail@example.net", "user@example.com", ""},
		// RFC 3463 section 3: X.1.1 bad destination mailbox, X.2.2 mailbox full, X.7.1 not authorized.
		{"no such mailbox", dsn("failed", "5.1.1", "550 unknown"), domain.IncomingBounce, "", "ada@quill.example", "ada@quill.example 5.1.1 final=true gone=true 550 unknown"},
		{"full", dsn("failed", "5.2.2", "552 full"), domain.IncomingBounce, "", "ada@quill.example", "ada@quill.example 5.2.2 final=true gone=false 552 full"},
		{"refused for what it says", dsn("failed", "5.7.1", "550 no"), domain.IncomingBounce, "", "ada@quill.example", "ada@quill.example 5.7.1 final=true gone=false 550 no"},
		{"delayed", dsn("delayed", "4.4.1", "no answer"), domain.IncomingDelay, "", "ada@quill.example", "ada@quill.example 4.4.1 final=false gone=false no answer"},
		{"delivered", dsn("delivered", "2.0.0", "250 ok"), domain.IncomingAutomatic, "", "ada@quill.example", ""},
		{"in words alone", "From: MAILER-DAEMON@mx.example\nSubject: failure notice\n\nSorry, no mailbox here by that name.\n\n<ada@quill.example>:\n550 5.1.1 user unknown\n\n--- Below is a copy.\nMessage-ID: <id1@fernhollow.example>\n", domain.IncomingBounce, "id1@fernhollow.example", "ada@quill.example", "ada@quill.example 5.1.1 final=true gone=true 550 5.1.1 user unknown"},
		{"in words, for now", "From: postmaster@mx.example\nSubject: Warning: message delayed\nX-Failed-Recipients: ada@quill.example\n\n451 4.4.1 no answer; will keep trying\n", domain.IncomingDelay, "", "ada@quill.example", "ada@quill.example 4.4.1 final=false gone=false 451 4.4.1 no answer; will keep trying"},
		{"in words, full", "From: postmaster@mx.example\nSubject: Undeliverable: hello\n\nada@quill.example: 552 5.2.2 mailbox full\n", domain.IncomingBounce, "", "ada@quill.example", "ada@quill.example 5.2.2 final=true gone=false ada@quill.example: 552 5.2.2 mailbox full"},
		{"a person who has the name of a daemon", "From: postmaster@mx.example\nSubject: Your offer\n\nThank you.\n", domain.IncomingAnswer, "", "", ""},
	} {
		got := mail.Reader{}.ReadIncoming(crlf(row.raw))
		if got.Kind != row.kind || got.OriginalID != row.id || got.OriginalTo != row.to || returned(got.Returned) != row.returned {
			t.Errorf("%s: %s %q %q\n got %s\nwant %s", row.name, got.Kind, got.OriginalID, got.OriginalTo, returned(got.Returned), row.returned)
		}
	}
}

// RFC 3834 section 5: auto-generated and auto-replied, with parameters and comments;
// "no" is a person's.
func TestReader_ReadIncoming_automatic(t *testing.T) {
	for header, want := range map[string]domain.IncomingKind{
		"Auto-Submitted: auto-replied":                        domain.IncomingAutomatic,
		"Auto-Submitted: auto-generated":                      domain.IncomingAutomatic,
		"auto-submitted: Auto-Replied; owner=x":               domain.IncomingAutomatic,
		"Auto-Submitted: no":                                  domain.IncomingAnswer,
		"Precedence: auto_reply":                              domain.IncomingAutomatic,
		"Precedence: bulk":                                    domain.IncomingAnswer,
		"X-Autoreply: yes":                                    domain.IncomingAutomatic,
		"X-Autorespond: no":                                   domain.IncomingAnswer,
		"Subject: Out of office: Your quote":                  domain.IncomingAutomatic,
		"Subject: =?utf-8?q?R=C3=A9ponse_automatique?= : oui": domain.IncomingAutomatic,
		"Subject: Re: Out of office hours":                    domain.IncomingAnswer,
		"Subject: I was out of office":                        domain.IncomingAnswer,
	} {
		if got := (mail.Reader{}).ReadIncoming(crlf("From: ada@quill.example\n" + header + "\n\nhello\n")); got.Kind != want {
			t.Errorf("%s: %s", header, got.Kind)
		}
	}
}

func TestReader_ReadIncoming_conversation(t *testing.T) {
	got := mail.Reader{}.ReadIncoming(crlf("From: \"Quill, Ada\" <ada@quill.example>\nMessage-ID: <b@quill.example>\nIn-Reply-To: <a@fernhollow.example> (your letter)\nReferences: <x@y.example>\n <a@fernhollow.example>\nSubject: Re: x\nContent-Type: text/html\n\n<p>Yes,<br>please</p>\n"))
	if got.FromName != "Quill, Ada" || got.FromEmail != "ada@quill.example" || got.MessageID != "b@quill.example" || fmt.Sprint(got.InReplyTo, got.References) != "[a@fernhollow.example] [x@y.example a@fernhollow.example]" || strings.TrimSpace(got.Text) != "Yes,\nplease" {
		t.Errorf("%+v", got)
	}
}

func TestReader_ReadFile(t *testing.T) {
	raw := crlf("From: ada@quill.example\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nhello\n--b\nContent-Type: application/pdf; name=a.pdf\nContent-Transfer-Encoding: base64\n\naGVsbG8=\n--b\n" +
		"Content-Type: text/plain\nContent-Disposition: attachment; filename=\"../b.txt\"\n\ntwo\n--b--\n")
	got := mail.Reader{}.ReadIncoming(raw)
	if len(got.Files) != 2 || strings.TrimSpace(got.Text) != "hello" {
		t.Fatalf("%+v", got)
	}
	for at, want := range map[int]string{0: "a.pdf hello true", 1: "../b.txt two true", 2: "  false", -1: "  false"} {
		f, bytes, ok := mail.Reader{}.ReadFile(raw, at)
		if said := fmt.Sprint(f.Name, " ", strings.TrimSpace(string(bytes)), " ", ok); said != want {
			t.Errorf("%d: %q, want %q", at, said, want)
		}
	}
}

// Whatever comes is read as well as it can be, and quickly.
func FuzzReader_ReadIncoming(f *testing.F) {
	for _, s := range []string{simpleDSN, manyDSN, abuseReport, "", "\r\n\r\n", "Content-Type: multipart/mixed; boundary=\r\n\r\n--\r\n"} {
		f.Add(crlf(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		if got := (mail.Reader{}).ReadIncoming(raw); got.Kind == "" || got.Files == nil {
			t.Errorf("%q: %+v", raw, got)
		}
	})
}
