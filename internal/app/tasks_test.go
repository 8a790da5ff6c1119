package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/tasks"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestTasks(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	late, err := b.App.Tasks.AddTask(ctx, b.Rep, tasks.TaskInput{Text: " Call  Ada\n", DueAt: b.Now().Add(48 * time.Hour), PersonID: &ada})
	if err != nil || late.Text != "Call Ada" || late.Person != "Ada Quill" {
		t.Fatalf("%+v %v", late, err)
	}
	soon, err := b.App.Tasks.AddTask(ctx, b.Rep, tasks.TaskInput{Text: "Look at the plans", DueAt: b.Now().Add(time.Hour)})
	if err != nil {
		t.Fatal(err)
	}
	texts := func(u domain.User, person int64) string {
		t.Helper()
		list, err := b.App.Tasks.Tasks(ctx, u, person)
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
	if err := b.App.Tasks.Snooze(ctx, b.Rep, soon.ID, b.Now().Add(72*time.Hour)); err != nil {
		t.Fatal(err)
	}
	if got := texts(b.Rep, 0); got != "Call Ada; Look at the plans; " {
		t.Errorf("%q", got)
	}
	if err := b.App.Tasks.TaskDone(ctx, b.Rep, late.ID, true); err != nil {
		t.Fatal(err)
	}
	if got := texts(b.Rep, 0); got != "Look at the plans; " {
		t.Errorf("%q", got)
	}
	if err := b.App.Tasks.TaskDone(ctx, b.Rep, late.ID, false); err != nil || texts(b.Rep, ada) != "Call Ada; " {
		t.Errorf("not brought back: %v", err)
	}
	nobody := int64(999)
	var bad *domain.InvalidError
	for name, in := range map[string]tasks.TaskInput{
		"no words": {Text: " ", DueAt: b.Now()}, "a day of long ago": {Text: "x", DueAt: b.Now().AddDate(-20, 0, 0)}, "no day": {Text: "x"},
	} {
		if _, err := b.App.Tasks.AddTask(ctx, b.Rep, in); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := b.App.Tasks.AddTask(ctx, b.Rep, tasks.TaskInput{Text: "x", DueAt: b.Now(), PersonID: &nobody}); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("about nobody: %v", err)
	}
	for name, err := range map[string]error{
		"somebody else's, done": b.App.Tasks.TaskDone(ctx, b.Lead, soon.ID, true), "somebody else's, put off": b.App.Tasks.Snooze(ctx, b.Lead, soon.ID, b.Now()),
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
	if _, err := b.App.Tasks.AddTask(ctx, b.Rep, tasks.TaskInput{Text: "Call Ada", DueAt: b.Now()}); err != nil {
		t.Fatal(err)
	}
	for _, token := range []string{"", "short"} {
		if _, _, _, err := b.App.Tasks.CalendarOf(ctx, token); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%q opens a calendar: %v", token, err)
		}
	}
	first, err := b.App.Tasks.CalendarToken(ctx, b.Rep, false)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := b.App.Tasks.CalendarToken(ctx, b.Rep, false); err != nil || again != first {
		t.Errorf("%q %v", again, err)
	}
	u, tasks, _, err := b.App.Tasks.CalendarOf(ctx, first)
	if err != nil || u.ID != b.Rep.ID || len(tasks) != 1 {
		t.Fatalf("%+v %v", tasks, err)
	}
	b.Pass(time.Minute)
	if other, err := b.App.Tasks.CalendarToken(ctx, b.Rep, true); err != nil || other == first {
		t.Errorf("%q %v", other, err)
	}
	if _, _, _, err := b.App.Tasks.CalendarOf(ctx, first); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("the old address still opens it: %v", err)
	}
}

