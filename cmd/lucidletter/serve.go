package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"lucidletter/internal/app"
	"lucidletter/internal/demo"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
	"lucidletter/internal/postoffice"
	"lucidletter/internal/store"
	"lucidletter/ui"
)

// options are the flags that commands share.
type options struct {
	data, addr, postAddr, smtp, public string
}

func (o *options) serverFlags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&o.addr, "addr", env("LUCID_ADDR", "127.0.0.1:7070"), "address of the screens; port 0 takes any free one (LUCID_ADDR)")
	cmd.Flags().StringVar(&o.postAddr, "post-office", env("LUCID_POST_OFFICE", "127.0.0.1:7025"), "address of the post office; port 0 takes any free one (LUCID_POST_OFFICE)")
	cmd.Flags().StringVar(&o.public, "public-url", env("LUCID_PUBLIC_URL", ""), "where recipients reach the pages of this program, such as https://letters.fernhollow.example; the address of the screens when empty (LUCID_PUBLIC_URL)")
	cmd.Flags().StringVar(&o.smtp, "smtp", env("LUCID_SMTP", ""), "mail server to send through, host:port; the post office when empty (LUCID_SMTP)")
}

// open opens the data folder and makes the program on it.
func (o *options) open(ctx context.Context) (*app.App, *store.Store, error) {
	s, err := store.Open(ctx, o.data)
	if err != nil {
		return nil, nil, err
	}
	a := app.New(app.Ports{
		Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: time.Now, NewID: rand.Text,
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
	return cmd
}

func serve(ctx context.Context, o *options, out io.Writer, sample bool) (err error) {
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	if at, err := url.Parse(o.public); o.public != "" && (err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https") {
		return fmt.Errorf("--public-url: %q is no web address; write it like https://letters.fernhollow.example", o.public)
	}
	a, s, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	users, err := s.CountUsers(ctx)
	if err != nil {
		return err
	}
	if sample && users == 0 {
		if err := demo.Load(ctx, a); err != nil {
			return err
		}
	}
	post, err := postoffice.Listen(o.postAddr, a)
	if err != nil {
		return fmt.Errorf("%w; choose another address with --post-office", err)
	}
	defer func() { err = errors.Join(err, post.Close()) }()
	server := o.smtp
	if server == "" {
		server = post.Addr()
	}
	a.Transport = &mail.Transport{Addr: server, Local: "lucidletter.example"}
	front, err := ui.Files()
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", o.addr)
	if err != nil {
		return fmt.Errorf("open the screens: %w; choose another address with --addr", err)
	}
	if a.PublicURL = o.public; a.PublicURL == "" {
		a.PublicURL = "http://" + reachable(listener.Addr())
	}
	if err := a.ReadAhead(ctx); err != nil {
		return err
	}
	announce(out, listener.Addr(), post.Addr(), sample, users)
	return run(ctx, a, listener, httpapi.New(a, s.DB(), front, log), log)
}

// run serves until ctx ends, then lets requests and the letter in hand finish.
func run(ctx context.Context, a *app.App, l net.Listener, h http.Handler, log *slog.Logger) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var workers sync.WaitGroup
	worker := outbox.New(a, log)
	workers.Go(func() { worker.Run(ctx) })
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	var err error
	select {
	case <-ctx.Done():
		grace, done := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
		err = server.Shutdown(grace)
		done()
	case err = <-failed:
	}
	cancel()
	workers.Wait()
	return err
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

func announce(out io.Writer, addr net.Addr, post string, sample bool, users int) {
	fmt.Fprintf(out, "Lucid Letter is ready: http://%s\n", addr)
	fmt.Fprintf(out, "Its post office takes mail at %s\n", post)
	switch {
	case sample:
		fmt.Fprintf(out, "Sign in as imre@fernhollow.example (representative), greta@fernhollow.example (lead)\n")
		fmt.Fprintf(out, "or otis@fernhollow.example (administrator); the password is %s\n", demo.Password)
	case users == 0:
		fmt.Fprintln(out, "Nobody can sign in yet: add a user with `lucidletter user add`.")
	}
}
