package main

import (
	"context"
	"fmt"
	"time"

	"lucidletter/bench/work"
)

// loadTable has 20 people at once do each of eleven things on 100,000 people: in quiet, and beside
// an import of 60,000 and a round of 5,000. The aims are of the 95th percentile, as parts of 250 ms
// and of 500 ms.
func loadTable() {
	const clients, each = 20, 3 * time.Second
	w, err := work.New(100_000)
	check(err)
	defer func() { check(w.Close()) }()
	table := w.Table()
	check(w.Prime(context.Background())) // as the screen does that shows the list
	measure := func(name string, bound time.Duration) {
		person := time.Duration(0)
		for _, a := range table {
			times, err := w.Under(clients, a, each)
			check(err)
			at := work.At(times, 0.95)
			if a.Name == "person" {
				person = at
			}
			fmt.Printf("  %-8s %-8s p50 %4.0f ms, p95 %5.0f ms, %5.1f × a person's page, %d answers\n", name, a.Name, work.At(times, 0.5).Seconds()*1000, at.Seconds()*1000, float64(at)/float64(person), len(times))
			aim("load-"+name+"-"+a.Name, at.Seconds()/bound.Seconds(), "<=", 1)
		}
	}
	measure("quiet", 250*time.Millisecond)
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan error, 2)
	go func() { done <- w.Busy(ctx) }()
	measure("beside", 500*time.Millisecond)
	stop()
	check(<-done)
}
