// Command load measures a workspace under many clients: how long answers take, and what
// an import does to them. It prints the table of docs/operations.md.
//
//	cd bench && go run ./load -people 100000
package main

import (
	"context"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"runtime/debug"
	"runtime/pprof"
	"slices"
	"strings"
	"time"

	"lucidletter/bench/work"
)

func main() {
	people := flag.Int("people", 100_000, "how many people the workspace has")
	clients := flag.Int("clients", 20, "how many ask at once")
	each := flag.Duration("each", 5*time.Second, "how long each kind of question is asked")
	rows := flag.Int("import", 100_000, "how many rows are imported beside; 0 for none")
	only := flag.String("only", "", "ask only what holds this")
	cpu := flag.String("cpu", "", "write a profile of the processor to this file")
	flag.Parse()
	if *cpu != "" {
		f, err := os.Create(*cpu)
		if err == nil {
			err = pprof.StartCPUProfile(f)
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		defer pprof.StopCPUProfile()
	}
	debug.SetGCPercent(400) // as the program does
	debug.SetMemoryLimit(1 << 30)
	if err := run(*people, *clients, *each, *rows, *only); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(people, clients int, each time.Duration, rows int, only string) error {
	w, err := work.New(people)
	if err != nil {
		return err
	}
	fmt.Printf("%d people, %d clients, in ms\n\n| | p50 | p95 | answers |\n| --- | ---: | ---: | ---: |\n", people, clients)
	for _, a := range append(w.Asks(), w.Table()...) {
		if !strings.Contains(a.Name, only) {
			continue
		}
		times, err := w.Under(clients, a, each)
		if err != nil {
			return err
		}
		fmt.Printf("| %s | %s | %s | %d |\n", a.Name, ms(work.At(times, 0.5)), ms(work.At(times, 0.95)), len(times))
	}
	if rows > 0 {
		if err := beside(w, rows); err != nil {
			return err
		}
	}
	return w.Close()
}

func ms(d time.Duration) string { return fmt.Sprintf("%.0f", float64(d)/float64(time.Millisecond)) }

// beside reads and saves while an import goes on.
func beside(w *work.Workspace, rows int) error {
	ctx := context.Background()
	done := make(chan error, 1)
	began := time.Now()
	go func() { done <- w.Import(ctx, rows) }()
	r := rand.New(rand.NewPCG(5, 6))
	var reads, saves []time.Duration
	asks := w.Asks()
	for {
		select {
		case err := <-done:
			if err != nil {
				return err
			}
			slices.Sort(reads)
			slices.Sort(saves)
			fmt.Printf("\nbeside an import of %d rows (%.0f s), in ms\n\n| | p50 | p99 | most | answers |\n| --- | ---: | ---: | ---: | ---: |\n", rows, time.Since(began).Seconds())
			for name, list := range map[string][]time.Duration{"reads": reads, "saves": saves} {
				fmt.Printf("| %s | %s | %s | %s | %d |\n", name, ms(work.At(list, 0.5)), ms(work.At(list, 0.99)), ms(list[len(list)-1]), len(list))
			}
			return nil
		default:
		}
		for _, i := range []int{0, 5, 7, 8} {
			took, err := w.Do(ctx, asks[i], r)
			if err != nil {
				return err
			}
			reads = append(reads, took)
		}
		took, err := w.Save(ctx, r)
		if err != nil {
			return err
		}
		saves = append(saves, took)
		time.Sleep(20 * time.Millisecond)
	}
}
