package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"time"

	"lucidletter/bench/work"
)

// lists asks for the first page of the people in several ways, of 10,000 and of 1,000,000 in
// turn, and goes through the whole list by its pages.
func lists() {
	small, err := work.New(10_000)
	check(err)
	defer func() { check(small.Close()) }()
	large, err := work.New(1_000_000)
	check(err)
	defer func() { check(large.Close()) }()
	ctx := context.Background()
	r := rand.New(rand.NewPCG(3, 9))
	for _, one := range []struct{ name, query string }{
		{"people", ""}, {"leads", "kind=lead"}, {"filter", "where=" + url.QueryEscape("owner is me")}, {"one-letter", "q=p"}, {"two-letters", "q=pe"},
		{"word", "q=penrose"}, {"two-words", "q=ada+penrose"}, {"address", "q=" + url.QueryEscape("ada.26@quill1.example")}, {"by-last-letter", "sort=written&down=true"},
	} {
		a := work.Ask{Name: one.name, Method: http.MethodGet, Path: func(*rand.Rand) string { return "/api/people?limit=100&" + one.query }}
		times := map[*work.Workspace][]time.Duration{}
		for i := range 31 {
			for _, w := range []*work.Workspace{small, large} {
				took, err := w.Do(ctx, a, r)
				check(err)
				if i > 0 { // the first one warms
					times[w] = append(times[w], took)
				}
			}
		}
		slices.Sort(times[small])
		slices.Sort(times[large])
		s, l := work.At(times[small], 0.5), work.At(times[large], 0.5)
		fmt.Printf("  first page, %s: %.1f ms of 10,000, %.1f ms of 1,000,000\n", one.name, ms(s), ms(l))
		aim("list-"+one.name, float64(l)/float64(s), "<=", 2)
	}
	scroll(ctx, small, large, r)
}

// scroll goes through the list as somebody does who pulls the bar: it is counted once, and any
// page may be next.
func scroll(ctx context.Context, small, large *work.Workspace, r *rand.Rand) {
	var by []float64
	for _, sort := range []string{"", "written", "company.name"} {
		at := func(w *work.Workspace) float64 {
			count := work.Ask{Method: http.MethodGet, Path: func(*rand.Rand) string { return "/api/people/count" }}
			_, err := w.Do(ctx, count, r)
			check(err)
			a := work.Ask{Method: http.MethodGet, Path: func(r *rand.Rand) string {
				return fmt.Sprintf("/api/people?limit=100&sort=%s&offset=%d", sort, r.IntN(w.People/100)*100)
			}}
			var times []time.Duration
			for range 100 {
				took, err := w.Do(ctx, a, r)
				check(err)
				times = append(times, took)
			}
			slices.Sort(times)
			return ms(work.At(times, 0.95))
		}
		s, l := at(small), at(large)
		fmt.Printf("  any page, sorted by %q: 95 of 100 within %.1f ms of 10,000, %.1f ms of 1,000,000\n", sort, s, l)
		by = append(by, l)
	}
	aim("list-scroll-by-100-ms", slices.Max(by)/100, "<=", 1)
}

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }
