package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
)

func exportCommand(o *options) *cobra.Command {
	var by, where, as string
	cmd := &cobra.Command{
		Use: "export people.csv", Short: "Export people to a CSV or vCard file", Args: cobra.ExactArgs(1),
		Long: `Export people to a CSV file (RFC 4180) or, with --format vcard, to vCards 4.0 (RFC 6350).
--where takes a filter in its text form, such as
'kind is lead and written not in last 14 days'; docs/format.md has all of it.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if as != "csv" && as != "vcard" {
				return fmt.Errorf("--format: %q is neither csv nor vcard", as)
			}
			n, safe, err := exportFile(cmd.Context(), o, args[0], by, where, as)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s: people exported: %d\n", args[0], n)
			if safe > 0 {
				fmt.Fprintf(cmd.OutOrStdout(), "cells that begin like a formula, with an apostrophe before them: %d\n", safe)
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&by, "as", "", `email of the user who asks; "me" in a filter is that user (needed when there are several users)`)
	cmd.Flags().StringVar(&where, "where", "", "which people; everybody when it is left out")
	cmd.Flags().StringVar(&as, "format", "csv", "csv or vcard")
	return cmd
}

// exportFile writes the file, or none; a file that is there is not written over.
func exportFile(ctx context.Context, o *options, path, by, where, as string) (n, safe int, err error) {
	a, s, err := o.open(ctx)
	if err != nil {
		return 0, 0, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	u, err := userOf(ctx, s, by)
	if err != nil {
		return 0, 0, err
	}
	e, err := a.Transfer.ExportPeople(ctx, u, nil, records.Asked{Where: where}, domain.PeopleQuery{})
	if err != nil {
		return 0, 0, err
	}
	file, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, os.ErrExist) {
		return 0, 0, fmt.Errorf("%s: is there already; choose another name", path)
	}
	if err != nil {
		return 0, 0, err
	}
	each := func(f func(*transfer.ExportedPerson) error) error {
		return e.Each(ctx, func(p *transfer.ExportedPerson) error { n++; return f(p) })
	}
	out := bufio.NewWriter(file)
	if as == "vcard" {
		err = files.PeopleVCard(out, each, a.Now())
	} else {
		safe, err = files.PeopleCSV(out, e.Columns, each)
	}
	if err = errors.Join(err, out.Flush(), file.Close()); err != nil {
		err = errors.Join(err, os.Remove(path))
	}
	return n, safe, err
}
