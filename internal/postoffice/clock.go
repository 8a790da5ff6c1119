package postoffice

import (
	"sync/atomic"
	"time"
)

// Clock is a clock that can be moved on; it never goes back by itself.
type Clock struct{ ahead atomic.Int64 }

// Now is the time, moved on.
func (c *Clock) Now() time.Time { return time.Now().Add(time.Duration(c.ahead.Load())) }

// Ahead is how far it was moved on.
func (c *Clock) Ahead() time.Duration { return time.Duration(c.ahead.Load()) }

// To moves it on to a time; to one that has passed does nothing.
func (c *Clock) To(at time.Time) {
	if by := at.Sub(c.Now()); by > 0 {
		c.ahead.Add(int64(by))
	}
}
