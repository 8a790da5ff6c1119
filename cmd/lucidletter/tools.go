package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/store"
)

// errRefused ends an import of which rows were refused.
var errRefused = errors.New("nothing was imported; mend the rows above or add --skip-refused")

func importCommand(o *options) *cobra.Command {
	var by, kind string
	var columns, tidy []string
	var opts transfer.ImportOptions
	cmd := &cobra.Command{
		Use: "import people.csv", Short: "Import people, companies and deals from a CSV or vCard file, all or nothing", Args: cobra.ExactArgs(1),
		Long: `Import people from a CSV file (RFC 4180; comma, semicolon or tab; UTF-8, UTF-16 or
Windows-1252) or from vCards (2.1, 3.0, 4.0).
Columns are matched by field path, by label or by their usual names in most
languages. A row whose email address is known updates that person; any other row
adds one. If a row is refused, or it isn't clear who it is about, nothing is
imported unless you give --skip-refused.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			opts.Kind = field.Record(kind)
			if kind != "lead" && kind != "contact" {
				return fmt.Errorf("--kind: %q is neither lead nor contact", kind)
			}
			opts.Columns = map[string]string{}
			for _, c := range columns {
				header, path, ok := strings.Cut(c, "=")
				if !ok {
					return fmt.Errorf("--map: %q is not of the form \"Header=person.city\"", c)
				}
				opts.Columns[header] = path
			}
			opts.File = filepath.Base(args[0])
			for _, how := range tidy {
				if !slices.Contains(field.Tidyings(), field.Tidying(how)) {
					return fmt.Errorf("--tidy: %q is none of spaces, junk, capitals, phones and country", how)
				}
				opts.Tidy = append(opts.Tidy, field.Tidying(how))
			}
			return importFile(cmd.Context(), o, args[0], by, opts, cmd.OutOrStdout())
		},
	}
	cmd.Flags().StringVar(&by, "as", "", "email of the user who will own new people (needed when there are several users)")
	cmd.Flags().StringVar(&kind, "kind", "lead", "what rows without a kind are: lead or contact")
	cmd.Flags().StringArrayVar(&columns, "map", nil, `a column and its field, "Header=person.city"; "Header=-" leaves it out`)
	cmd.Flags().StringSliceVar(&tidy, "tidy", nil, "tidy values on the way: spaces, junk, capitals, phones, country")
	cmd.Flags().BoolVar(&opts.Check, "check", false, "show what would happen, and import nothing")
	cmd.Flags().BoolVar(&opts.SkipRefused, "skip-refused", false, "skip refused rows and import the others")
	return cmd
}

func importFile(ctx context.Context, o *options, path, by string, opts transfer.ImportOptions, out io.Writer) (err error) {
	file, err := os.Open(path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, file.Close()) }()
	a, s, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	u, err := userOf(ctx, s, by)
	if err != nil {
		return err
	}
	table, err := files.OpenPeople(file)
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	report, err := a.Transfer.ImportPeople(ctx, u, table, opts)
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	if report.Running {
		if err := a.Transfer.WriteImports(ctx); err != nil {
			return fmt.Errorf("%s: %d of %d rows were written; the others follow when the program is started: %w", path, report.Written, report.ToWrite, err)
		}
		if report, err = a.Transfer.Import(ctx, u, report.ID); err != nil {
			return err
		}
	}
	return printReport(out, path, report, opts.Check)
}

// userOf gives the user of an email; without one, the only user that there is.
func userOf(ctx context.Context, s *store.Store, email string) (domain.User, error) {
	if email == "" {
		users, err := s.Users(ctx)
		if err != nil {
			return domain.User{}, err
		}
		if len(users) == 1 {
			return users[0], nil
		}
		return domain.User{}, fmt.Errorf("--as: there are %d users; give the email of one", len(users))
	}
	u, err := s.UserByEmail(ctx, field.EmailKey(email))
	if errors.Is(err, domain.ErrNotFound) {
		return u, fmt.Errorf("--as: there is no user %q", email)
	}
	return u, err
}

func printReport(out io.Writer, path string, r domain.ImportReport, check bool) error {
	for _, c := range r.Columns {
		to := c.Path
		if to == "" {
			to = "left out"
		}
		if c.Problem != "" {
			to = c.Problem
		}
		fmt.Fprintf(out, "column %q: %s\n", c.Header, to)
	}
	for _, row := range r.Refusals {
		fmt.Fprintf(out, "%s:%d: refused: %s\n", path, row.Line, row.Why)
	}
	for _, ask := range r.Asks {
		fmt.Fprintf(out, "%s:%d: not clear who it is: %s; import the file in the program to choose\n", path, ask.Line, ask.Why)
	}
	if more := r.Refused - len(r.Refusals); more > 0 {
		fmt.Fprintf(out, "and %d more rows were refused\n", more)
	}
	fmt.Fprintf(out, "%d rows: %d created, %d updated, %d already the same, %d refused, %d not clear\n", r.Rows, r.Created, r.Updated, r.Same, r.Refused, r.Asked)
	for _, one := range []struct {
		name string
		n    domain.ImportCounts
	}{{"companies", r.Companies}, {"deals", r.Deals}} {
		if one.n != (domain.ImportCounts{}) {
			fmt.Fprintf(out, "%s: %d created, %d updated\n", one.name, one.n.Created, one.n.Updated)
		}
	}
	for _, t := range r.Tidyings {
		if !t.On {
			fmt.Fprintf(out, "untidy: %s in %d values, such as %q; --tidy %s makes it %q\n", t.How, t.Count, t.Examples[0].Was, t.How, t.Examples[0].Now)
		}
	}
	switch {
	case check:
		fmt.Fprintln(out, "This was only a check. Nothing was imported.")
	case !r.Done:
		return errRefused
	}
	return nil
}

func userCommand(o *options) *cobra.Command {
	var u domain.User
	var role string
	add := &cobra.Command{
		Use: "add email", Short: "Add a user; the password is read from standard input", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			password, err := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
			if err != nil && !errors.Is(err, io.EOF) {
				return err
			}
			a, s, err := o.open(cmd.Context())
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			u.Email, u.Role, u.HoldSeconds = args[0], access.Role(role), desk.DefaultHold
			_, err = a.Team.AddUser(cmd.Context(), u, strings.TrimRight(password, "\r\n"))
			if err == nil {
				fmt.Fprintf(cmd.OutOrStdout(), "%s can sign in now.\n", u.Email)
			}
			return err
		},
	}
	add.Flags().StringVar(&role, "role", "representative", "representative, lead or administrator")
	add.Flags().StringVar(&u.FirstName, "first", "", "first name")
	add.Flags().StringVar(&u.LastName, "last", "", "last name")
	add.Flags().StringVar(&u.Phone, "phone", "", "telephone number")
	add.Flags().StringVar(&u.JobTitle, "title", "", "job title")
	cmd := &cobra.Command{Use: "user", Short: "Users of the workspace"}
	cmd.AddCommand(add)
	return cmd
}

func openAPICommand() *cobra.Command {
	return &cobra.Command{
		Use: "openapi", Short: "Write the description of the HTTP API (OpenAPI 3.1, JSON)", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			doc, err := httpapi.New(app.New(app.Ports{}), nil, nil, slog.New(slog.DiscardHandler)).OpenAPI()
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(cmd.OutOrStdout(), string(doc))
			return err
		},
	}
}
