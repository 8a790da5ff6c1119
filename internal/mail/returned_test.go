package mail_test

import (
	"encoding/base64"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"

	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
)

// The shapes in which mail programs return letters (common practice, no source), each
// made up for this test.
func TestReader_ReadIncoming_shapes(t *testing.T) {
	const bounce, delay, automatic, answer = domain.IncomingBounce, domain.IncomingDelay, domain.IncomingAutomatic, domain.IncomingAnswer
	for _, row := range []struct {
		name, raw string
		kind      domain.IncomingKind
		returned  string // address, status, gone
	}{
		{"a heading and an indented address", "From: Mail Delivery System <Mailer-Daemon@mx.example>\nX-Failed-Recipients: ada@quill.example\nAuto-Submitted: auto-replied\nSubject: Mail delivery failed: returning message to sender\nTo: nora@fernhollow.example\n\nThis message was created automatically by mail delivery software.\n\nA message that you sent could not be delivered to one or more of its\nrecipients. This is a permanent error. The following address(es) failed:\n\n  ada@quill.example\n    SMTP error from remote mail server after RCPT TO:<ada@quill.example>:\n    host mx.quill.example [192.0.2.5]: 550 5.1.1 no such user here\n\n------ This is a copy of the message, including all the headers. ------\n\nMessage-ID: <id1@fernhollow.example>\nFrom: nora@fernhollow.example\nTo: ada@quill.example\n", bounce, "ada@quill.example 5.1.1 true"},
		{"a dialogue", "From: MAILER-DAEMON@mx.example\nSubject: Returned mail: see transcript for details\nTo: nora@fernhollow.example\n\n   ----- The following addresses had permanent fatal errors -----\n<ada@quill.example>\n    (reason: 550 user unknown)\n\n   ----- Transcript of session follows -----\n... while talking to mx.quill.example.:\n>>> RCPT To:<ada@quill.example>\n<<< 550 user unknown\n", bounce, "ada@quill.example 5.0.0 true"},
		{"an address, a colon, an answer", "From: MAILER-DAEMON@mx.example\nSubject: failure notice\nTo: nora@fernhollow.example\n\nI'm afraid I wasn't able to deliver your message to the following addresses.\nThis is a permanent error; I've given up.\n\n<ada@quill.example>:\n192.0.2.5 does not like recipient.\nRemote host said: 550 sorry, no mailbox here by that name\nGiving up on 192.0.2.5.\n\n<bo@quill.example>:\nRemote host said: 552 mailbox is full\n", bounce, "ada@quill.example 5.0.0 true; bo@quill.example 5.0.0 false"},
		{"one line", "From: <>\nReturn-Path: <>\nSubject: Undeliverable: Your quote\n\nada@quill.example: host mx said: 554 5.7.1 message rejected as spam (in reply to end of DATA command)\n", bounce, "ada@quill.example 5.7.1 false"},
		{"spam with the code of an unknown address", "From: postmaster@mx.example\nSubject: Delivery Failure\n\nDelivery to <ada@quill.example> failed\n550 5.1.1 rejected, listed in a block list\n", bounce, "ada@quill.example 5.1.1 false"},
		{"a sender that nobody knows as a machine", "From: info@mx.example\nSubject: Undelivered mail\n\nCould not be delivered to the following recipients:\nada@quill.example\n550 mailbox unavailable\n", bounce, "ada@quill.example 5.0.0 true"},
		{"late", "From: MAILER-DAEMON@mx.example\nSubject: Delivery Status Notification (Delay)\n\nThis is a warning message only. You do not need to resend your message.\n\nDelivery to the following recipients has been delayed:\nada@quill.example\n421 4.4.2 connection dropped\n", delay, "ada@quill.example 4.4.2 false"},
		{"late and given up", "From: MAILER-DAEMON@mx.example\nSubject: Warning: could not send message for past 4 hours\n\n<ada@quill.example>: 550 5.1.1 user unknown\n", bounce, "ada@quill.example 5.1.1 true"},
		{"a report without its fields", "From: postmaster@mx.example\nSubject: Notice\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: text/plain\n\nYour letter did not reach ada@quill.example\n550 5.1.1 unknown recipient\n--b--\n", bounce, "ada@quill.example 5.1.1 true"},
		{"an action with more behind it", "From: postmaster@mx.example\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ada@quill.example\nAction: failed (5.1.1 user unknown)\nStatus: 5.1.1\n\n--b--\n", bounce, "ada@quill.example 5.1.1 true"},
		{"no action at all", "From: postmaster@mx.example\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ada@quill.example\nStatus: 5.2.2\n\n--b--\n", bounce, "ada@quill.example 5.2.2 false"},
		{"fields in the words", "From: MAILER-DAEMON@mx.example\nSubject: Undeliverable mail\n\nFinal-Recipient: rfc822;ada@quill.example\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 5.1.1 user unknown\n", bounce, "ada@quill.example 5.1.1 true"},
		{"only the letter that is returned", "From: MAILER-DAEMON@mx.example\nSubject: Hello\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nIt came back.\n--b\nContent-Type: message/rfc822\n\nMessage-ID: <id1@fernhollow.example>\nTo: ada@quill.example\n\nhi\n--b--\n", bounce, "  false"},
		{"a machine with nothing to tell", "From: MAILER-DAEMON@mx.example\nAuto-Submitted: auto-generated\nSubject: Your mail was received\n\nThank you.\n", automatic, ""},
		{"a person asks about it", "From: ada@quill.example\nSubject: Re: Undeliverable: Your quote\n\nYour letter came back to me as well: ada@quill.example 550 no such user. Please write to bo@quill.example.\n", answer, ""},
		{"a person speaks of delivery", "From: ada@quill.example\nSubject: Delivery failed to arrive\n\nThe cold room was not delivered on Tuesday. Call me on 555 1234.\n\nAda\n", answer, ""},
		{"a person quotes numbers", "From: ada@quill.example\nSubject: 550 guests\n\nWe expect 550 guests; ada@quill.example\n", answer, ""},
		{"away, in French", "From: ada@quill.example\nSubject: Absence du bureau\n\nJe suis absente.\n", automatic, ""},
		{"away, in Japanese", "From: ada@quill.example\nSubject: " + word(japanese.ISO2022JP, "ISO-2022-JP", "自動返信: 不在") + "\n\n\n", automatic, ""},
		{"de", "From: MAILER-DAEMON@mx.example\nSubject: Unzustellbar: Angebot\n\nFolgende Empfänger:\nada@quill.example\n550 5.1.1 Unbekannter Empfänger\n", bounce, "ada@quill.example 5.1.1 true"},
		{"fr", "From: postmaster@mx.example\nSubject: Non remis : votre devis\n\nada@quill.example\n550 5.1.1 adresse inconnue\n", bounce, "ada@quill.example 5.1.1 true"},
		{"es", "From: postmaster@mx.example\nSubject: No se puede entregar: oferta\n\nada@quill.example: 550 5.1.1 el usuario no existe\n", bounce, "ada@quill.example 5.1.1 true"},
		{"it", "From: postmaster@mx.example\nSubject: Mancato recapito\n\nada@quill.example: 550 5.1.1 utente sconosciuto\n", bounce, "ada@quill.example 5.1.1 true"},
		{"pt", "From: postmaster@mx.example\nSubject: " + word(charmap.ISO8859_1, "iso-8859-1", "Não entregue: proposta") + "\n\nada@quill.example: 550 5.1.1 x\n", bounce, "ada@quill.example 5.1.1 true"},
		{"nl", "From: postmaster@mx.example\nSubject: Onbestelbaar: offerte\n\nada@quill.example: 550 5.1.1 bestaat niet\n", bounce, "ada@quill.example 5.1.1 true"},
		{"sv", "From: postmaster@mx.example\nSubject: " + word(charmap.ISO8859_1, "iso-8859-1", "Olevererbart: offert") + "\n\nada@quill.example: 550 5.1.1 x\n", bounce, "ada@quill.example 5.1.1 true"},
		{"pl", "From: postmaster@mx.example\nSubject: " + word(charmap.ISO8859_2, "iso-8859-2", "Niedostarczone: oferta") + "\n\nada@quill.example: 550 5.1.1 x\n", bounce, "ada@quill.example 5.1.1 true"},
		{"ru in KOI8-R", "From: postmaster@mx.example\nSubject: " + word(charmap.KOI8R, "koi8-r", "Сообщение не доставлено") + "\nContent-Type: text/plain; charset=koi8-r\nContent-Transfer-Encoding: base64\n\n" + coded(charmap.KOI8R, "ada@quill.example: 550 Пользователь не существует") + "\n", bounce, "ada@quill.example 5.0.0 true"},
		{"zh in GB2312", "From: postmaster@mx.example\nSubject: " + word(simplifiedchinese.GBK, "gb2312", "系统退信") + "\nContent-Type: text/plain; charset=gb2312\nContent-Transfer-Encoding: base64\n\n" + coded(simplifiedchinese.GBK, "ada@quill.example\n550 用户不存在") + "\n", bounce, "ada@quill.example 5.0.0 true"},
		{"zh in Big5", "From: postmaster@mx.example\nSubject: " + word(traditionalchinese.Big5, "big5", "無法投遞") + "\n\nada@quill.example\n550 5.1.1 x\n", bounce, "ada@quill.example 5.1.1 true"},
		{"ja in Shift_JIS", "From: postmaster@mx.example\nSubject: " + word(japanese.ShiftJIS, "shift_jis", "配信不能") + "\nContent-Type: text/plain; charset=Shift_JIS\nContent-Transfer-Encoding: base64\n\n" + coded(japanese.ShiftJIS, "ada@quill.example\n550 宛先不明") + "\n", bounce, "ada@quill.example 5.0.0 true"},
		{"ko in EUC-KR", "From: postmaster@mx.example\nSubject: " + word(korean.EUCKR, "ks_c_5601-1987", "배달되지 않음") + "\n\nada@quill.example\n550 5.1.1 x\n", bounce, "ada@quill.example 5.1.1 true"},
		{"an action that is none", "From: MAILER-DAEMON@mx.example\nSubject: Status notification\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nada@quill.example: domain does not exist\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ada@quill.example\nAction: error\nStatus: 5.0.0\n--b--\n", bounce, "ada@quill.example 5.0.0 true"},
		{"nobody sent it", "From: \"Post\" <>\nSubject: A notice\n\nYour mail cannot be delivered to the following address(es):\n\n ada: out of space at 10.5.4.3.2\n", bounce, "  false"},
		{"a machine without an address to name", "From: MAILER-DAEMON@mx.example\nSubject: Processing\n\nThe following mail has been returned because it met an error.\n", bounce, "  false"},
		{"a gate gives the letter back", "From: gate@mx.example\nSubject: Mail delivery failed\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nYour mail could not be delivered. It is no valid user here.\n--b\nContent-Type: message/rfc822\n\nMessage-ID: <id1@fernhollow.example>\nTo: ada@quill.example\n\nhi\n--b--\n", bounce, "  false"},
		{"a person passes a letter on", "From: ada@quill.example\nSubject: Fwd: Mail delivery failed\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nMine could not be delivered. Was it you?\n--b\nContent-Type: message/rfc822\n\nMessage-ID: <id1@x.example>\nTo: bo@x.example\n\nhi\n--b--\n", answer, ""},
		{"away, said by a machine", "From: ada@quill.example\nSubject: AUTO: Quill, Ada is out of the office\n\nBack on Monday.\n", automatic, ""},
		{"away, between brackets", "From: ada@quill.example\nSubject: [Automatyczna odpowiedź] oferta\n\nNie ma mnie.\n", automatic, ""},
		{"who writes has to be let in", "From: ada@quill.example\nSubject: RE: Your quote\n\nThis mailbox is guarded. Please click on the\nfollowing link to have your address added to the owner's allowed\nlist: https://gate.example/1\n", automatic, ""},
		{"a person asks to be put on a list", "From: ada@quill.example\nSubject: RE: Your quote\n\nPlease click on our shop and have me added to the list of those who are told. Our buyers are on the approved vendors list.\n", answer, ""},
	} {
		got := mail.Reader{}.ReadIncoming(crlf(row.raw))
		var list []string
		for _, r := range got.Returned {
			list = append(list, fmt.Sprintf("%s %s %t", r.Email, r.Status, r.Gone))
		}
		if said := strings.Join(list, "; "); got.Kind != row.kind || said != row.returned {
			t.Errorf("%s: %s %q %q, want %s %q", row.name, got.Kind, said, got.Subject, row.kind, row.returned)
		}
	}
}

