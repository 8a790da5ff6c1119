package web

import (
	"net"
	"net/netip"
	"sync"
)

// Limits of connections.
const (
	MostConnections = 2000 // in all
	MostFromOne     = 600  // from one address; an office goes out through one
)

// Limited closes connections beyond so many in all and from one address; trusted addresses
// (proxies) have as many as there are.
func Limited(l net.Listener, trusted []netip.Prefix) net.Listener {
	return &limited{Listener: l, trusted: trusted, from: map[string]int{}}
}

type limited struct {
	net.Listener
	trusted []netip.Prefix
	mu      sync.Mutex
	all     int
	from    map[string]int
}

func (l *limited) Accept() (net.Conn, error) {
	for {
		c, err := l.Listener.Accept()
		if err != nil {
			return nil, err
		}
		at, trusted := "", true
		if a, err := netip.ParseAddrPort(c.RemoteAddr().String()); err == nil {
			at, trusted = Network(a.Addr()), Within(l.trusted, a.Addr())
		}
		if l.enter(at, trusted) {
			return &limitedConn{Conn: c, leave: sync.OnceFunc(func() { l.leave(at) })}, nil
		}
		_ = c.Close()
	}
}

func (l *limited) enter(at string, trusted bool) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.all >= MostConnections || !trusted && l.from[at] >= MostFromOne {
		return false
	}
	l.all++
	l.from[at]++
	return true
}

func (l *limited) leave(at string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.all--
	if l.from[at]--; l.from[at] <= 0 {
		delete(l.from, at)
	}
}

type limitedConn struct {
	net.Conn
	leave func()
}

func (c *limitedConn) Close() error {
	c.leave()
	return c.Conn.Close()
}

// Network names the network of an address: of IPv6 the 64 bits of which one line has all.
func Network(at netip.Addr) string {
	if at = at.Unmap(); at.Is6() {
		if p, err := at.WithZone("").Prefix(64); err == nil {
			return p.String()
		}
	}
	return at.String()
}

// Within tells whether an address is in one of some networks.
func Within(list []netip.Prefix, at netip.Addr) bool {
	at = at.Unmap().WithZone("")
	for _, p := range list {
		if p.Contains(at) {
			return true
		}
	}
	return false
}
