package app_test

import (
	"errors"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Every template of the shelf can be ready as it is, is short, says how a missing value is written or is of the
// sender, and can be tried before anybody was brought in.
func TestShelf(t *testing.T) {
	b := testbed.New(t)
	list, err := b.App.Library.Shelf(ctx)
	if err != nil {
		t.Fatal(err)
	}
	pages, moments, keys := 0, map[string]int{}, []string{}
	for _, item := range list {
		keys = append(keys, item.Key)
		moments[item.Moment]++
		if item.Kind == document.BodyHTML {
			pages++
		}
		if len(item.Fits) == 0 || item.WhenToUse == "" || item.Moment == "" {
			t.Errorf("%s: fits %v, %q, %q", item.Name, item.Fits, item.WhenToUse, item.Moment)
		}
		trial, err := b.App.Library.TryShelf(ctx, b.Rep, item.Key, 0)
		if err != nil || !trial.StandIn || trial.Name != "Ada Quill" || trial.Reason != "" {
			t.Errorf("%s: %+v, %v", item.Name, trial, err)
		}
		if words := len(strings.Fields(trial.Text)); words < 10 || words > 170 {
			t.Errorf("%s has %d words", item.Name, words)
		}
		if gaps := document.Gaps(trial.Subject, trial.Body); len(gaps) > 0 {
			for _, g := range gaps {
				if g.Kind == "" && g.Path != "sender.booking_link" && !strings.HasPrefix(g.Path, "sender.") && !strings.HasPrefix(g.Path, "team.") {
					t.Errorf("%s: %s can be missing", item.Name, g.Path)
				}
			}
		}
	}
	if len(list)-pages < 26 || pages != 4 || len(moments) != 7 {
		t.Errorf("%d letters, %d pages, %v", len(list)-pages, pages, moments)
	}
	ids, err := b.App.Library.CopyFromShelf(ctx, b.Rep, keys, nil)
	if err != nil || len(ids) != len(list) {
		t.Fatal(len(ids), err)
	}
	words := 0
	for _, id := range ids {
		s, err := b.App.Library.Template(ctx, b.Rep, id)
		if err != nil || s.State != domain.TemplateDraft || document.Stopping(s.Notes) {
			t.Errorf("%s: %v, %v", s.Name, s.Notes, err)
		}
		for _, w := range s.Wordings[1:] {
			other, err := b.App.Library.Template(ctx, b.Rep, w.ID)
			if err != nil || document.Stopping(other.Notes) || w.Language == "" || strings.Contains(other.BodyText, "Dear ") {
				t.Errorf("%s in %q: %v, %v", s.Name, w.Language, other.Notes, err)
			}
			words++
		}
		in := library.TemplateInput{Name: s.Name, State: domain.TemplateReady, Input: s.Input()}
		if s.SubjectText == "" {
			in.Subject = "s"
		}
		if _, err := b.App.Library.ChangeTemplate(ctx, b.Rep, id, 1, in); err != nil {
			t.Errorf("%s cannot be ready: %v", s.Name, err)
		}
	}
	if words == 0 {
		t.Error("no template of the shelf has wordings in other languages")
	}
	if _, err := b.App.Library.CopyFromShelf(ctx, b.Rep, []string{keys[0], "none"}, nil); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("one that is none: %v", err)
	}
	if page, err := b.App.Library.Library(ctx, b.Rep, domain.LibraryQuery{Search: "first contact", Limit: 9}); err != nil || page.Total != 1 {
		t.Errorf("half was copied: %+v, %v", page, err)
	}
}