// A user who wishes it gets one email with what has become due, and each task once.
func TestRemind(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Desk.SetProfile(ctx, b.Rep, desk.Profile{TaskMail: true, TimeZone: "Europe/Berlin"}); err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, text := range []string{"Call Ada", "Look at the plans"} {
		if _, err := b.App.Tasks.AddTask(ctx, b.Rep, tasks.TaskInput{Text: text, Kind: domain.TaskCall, DueAt: b.Now().Add(time.Hour), PersonID: &ada}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := b.App.Tasks.AddTask(ctx, b.Lead, tasks.TaskInput{Text: "Wants no email", DueAt: b.Now().Add(time.Hour)}); err != nil {
		t.Fatal(err)
	}
	reminders := func() (out []domain.PostLetter) {
		t.Helper()
		if err := b.App.Tasks.Remind(ctx); err != nil {
			t.Fatal(err)
		}
		for _, u := range []domain.User{b.Rep, b.Lead} {
			list, err := b.Store.PostLetters(ctx, u.Email, 10)
			if err != nil {
				t.Fatal(err)
			}
			out = append(out, list...)
		}
		return out
	}
	if got := reminders(); len(got) != 0 {
		t.Errorf("before they are due: %d", len(got))
	}
	b.Pass(2 * time.Hour)
	for range 2 {
		got := reminders()
		if len(got) != 1 || got[0].Subject != "Task: 2 tasks are due" {
			t.Fatalf("%d emails: %+v", len(got), got)
		}
		one, err := b.Store.PostLetter(ctx, got[0].ID)
		if err != nil || !strings.Contains(string(one.Bytes), "Monday, 2 March 2026, 11:30") || !strings.Contains(string(one.Bytes), "/people/") {
			t.Errorf("%s, %v", one.Bytes, err)
		}
	}
	list, err := b.App.Tasks.Tasks(ctx, b.Rep, 0)
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Tasks.Snooze(ctx, b.Rep, list[0].ID, b.Now().Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	b.Pass(2 * time.Hour)
	if got := reminders(); len(got) != 2 { // of the one that was put off, anew
		t.Errorf("%d emails in the end", len(got))
	}
	// A server that does not take it: it is tried again.
	if err := b.App.Tasks.Snooze(ctx, b.Rep, list[0].ID, b.Now().Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	b.Pass(2 * time.Hour)
	b.Send("127.0.0.1:1")
	if err := b.App.Tasks.Remind(ctx); err == nil {
		t.Error("a reminder went nowhere, and nothing is said")
	}
	b.Send(b.Post.Addr())
	if got := reminders(); len(got) != 3 {
		t.Errorf("%d emails after the server was back", len(got))
	}
}

// A letter can leave a task behind that stays whatever comes.
func TestReminder_whateverComes(t *testing.T) {
	for i, any := range []bool{false, true, false} {
		b := testbed.New(t)
		ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
		l := b.Letter(t, ada, b.Template(t, "T", "Hello", "Dear {{person.first_name}}"))
		at := b.Now().Add(72 * time.Hour)
		gone(t, b, l, desk.When{Remind: &at, Any: any})
		sent, err := b.Store.Letter(ctx, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		b.Pass(time.Minute)
		head := "From: ada@quill.example\nSubject: Re: Hello\nIn-Reply-To: <" + sent.MessageID + ">"
		if i == 2 { // a letter of their own is an answer too
			head = "From: ada@quill.example\nSubject: A question"
		}
		comes(t, b, "imre@fernhollow.example", head, "Yes.")
		list, err := b.App.Tasks.Tasks(ctx, b.Rep, ada)
		if err != nil || (len(list) == 1) != any {
			t.Errorf("whatever comes %v: %+v, %v", any, list, err)
		}
		if any && list[0].Text != "Follow up with Ada Quill on “Hello”" {
			t.Errorf("%q", list[0].Text)
		}
	}
}

// However many tasks come due, a screen hears of it once; what was due before it looked is old.
// Lists come in pages and say how many there are.
func TestTasks_dueAndInPages(t *testing.T) {
	b := testbed.New(t)
	add := func(n int, in time.Duration) {
		for i := range n {
			if _, err := b.Store.AddTask(ctx, domain.Task{UserID: b.Rep.ID, Text: fmt.Sprint("Task ", i), DueAt: b.Now().Add(in), CreatedAt: b.Now()}); err != nil {
				t.Fatal(err)
			}
		}
	}
	add(600, -time.Hour)
	first, err := b.App.Tasks.TasksDue(ctx, b.Rep, nil)
	if err != nil || first.Count != 0 || first.Last != nil || !first.Now.Equal(b.Now()) {
		t.Errorf("what is old: %+v, %v", first, err)
	}
	add(150, time.Hour)
	if due, err := b.App.Tasks.TasksDue(ctx, b.Rep, &first.Now); err != nil || due.Count != 0 || due.NextAt == nil || !due.NextAt.Equal(b.Now().Add(time.Hour)) {
		t.Errorf("before they are due: %+v, %v", due, err)
	}
	b.Pass(30 * 24 * time.Hour) // the clock is moved
	due, err := b.App.Tasks.TasksDue(ctx, b.Rep, &first.Now)
	if err != nil || due.Count != 150 || due.Last == nil || due.NextAt != nil {
		t.Errorf("due: %+v, %v", due, err)
	}
	if again, err := b.App.Tasks.TasksDue(ctx, b.Rep, &due.Now); err != nil || again.Count != 0 {
		t.Errorf("told again: %+v, %v", again, err)
	}
	later := b.Now().Add(time.Hour)
	if back, err := b.App.Tasks.TasksDue(ctx, b.Rep, &later); err != nil || back.Count != 0 || !back.Now.Equal(b.Now()) {
		t.Errorf("after the clock was set back: %+v, %v", back, err)
	}
	seen := map[int64]bool{}
	for offset := 0; ; {
		page, err := b.App.Tasks.TasksPage(ctx, b.Rep, 0, 500, offset)
		if err != nil || page.Total != 750 {
			t.Fatal(page.Total, err)
		}
		if len(page.Tasks) == 0 {
			break
		}
		for _, one := range page.Tasks {
			seen[one.ID] = true
		}
		offset += len(page.Tasks)
	}
	if len(seen) != 750 {
		t.Errorf("%d of 750", len(seen))
	}
}
