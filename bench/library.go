package main

import (
	"context"
	"fmt"
	"os"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/markup"
	"lucidletter/internal/app"
	"lucidletter/internal/domain"
	"lucidletter/internal/store"
)

// library searches 5,000 templates in 40 folders beside 50 milliseconds.
func library() {
	ctx := context.Background()
	folder, err := os.MkdirTemp("", "lucid-bench-")
	check(err)
	defer func() { check(os.RemoveAll(folder)) }()
	s, err := store.Open(ctx, folder)
	check(err)
	defer func() { check(s.Close()) }()
	a := app.New(app.Ports{Store: s, Now: time.Now})
	u := domain.User{Email: "x@fernhollow.example", FirstName: "X", Role: access.Representative}
	u.ID, err = s.AddUser(ctx, u)
	check(err)
	words := strings.Fields("cold room florist bakery cheese laboratory kitchen quote visit panel door seal fan humid morning survey order winter price letter")
	check(s.Within(ctx, func(ctx context.Context) error {
		var folders []int64
		for i := range 40 {
			id, err := s.AddFolder(ctx, domain.Folder{Holds: "templates", Name: fmt.Sprint("Folder ", i), OwnerID: u.ID, CreatedAt: time.Now()})
			if err != nil {
				return err
			}
			folders = append(folders, id)
		}
		for i := range 5000 {
			var body strings.Builder
			for k := range 120 {
				body.WriteString(words[(i*7+k*k)%len(words)] + " ")
			}
			t := domain.Template{
				Name: fmt.Sprintf("%s %s %d", words[i%len(words)], words[i/20%len(words)], i), WhenToUse: words[i%7] + " or " + words[i%11], Subject: markup.Parse("For {{person.first_name}}"),
				Body: markup.Parse("Dear {{person.first_name|you}},\n\n" + body.String() + "\n"), State: domain.TemplateReady, OwnerID: u.ID, FolderID: &folders[i%len(folders)],
				Version: 1, CreatedAt: time.Now(), UpdatedAt: time.Now(), UpdatedBy: u.ID,
			}
			if _, err := s.AddTemplate(ctx, t); err != nil {
				return err
			}
		}
		return nil
	}))
	check(a.Library.ReadAhead(ctx))
	find := func(q domain.LibraryQuery) func(n int) {
		q.Limit = 100
		return func(n int) {
			for range n {
				page, err := a.Library.Library(ctx, u, q)
				check(err)
				if page.Total == 0 {
					check(fmt.Errorf("nothing was found by %+v", q))
				}
			}
		}
	}
	sides := []side{
		{"50 ms", func(n int) {
			for range n {
				time.Sleep(50 * time.Millisecond)
			}
		}},
		{"the whole library by name", find(domain.LibraryQuery{})},
		{"one letter", find(domain.LibraryQuery{Search: "c"})},
		{"two words, of which every template holds one", find(domain.LibraryQuery{Search: "bakery qu"})},
		{"for leads, most used first", find(domain.LibraryQuery{Kind: "lead", Sort: "used", Down: true})},
	}
	ratio, nanos := ratios(sides...)
	table("library of 5,000 templates", sides, ratio, nanos)
	slowest := 0.0
	for _, r := range ratio[1:] {
		slowest = max(slowest, r)
	}
	aim("library-by-50ms", slowest, "<=", 1)
}

func check(err error) {
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}
