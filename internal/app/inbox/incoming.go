package inbox

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"regexp"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/plan"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// ErrNotHere says that a letter is for nobody of this workspace.
var ErrNotHere = errors.New("nobody here has this address")

// tokenIn finds the token in an address that returned letters go to.
var tokenIn = regexp.MustCompile(`^[^@+]+\+([0-9A-Za-z]{1,64})@`)

// Takes tells whether a letter to an address is taken in: it is one that somebody
// writes from, or carries the token of a letter. Otherwise it is ErrNotHere.
func (a *Service) Takes(ctx context.Context, address string) error {
	if _, err := a.letterOfReturn(ctx, address); !errors.Is(err, domain.ErrNotFound) {
		return err
	}
	_, err := a.team.UserOf(ctx, address)
	if errors.Is(err, domain.ErrNotFound) {
		return ErrNotHere
	}
	return err
}

func (a *Service) letterOfReturn(ctx context.Context, address string) (domain.Letter, error) {
	m := tokenIn.FindStringSubmatch(address)
	if m == nil {
		return domain.Letter{}, domain.ErrNotFound
	}
	return a.store.LetterByToken(ctx, m[1])
}

// matchedWithin is how far back a letter may lie that something is matched to by its
// subject and sender alone.
const matchedWithin = 90 * 24 * time.Hour

// TakeIn takes a letter in that came for some addresses: it is read, matched to the
// letter it belongs to and filed. The same bytes are taken in once.
func (a *Service) TakeIn(ctx context.Context, from string, to []string, bytes []byte) error {
	return a.takeIn(ctx, from, to, bytes, false)
}

// TakeInFetched does the same for what lies in a mailbox, where private mail lies too:
// only what belongs to a letter, or is from somebody in a record, is taken in.
func (a *Service) TakeInFetched(ctx context.Context, to []string, bytes []byte) error {
	return a.takeIn(ctx, "", to, bytes, true)
}

func (a *Service) takeIn(ctx context.Context, from string, to []string, bytes []byte, knownOnly bool) error {
	m := a.readIncoming(bytes)
	if m.FromEmail == "" {
		m.FromEmail = from
	}
	sum := sha256.Sum256(bytes)
	in := domain.Incoming{
		Digest: hex.EncodeToString(sum[:]), Kind: m.Kind, FromName: m.FromName, FromEmail: m.FromEmail, ToEmail: strings.Join(to, ", "),
		Subject: m.Subject, Text: m.Text, MessageID: m.MessageID, References: strings.Join(conversation(m.References, m.InReplyTo), " "), At: a.now(),
	}
	l, err := a.match(ctx, &m, to, &in)
	if err != nil {
		return err
	}
	if err := a.whose(ctx, l, to, &in); err != nil {
		return err
	}
	if l == nil && in.Kind.Reports() { // it is filed for whom it came to, and says nothing of anybody
		in.Matched, in.PersonID, in.CompanyID = domain.Unmatched, nil, nil
	}
	if knownOnly && in.LetterID == nil && in.PersonID == nil {
		return nil
	}
	if in.Kind == domain.IncomingAutomatic {
		if day, ok := plan.BackOn(m.Subject+"\n"+m.Text, in.At); ok && proves(&in) {
			in.BackOn = day.Format(time.DateOnly)
		}
	}
	if in.Kind != domain.IncomingAnswer {
		in.ReadAt = &in.At // nobody needs to answer it
	}
	page := ""
	if worker.Guard(func() error { page = letter.CleanIncoming(m.HTML); return nil }) != nil {
		page = "" // its text is shown
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		id, err := a.store.AddIncoming(ctx, in, bytes)
		if err != nil || id == 0 {
			return err
		}
		in.ID = id
		if err := a.store.PutIncomingPage(ctx, id, page, letter.CleanedBy); err != nil {
			return err
		}
		return a.fileIncoming(ctx, &m, l, &in)
	})
}

