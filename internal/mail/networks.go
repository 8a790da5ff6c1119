package mail

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"syscall"
)

// Networks says where the servers of accounts may stand: anywhere on the internet, and in those
// parts of the own network that are listed. Whoever keeps accounts could else have this machine
// talk to what only it reaches. Nil is for tests: no address is refused.
type Networks []netip.Prefix

// ErrOwnNetwork is of an address of the own network that is not listed.
var ErrOwnNetwork = errors.New("this is an address of the program’s own network, where mail servers are not allowed")

// shared is the address space between providers and their customers (RFC 6598).
var shared = netip.MustParsePrefix("100.64.0.0/10")

// refused tells whether an address may not be connected to.
func (n Networks) refused(at netip.Addr) bool {
	at = at.Unmap().WithZone("")
	for _, p := range n {
		if p.Contains(at) {
			return false
		}
	}
	// RFC 6890: this machine, private use, link-local, several at once, none.
	return !at.IsGlobalUnicast() || at.IsPrivate() || at.IsLinkLocalUnicast() || shared.Contains(at) || at.Is4() && at.As4()[0] == 0
}

// dial connects to a server of an account. The address is looked at as it is connected to, so
// that a name cannot lead elsewhere in between.
func (n Networks) dial(ctx context.Context, addr string) (net.Conn, error) {
	dialer := net.Dialer{Timeout: connectTimeout}
	if n != nil {
		dialer.Control = func(_, address string, _ syscall.RawConn) error {
			at, err := netip.ParseAddrPort(address)
			if err != nil {
				return fmt.Errorf("address %s: %w", address, err)
			}
			if n.refused(at.Addr()) {
				return ErrOwnNetwork
			}
			return nil
		}
	}
	return dialer.DialContext(ctx, "tcp", addr)
}
