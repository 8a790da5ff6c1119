package plan

import (
	"testing"
	"time"
)

func TestNextTry(t *testing.T) {
	first := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	for _, spread := range []uint64{0, 17, 500, 999, 1 << 63} {
		now, before := first, time.Duration(0)
		tries := 1
		for ; ; tries++ {
			next, ok := NextTry(first, now, tries, spread)
			if !ok {
				break
			}
			pause := next.Sub(now)
			if pause <= 0 || next.After(first.Add(GiveUpAfter)) || next.Before(first.Add(GiveUpAfter)) && pause < before {
				t.Fatalf("spread %d, try %d: %s after %s", spread, tries, pause, before)
			}
			now, before = next, pause
			if tries > 100 {
				t.Fatal("no end")
			}
		}
		if !now.Equal(first.Add(GiveUpAfter)) || tries < 12 || tries > 20 {
			t.Errorf("spread %d: %d tries, the last at %s", spread, tries, now)
		}
	}
	for spread, want := range map[uint64]time.Duration{0: 48 * time.Second, 500: time.Minute, 999: 71976 * time.Millisecond} {
		if next, _ := NextTry(first, first, 1, spread); next.Sub(first) != want {
			t.Errorf("spread %d: %s, want %s", spread, next.Sub(first), want)
		}
	}
}
