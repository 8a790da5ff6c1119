package mail

import (
	"context"
	"errors"
	"net"
	"net/netip"
	"strconv"
	"testing"

	"lucidletter/internal/domain"
)

// Addresses that only this machine reaches are refused (RFC 6890; 169.254.169.254 is where clouds
// tell secrets: common practice, no source), unless they are listed.
func TestNetworks(t *testing.T) {
	n := Networks{netip.MustParsePrefix("10.1.0.0/16")}
	for at, refused := range map[string]bool{
		"127.0.0.1": true, "::1": true, "169.254.169.254": true, "fe80::1": true, "fe80::1%eth0": true, "10.0.0.5": true, "10.1.2.3": false, "172.16.0.1": true, "192.168.1.1": true,
		"fd00::1": true, "100.64.0.1": true, "0.0.0.0": true, "0.1.2.3": true, "::": true, "224.0.0.1": true, "ff02::1": true, "::ffff:127.0.0.1": true, "::ffff:10.1.0.1": false,
		"203.0.113.9": false, "2001:db8::1": false, "255.255.255.255": true,
	} {
		if got := n.refused(netip.MustParseAddr(at)); got != refused {
			t.Errorf("%s refused: %v", at, got)
		}
	}
}

// No connection is opened there, by no way: sending, testing, looking into the mailbox.
func TestNetworks_connect(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = l.Close() }()
	came := make(chan struct{}, 9)
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			came <- struct{}{}
			_ = c.Close()
		}
	}()
	_, port, err := net.SplitHostPort(l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	for _, host := range []string{"127.0.0.1", "localhost"} {
		login := domain.Login{Host: host, Port: number, Security: "none", Method: "none"}
		tr := &Transport{Networks: Networks{}}
		if _, err := tr.Send(ctx, domain.Account{ID: 1, Server: login}, "a@b.example", []string{"c@d.example"}, []byte("x")); err == nil {
			t.Error("sent")
		}
		if steps := tr.TestServer(ctx, login); steps[len(steps)-1].OK || steps[len(steps)-1].Said != ErrOwnNetwork.Error() {
			t.Errorf("%+v", steps)
		}
		if _, err := openMailbox(ctx, &login, nil, Networks{}); err == nil {
			t.Error("a mailbox was opened")
		}
		var failed *domain.SendError
		if _, err := tr.open(ctx, &login); !errors.As(err, &failed) || !failed.OfAccount() || !failed.Temporary {
			t.Errorf("%v", err)
		}
	}
	if len(came) > 0 {
		t.Errorf("%d connections came", len(came))
	}
}
