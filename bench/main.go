// Command bench measures how fast the program is, side by side with other ways
// in one run. Both sides of a ratio run in turn, several times, and the median
// ratio counts. For every aim one line is printed:
//
//	aim <name>: <measured> (aim <bound>) ok
package main

import (
	"flag"
	"fmt"
	"os"
	"runtime/debug"
	"runtime/pprof"
	"slices"
	"strings"
	"testing"
)

// side is one way to do the same thing; it does it n times.
type side struct {
	name string
	run  func(n int)
}

const rounds = 7

// ratios times the sides in turn and gives, for each, the median of its time
// by the time of the first in the same round, and nanoseconds an operation.
func ratios(sides ...side) (ratio, nanos []float64) {
	times := make([][]float64, len(sides))
	for i, s := range sides {
		s.run(1) // warm
		times[i] = make([]float64, rounds)
	}
	for round := range rounds {
		for i, s := range sides {
			r := testing.Benchmark(func(b *testing.B) { s.run(b.N) })
			times[i][round] = float64(r.T.Nanoseconds()) / float64(r.N)
		}
	}
	for i := range sides {
		by := make([]float64, rounds)
		for round := range rounds {
			by[round] = times[i][round] / times[0][round]
		}
		ratio, nanos = append(ratio, median(by)), append(nanos, median(times[i]))
	}
	return ratio, nanos
}

func median(list []float64) float64 {
	sorted := slices.Sorted(slices.Values(list))
	return sorted[len(sorted)/2]
}

// allocs counts the allocations of one operation.
func allocs(run func()) float64 { return testing.AllocsPerRun(200, run) }

func table(title string, sides []side, ratio, nanos []float64) {
	fmt.Printf("\n%s\n", title)
	for i, s := range sides {
		fmt.Printf("  %-44s %12.0f ns  %8.2f\n", s.name, nanos[i], ratio[i])
	}
}

func aim(name string, measured float64, sign string, bound float64) {
	ok := measured <= bound
	if sign == ">=" {
		ok = measured >= bound
	}
	word := map[bool]string{true: "ok", false: "missed"}[ok]
	fmt.Printf("aim %s: %.2f (aim %s %.2f) %s\n", name, measured, sign, bound, word)
}

func main() {
	debug.SetGCPercent(400) // as the program does
	testing.Init()
	only := flag.String("only", "", "run the measures whose name holds this")
	profile := flag.String("cpuprofile", "", "write where the time goes to this file")
	flag.Parse()
	if *profile != "" {
		f := must(os.Create(*profile))
		check(pprof.StartCPUProfile(f))
		defer func() {
			pprof.StopCPUProfile()
			check(f.Close())
		}()
	}
	if err := flag.Set("test.benchtime", "60ms"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	for _, m := range []struct {
		name string
		run  func()
	}{{"merge-text", mergeText}, {"merge-html", mergeHTML}, {"merge-values", mergeValues}, {"formatted", formatted}, {"compose", compose}, {"reach", reach}, {"library", library}, {"sending", sending}, {"events", events}, {"history", history}, {"reads-beside-import", besideImport}, {"load-100k-by-1k", largeBySmall}, {"load-table", loadTable}, {"import", imports}, {"list", lists}, {"round", measureRounds}, {"plan", measurePlans}} {
		if strings.Contains(m.name, *only) {
			m.run()
		}
	}
}
