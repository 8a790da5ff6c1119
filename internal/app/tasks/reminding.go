package tasks

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// remindAtOnce is how many tasks one email lists at most.
const remindAtOnce = 50

// remindEvery is how often it is looked whether somebody is to be reminded.
const remindEvery = 15 * time.Second

// RunReminders reminds users of tasks by email until ctx ends. Failures are told to failed; it
// tries again after a while.
func (a *Service) RunReminders(ctx context.Context, failed func(error)) {
	work := func(ctx context.Context) (*time.Time, error) { return nil, a.Remind(ctx) }
	(&worker.Loop{Work: work, Now: a.now, Idle: remindEvery, Again: remindEvery, Failed: failed}).Run(ctx)
}

// remindAgain is after how long somebody is tried again whom no email could be sent to.
const remindAgain = 5 * time.Minute

// Remind sends each user who wishes it one email with the tasks that have become due. That they
// were reminded is noted before: a program that is killed meanwhile reminds nobody twice.
func (a *Service) Remind(ctx context.Context) error {
	if hold, err := a.store.OutboxHold(ctx); err != nil || hold.Why != "" {
		return err
	}
	now := a.now()
	but := []int64{}
	for user, last := range a.unreminded {
		if now.Sub(last) < remindAgain && !now.Before(last) {
			but = append(but, user)
		}
	}
	list, err := a.store.DueReminders(ctx, now, but, remindAtOnce)
	if err != nil {
		return err
	}
	var failed []error
	for len(list) > 0 {
		n := 1
		for n < len(list) && list[n].UserID == list[0].UserID {
			n++
		}
		user := list[0].UserID
		delete(a.unreminded, user)
		if err := worker.Guard(func() error { return a.remind(ctx, list[:n]) }); err != nil {
			a.unreminded[user] = now
			failed = append(failed, fmt.Errorf("remind user %d: %w", user, err))
		}
		list = list[n:]
	}
	return errors.Join(failed...)
}

func (a *Service) remind(ctx context.Context, tasks []domain.Task) error {
	u, err := a.store.User(ctx, tasks[0].UserID)
	if err != nil {
		return err
	}
	ids := make([]int64, len(tasks))
	for i := range tasks {
		ids[i] = tasks[i].ID
	}
	if err := a.store.SetReminded(ctx, ids, new(a.now())); err != nil {
		return err
	}
	if err := a.email.ToOneself(ctx, &u, a.reminder(&u, tasks)); err != nil {
		return errors.Join(err, a.store.SetReminded(ctx, ids, nil))
	}
	return nil
}

// reminder is the email about some tasks.
func (a *Service) reminder(u *domain.User, tasks []domain.Task) domain.Mail {
	zone, err := time.LoadLocation(u.TimeZone)
	if err != nil || u.TimeZone == "Local" {
		zone = time.UTC
	}
	subject := strings.Map(oneLine, tasks[0].Text)
	if len(tasks) > 1 {
		subject = fmt.Sprintf("%d tasks are due", len(tasks))
	}
	var text strings.Builder
	for i := range tasks {
		t := &tasks[i]
		fmt.Fprintf(&text, "%s\n", t.Text)
		if t.Person != "" {
			fmt.Fprintf(&text, "  %s\n", t.Person)
		}
		fmt.Fprintf(&text, "  due %s\n", t.DueAt.In(zone).Format("Monday, 2 January 2006, 15:04"))
		if t.PersonID != nil {
			fmt.Fprintf(&text, "  %s/people/%d\n", strings.TrimSuffix(a.compose.PublicURL(), "/"), *t.PersonID)
		}
		text.WriteString("\n")
	}
	fmt.Fprintf(&text, "All of today: %s/today\n", strings.TrimSuffix(a.compose.PublicURL(), "/"))
	return domain.Mail{
		FromName: u.Name(), FromEmail: u.Email, ToName: u.Name(), ToEmail: u.Email, Subject: "Task: " + subject, Text: text.String(),
		MessageID: a.newID() + "@" + domain.EmailDomain(u.Email), Date: a.now(),
	}
}

func oneLine(r rune) rune {
	if r < ' ' {
		return ' '
	}
	return r
}
