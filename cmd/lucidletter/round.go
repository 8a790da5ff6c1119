package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"lucidletter/internal/app"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/store"
)

type roundOptions struct {
	by, list, template, name string
	fills                    []string
	check, send              bool
}

func roundCommand(o *options) *cobra.Command {
	var r roundOptions
	cmd := &cobra.Command{
		Use: "round", Short: "Write one template to everybody in a saved list, one letter each", Args: cobra.NoArgs,
		Long: `Write one template to everybody in a saved list, one letter each.
--check prints the preflight as JSON and keeps nothing: who is ready, has a gap or is
skipped, and why. It ends with 4 when somebody has a gap. --send starts the round,
prints the same, and sends the letters that are ready; the program that serves on the
data folder hands them over, within a minute or when it is started next.`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if r.check == r.send {
				return errors.New("give one of --check and --send")
			}
			return runRound(cmd.Context(), o, &r, cmd.OutOrStdout())
		},
	}
	cmd.Flags().StringVar(&r.by, "as", "", `email of the user who sends; "me" in a filter is that user (needed when there are several users)`)
	cmd.Flags().StringVar(&r.list, "list", "", "name of the saved list")
	cmd.Flags().StringVar(&r.template, "template", "", "name of the template, which is ready")
	cmd.Flags().StringVar(&r.name, "name", "", "name of the round (default: that of the list)")
	cmd.Flags().StringArrayVar(&r.fills, "fill", nil, `what fills a gap or a blank of everybody who lacks it, "company.city=your town" or "?offer=5 %"`)
	cmd.Flags().BoolVar(&r.check, "check", false, "show the preflight, and keep nothing")
	cmd.Flags().BoolVar(&r.send, "send", false, "start the round and send what is ready")
	_ = cmd.MarkFlagRequired("list")
	_ = cmd.MarkFlagRequired("template")
	return cmd
}

// errOnlyChecked undoes what a check made.
var errOnlyChecked = errors.New("only checked")

func runRound(ctx context.Context, o *options, r *roundOptions, out io.Writer) (err error) {
	a, s, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	u, err := userOf(ctx, s, r.by)
	if err != nil {
		return err
	}
	var report rounds.Preflight
	if r.send {
		report, err = startRound(ctx, a, s, u, r)
	} else if err = s.Within(ctx, func(ctx context.Context) error {
		if report, err = startRound(ctx, a, s, u, r); err != nil {
			return err
		}
		return errOnlyChecked
	}); errors.Is(err, errOnlyChecked) {
		report.Round, err = 0, nil
	}
	if err != nil {
		return err
	}
	if r.send {
		if err := sendRound(ctx, a, u, &report); err != nil {
			return err
		}
	}
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(report); err != nil {
		return err
	}
	if r.check && report.Counts.Gap > 0 {
		return errGaps
	}
	return nil
}

// startRound begins a round and checks everybody.
func startRound(ctx context.Context, a *app.App, s *store.Store, u domain.User, r *roundOptions) (rounds.Preflight, error) {
	var none rounds.Preflight
	list, err := listNamed(ctx, a, u, r.list)
	if err != nil {
		return none, err
	}
	template, err := templateNamed(ctx, s, r.template)
	if err != nil {
		return none, err
	}
	id, err := a.Rounds.StartRound(ctx, u, rounds.Start{Name: r.name, ListID: &list, TemplateID: &template})
	if err != nil {
		return none, err
	}
	for _, fill := range r.fills {
		path, value, ok := strings.Cut(fill, "=")
		if !ok {
			return none, fmt.Errorf(`--fill: %q is not of the form "company.city=your town"`, fill)
		}
		sheet, err := a.Rounds.Round(ctx, u, id)
		if err != nil {
			return none, err
		}
		if err := a.Rounds.Fill(ctx, u, id, sheet.Version, strings.TrimSpace(path), value); err != nil {
			return none, fmt.Errorf("--fill: %w", err)
		}
	}
	return a.Rounds.Preflight(ctx, u, id)
}

// sendRound sends what is ready of a round.
func sendRound(ctx context.Context, a *app.App, u domain.User, report *rounds.Preflight) error {
	if report.Counts.Ready == 0 {
		return &domain.StateError{Why: "Nobody of the list is ready; nothing was sent. Look at the round in the program."}
	}
	sheet, err := a.Rounds.Round(ctx, u, report.Round)
	if err != nil {
		return err
	}
	if _, err := a.Rounds.Send(ctx, u, report.Round, sheet.Version, report.Counts.Ready, domain.RoundWhen{All: true}); err != nil {
		return err
	}
	report.State = string(domain.RoundSending)
	return nil
}

func listNamed(ctx context.Context, a *app.App, u domain.User, name string) (int64, error) {
	lists, err := a.Records.Lists(ctx, u)
	if err != nil {
		return 0, err
	}
	var found []records.ListSheet
	var names []string
	for _, l := range lists {
		names = append(names, "“"+l.Name+"”")
		if strings.EqualFold(l.Name, name) {
			found = append(found, l)
		}
	}
	if len(found) != 1 {
		return 0, fmt.Errorf("--list: %d lists are called %q; there are %s", len(found), name, strings.Join(names, ", "))
	}
	return found[0].ID, nil
}

func templateNamed(ctx context.Context, s *store.Store, name string) (int64, error) {
	list, err := s.AllTemplates(ctx, domain.TemplateReady)
	if err != nil {
		return 0, err
	}
	var found []int64
	for i := range list {
		if list[i].SisterOf == nil && strings.EqualFold(list[i].Name, name) {
			found = append(found, list[i].ID)
		}
	}
	if len(found) != 1 {
		return 0, fmt.Errorf("--template: %d ready templates are called %q", len(found), name)
	}
	return found[0], nil
}
