package outbox

import (
	"context"
	"sync"
	"sync/atomic"
	"time"

	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// accountQueue is the way of one account: letters are claimed a few ahead, and handed
// over one on each connection.
type accountQueue struct {
	queue     chan int64
	taken     chan outbound.Claimed
	taking    sync.WaitGroup
	size      int
	pace      pace
	perMinute atomic.Int64
	took      atomic.Int64 // how long the last hand-over took, in nanoseconds
}

// ahead is for how long letters are in hand before they are handed over: long enough to
// take several at once where the server is fast, and no more than one where it is slow.
const ahead = 100 * time.Millisecond

// most is how many letters of a queue are claimed at once.
const most = 32

// takers is how many claim letters: one does while those of the other are handed
// over.
const takers = 2

// give puts a letter into the queue of its account, if there is room.
func (w *Worker) give(ctx context.Context, acc *domain.Account, id int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if _, stands := w.claimed[id]; stands {
		w.claimed[id] = true
		return
	}
	l := w.byID[acc.ID]
	if l == nil || l.size != acc.Connections {
		if l != nil {
			close(l.queue) // the account takes another number now
		}
		l = &accountQueue{queue: make(chan int64, batch), taken: make(chan outbound.Claimed), size: acc.Connections}
		l.took.Store(int64(ahead))
		w.byID[acc.ID] = l
		for range takers {
			l.taking.Go(func() { w.take(ctx, l) })
		}
		w.queues.Go(func() { l.taking.Wait(); close(l.taken) })
		for range max(1, acc.Connections) {
			w.queues.Go(func() { w.hand(ctx, l) })
		}
	}
	l.perMinute.Store(int64(acc.PerMinute))
	select {
	case l.queue <- id:
		w.claimed[id] = false
	default: // the next round gives it
	}
}

// take claims the letters of a queue, at its pace, until ctx or the queue ends.
func (w *Worker) take(ctx context.Context, l *accountQueue) {
	for {
		select {
		case <-ctx.Done():
			return
		case id, open := <-l.queue:
			if !open {
				return
			}
			perMinute := l.perMinute.Load()
			if !l.pace.wait(ctx, perMinute) {
				return
			}
			ids := []int64{id}
			if perMinute == 0 {
				ids = gather(ids, l.queue, l.few())
			}
			w.computing <- struct{}{}
			var list []outbound.Claimed
			err := worker.Guard(func() (err error) {
				list, err = w.app.Outbound.Claim(ctx, ids)
				return err
			})
			<-w.computing
			if err != nil {
				w.failed("take letters in hand", err)
			}
			kept := map[int64]bool{}
			for _, h := range list {
				kept[h.ID()] = true
			}
			w.inHand(ids)
			for _, id := range ids {
				if !kept[id] {
					w.let(id)
				}
			}
			if len(l.queue) == 0 {
				w.Wake()
			}
			for _, h := range list {
				l.taken <- h
			}
		}
	}
}

// inHand says that letters were looked at: that they were due until now counts no more.
func (w *Worker) inHand(ids []int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for _, id := range ids {
		w.claimed[id] = false
	}
}

// few is how many letters are claimed at once.
func (l *accountQueue) few() int {
	n := int64(ahead) * int64(max(1, l.size)) / max(1, l.took.Load())
	return int(min(most, max(1, n)))
}

// gather takes letters from a queue that are there, until a list is full.
func gather(list []int64, from <-chan int64, most int) []int64 {
	for len(list) < most {
		select {
		case one, open := <-from:
			if !open {
				return list
			}
			list = append(list, one)
		default:
			return list
		}
	}
	return list
}

// hand hands letters over on one connection, until the queue ends. When ctx ends, those in
// hand are put back.
func (w *Worker) hand(ctx context.Context, l *accountQueue) {
	for h := range l.taken {
		began := time.Now()
		e, err := w.app.Outbound.HandOver(ctx, h)
		l.took.Store(int64(time.Since(began)))
		if err != nil {
			w.failed("hand letter over", err)
		}
		w.ended <- e
	}
}

// pace keeps letters apart.
type pace struct {
	mu   sync.Mutex
	next time.Time
}

// wait waits until the next letter may go; it tells false when ctx ended.
func (p *pace) wait(ctx context.Context, perMinute int64) bool {
	if perMinute == 0 {
		return ctx.Err() == nil
	}
	p.mu.Lock()
	now := time.Now()
	if p.next.Before(now) {
		p.next = now
	}
	pause := p.next.Sub(now)
	p.next = p.next.Add(time.Minute / time.Duration(perMinute))
	p.mu.Unlock()
	if pause <= 0 {
		return ctx.Err() == nil
	}
	timer := time.NewTimer(pause)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-timer.C:
		return true
	}
}
