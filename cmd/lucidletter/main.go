// Command lucidletter is the whole program: the server with its front end, the
// sample workspace, and the tools beside them. It ends with 0 when all went
// well, 1 when something failed, 2 when a file was not imported because rows
// were refused.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := root().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "lucidletter:", err)
		if errors.Is(err, errRefused) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

func root() *cobra.Command {
	var o options
	cmd := &cobra.Command{
		Use:           "lucidletter",
		Short:         "Shared letters with merge fields, personal for everybody they go to",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	cmd.PersistentFlags().StringVar(&o.data, "data", env("LUCID_DATA", "lucid-data"), "data folder (LUCID_DATA)")
	cmd.AddCommand(serveCommand(&o), demoCommand(&o), importCommand(&o), userCommand(&o), openAPICommand())
	return cmd
}

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}