// Of collections of reports that others made, fewer than three in a hundred are taken for
// letters of people. LUCID_REPORTS names their files, such as "a/*.txt:b/*"; what was
// measured stands in docs/operations.md.
func TestReader_ReadIncoming_collections(t *testing.T) {
	where := os.Getenv("LUCID_REPORTS")
	if where == "" {
		t.Skip("LUCID_REPORTS names no collection")
	}
	kinds, all := map[domain.IncomingKind]int{}, 0
	for _, form := range filepath.SplitList(where) {
		files, err := filepath.Glob(form)
		if err != nil || len(files) == 0 {
			t.Fatalf("%s: no files, %v", form, err)
		}
		for _, file := range files {
			raw, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			got := mail.Reader{}.ReadIncoming(raw)
			if kinds[got.Kind]++; got.Kind == domain.IncomingAnswer {
				t.Logf("%s is taken for a letter: %s", filepath.Base(file), got.Subject)
			}
			all++
		}
	}
	t.Logf("%d files: %v", all, kinds)
	if kinds[domain.IncomingAnswer]*100 > 3*all {
		t.Errorf("%d of %d are taken for letters of people", kinds[domain.IncomingAnswer], all)
	}
}

// A report without a word for people shows what it says to machines.
func TestReader_ReadIncoming_bareReport(t *testing.T) {
	got := mail.Reader{}.ReadIncoming(crlf("From: MAILER-DAEMON@mx.example\nSubject: Undeliverable\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ada@quill.example\nAction: failed\nStatus: 5.1.1\n\n--b--\n"))
	if got.Kind != domain.IncomingBounce || !strings.Contains(got.Text, "Status: 5.1.1") {
		t.Errorf("%s %q", got.Kind, got.Text)
	}
}