// readIncoming reads a letter. One that the reader fails on is taken in as it came: who it is
// for can look at its source, and nobody sends it for ever.
func (a *Service) readIncoming(bytes []byte) (m domain.ReadIncoming) {
	err := worker.Guard(func() error { m = a.reader.ReadIncoming(bytes); return nil })
	if err != nil {
		m = domain.ReadIncoming{Kind: domain.IncomingAnswer}
		m.Subject, m.Text = "(a letter that could not be read)", "This letter could not be read. Its source is kept."
	}
	return m
}

// proves tells whether something that came in knows what only those know who got the letter:
// anybody can write a sender and a subject.
func proves(in *domain.Incoming) bool {
	return in.LetterID != nil && in.Matched != matchedSubject && in.Matched != matchedSender
}

// How a letter was found by what anybody could write.
const (
	matchedSubject = "subject"
	matchedSender  = "sender"
)

// conversation gives ids in their order, each once, at most as many as a header holds.
func conversation(references, more []string) []string {
	var out []string
	for _, id := range slices.Concat(references, more) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out[max(0, len(out)-50):]
}

// match finds the letter that something belongs to, or nil: by what it answers, by the
// conversation, by the address it came to, by the letter that is returned within, then
// by subject and sender. Reports and complaints, which bar addresses, are matched only by
// what is known to whoever got the letter: anybody can send them.
func (a *Service) match(ctx context.Context, m *domain.ReadIncoming, to []string, in *domain.Incoming) (*domain.Letter, error) {
	type step struct {
		how  string
		find func() (domain.Letter, error)
	}
	var steps []step
	for _, id := range m.InReplyTo {
		steps = append(steps, step{"reply", func() (domain.Letter, error) { return a.store.LetterByMessage(ctx, id) }})
	}
	for _, id := range slices.Backward(m.References) {
		steps = append(steps, step{"conversation", func() (domain.Letter, error) { return a.store.LetterByMessage(ctx, id) }})
	}
	for _, address := range to {
		steps = append(steps, step{"address", func() (domain.Letter, error) { return a.letterOfReturn(ctx, address) }})
	}
	steps = append(steps, step{"returned", func() (domain.Letter, error) { return a.store.LetterByMessage(ctx, m.OriginalID) }})
	since := in.At.Add(-matchedWithin)
	if answers := m.Kind == domain.IncomingAnswer || m.Kind == domain.IncomingAutomatic; answers && m.FromEmail != "" {
		if subject := letter.BareSubject(m.Subject); subject != "" {
			steps = append(steps, step{matchedSubject, func() (domain.Letter, error) { return a.store.LetterTo(ctx, m.FromEmail, subject, since) }})
		}
		if m.Kind == domain.IncomingAutomatic {
			// What a machine says has a subject of its own.
			steps = append(steps, step{matchedSender, func() (domain.Letter, error) { return a.store.LetterTo(ctx, m.FromEmail, "", since) }})
		}
	}
	for _, s := range steps {
		l, err := s.find()
		if err == nil {
			in.Matched = s.how
			return &l, nil
		}
		if !errors.Is(err, domain.ErrNotFound) {
			return nil, err
		}
	}
	return nil, nil
}

