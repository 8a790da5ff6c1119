package app_test

import (
	"errors"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestTasks(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	late, err := b.App.Inbox.AddTask(ctx, b.Rep, inbox.TaskInput{Text: " Call  Ada\n", DueAt: b.Now().Add(48 * time.Hour), PersonID: &ada})
	if err != nil || late.Text != "Call Ada" || late.Person != "Ada Quill" {
		t.Fatalf("%+v %v", late, err)
	}
	soon, err := b.App.Inbox.AddTask(ctx, b.Rep, inbox.TaskInput{Text: "Look at the plans", DueAt: b.Now().Add(time.Hour)})
	if err != nil {
		t.Fatal(err)
	}
	texts := func(u domain.User, person int64) string {
		t.Helper()
		list, err := b.App.Inbox.Tasks(ctx, u, person)
		if err != nil {
			t.Fatal(err)
		}
		out := ""
		for _, x := range list {
			out += x.Text + "; "
		}
		return out
	}
	if got := texts(b.Rep, 0); got != "Look at the plans; Call Ada; " {
		t.Errorf("%q", got)
	}
	if got := texts(b.Rep, ada) + texts(b.Lead, 0); got != "Call Ada; " {
		t.Errorf("%q", got)
	}
	if err := b.App.Inbox.Snooze(ctx, b.Rep, soon.ID, b.Now().Add(72*time.Hour)); err != nil {
		t.Fatal(err)
	}
	if got := texts(b.Rep, 0); got != "Call Ada; Look at the plans; " {
		t.Errorf("%q", got)
	}
	if err := b.App.Inbox.TaskDone(ctx, b.Rep, late.ID, true); err != nil {
		t.Fatal(err)
	}
	if got := texts(b.Rep, 0); got != "Look at the plans; " {
		t.Errorf("%q", got)
	}
	if err := b.App.Inbox.TaskDone(ctx, b.Rep, late.ID, false); err != nil || texts(b.Rep, ada) != "Call Ada; " {
		t.Errorf("not brought back: %v", err)
	}
	nobody := int64(999)
	var bad *domain.InvalidError
	for name, in := range map[string]inbox.TaskInput{
		"no words": {Text: " ", DueAt: b.Now()}, "a day of long ago": {Text: "x", DueAt: b.Now().AddDate(-20, 0, 0)}, "no day": {Text: "x"},
	} {
		if _, err := b.App.Inbox.AddTask(ctx, b.Rep, in); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := b.App.Inbox.AddTask(ctx, b.Rep, inbox.TaskInput{Text: "x", DueAt: b.Now(), PersonID: &nobody}); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("about nobody: %v", err)
	}
	for name, err := range map[string]error{
		"somebody else's, done": b.App.Inbox.TaskDone(ctx, b.Lead, soon.ID, true), "somebody else's, put off": b.App.Inbox.Snooze(ctx, b.Lead, soon.ID, b.Now()),
	} {
		if !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestCalendar(t *testing.T) {
	b := testbed.New(t)
	b.App.Connect(func(p *app.Ports) {
		p.NewID = func() string { return "a-token-of-26-letters-at-" + b.Now().Format("150405") }
	})
	if _, err := b.App.Inbox.AddTask(ctx, b.Rep, inbox.TaskInput{Text: "Call Ada", DueAt: b.Now()}); err != nil {
		t.Fatal(err)
	}
	for _, token := range []string{"", "short"} {
		if _, _, _, err := b.App.Inbox.CalendarOf(ctx, token); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%q opens a calendar: %v", token, err)
		}
	}
	first, err := b.App.Inbox.CalendarToken(ctx, b.Rep, false)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := b.App.Inbox.CalendarToken(ctx, b.Rep, false); err != nil || again != first {
		t.Errorf("%q %v", again, err)
	}
	u, tasks, _, err := b.App.Inbox.CalendarOf(ctx, first)
	if err != nil || u.ID != b.Rep.ID || len(tasks) != 1 {
		t.Fatalf("%+v %v", tasks, err)
	}
	b.Pass(time.Minute)
	if other, err := b.App.Inbox.CalendarToken(ctx, b.Rep, true); err != nil || other == first {
		t.Errorf("%q %v", other, err)
	}
	if _, _, _, err := b.App.Inbox.CalendarOf(ctx, first); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("the old address still opens it: %v", err)
	}
}
