package walk

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/tasks"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
)

// sent draws a letter that went.
func (w *walker) sent() (domain.Letter, error) {
	l, err := w.b.Store.Letter(ctx, w.anyLetter())
	if err == nil && l.State != domain.Sent {
		err = domain.ErrNotFound
	}
	return l, err
}

func (w *walker) comes(to, headers, text string) error {
	raw := strings.ReplaceAll(headers+"\n\n"+text+"\n", "\n", "\r\n")
	return w.b.App.Inbox.TakeIn(ctx, "", []string{to}, []byte(raw))
}

func (w *walker) reply() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	from := w.pick(l.ToEmail, l.ToEmail, "elsewhere@stone.example")
	more := ""
	if w.r.IntN(4) == 0 {
		more = "Auto-Submitted: auto-replied\n"
	}
	return w.comes(l.FromEmail, fmt.Sprintf("From: %s\n%sSubject: Re: %s\nIn-Reply-To: <%s>\nMessage-ID: <r%d@stone.example>", from, more, l.SubjectLine, l.MessageID, w.r.IntN(1<<30)), "Yes, please.")
}

func (w *walker) bounce() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	return w.b.Store.PutBadAddress(ctx, domain.BadAddress{Key: field.EmailKey(l.ToEmail), Reason: "5.1.1 unknown", At: w.b.Now(), LetterID: &l.ID})
}

func (w *walker) unsubscribe() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	return w.b.App.Inbox.OptOutBy(ctx, l.Token)
}

func (w *walker) answer() error {
	var id int64
	if err := w.b.Store.DB().QueryRow(`SELECT coalesce(max(id), 0) FROM incoming`).Scan(&id); err != nil || id == 0 {
		return err
	}
	before := w.people
	l, err := w.b.App.Inbox.StartAnswer(ctx, w.user(), 1+w.r.Int64N(id), nil, w.r.IntN(2) == 0)
	if err != nil {
		return err
	}
	if w.drafts = append(w.drafts, l.ID); !slices.Contains(before, l.PersonID) {
		w.people = append(w.people, l.PersonID)
		w.called(l.PersonID, l.Person.FirstName)
	}
	return nil
}

func (w *walker) task() error {
	u := w.user()
	if id := w.one(w.tasks); id != 0 && w.r.IntN(2) == 0 {
		return w.b.App.Tasks.TaskDone(ctx, u, id, w.r.IntN(2) == 0)
	}
	person := w.one(w.people)
	t, err := w.b.App.Tasks.AddTask(ctx, u, tasks.TaskInput{Text: "Call them", DueAt: w.b.Now().Add(time.Duration(w.r.IntN(100)) * time.Hour), PersonID: &person})
	if err == nil {
		w.tasks = append(w.tasks, t.ID)
	}
	return err
}

func (w *walker) importPeople() error {
	first, second := w.name(), w.name()
	table, err := files.OpenCSV(strings.NewReader(fmt.Sprintf("First,Last,Email,City\n%s,Stone,%s@stone.example,York\n%s,Stone,other%d@stone.example,Hull", first, strings.ToLower(first), second, w.r.IntN(40))))
	if err != nil {
		return err
	}
	r, err := w.b.App.Transfer.ImportPeople(ctx, w.users[2], table, transfer.ImportOptions{SkipRefused: true})
	if err != nil || r.ID == 0 {
		return err
	}
	w.imports = append(w.imports, r.ID)
	rows, err := w.b.Store.DB().Query(`SELECT id, first_name FROM people WHERE first_name IN (?, ?)`, first, second)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var id int64
		var name string
		if err := rows.Scan(&id, &name); err != nil {
			return err
		}
		if w.called(id, name); !slices.Contains(w.people, id) {
			w.people = append(w.people, id)
		}
	}
	return rows.Err()
}

func (w *walker) undoImport() error {
	_, err := w.b.App.Transfer.TakeBack(ctx, w.users[2], w.one(w.imports))
	return err
}

func (w *walker) pass() error {
	w.b.Pass([]time.Duration{time.Millisecond, time.Second, 11 * time.Second, time.Hour, 26 * time.Hour, 9 * 24 * time.Hour, 40 * 24 * time.Hour}[w.r.IntN(7)] + time.Duration(w.r.IntN(999))*time.Millisecond)
	return nil
}

// kill ends the program while letters are in hand, and begins anew.
func (w *walker) kill() error {
	list, _, err := w.b.Store.Due(ctx, w.b.Now(), 5)
	if err != nil {
		return err
	}
	var ids []int64
	for _, l := range list {
		ids = append(ids, l.ID)
	}
	if len(ids) > 0 {
		if _, err := w.b.App.Outbound.Claim(ctx, ids); err != nil {
			return err
		}
	}
	return w.restart()
}
