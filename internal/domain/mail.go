package domain

import (
	"strings"
	"time"
)

// Mail is what goes into one email. Text and HTML have LF line ends; HTML is ""
// when the letter is plain.
type Mail struct {
	FromName, FromEmail string
	ToName, ToEmail     string
	AlsoTo              []Address // in To, behind the addressee
	Cc                  []Address
	ReplyTo             string   // "" the sender
	OptOut              string   // where the recipient opts out, "" nowhere
	AutoSubmitted       string   // RFC 3834 section 5; "" a person wrote it
	InReplyTo           string   // the Message-ID that it answers, without angle brackets; "" none
	References          []string // those of the conversation, the oldest first
	Subject             string
	Text                string
	HTML                string
	MessageID           string // without the angle brackets
	Date                time.Time
	DKIM                *DKIMKey   // signs it; nil does not
	Pictures            []MailFile // that the HTML shows
	Attachments         []MailFile
}

// MailFile is a file within an email. ContentID names a picture in the HTML
// (cid:, RFC 2392), without angle brackets.
type MailFile struct {
	Name      string
	Type      string
	ContentID string
	Bytes     []byte
}

// Composer makes the bytes of an email, with CRLF line ends.
type Composer interface {
	Compose(m Mail) ([]byte, error)
}

// SendError says how sending failed.
type SendError struct {
	Stage     string // connect, sign in, sender, recipient, content
	Temporary bool   // trying again later may help
	Unsure    bool   // the content was handed over and no answer came
	Broken    bool   // the connection is no good any more
	Answer    string // what the server said, or why it was not reached
	Status    string // the enhanced code of RFC 3463 in it, such as 5.1.1, or ""
}

// The stages before a letter is spoken of: what goes wrong there is the account's trouble.
const (
	StageConnect = "connect"
	StageSignIn  = "sign in"
)

// OfAccount tells whether the account is in trouble, and not the letter.
func (e *SendError) OfAccount() bool { return e.Stage == StageConnect || e.Stage == StageSignIn }

func (e *SendError) Error() string { return e.Stage + ": " + e.Answer }

// MailReader reads an email.
type MailReader interface {
	Read(bytes []byte) (ReadMail, error)
	// ReadIncoming reads what came in as well as it can be read.
	ReadIncoming(bytes []byte) ReadIncoming
	// ReadFile gives one of the files of what came in; false when there is none.
	ReadFile(bytes []byte, at int) (MailPart, []byte, bool)
}

// EmailDomain gives what stands behind the @ of an address.
func EmailDomain(email string) string { return email[strings.LastIndexByte(email, '@')+1:] }
