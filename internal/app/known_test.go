package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// rewrite gives a template other words, stored by somebody.
func rewrite(t *testing.T, b *testbed.Bed, by domain.User, template int64, body string) {
	t.Helper()
	s, err := b.Store.Template(ctx, template)
	s.Body, s.UpdatedBy = markup.Parse(body), by.ID
	if err == nil {
		err = b.Store.UpdateTemplate(ctx, s)
	}
	if err != nil {
		t.Fatal(err)
	}
}

const changedWhy = "The template “First” was changed since you last looked"

// Words that somebody else changed since a plan was started go to nobody before its owner looked.
func TestPlan_waitsForWordsThatNobodyLookedAt(t *testing.T) {
	for what, c := range map[string]struct {
		do   func(t *testing.T, b *testbed.Bed, tpl int64)
		want string
	}{
		"a colleague's words": {func(t *testing.T, b *testbed.Bed, tpl int64) {
			rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
		}, "waiting (" + changedWhy + ")"},
		"one's own": {func(t *testing.T, b *testbed.Bed, tpl int64) {
			rewrite(t, b, b.Rep, tpl, "Dear {{person.first_name}}, other words.")
		}, "finished; letter 1 on 03-03 08:00"},
		"a colleague's, and one's own after it": {func(t *testing.T, b *testbed.Bed, tpl int64) {
			rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
			rewrite(t, b, b.Rep, tpl, "Dear {{person.first_name}}, mine.")
		}, "finished; letter 1 on 03-03 08:00"},
		"a passage": {func(t *testing.T, b *testbed.Bed, _ int64) {
			list, err := b.Store.Passages(ctx)
			if err != nil || len(list) != 1 {
				t.Fatal(list, err)
			}
			list[0].Body, list[0].UpdatedBy = markup.Parse("Other words."), b.Lead.ID
			if err := b.Store.UpdatePassage(ctx, list[0]); err != nil {
				t.Fatal(err)
			}
		}, "waiting (The passage “room” was changed since you last looked)"},
		"nothing": {func(*testing.T, *testbed.Bed, int64) {}, "finished; letter 1 on 03-03 08:00"},
	} {
		b := testbed.New(t)
		ada := inGermany(t, b, "Ada", "ada@quill.example")
		if _, err := b.Store.AddPassage(ctx, domain.Passage{Name: "Room", Shortcut: "room", Body: markup.Parse("A cold room."), OwnerID: b.Rep.ID, Version: 1, CreatedAt: b.Now(), UpdatedAt: b.Now(), UpdatedBy: b.Rep.ID}); err != nil {
			t.Fatal(err)
		}
		tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}. {{> room}}")
		p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false))
		id := startPlan(t, b, p.ID, ada)
		c.do(t, b, tpl)
		untilThen(t, b, "2026-03-06 12:00")
		same(t, what, run(t, b, id), c.want)
		if n, held := len(sentTo(t, b, ada)), strings.HasPrefix(c.want, "waiting"); held == (n > 0) {
			t.Errorf("%s: %d letters went", what, n)
		}
	}
}

// One look is enough for everybody: who was proofread, and who waits, and who comes later.
func TestPlan_oneLookIsEnough(t *testing.T) {
	b := testbed.New(t)
	ada, bo, cy := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bo", "bo@quill.example"), inGermany(t, b, "Cy", "cy@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false))
	runs := []int64{startPlan(t, b, p.ID, ada), startPlan(t, b, p.ID, bo), startPlan(t, b, p.ID, cy)}
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
	if s, err := b.App.Plans.Plan(ctx, b.Rep, p.ID); err != nil || s.News != changedWhy {
		t.Fatalf("news %q, %v", s.News, err)
	}
	if s, err := b.App.Plans.Plan(ctx, b.Lead, p.ID); err == nil && s.News != "" {
		t.Errorf("the colleague reads %q", s.News)
	}
	untilThen(t, b, "2026-03-06 12:00")
	for i, id := range runs {
		same(t, "before the look", run(t, b, id), "waiting ("+changedWhy+")")
		if i == 2 { // one of them is being written in
			r, err := b.Store.Run(ctx, id)
			if err != nil {
				t.Fatal(err)
			}
			s, err := b.App.Desk.Letter(ctx, b.Rep, *r.LetterID)
			if err != nil {
				t.Fatal(err)
			}
			s.Body = document.NewPlain("Dear Cy, words of my own.\n")
			if err := sendAs(b, s); err != nil {
				t.Fatal(err)
			}
		}
	}
	planWork(t, b)
	if s, err := b.App.Plans.Plan(ctx, b.Rep, p.ID); err != nil || s.News != "" {
		t.Errorf("after one was proofread the news is %q, %v", s.News, err)
	}
	if err := b.App.Plans.Looked(ctx, b.Rep, p.ID, seenOf(t, b, p.ID)); err != nil {
		t.Fatal(err)
	}
	untilThen(t, b, "2026-03-10 12:00")
	for i, person := range []int64{ada, bo, cy} {
		list := sentTo(t, b, person)
		want := "other words"
		if i == 2 {
			want = "words of my own"
		}
		if len(list) != 1 || !strings.Contains(markup.Print(list[0].Body), want) {
			t.Errorf("person %d has %d letters, the first %+v", i, len(list), list)
		}
	}
}

