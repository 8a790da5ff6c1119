package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
	"testing"

	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// manyRows is a file of contacts, of whom the first has the given first name.
func manyRows(n int, first string) string {
	var csv strings.Builder
	csv.WriteString("First,Last,Email,Company,City\n")
	for i := range n {
		name := first
		if i > 0 {
			name = fmt.Sprint("Bo", i)
		}
		fmt.Fprintf(&csv, "%s,Quill,bo%d@quill.example,Firm %d,Harrowmere\n", name, i, i%7)
	}
	return csv.String()
}

// A long import is written in steps, and what was changed since the file was read stays:
// only filled cells are written, and nobody is added twice.
func TestImportPeople_inSteps(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	ada := b.Person(t, "Ada", "Quill", "bo0@quill.example")
	r, err := importCSV(t, b, manyRows(450, "Adah"), transfer.ImportOptions{Kind: "lead"})
	if err != nil || !r.Running || r.Done || r.ID == 0 || r.ToWrite != 450 || total(t, b) != 1 {
		t.Fatalf("%+v, %v; %d people", r, err, total(t, b))
	}
	p, err := b.Store.Person(ctx, ada)
	if err != nil {
		t.Fatal(err)
	}
	p.JobTitle = "Owner"
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	b.Person(t, "Bo1", "Quill", "bo1@quill.example") // by hand, meanwhile
	if err := b.App.Transfer.WriteImports(ctx); err != nil {
		t.Fatal(err)
	}
	if p, err = b.Store.Person(ctx, ada); err != nil || p.FirstName != "Adah" || p.JobTitle != "Owner" {
		t.Errorf("%+v, %v", p, err)
	}
	if r, err = b.App.Transfer.Import(ctx, b.Rep, r.ID); err != nil || !r.Done || r.Running || r.Created != 448 || r.Updated != 2 || r.Written != 450 || total(t, b) != 450 {
		t.Errorf("%+v, %v; %d people", r, err, total(t, b))
	}
	celia := otherRep(t, b)
	if _, err := b.App.Transfer.Import(ctx, celia, r.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another user's import: %v", err)
	}
	if _, err := b.App.Transfer.TakeBack(ctx, celia, r.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another user's import was taken back: %v", err)
	}
}

// A program that ends while it writes goes on with the next start, with no row lost and
// none written twice.
func TestWriteImports_ended(t *testing.T) {
	b := testbed.New(t)
	r, err := importCSV(t, b, manyRows(730, "Ada"), transfer.ImportOptions{Kind: "contact"})
	if err != nil {
		t.Fatal(err)
	}
	for steps := 1; ; steps++ { // each start is ended after two steps
		ctx := &endsAfter{Context: context.Background()}
		ctx.left.Store(2)
		err := b.App.Transfer.WriteImports(ctx)
		if err == nil {
			break
		}
		if !errors.Is(err, context.Canceled) || steps > 10 {
			t.Fatal(steps, err)
		}
	}
	if r, err = b.App.Transfer.Import(context.Background(), b.Rep, r.ID); err != nil || !r.Done || r.Created != 730 || total(t, b) != 730 {
		t.Errorf("%+v, %v; %d people", r, err, total(t, b))
	}
	if firms, err := b.Store.CompanyByName(context.Background(), "Firm 6"); err != nil || firms.ID == 0 {
		t.Error(firms, err)
	}
}

// endsAfter is over when it was asked some times.
type endsAfter struct {
	context.Context
	left atomic.Int64 // the database asks too
}

func (c *endsAfter) Err() error {
	if c.left.Add(-1) < 0 {
		return context.Canceled
	}
	return nil
}

// While a long import is read and written, nobody waits for the whole of it: whatever
// else is written goes between its steps.
func TestImportPeople_besideIt(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	if _, err := importCSV(t, b, manyRows(2000, "Ada"), transfer.ImportOptions{Kind: "lead"}); err != nil {
		t.Fatal(err)
	}
	done := make(chan error, 1)
	go func() { done <- b.App.Transfer.WriteImports(ctx) }()
	saves := 0
	for ended := false; !ended; {
		select {
		case err := <-done:
			if ended = true; err != nil {
				t.Error(err)
			}
		default:
			b.Person(t, "Cy", fmt.Sprint("Save", saves), fmt.Sprintf("cy%d@other.example", saves))
			saves++
		}
	}
	if saves < 3 {
		t.Errorf("%d saves went beside 2000 rows", saves)
	}
}
