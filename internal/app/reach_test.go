package app_test

import (
	"context"
	"fmt"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Very many people are counted in steps, in the background; the count is kept, and begun anew
// when people change.
func TestReachOf_inSteps(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	err := b.Store.Within(ctx, func(ctx context.Context) error {
		for i := range 6000 {
			p := domain.Person{Kind: field.Lead, LastName: "Quill", Email: fmt.Sprintf("p%d@quill.example", i), CreatedAt: b.Now(), UpdatedAt: b.Now()}
			if i%3 > 0 {
				p.FirstName = "Bo"
			}
			if _, err := b.Store.AddPerson(ctx, p); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	template := b.Template(t, "T", "s", "Dear {{person.first_name}}")
	count := func() (r library.Reach, asked int) {
		t.Helper()
		for r.Running = true; r.Running && asked < 3000; asked++ {
			if r, err = b.App.Library.ReachOfTemplate(ctx, b.Rep, template); err != nil {
				t.Fatal(err)
			}
		}
		return r, asked
	}
	r, asked := count()
	if r.People != 6000 || r.Of != 6000 || r.Complete != 4000 || len(r.Missing) != 1 || r.Missing[0].Count != 2000 || len(r.WithGaps) != 20 || r.Hardest == nil {
		t.Errorf("%d times: %+v", asked, r)
	}
	if r, asked = count(); asked != 1 || r.Complete != 4000 {
		t.Errorf("kept: %d times, %+v", asked, r)
	}
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	if r, asked = count(); r.Complete != 4001 {
		t.Errorf("somebody more: %d times, %d", asked, r.Complete)
	}
	// Who goes away while it counts spoils nothing.
	gone, cancel := context.WithCancel(ctx)
	cancel()
	b.Person(t, "Cy", "Quill", "cy@quill.example")
	if _, err := b.App.Library.ReachOfTemplate(gone, b.Rep, template); err == nil {
		t.Error("counted for nobody")
	}
	if r, _ = count(); r.Complete != 4002 {
		t.Errorf("%+v", r)
	}
}
