package postoffice

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
	"golang.org/x/net/html"

	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// agent is how the recipients' programs name themselves.
const agent = "Mozilla/5.0 (X11; Linux x86_64) PostOffice/1.0"

// plan writes down what the recipient of a letter is going to do.
func (s *Server) plan(ctx context.Context, mailbox string, id int64, messageID string) error {
	character, err := s.CharacterOf(ctx, mailbox)
	if err != nil {
		return err
	}
	r := rand.New(rand.NewPCG(s.seed, sum(mailbox+" "+messageID)))
	for _, e := range errands(character.Key, r) {
		if err := s.store.AddScheduledJob(ctx, domain.ScheduledJob{PostLetterID: id, Kind: e.kind, DueAt: s.app.Now().UTC().Add(e.after)}); err != nil {
			return err
		}
	}
	return nil
}

// Run does what the recipients are going to do, when its time has come, until ctx ends.
func (s *Server) Run(ctx context.Context) {
	for ctx.Err() == nil {
		next, err := s.doDue(ctx)
		if err != nil && ctx.Err() == nil {
			s.log.Error("the post office stands still", "error", err)
			next = time.Minute
		}
		timer := time.NewTimer(min(next, time.Minute))
		select {
		case <-ctx.Done():
		case <-s.wake:
		case <-timer.C:
		}
		timer.Stop()
	}
}

// doDue does every errand that is due, and tells how long it is until the next.
func (s *Server) doDue(ctx context.Context) (time.Duration, error) {
	s.doing.Lock()
	defer s.doing.Unlock()
	for {
		e, err := s.store.NextScheduledJob(ctx)
		if errors.Is(err, domain.ErrNotFound) {
			return time.Minute, nil
		}
		if err != nil {
			return 0, err
		}
		now := s.app.Now()
		if wait := e.DueAt.Sub(now); wait > 0 {
			return wait, nil
		}
		outcome := "done"
		if err := worker.Guard(func() error { return s.do(ctx, e) }); err != nil {
			if ctx.Err() != nil {
				return 0, err
			}
			outcome = err.Error()
		}
		if err := s.store.ScheduledJobDone(ctx, e.ID, outcome, now.UTC()); err != nil {
			return 0, err
		}
	}
}

// Skip moves the clock on in steps, from one thing that is due to the next.
func (s *Server) Skip(ctx context.Context, by time.Duration) (time.Time, error) {
	if s.clock == nil {
		return time.Time{}, errors.New("this clock cannot be moved")
	}
	target := s.clock.Now().Add(by)
	for {
		if err := s.settled(ctx); err != nil {
			return time.Time{}, err
		}
		at := target
		if e, err := s.store.NextScheduledJob(ctx); err == nil && e.DueAt.Before(at) {
			at = e.DueAt
		} else if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return time.Time{}, err
		}
		_, due, err := s.store.Due(ctx, s.app.Now().UTC(), 1)
		if err != nil {
			return time.Time{}, err
		}
		step, err := s.store.NextStep(ctx, s.app.Now().UTC())
		if err != nil {
			return time.Time{}, err
		}
		for _, next := range []*time.Time{due, step} {
			if next != nil && next.Before(at) {
				at = *next
			}
		}
		s.clock.To(at)
		s.app.WakeAll()
		if err := s.settled(ctx); err != nil {
			return time.Time{}, err
		}
		if _, err := s.doDue(ctx); err != nil {
			return time.Time{}, err
		}
		if !at.Before(target) {
			return s.clock.Now(), s.store.SetPostClock(ctx, int64(s.clock.Ahead()/time.Second))
		}
	}
}

// settled waits until the outbox has dealt with what is due, two seconds at most.
func (s *Server) settled(ctx context.Context) error {
	for range 100 {
		busy, err := s.store.Busy(ctx, s.app.Now().UTC())
		if err != nil || !busy {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(20 * time.Millisecond):
		}
	}
	return nil
}