// word is an encoded word (RFC 2047 section 2).
func word(e encoding.Encoding, name, text string) string {
	return "=?" + name + "?B?" + strings.ReplaceAll(coded(e, text), "\n", "") + "?="
}

func coded(e encoding.Encoding, text string) string {
	bytes, err := e.NewEncoder().String(text)
	if err != nil {
		panic(err)
	}
	return base64.StdEncoding.EncodeToString([]byte(bytes))
}

// Everything that can be read is shown in its order, or is a file.
func TestReader_ReadIncoming_parts(t *testing.T) {
	mixed := func(parts ...string) string {
		return "From: ada@quill.example\nSubject: Re: hello\nContent-Type: multipart/mixed; boundary=b\n\n--b\n" + strings.Join(parts, "\n--b\n") + "\n--b--\n"
	}
	for _, row := range []struct{ name, raw, text, files string }{
		{"two texts", mixed("Content-Type: text/plain\n\none", "Content-Type: text/plain\n\ntwo"), "one\n\ntwo", ""},
		{"a text and a page", mixed("Content-Type: text/plain\n\none", "Content-Type: text/html\n\n<p>two</p>"), "one\n\ntwo", ""},
		{"two pages", mixed("Content-Type: text/html\n\n<p>one</p>", "Content-Type: text/html\n\n<p>two</p>"), "one\n\ntwo", ""},
		{"a text with a name", mixed("Content-Type: text/plain\n\none", "Content-Type: text/plain; name=list.txt\nContent-Disposition: inline\n\ntwo"), "one\n\ntwo", "list.txt text/plain"},
		{"one way or the other", "From: ada@quill.example\nContent-Type: multipart/alternative; boundary=b\n\n--b\nContent-Type: text/plain\n\none\n--b\nContent-Type: text/html\n\n<p>one</p>\n--b--\n", "one", ""},
		{"a letter passed on", mixed("Content-Type: text/plain\n\nsee below", "Content-Type: message/rfc822\n\nMessage-ID: <other@x.example>\nSubject: Our offer\nTo: bo@x.example\n\nwords"), "see below", "Our offer.eml message/rfc822"},
		{"nothing but a letter passed on", mixed("Content-Type: message/rfc822\n\nFrom: bo@x.example\nSubject: Our offer\n\nwords"), "From: bo@x.example\nSubject: Our offer\n\nwords", "Our offer.eml message/rfc822"},
		{"nothing but a file of words", mixed("Content-Type: text/plain\nContent-Disposition: attachment; filename=a.txt\n\nwords"), "words", "a.txt text/plain"},
		{"no end", strings.TrimSuffix(mixed("Content-Type: text/plain\n\none", "Content-Type: text/plain\n\ntwo"), "\n--b--\n"), "one\n\ntwo", ""},
		{"another line between the parts", strings.Replace(mixed("Content-Type: text/plain\n\none", "Content-Type: text/plain\n\ntwo"), "boundary=b", "boundary=c", 1), "one\n\ntwo", ""},
		{"no line announced", strings.Replace(mixed("Content-Type: text/plain\n\none", "Content-Type: text/plain\n\ntwo"), "; boundary=b", "", 1), "one\n\ntwo", ""},
		{"in pieces, RFC 2231 section 3", strings.Replace(mixed("Content-Type: text/plain\n\none"), "boundary=b", "boundary*0=\"\"; boundary*1=b", 1), "one", ""},
		{"a type that is none", "From: ada@quill.example\nContent-Type: text\n\nwords\n", "words", ""},
		{"no type of a part", mixed("\none"), "one", ""},
		{"a coding that nobody knows", "From: ada@quill.example\nContent-Transfer-Encoding: x-own\n\nwords\n", "words", ""},
		{"no line below the header", "From: ada@quill.example\nSubject: x\nthese are words\nand more\n", "these are words\nand more", ""},
		{"a line of an archive first", "From ada@quill.example Mon\nFrom: ada@quill.example\n\nwords\n", "words", ""},
		{"words alone", "these are words\n", "these are words", ""},
	} {
		got := mail.Reader{}.ReadIncoming(crlf(row.raw))
		var files []string
		for _, f := range got.Files {
			files = append(files, f.Name+" "+f.Type)
		}
		if text := strings.TrimSpace(strings.ReplaceAll(got.Text, "\r\n", "\n")); text != row.text || strings.Join(files, ", ") != row.files || got.Kind != domain.IncomingAnswer || got.OriginalID != "" {
			t.Errorf("%s: %s %q, files %q %s", row.name, got.Kind, text, files, got.OriginalID)
		}
		if got.HTML != "" && row.name == "a text and a page" && !strings.Contains(got.HTML, "one") {
			t.Errorf("%s: the page shows only %q", row.name, got.HTML)
		}
	}
}
