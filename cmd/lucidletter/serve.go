package main

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"lucidletter/internal/app"
	"lucidletter/internal/demo"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/httpapi/guard"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
	"lucidletter/internal/postoffice"
	"lucidletter/internal/store"
	"lucidletter/internal/store/seal"
	"lucidletter/ui"
)

// options are the flags that commands share.
type options struct {
	data, addr, postAddr, smtp, public string
	door, lmtp, returnTo               string
	seed                               uint64
	proxies, networks                  []string
	patience                           time.Duration
	clock                              postoffice.Clock
}

func (o *options) serverFlags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&o.addr, "addr", env("LUCID_ADDR", "127.0.0.1:7070"), "address of the screens; port 0 takes any free one (LUCID_ADDR)")
	cmd.Flags().StringVar(&o.postAddr, "post-office", env("LUCID_POST_OFFICE", "127.0.0.1:7025"), "address of the post office; port 0 takes any free one (LUCID_POST_OFFICE)")
	cmd.Flags().StringVar(&o.public, "public-url", env("LUCID_PUBLIC_URL", ""), "where recipients reach the pages of this program, such as https://letters.fernhollow.example; the address of the screens when empty (LUCID_PUBLIC_URL)")
	cmd.Flags().StringVar(&o.door, "door", env("LUCID_DOOR", "127.0.0.1:7026"), "address at which mail is taken in over SMTP; port 0 takes any free one (LUCID_DOOR)")
	cmd.Flags().StringVar(&o.lmtp, "lmtp", env("LUCID_LMTP", ""), "address at which mail is taken in over LMTP; none when empty (LUCID_LMTP)")
	cmd.Flags().StringVar(&o.returnTo, "return-to", env("LUCID_RETURN_TO", ""), "address that mail servers return letters to, such as back@letters.fernhollow.example; the token of the letter goes into it behind a plus, and its mail must reach the door; the sender's own address when empty (LUCID_RETURN_TO)")
	cmd.Flags().StringSliceVar(&o.proxies, "trusted-proxy", listed("LUCID_TRUSTED_PROXY"), "addresses or networks, such as 10.0.0.5 or 10.0.0.0/24, of proxies whose X-Forwarded-For counts; this machine when empty (LUCID_TRUSTED_PROXY)")
	cmd.Flags().StringSliceVar(&o.networks, "mail-network", listed("LUCID_MAIL_NETWORK"), "addresses or parts of the own network, such as 10.0.0.0/24, where mail servers of accounts may stand; only those on the internet when empty (LUCID_MAIL_NETWORK)")
	patience, _ := time.ParseDuration(env("LUCID_PATIENCE", "2s"))
	cmd.Flags().DurationVar(&o.patience, "patience", patience, "for how long something is looked up before the program says that it takes too long; lists and counts have two and a half times as long (LUCID_PATIENCE)")
	cmd.Flags().StringVar(&o.smtp, "smtp", env("LUCID_SMTP", ""), "mail server to send through, host:port; the post office when empty (LUCID_SMTP)")
}

// checked are options that were read.
type checked struct {
	proxies  []netip.Prefix // whose word counts on where a request comes from
	networks mail.Networks  // of the own network, where mail servers of accounts may stand
}

// check reads options, and refuses those that say nothing.
func (o *options) check(sample bool) (out checked, err error) {
	if at, err := url.Parse(o.public); o.public != "" && (err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https") {
		return out, fmt.Errorf("--public-url: %q is no web address; write it like https://letters.fernhollow.example", o.public)
	}
	if o.patience <= 0 {
		return out, errors.New("--patience (LUCID_PATIENCE) is no time above 0; write it like 2s")
	}
	if out.proxies, err = networksOf("--trusted-proxy", o.proxies); err != nil {
		return out, err
	}
	if len(o.proxies) == 0 {
		out.proxies = guard.ThisMachine()
	}
	if out.networks, err = networksOf("--mail-network", o.networks); err != nil {
		return out, err
	}
	if sample { // everything that it shows is on this machine
		out.networks = append(out.networks, guard.ThisMachine()...)
	}
	return out, nil
}

