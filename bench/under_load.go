package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"lucidletter/bench/work"
)

// besideImport reads alone and beside an import of 20,000 rows, in turn.
func besideImport() {
	const rows, turns = 20_000, 3
	ctx := context.Background()
	w, err := work.New(10_000)
	check(err)
	defer func() { check(w.Close()) }()
	asks := w.Asks()
	r := rand.New(rand.NewPCG(7, 8))
	read := func(list []time.Duration) []time.Duration {
		for _, i := range []int{0, 1, 5, 7} {
			took, err := w.Do(ctx, asks[i], r)
			check(err)
			list = append(list, took)
		}
		time.Sleep(5 * time.Millisecond)
		return list
	}
	var by []float64
	for turn := range turns {
		var alone, beside []time.Duration
		for len(alone) < 600 {
			alone = read(alone)
		}
		done := make(chan error, 1)
		go func() { done <- w.Import(ctx, rows+turn) }()
		for going := true; going; {
			select {
			case err := <-done:
				check(err)
				going = false
			default:
				beside = read(beside)
			}
		}
		slices.Sort(alone)
		slices.Sort(beside)
		a, b := work.At(alone, 0.99), work.At(beside, 0.99)
		fmt.Printf("  99th percentile of reads: %.1f ms alone, %.1f ms beside an import (%d answers)\n", a.Seconds()*1000, b.Seconds()*1000, len(beside))
		by = append(by, float64(b)/float64(a))
	}
	aim("reads-beside-import", median(by), "<=", 3)
}

// largeBySmall has 20 clients ask for pages of the people, of 1,000 and of 100,000, in turn.
func largeBySmall() {
	small, err := work.New(1000)
	check(err)
	large, err := work.New(100_000)
	check(err)
	defer func() { check(small.Close()); check(large.Close()) }()
	var by []float64
	for range 3 {
		var at [2]time.Duration
		for i, w := range []*work.Workspace{small, large} {
			times, err := w.Under(20, w.Asks()[0], 4*time.Second)
			check(err)
			at[i] = work.At(times, 0.95)
		}
		fmt.Printf("  95th percentile of a page of the list: %.0f ms of 1,000 people, %.0f ms of 100,000\n", at[0].Seconds()*1000, at[1].Seconds()*1000)
		by = append(by, float64(at[1])/float64(at[0]))
	}
	aim("load-100k-by-1k", median(by), "<=", 3)
}
