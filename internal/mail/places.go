package mail

import (
	"bytes"
	"errors"
	"net"
	"sync"
	"time"
)

// Limits of the door: so many connections in all, and so many from one address; from
// this machine, where a proxy stands, all. A connection ends after mostCommands lines
// without a letter, and after wholeTime whatever it does. When all places are taken, who
// has brought no letter for the longest time goes for who comes.
const (
	mostPlaces   = 50
	mostFromOne  = 10
	mostCommands = 200
	wholeTime    = 10 * time.Minute
	slowLetter   = time.Minute // a letter that takes longer counts as none while places are short
)

// places are the connections of a door.
type places struct {
	net.Listener
	mu    sync.Mutex
	taken map[*place]struct{}
}

func newPlaces(l net.Listener) *places {
	return &places{Listener: l, taken: map[*place]struct{}{}}
}

// Accept waits for somebody who may come in.
func (l *places) Accept() (net.Conn, error) {
	for {
		c, err := l.Listener.Accept()
		if err != nil {
			return nil, err
		}
		p := &place{Conn: c, all: l, last: time.Now(), end: time.Now().Add(wholeTime)}
		if host, _, err := net.SplitHostPort(c.RemoteAddr().String()); err == nil {
			p.from = host
		}
		if idlest, ok := l.take(p); !ok {
			_ = c.Close() // nothing was said yet
			continue
		} else if idlest != nil {
			_ = idlest.Close() // it has brought nothing
		}
		return p, nil
	}
}

// take gives somebody a place, with who has to go for it; false when there is none.
func (l *places) take(p *place) (idlest *place, ok bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	same := 0
	for other := range l.taken {
		if other.from == p.from {
			same++
		}
		if (!other.busy || time.Since(other.last) > slowLetter) && (idlest == nil || other.last.Before(idlest.last)) {
			idlest = other
		}
	}
	local := net.ParseIP(p.from).IsLoopback()
	if same >= mostFromOne && !local || len(l.taken) >= mostPlaces && idlest == nil {
		return nil, false
	}
	l.taken[p] = struct{}{}
	if len(l.taken) <= mostPlaces {
		return nil, true
	}
	delete(l.taken, idlest)
	return idlest, true
}

// place is one connection.
type place struct {
	net.Conn
	all  *places
	from string
	end  time.Time // after which it is over
	// Under the lock of all: when a letter was brought last, whether one is being brought,
	// and the lines since.
	last  time.Time
	busy  bool
	lines int

	ending int   // how much of CR CR LF was read last
	wrong  error // a line that ended so: nothing is read any more
}

// errLineEnd is of a line that ends in CR CR LF, which RFC 5321 section 2.3.8 forbids: some would
// take it for the end of a line, and some would not.
var errLineEnd = errors.New("a line ends in CR CR LF")

var errNoProgress = errors.New("too many commands without a letter")

// Read reads what is said, as long as it leads to letters.
func (p *place) Read(b []byte) (int, error) {
	if p.wrong != nil {
		return 0, p.wrong
	}
	n, err := p.Conn.Read(b)
	for _, c := range b[:n] {
		switch {
		case c == '\r':
			p.ending = min(2, p.ending+1)
		case c == '\n' && p.ending == 2:
			p.wrong = errLineEnd
			return 0, p.wrong
		default:
			p.ending = 0
		}
	}
	p.all.mu.Lock()
	defer p.all.mu.Unlock()
	if p.lines += bytes.Count(b[:n], []byte("\n")); !p.busy && p.lines > mostCommands {
		return 0, errNoProgress
	}
	return n, err
}

// progress notes that a letter is being brought, or that it has been.
func (p *place) progress(bringing bool) {
	p.all.mu.Lock()
	defer p.all.mu.Unlock()
	if bringing || p.busy { // to begin anew is no progress
		p.busy, p.lines, p.last = bringing, 0, time.Now()
	}
}

// SetReadDeadline lets nobody wait beyond the end.
func (p *place) SetReadDeadline(t time.Time) error { return p.Conn.SetReadDeadline(p.within(t)) }

// SetDeadline does the same for both ways.
func (p *place) SetDeadline(t time.Time) error { return p.Conn.SetDeadline(p.within(t)) }

func (p *place) within(t time.Time) time.Time {
	if t.IsZero() || t.After(p.end) {
		return p.end
	}
	return t
}

// Close gives the place to others.
func (p *place) Close() error {
	p.all.mu.Lock()
	delete(p.all.taken, p)
	p.all.mu.Unlock()
	return p.Conn.Close()
}