// networksOf reads addresses and networks.
func networksOf(flag string, list []string) ([]netip.Prefix, error) {
	out := []netip.Prefix{}
	for _, text := range list {
		p, err := netip.ParsePrefix(text)
		if at, wrong := netip.ParseAddr(text); err != nil && wrong == nil {
			p, err = at.Prefix(at.BitLen())
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %q is no address and no network; write it like 10.0.0.5 or 10.0.0.0/24", flag, text)
		}
		out = append(out, p.Masked())
	}
	return out, nil
}

// listed reads a list in an environment variable.
func listed(name string) []string {
	return strings.FieldsFunc(env(name, ""), func(r rune) bool { return r == ',' || r == ' ' })
}

// open opens the data folder and makes the program on it.
func (o *options) open(ctx context.Context) (*app.App, *store.Store, error) {
	s, err := store.Open(ctx, o.data)
	if err != nil {
		return nil, nil, err
	}
	sealer, err := seal.Open(o.data)
	if err != nil {
		return nil, nil, errors.Join(err, s.Close())
	}
	a := app.New(app.Ports{
		Sealer: sealer,
		Store:  s, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: o.clock.Now, NewID: rand.Text,
	})
	return a, s, nil
}

func serveCommand(o *options) *cobra.Command {
	cmd := &cobra.Command{
		Use: "serve", Short: "Run the program on a data folder", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serve(cmd.Context(), o, cmd.OutOrStdout(), false) },
	}
	o.serverFlags(cmd)
	return cmd
}

func demoCommand(o *options) *cobra.Command {
	cmd := &cobra.Command{
		Use: "demo", Short: "Run the program with the sample workspace, made when the data folder is empty", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serve(cmd.Context(), o, cmd.OutOrStdout(), true) },
	}
	o.serverFlags(cmd)
	cmd.Flags().Uint64Var(&o.seed, "seed", 7, "draws how the recipients of the post office behave; 0 makes everybody quiet")
	return cmd
}

func serve(ctx context.Context, o *options, out io.Writer, sample bool) (err error) {
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	checked, err := o.check(sample)
	if err != nil {
		return err
	}
	unlock, err := lock(o.data)
	if err != nil {
		return err
	}
	defer unlock()
	a, s, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	journal, err := store.OpenJournal(o.data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, journal.Close()) }()
	a.Connect(func(p *app.Ports) { p.Journal = journal })
	users, err := s.CountUsers(ctx)
	if err != nil {
		return err
	}
	if users > 0 {
		journal.Expected()
	}
	if sample && users == 0 {
		if err := demo.Load(ctx, demo.World{App: a, Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}}); err != nil {
			return err
		}
	}
	door, closeDoors, err := openDoors(o, a, log)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, closeDoors()) }()
	accounts, err := s.Accounts(ctx)
	if err != nil {
		return err
	}
	if o.smtp == "" && len(accounts) == 0 { // letters to the world go at the world's time
		ahead, err := s.PostClock(ctx)
		if err != nil {
			return err
		}
		o.clock.To(time.Now().Add(time.Duration(ahead) * time.Second))
	}
	post, err := postoffice.Listen(o.postAddr, a, postoffice.Options{Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}, Seed: o.seed, Door: door.Addr(), Clock: &o.clock, Log: log})
	if err != nil {
		return fmt.Errorf("%w; choose another address with --post-office", err)
	}
	defer func() { err = errors.Join(err, post.Close()) }()
	transport := &mail.Transport{Addr: cmp.Or(o.smtp, post.Addr()), Local: "lucidletter.example", Networks: checked.networks}
	defer transport.Close()
	front, err := ui.Files()
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", o.addr)
	if err != nil {
		return fmt.Errorf("open the screens: %w; choose another address with --addr", err)
	}
	a.Connect(func(p *app.Ports) {
		p.Failed = func(err error) { log.Error("set aside", "error", err) }
		p.Transport, p.Tester, p.ReturnTo = transport, transport, o.returnTo
		if o.smtp == "" {
			p.World, p.ReturnTo = post, cmp.Or(o.returnTo, "back@letters.fernhollow.example")
		}
		p.PublicURL = cmp.Or(o.public, "http://"+reachable(listener.Addr()))
	})
	if err := a.Library.ReadAhead(ctx); err != nil {
		return err
	}
	announce(out, listener.Addr(), door.Addr(), post.Addr(), sample, users)
	poller := &mail.Poller{App: a, Log: log, Networks: checked.networks}
	return run(ctx, o.data, a, post, web.Limited(listener, checked.proxies), o.server(a, s, front, checked.proxies, log), poller, log)
}

