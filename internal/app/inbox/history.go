package inbox

import (
	"context"
	"errors"
	"slices"
	"time"

	"lucidletter/internal/domain"
)

// LedgerGroup is a conversation, or one thing that happened by itself. Its entries are
// the newest first, as groups are; opens and clicks are counted in Back instead and
// move nothing, unless nothing else of a conversation is in the window.
type LedgerGroup struct {
	Key      int64          `json:"key"`
	LetterID *int64         `json:"letterId,omitempty" doc:"The latest letter of a conversation"`
	Subject  string         `json:"subject" doc:"Of the conversation"`
	At       time.Time      `json:"at" doc:"Of the newest entry"`
	Entries  []domain.Entry `json:"entries"`
	Back     []domain.Back  `json:"back" doc:"Of the letters in it"`
}

// LedgerPage is a window of a history, the newest first. Next is where the one before
// begins, 0 at the end.
type LedgerPage struct {
	Groups []LedgerGroup `json:"groups"`
	Next   int           `json:"next"`
}

// ledgerWindow is how many entries are folded at a time.
const ledgerWindow = 150

// Ledger gives a window of a history with its conversations folded together.
func (a *Service) Ledger(ctx context.Context, u domain.User, q domain.HistoryQuery) (LedgerPage, error) {
	if q.PersonID == 0 && q.CompanyID == 0 && q.DealID == 0 {
		return LedgerPage{}, domain.Invalid("of", "is missing; say of which person, company or deal")
	}
	q.Offset, q.Limit = max(0, q.Offset), ledgerWindow
	list, err := a.store.History(ctx, q)
	if err != nil {
		return LedgerPage{}, err
	}
	for i := range list {
		list[i].ForPeople()
	}
	out := LedgerPage{Groups: fold(list, q.Only == "back")}
	if len(list) == q.Limit {
		out.Next = q.Offset + q.Limit
	}
	for i := range out.Groups {
		g := &out.Groups[i]
		letters := map[int64]bool{}
		for _, e := range list {
			if e.LetterID != nil && e.ThreadID != nil && *e.ThreadID == g.Key {
				letters[*e.LetterID] = true
			}
		}
		if g.Back, err = a.backIn(ctx, u, letters); err != nil {
			return out, err
		}
	}
	return out, nil
}

// backIn counts what came back of the letters that a user may see, in their order.
func (a *Service) backIn(ctx context.Context, u domain.User, ids map[int64]bool) ([]domain.Back, error) {
	out := []domain.Back{}
	var letters []*domain.Letter
	for id := range ids {
		l, err := a.desk.Seen(ctx, u, id)
		if errors.Is(err, domain.ErrNotFound) {
			continue
		}
		if err != nil {
			return out, err
		}
		letters = append(letters, &l)
	}
	all, err := a.desk.BackOfAll(ctx, letters)
	for _, b := range all {
		out = append(out, b)
	}
	slices.SortFunc(out, func(x, y domain.Back) int { return int(x.LetterID - y.LetterID) })
	return out, err
}

// visits are what is counted instead of listed.
var visits = []domain.EntryKind{domain.EntryOpened, domain.EntryClicked, domain.EntryDocument}

// fold puts entries, the newest first, together by their conversation.
func fold(list []domain.Entry, all bool) []LedgerGroup {
	out := []LedgerGroup{}
	at := map[int64]int{}
	told := map[int64]bool{} // conversations with something besides visits
	for _, e := range list {
		if e.ThreadID != nil && !slices.Contains(visits, e.Kind) {
			told[*e.ThreadID] = true
		}
	}
	for _, e := range list {
		if e.ThreadID == nil || all {
			out = append(out, LedgerGroup{Key: -e.ID, LetterID: e.LetterID, Subject: e.Subject, At: e.At, Entries: []domain.Entry{e}})
			continue
		}
		if told[*e.ThreadID] && slices.Contains(visits, e.Kind) {
			continue
		}
		i, there := at[*e.ThreadID]
		if !there {
			i = len(out)
			at[*e.ThreadID] = i
			out = append(out, LedgerGroup{Key: *e.ThreadID, LetterID: e.LetterID, Subject: e.Subject, At: e.At, Entries: []domain.Entry{}})
		}
		g := &out[i]
		if e.LetterID != nil && *e.LetterID > *g.LetterID {
			g.LetterID = e.LetterID
		}
		if !slices.Contains(visits, e.Kind) {
			g.Entries = append(g.Entries, e)
		}
	}
	return out
}

