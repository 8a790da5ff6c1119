package outbound

import (
	"context"
	"time"

	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// Due gives waiting letters whose time has come, the oldest first, and the time of the next
// one after them.
func (a *Service) Due(ctx context.Context, now time.Time, limit int) ([]domain.DueLetter, *time.Time, error) {
	list, next, err := a.store.Due(ctx, now, limit)
	if err != nil || len(list) > 0 || next == nil || next.Sub(now) < worker.ClockSlack {
		return list, next, err
	}
	// What was to go at once while the clock was ahead does not wait until it is there again.
	if back, err := a.store.PullBack(ctx, now, worker.ClockSlack); err != nil || back == 0 {
		return list, next, err
	}
	return a.store.Due(ctx, now, limit)
}

// Expired gives the letters that somebody has had in hand for too long.
func (a *Service) Expired(ctx context.Context, now time.Time) ([]int64, error) {
	return a.store.Expired(ctx, now)
}