// server is the handler of the screens.
func (o *options) server(a *app.App, s *store.Store, front fs.FS, proxies []netip.Prefix, log *slog.Logger) *httpapi.Server {
	h := httpapi.New(a, s, front, log)
	h.Patience, h.Proxies = o.patience, proxies
	return h
}

// openDoors opens where mail comes in: over SMTP, and over LMTP when that is wished.
func openDoors(o *options, a *app.App, log *slog.Logger) (door *mail.Inbound, closeAll func() error, err error) {
	if door, err = mail.OpenInbound(o.door, false, a, log); err != nil {
		return nil, nil, fmt.Errorf("%w; choose another address with --door", err)
	}
	if o.lmtp == "" {
		return door, door.Close, nil
	}
	side, err := mail.OpenInbound(o.lmtp, true, a, log)
	if err != nil {
		return nil, nil, errors.Join(fmt.Errorf("%w; choose another address with --lmtp", err), door.Close())
	}
	return door, func() error { return errors.Join(side.Close(), door.Close()) }, nil
}

// run serves until ctx ends, then lets requests and the letter in hand finish.
func run(ctx context.Context, data string, a *app.App, post *postoffice.Server, l net.Listener, h http.Handler, poller *mail.Poller, log *slog.Logger) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var workers sync.WaitGroup
	worker := outbox.New(a, log)
	workers.Go(func() { worker.Run(ctx) })
	workers.Go(func() { post.Run(ctx) })
	workers.Go(func() { a.Rounds.Run(ctx, func(err error) { log.Error("work on rounds", "error", err) }) })
	workers.Go(func() { a.Plans.Run(ctx, func(err error) { log.Error("work on plans", "error", err) }) })
	workers.Go(func() { a.Tasks.RunReminders(ctx, func(err error) { log.Error("remind of tasks", "error", err) }) })
	workers.Go(func() { a.Transfer.RunImports(ctx, func(err error) { log.Error("write an import", "error", err) }) })
	workers.Go(func() { poller.Run(ctx) })
	gone := make(chan error, 1)
	workers.Go(func() { gone <- watch(ctx, data) })
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: time.Minute, MaxHeaderBytes: 32 << 10}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	var err error
	select {
	case <-ctx.Done():
		grace, done := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
		err = server.Shutdown(grace)
		done()
	case err = <-failed:
	case err = <-gone:
		log.Error("stopping", "error", err)
	}
	cancel()
	workers.Wait()
	return err
}

// watch tells when the database was taken away or another put in its place: what is
// written then would be lost.
func watch(ctx context.Context, folder string) error {
	path := filepath.Join(folder, store.FileName)
	opened, err := os.Stat(path)
	if err != nil {
		return err
	}
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(5 * time.Second):
		}
		if now, err := os.Stat(path); err != nil || !os.SameFile(opened, now) {
			return fmt.Errorf("the database %s was taken away or replaced while the program ran; stopped, so that nothing is sent that is not filed. Put it back and start again", path)
		}
	}
}

// reachable is an address at which this machine reaches a listener: one that listens
// everywhere is at localhost too.
func reachable(addr net.Addr) string {
	host, port, err := net.SplitHostPort(addr.String())
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsUnspecified() {
		return addr.String()
	}
	return net.JoinHostPort("localhost", port)
}

func announce(out io.Writer, addr net.Addr, door, post string, sample bool, users int) {
	fmt.Fprintf(out, "Lucid Letter is ready: http://%s\n", addr)
	fmt.Fprintf(out, "Mail from outside is taken in at %s\n", door)
	fmt.Fprintf(out, "Its post office takes mail at %s\n", post)
	switch {
	case sample:
		fmt.Fprintf(out, "Sign in as imre@fernhollow.example (representative), greta@fernhollow.example (lead)\n")
		fmt.Fprintf(out, "or otis@fernhollow.example (administrator); the password is %s\n", demo.Password)
	case users == 0:
		fmt.Fprintln(out, "Nobody can sign in yet: add a user with `lucidletter user add`.")
	}
}