// News is what came back for a user since they looked, and how much waits for an answer.
type News struct {
	Last     int64            `json:"last" doc:"To be given back the next time"`
	Now      time.Time        `json:"now" doc:"On the program's clock, which may have been moved on"`
	Answers  int              `json:"answers" doc:"Replies that nobody has answered or marked as done"`
	CameBack []domain.NewsRow `json:"cameBack" doc:"The latest first"`
}

// News gives what came back for a user since an entry; a negative one only begins.
func (a *Service) News(ctx context.Context, u domain.User, after int64) (News, error) {
	rows, last, err := a.store.News(ctx, u.ID, after, 20)
	if err != nil {
		return News{}, err
	}
	open, err := a.store.CountIncoming(ctx, u.ID)
	return News{Last: last, Now: a.now(), Answers: open, CameBack: append([]domain.NewsRow{}, rows...)}, err
}

// newsDays is how long what came back stands on Today when nobody deals with it.
const newsDays = 30

// OpenNews gives what came back for a user besides replies, until they deal with it:
// bounces, absences, answered questions, complaints, opt-outs.
func (a *Service) OpenNews(ctx context.Context, u domain.User) ([]domain.NewsRow, error) {
	list, err := a.store.OpenNews(ctx, u.ID, a.now().AddDate(0, 0, -newsDays), 50)
	for i := range list {
		list[i].ForPeople()
	}
	return list, err
}

// RecentNews gives what the screen told of last, the latest first.
func (a *Service) RecentNews(ctx context.Context, u domain.User) ([]domain.NewsRow, error) {
	list, _, err := a.store.News(ctx, u.ID, 0, 50)
	for i := range list {
		list[i].ForPeople()
	}
	return append([]domain.NewsRow{}, list...), err
}

// SettleNews notes that the user dealt with something that came back, or did not.
func (a *Service) SettleNews(ctx context.Context, u domain.User, id int64, done bool) error {
	var at *time.Time
	if done {
		at = new(a.now())
	}
	return a.store.SettleNews(ctx, u.ID, id, at)
}

// EachMail gives what was written to and by a person, oldest first, one at a time.
func (a *Service) EachMail(ctx context.Context, u domain.User, personID int64, f func(*MailItem) error) error {
	if _, err := a.store.Person(ctx, personID); err != nil {
		return err
	}
	var all []domain.Entry
	for offset := 0; ; offset += 500 {
		list, err := a.store.History(ctx, domain.HistoryQuery{PersonID: personID, Only: "letters", Offset: offset, Limit: 500})
		if err != nil {
			return err
		}
		if all = append(all, list...); len(list) < 500 {
			break
		}
	}
	for i := len(all) - 1; i >= 0; i-- {
		item, err := a.mailItem(ctx, u, &all[i])
		if err == nil && item != nil {
			err = f(item)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// MailItem is one email as it went or came.
type MailItem struct {
	From  string
	At    time.Time
	Bytes []byte
}

func (a *Service) mailItem(ctx context.Context, u domain.User, e *domain.Entry) (*MailItem, error) {
	switch {
	case e.IncomingID != nil:
		in, err := a.incomingFor(ctx, u, *e.IncomingID)
		if err != nil {
			return nil, skipMissing(err)
		}
		bytes, err := a.store.IncomingBytes(ctx, in.ID)
		return &MailItem{in.FromEmail, in.At, bytes}, err
	case e.Kind == domain.EntrySent && e.LetterID != nil:
		l, err := a.desk.Seen(ctx, u, *e.LetterID)
		if err != nil {
			return nil, skipMissing(err)
		}
		bytes, err := a.store.Bytes(ctx, l.ID)
		return &MailItem{l.FromEmail, e.At, bytes}, err
	}
	return nil, nil
}

// skipMissing leaves out what the user may not see.
func skipMissing(err error) error {
	if errors.Is(err, domain.ErrNotFound) {
		return nil
	}
	return err
}