// do does one errand through the real channels: requests to the addresses in the
// letter, and mail to the door.
func (s *Server) do(ctx context.Context, e domain.ScheduledJob) error {
	l, err := s.store.PostLetter(ctx, e.PostLetterID)
	if err != nil {
		return err
	}
	m, err := s.reader.Read(l.Bytes)
	if err != nil {
		return fmt.Errorf("the letter cannot be read: %w", err)
	}
	pictures, links := s.addresses(m.HTML)
	switch e.Kind {
	case open:
		return s.fetchAll(ctx, pictures, agent)
	case fetch:
		return s.fetchAll(ctx, pictures, "Mozilla/5.0 (compatible) ImageProxy")
	case click:
		return s.fetchAll(ctx, links[:min(1, len(links))], agent)
	case clickAll:
		return s.fetchAll(ctx, slices.Concat(links, pictures), agent)
	case stopIt:
		return s.optOut(ctx, &m)
	case sendBack:
		return s.mail(ctx, "", l.Sender, returnedLetter(&l, &m, s.app.Now()))
	case complainOf:
		return s.mail(ctx, "", l.Sender, complaint(&l, &m, s.app.Now()))
	}
	return s.answer(ctx, &l, &m, e.Kind)
}

// addresses gives the pictures and links of a page that lead to this program: nothing
// else is there to be fetched.
func (s *Server) addresses(page string) (pictures, links []string) {
	z := html.NewTokenizer(strings.NewReader(page))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		t := z.Token()
		for _, a := range t.Attr {
			switch ours := s.ours(a.Val); {
			case ours && t.Data == "img" && a.Key == "src":
				pictures = append(pictures, a.Val)
			case ours && t.Data == "a" && a.Key == "href" && !strings.Contains(a.Val, "/out/"):
				links = append(links, a.Val)
			}
		}
	}
	return pictures, links
}

// ours tells whether an address leads to this program: to its own host and port, and not
// past them by a name before an @.
func (s *Server) ours(address string) bool {
	at, err := url.Parse(address)
	own, err2 := url.Parse(s.app.PublicURL())
	return err == nil && err2 == nil && own.Host != "" && at.Scheme == own.Scheme && at.Host == own.Host && at.User == nil && at.Opaque == ""
}

func (s *Server) fetchAll(ctx context.Context, list []string, as string) error {
	for _, address := range list {
		if err := s.request(ctx, http.MethodGet, address, "", as); err != nil {
			return err
		}
	}
	return nil
}

func (s *Server) request(ctx context.Context, method, address, body, as string) error {
	r, err := http.NewRequestWithContext(ctx, method, address, strings.NewReader(body))
	if err != nil {
		return err
	}
	r.Header.Set("User-Agent", as)
	if body != "" {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	answer, err := s.http.Do(r)
	if err != nil {
		return err
	}
	defer func() { _ = answer.Body.Close() }()
	if _, err := io.Copy(io.Discard, answer.Body); err != nil {
		return err
	}
	if answer.StatusCode >= http.StatusBadRequest {
		return fmt.Errorf("%s answered %s", address, answer.Status)
	}
	return nil
}

// optOut does what a mail program does at one press (RFC 8058 section 3.2), or follows
// the address by hand.
func (s *Server) optOut(ctx context.Context, m *domain.ReadMail) error {
	address := strings.Trim(header(m, "List-Unsubscribe"), "<> ")
	if !s.ours(address) {
		return errors.New("the letter says nowhere how to opt out")
	}
	return s.request(ctx, http.MethodPost, address, "List-Unsubscribe=One-Click", agent)
}

func header(m *domain.ReadMail, name string) string {
	for _, h := range m.Headers {
		if strings.EqualFold(h.Name, name) {
			return h.Value
		}
	}
	return ""
}

// mail hands a letter to the door of the program.
func (s *Server) mail(ctx context.Context, from, to string, content []byte) error {
	if s.door == "" {
		return errors.New("the program takes no mail in")
	}
	c, err := smtp.Dial(s.door)
	if err != nil {
		return err
	}
	defer func() { _ = c.Close() }() // Quit closed it, or the server did
	if err := c.Mail(from, nil); err != nil {
		return err
	}
	if err := c.Rcpt(to, nil); err != nil {
		return err
	}
	w, err := c.Data()
	if err != nil {
		return err
	}
	if _, err := w.Write(content); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	return errors.Join(ctx.Err(), c.Quit())
}