func TestOrder_waitsForWordsThatNobodyLookedAt(t *testing.T) {
	b := testbed.New(t)
	ada, bo := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bo", "bo@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}.")
	o := order(t, b, "Welcome", domain.OrderSaid{When: changes("person.city", "Kiel"), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &tpl}}})
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
	put(t, b, ada, "person.city", "Kiel")
	planWork(t, b)
	same(t, "held", log(t, b, o.ID), "Ada Quill waiting: “Hello” waits to be proofread: "+changedWhy+"\n")
	sheet, err := b.App.Orders.Order(ctx, b.Rep, o.ID)
	if err != nil || sheet.News != changedWhy {
		t.Errorf("news %q, %v", sheet.News, err)
	}
	if err := b.App.Orders.Looked(ctx, b.Rep, o.ID, "other words"); err == nil {
		t.Error("words were taken that nobody looked at")
	}
	if err := b.App.Orders.Looked(ctx, b.Rep, o.ID, sheet.Seen); err != nil {
		t.Fatal(err)
	}
	if s, err := b.App.Orders.Order(ctx, b.Rep, o.ID); err != nil || s.News != "" {
		t.Errorf("after the look the news is %q, %v", s.News, err)
	}
	put(t, b, bo, "person.city", "Kiel")
	planWork(t, b)
	if n := len(sentTo(t, b, bo)); n != 1 {
		t.Errorf("%d letters went after the look", n)
	}
	if n := len(sentTo(t, b, ada)); n != 0 {
		t.Errorf("%d letters went to who waits", n)
	}
}

// Who proofread a letter has seen the words that it was made of, and not those of after.
func TestPlan_proofreadIsWhatWasMade(t *testing.T) {
	b := testbed.New(t)
	ada, bo := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bo", "bo@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false))
	first := startPlan(t, b, p.ID, ada)
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
	untilThen(t, b, "2026-03-03 12:00")
	r, err := b.Store.Run(ctx, first)
	if err != nil || r.LetterID == nil {
		t.Fatal(r, err)
	}
	second := startPlan(t, b, p.ID, bo)
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, words that nobody saw.")
	s, err := b.App.Desk.Letter(ctx, b.Rep, *r.LetterID)
	if err == nil {
		err = sendAs(b, s)
	}
	if err != nil {
		t.Fatal(err)
	}
	untilThen(t, b, "2026-03-06 12:00")
	if list := sentTo(t, b, ada); len(list) != 1 || !strings.Contains(markup.Print(list[0].Body), "other words") {
		t.Errorf("%d letters went to who was proofread", len(list))
	}
	same(t, "the other", run(t, b, second), "waiting ("+changedWhy+")")
}

func seenOf(t *testing.T, b *testbed.Bed, plan int64) string {
	t.Helper()
	s, err := b.App.Plans.Plan(ctx, b.Rep, plan)
	if err != nil {
		t.Fatal(err)
	}
	return s.Seen
}

// A window in which an older wording stands takes no newer one.
func TestPlan_looksOnceMore(t *testing.T) {
	b := testbed.New(t)
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false))
	startPlan(t, b, p.ID, inGermany(t, b, "Ada", "ada@quill.example"))
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, other words.")
	seen := seenOf(t, b, p.ID)
	rewrite(t, b, b.Lead, tpl, "Dear {{person.first_name}}, words that nobody saw.")
	if err := b.App.Plans.Looked(ctx, b.Rep, p.ID, seen); err == nil || !strings.Contains(err.Error(), "once more") {
		t.Errorf("%v", err)
	}
	if err := b.App.Plans.Looked(ctx, b.Rep, p.ID, seenOf(t, b, p.ID)); err != nil {
		t.Error(err)
	}
}
