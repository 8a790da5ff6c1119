// Command lucidletter is the whole program: the server with its front end, the
// sample workspace, and the tools beside them. It ends with 0 when all went
// well, 1 when something failed, 2 when a file was not imported because rows
// were refused, 3 when a template has red notes, 4 when values are missing.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"
	_ "time/tzdata" // zones on machines that have none

	"github.com/spf13/cobra"
)

func main() {
	// The program holds little in memory; collected less often, letters go out a seventh
	// faster. GOGC goes before.
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(1 << 30) // from there on memory is looked for in time
	}
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(400)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := root().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "lucidletter:", err)
		os.Exit(status(err))
	}
}

func status(err error) int {
	switch {
	case errors.Is(err, errRefused):
		return 2
	case errors.Is(err, errNotes):
		return 3
	case errors.Is(err, errGaps):
		return 4
	}
	return 1
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
	cmd.AddCommand(serveCommand(&o), demoCommand(&o), importCommand(&o), exportCommand(&o), mergeCommand(), checkCommand(), roundCommand(&o), userCommand(&o), openAPICommand())
	return cmd
}

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}
