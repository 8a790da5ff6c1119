package mail

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// TestServer goes the way to a mail server step by step, and says what to do where it
// ends. Nothing is sent.
func (t *Transport) TestServer(ctx context.Context, l domain.Login) []team.TestStep {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	steps, ok := t.reach(ctx, &l)
	if !ok {
		return steps
	}
	name := "Talk to the server"
	if l.Security != "none" {
		name = "Protect the connection"
	}
	line, err := t.open(ctx, &l)
	if err != nil {
		return append(steps, team.TestStep{Name: name, Said: wordsOf(err), Remedy: protectionRemedy(&l, err)})
	}
	defer func() { _ = line.Quit() }() // how the goodbye goes does not matter
	steps = append(steps, team.TestStep{Name: name, OK: true})
	if l.Method == "none" {
		return steps
	}
	if ways, _ := line.Extension("AUTH"); !ways {
		return append(steps, team.TestStep{Name: "Sign in", Said: "the server offers no signing in here", Remedy: "Choose another protection or port: most servers take passwords on 587 with STARTTLS or on 465 with TLS; or choose no login."})
	}
	if err := signIn(line.Client, &l); err != nil {
		return append(steps, team.TestStep{Name: "Sign in", Said: wordsOf(failed("sign in", err)), Remedy: signInRemedy(err)})
	}
	return append(steps, team.TestStep{Name: "Sign in", OK: true})
}

// reach looks the name up and connects.
func (t *Transport) reach(ctx context.Context, l *domain.Login) ([]team.TestStep, bool) {
	steps := []team.TestStep{}
	found, err := net.DefaultResolver.LookupHost(ctx, l.Host)
	if err != nil {
		return append(steps, team.TestStep{Name: "Find " + l.Host, Said: reason(err).Error(), Remedy: "Check the name of the server for a slip of the pen, and that this machine is on the network."}), false
	}
	steps = append(steps, team.TestStep{Name: "Find " + l.Host, OK: true, Said: strings.Join(found[:min(3, len(found))], ", ")})
	name := fmt.Sprintf("Reach port %d", l.Port)
	conn, err := t.Networks.dial(ctx, net.JoinHostPort(l.Host, strconv.Itoa(l.Port)))
	if errors.Is(err, ErrOwnNetwork) {
		return append(steps, team.TestStep{Name: name, Said: ErrOwnNetwork.Error(), Remedy: "Choose a server on the internet, or ask whoever runs this program to allow this network with --mail-network."}), false
	}
	if err != nil {
		return append(steps, team.TestStep{Name: name, Said: reason(err).Error(), Remedy: "Check the port, and that no firewall lies between: 587 and 465 are usual for sending, 993 for a mailbox."}), false
	}
	return append(steps, team.TestStep{Name: name, OK: true}), conn.Close() == nil
}

func wordsOf(err error) string {
	var out *domain.SendError
	if errors.As(err, &out) {
		return out.Answer
	}
	return reason(err).Error()
}

func protectionRemedy(l *domain.Login, err error) string {
	var bad *tls.CertificateVerificationError
	switch text := wordsOf(err); {
	case errors.As(err, &bad) || strings.Contains(text, "not to be trusted"):
		return "Write the name that stands in the certificate, or have the server’s keeper renew it. It is not accepted unchecked: whoever sits between could read the password."
	case l.Security == "starttls" && strings.Contains(text, "STARTTLS"):
		return "The server does not offer STARTTLS here: choose TLS with port 465."
	case l.Security == "tls":
		return "The server does not begin with TLS on this port: choose STARTTLS with port 587."
	}
	return "Check the port and the kind of protection."
}

func signInRemedy(err error) string {
	text := strings.ToLower(err.Error())
	switch {
	case strings.Contains(text, "unsupported") || strings.Contains(text, "not supported") || strings.Contains(text, "504"):
		return "The server does not know this way to sign in: choose another one."
	case strings.Contains(text, "535"):
		return "User or password are not right. Some providers want a password made for programs alone."
	}
	return "Check user, password and way to sign in."
}

// TestMailbox goes the way to a mailbox step by step.
func (t *Transport) TestMailbox(ctx context.Context, l domain.Login) []team.TestStep {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	steps, ok := t.reach(ctx, &l)
	if !ok {
		return steps
	}
	c, err := openMailbox(ctx, &l, t.Roots, t.Networks)
	if err != nil {
		return append(steps, team.TestStep{Name: "Protect the connection", Said: wordsOf(err), Remedy: protectionRemedy(&l, err)})
	}
	defer func() { _ = c.Close() }() // nothing is under way on it
	steps = append(steps, team.TestStep{Name: "Protect the connection", OK: true})
	if err := enterMailbox(c, &l); err != nil {
		return append(steps, team.TestStep{Name: "Sign in at the mailbox", Said: err.Error(), Remedy: signInRemedy(err)})
	}
	return append(steps, team.TestStep{Name: "Sign in at the mailbox", OK: true})
}
