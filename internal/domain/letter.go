package domain

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/question"
)

// Address is a name and an email address in a header.
type Address struct {
	Name  string `json:"name"`
	Email string `json:"email"`
}

// Recipients is everybody that the server hands a letter to.
func (l *Letter) Recipients() []string {
	out := []string{l.ToEmail}
	for _, one := range l.Copies() {
		out = append(out, one.Email)
	}
	return out
}

// Copies is everybody who gets the letter beside the addressee.
func (l *Letter) Copies() []Address {
	return slices.Concat(l.Extras.AlsoTo, l.Extras.Cc, l.Extras.Bcc)
}

// WireSize is the bytes that the attachments take on their way: base64 in lines of
// 76 characters (RFC 2045 section 6.8), of which each carries 57 bytes.
func (l *Letter) WireSize() int {
	size := 0
	for _, f := range l.Extras.Attachments {
		size += (f.Size + 56) / 57 * 78
	}
	return size
}

// Change is what a change of state writes. Nil leaves a column as it is.
type Change struct {
	To         LetterState `json:"to"`
	Reason     string      `json:"reason,omitempty"`
	At         time.Time   `json:"-"` // when it is stored
	Due        *time.Time  `json:"due,omitempty"`
	HandedOver *time.Time  `json:"handedOver,omitempty"` // a try began then; it counts
	SentAt     *time.Time  `json:"sentAt,omitempty"`
	Lease      *time.Time  `json:"-"`             // until when a worker has it in hand; for Sending
	Queued     bool        `json:"-"`             // the writer sent it on its way, as they saw it
	Again      bool        `json:"-"`             // it is tried anew, as it was seen when it was sent on its way
	Bad        *BadAddress `json:"bad,omitempty"` // that the server knows no such address; its key is that of the letter
	Step       bool        `json:"-"`             // it is a step of its own, though the state stays
}

// Claim is what is stored of a letter that is claimed.
type Claim struct {
	Version          int    // of the wording that was composed
	MessageID, Token string // as they are composed
	Tracked          bool
	SubjectLine      string // as it goes: of a template with the day in it, that of the day
	AccountID        int64
	PerDay           int       // how many letters the account sends in a day; 0 is no limit
	Day              time.Time // when the day began
	At, Lease        time.Time
}

// ToColleagues makes it a letter within the team.
func (l *Letter) ToColleagues(to []Address) {
	l.Internal = true
	l.ToName, l.ToEmail, l.Extras.AlsoTo = to[0].Name, to[0].Email, to[1:]
	among := func(one Address) bool {
		return slices.ContainsFunc(to, func(t Address) bool { return field.EmailKey(t.Email) == field.EmailKey(one.Email) })
	}
	l.Extras.Cc, l.Extras.Bcc = slices.DeleteFunc(l.Extras.Cc, among), slices.DeleteFunc(l.Extras.Bcc, among)
}

// PutIn is a piece that was put into a letter, as it came.
type PutIn struct {
	Name       string            `json:"name"`
	Body       document.Document `json:"body"`
	TemplateID int64             `json:"template,omitempty"` // 0 a passage, or one that was put in before this was noted
	Version    int               `json:"version,omitempty"`
}

// Credit has a letter count for a template that is still in it, after a piece was
// taken out: the first one left, or none.
func (l *Letter) Credit(taken PutIn) {
	if l.TemplateID == nil || taken.TemplateID != *l.TemplateID || l.Extras.Begun {
		return
	}
	l.TemplateID, l.TemplateVersion = nil, nil
	for _, p := range l.Extras.Pieces {
		if p.TemplateID != 0 {
			l.TemplateID, l.TemplateVersion = &p.TemplateID, &p.Version
			return
		}
	}
}

// WordingStops is what of the words keeps a letter from going.
func (l *Letter) WordingStops() []document.Note {
	notes := append(letter.CheckLetter(l.Subject, l.Body), letter.CheckFixed(l.Fixed, l.Body)...)
	if l.Extras.Signature != nil && letter.IsBlank(l.Written()) {
		notes = append(notes, document.Note{
			Severity: document.Stops, Code: "empty", Part: document.Body, Line: 1, Column: 1, Message: "The letter contains only the signature; write something.",
		})
	}
	if l.Extras.TextPart != nil {
		notes = append(notes, letter.CheckTextPart(l.Subject, l.Body, *l.Extras.TextPart)...)
	}
	return append(notes, l.additionStops()...)
}

// Gaps is what is open in the letter.
func (l *Letter) Gaps() []document.Gap {
	if l.Extras.TextPart != nil {
		return document.Gaps(l.Subject, l.Body, *l.Extras.TextPart)
	}
	return document.Gaps(l.Subject, l.Body)
}

// Try names the next try of a letter.
func (l *Letter) Try() string { return fmt.Sprint(l.MessageID, " ", l.Attempts+1) }

// additionStops says what a writer added that the template does not let them.
func (l *Letter) additionStops() []document.Note {
	var notes []document.Note
	now := interchange.InventoryOf(l.Body)
	add := func(what string, n int) {
		if n > 0 {
			notes = append(notes, document.Note{
				Severity: document.Stops, Code: "added", Part: document.Body, Line: 1, Column: 1,
				Message: fmt.Sprintf("This template doesn’t allow writers to add %s; remove what was added (%d).", what, n),
			})
		}
	}
	for _, x := range l.Extras.MayNot {
		switch x {
		case AddLinks:
			add("links", now.Links-l.Extras.Had.Links)
		case AddPictures:
			add("pictures", now.Pictures-l.Extras.Had.Pictures)
		case AddFields:
			n := 0
			for _, path := range now.Fields {
				if !slices.Contains(l.Extras.Had.Fields, path) {
					n++
				}
			}
			add("fields", n)
		case AddAttachments:
			n := 0
			for _, f := range l.Extras.Attachments {
				if f.DocumentID == 0 {
					n++
				}
			}
			add("attachments", n)
		}
	}
	return notes
}

// FromAddress is an address that a user writes from, with its signature: a document
// with fields of the sender, of no content without one.
type FromAddress struct {
	ID        int64             `db:"id"` // 0 the user's own address, as it came
	UserID    int64             `db:"user_id"`
	Name      string            `db:"name"`
	Email     string            `db:"email"`
	Signature document.Document `db:"-"`
}

// Written is the body of a letter without its signature.
func (l *Letter) Written() document.Document {
	if l.Extras.Signature == nil {
		return l.Body
	}
	d, _, _ := letter.TakeOut(l.Body, *l.Extras.Signature, document.Document{})
	return d
}

// Line gives the address as a header has it (RFC 5322 section 3.4).
func (one *Address) Line() string {
	if strings.TrimSpace(one.Name) == "" {
		return one.Email
	}
	return one.Name + " <" + one.Email + ">"
}

// Asked is what a letter asks at one place, and the answers that came last, in the
// order of the questions. Token is in the address of its page: 128 random bits.
type Asked struct {
	ID         int64          `db:"id"`
	LetterID   int64          `db:"letter_id"`
	Token      string         `db:"token"`
	Sheet      question.Sheet `db:"-"`
	Answers    []string       `db:"-"`
	AnsweredAt *time.Time     `db:"answered_at"`
	CreatedAt  time.Time      `db:"created_at"`
}