// whose says to which records and to which user an incoming letter belongs.
func (a *Service) whose(ctx context.Context, l *domain.Letter, to []string, in *domain.Incoming) error {
	if l != nil {
		in.LetterID, in.UserID, in.CompanyID, in.DealID = &l.ID, &l.SenderID, l.CompanyID, l.DealID
		if !l.Internal {
			in.PersonID = &l.PersonID
		}
		return nil
	}
	for _, address := range to {
		u, err := a.team.UserOf(ctx, address)
		if errors.Is(err, domain.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		in.UserID = &u.ID
		break
	}
	people, err := a.store.PeopleByEmail(ctx, field.EmailKey(in.FromEmail))
	if err != nil || len(people) == 0 || in.FromEmail == "" {
		return err
	}
	in.Matched = "person"
	in.PersonID, in.CompanyID = &people[0].ID, people[0].CompanyID
	return nil
}

// fileIncoming writes into the history what an incoming letter means, and marks
// addresses that are no good.
func (a *Service) fileIncoming(ctx context.Context, m *domain.ReadIncoming, l *domain.Letter, in *domain.Incoming) error {
	e := domain.Entry{
		PersonID: in.PersonID, CompanyID: in.CompanyID, DealID: in.DealID, LetterID: in.LetterID, IncomingID: &in.ID,
		Text: cmp.Or(m.Subject, "(no subject)"), At: in.At,
	}
	if l == nil && in.Kind.Reports() {
		e.Kind, e.Text = domain.EntryBounced, "A report that matches no letter sent from here; nothing was changed"
		return a.store.AddEntry(ctx, e)
	}
	switch in.Kind {
	case domain.IncomingAnswer:
		if e.Kind = domain.EntryReplied; l == nil {
			e.Kind = domain.EntryReceived
		}
	case domain.IncomingAutomatic:
		e.Kind = domain.EntryAway
		if in.BackOn != "" {
			e.Text = "Automatic reply: back on " + in.BackOn
		} else if _, says := plan.BackOn(m.Subject+"\n"+m.Text, in.At); says {
			e.Text = "Automatic reply with a day, but it names no letter from here: nothing is put off by it"
		}
	case domain.IncomingBounce, domain.IncomingDelay:
		e.Kind, e.Text = domain.EntryDelayed, returnedWords(m, l)
		if in.Kind == domain.IncomingBounce {
			e.Kind = domain.EntryBounced
		}
		for _, r := range m.Returned {
			email := r.Email
			if email == "" && l != nil && len(l.Recipients()) == 1 {
				email = l.ToEmail
			}
			if !r.Gone || !l.WentTo(email) {
				continue
			}
			if err := a.store.PutBadAddress(ctx, domain.BadAddress{Key: field.EmailKey(email), Reason: cmp.Or(r.Said, r.Status), At: in.At, LetterID: in.LetterID, ReportID: &in.ID}); err != nil {
				return err
			}
		}
	case domain.IncomingComplaint:
		e.Kind, e.Text = domain.EntryComplained, "Reported the letter as unwanted"
		email := m.OriginalTo
		if l != nil && !l.WentTo(email) {
			email = l.ToEmail
		}
		if l.WentTo(email) {
			if err := a.addOptOut(ctx, domain.OptOut{Email: email, Reason: "complained to the mail server about a letter", LetterID: in.LetterID, ReportID: &in.ID}); err != nil {
				return err
			}
		}
	}
	return a.store.AddEntry(ctx, e)
}

// returnedWords say what became of a letter.
func returnedWords(m *domain.ReadIncoming, l *domain.Letter) string {
	said := "The letter bounced"
	if m.Kind == domain.IncomingDelay {
		said = "The letter hasn’t arrived yet; the mail server keeps trying"
	}
	if len(m.Returned) == 0 {
		return said
	}
	r := m.Returned[0]
	if l != nil && r.Email != "" && field.EmailKey(r.Email) != field.EmailKey(l.ToEmail) {
		said += " from " + r.Email
	}
	if why := strings.TrimSpace(r.Status + " " + r.Said); why != "" {
		said += ": " + why
	}
	return said
}

// AddressWorks lets an address be written to again that letters came back from.
func (a *Service) AddressWorks(ctx context.Context, u domain.User, personID int64) error {
	return a.desk.NoteAddress(ctx, u, personID, "works again", func(ctx context.Context, key string) error {
		if b, err := a.store.Suppressions(ctx, key); err != nil || b[key].Bad == nil {
			return cmp.Or(err, domain.ErrNotFound)
		}
		return a.store.DeleteBadAddress(ctx, key, a.now())
	})
}
