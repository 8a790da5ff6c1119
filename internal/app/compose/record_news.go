package compose

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// RecordNews is a value that a draft was written with and that the record has changed
// since. Was and Now are written for the letter's reader, "" where there is no value.
type RecordNews struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Was   string `json:"was"`
	Now   string `json:"now"`
}

// Words say what differs.
func (n *RecordNews) Words() string {
	switch {
	case n.Now == "":
		return fmt.Sprintf("The record has no %s any more; the letter was written with “%s”.", n.Label, n.Was)
	case n.Was == "":
		return fmt.Sprintf("The record has a %s now, “%s”; the letter was written without.", n.Label, n.Now)
	}
	return fmt.Sprintf("%s is “%s” on the record now; the letter was written with “%s”.", n.Label, n.Now, n.Was)
}

// RecordNewsOf tells what changed on the records of a draft since it was written, of
// what it says.
func (a *Service) RecordNewsOf(ctx context.Context, l *domain.Letter, s *library.Setting) ([]RecordNews, error) {
	now := s.Snapshot()
	if len(l.Seen) == 0 || maps.Equal(l.Seen, now) {
		return nil, nil
	}
	old := s.AsSeen(l.Seen)
	fresh, _, err := a.WithNews(ctx, l, old, s)
	if err != nil || document.Equal(fresh.Subject, l.Subject) && document.Equal(fresh.Body, l.Body) {
		return nil, err
	}
	said := map[string]bool{}
	for _, docs := range [][]document.Document{{l.Subject, l.Body}, {fresh.Subject, fresh.Body}} {
		for path := range letter.MergedPaths(docs...) {
			said[path] = true
		}
		for _, g := range document.Gaps(docs[0], docs[1]) {
			said[g.Path] = true
		}
	}
	var out, others []RecordNews
	for _, d := range s.Cat.Fields() {
		if l.Seen[d.Path] == now[d.Path] || slices.Contains(library.Unseen, d.Path) {
			continue
		}
		write := func(s *library.Setting) string {
			v := s.Values.Get(d.Path)
			if !v.Filled() {
				return ""
			}
			return string(s.ReaderFor(&template.Template{Body: l.Body}).Append(nil, v, ""))
		}
		news := RecordNews{d.Path, d.Label, write(old), write(s)}
		if said[d.Path] {
			out = append(out, news)
		} else {
			others = append(others, news)
		}
	}
	if len(out) == 0 {
		out = others // it decides what is said, or where a link leads
	}
	return out, nil
}

// WithNews gives a letter with the values that its records have now.
func (a *Service) WithNews(ctx context.Context, l *domain.Letter, old, now *library.Setting) (domain.Letter, []letter.Kept, error) {
	base, theirs, err := a.MergedBoth(ctx, l, old, now)
	if err != nil {
		base, theirs = template.Letter{}, template.Letter{} // it no longer fits; the words of fields are still written anew
	}
	fresh := *l
	fresh.Extras.Pieces = slices.Clone(l.Extras.Pieces)
	kept := Refill(&fresh, base, theirs, old, now)
	return fresh, kept, nil
}

// OtherNow says what the records say now that a letter on its way was not written from, or "".
func (a *Service) OtherNow(ctx context.Context, l *domain.Letter) (string, error) {
	sender, err := a.store.User(ctx, l.SenderID)
	if err != nil {
		return "", err
	}
	s, err := a.library.SettingOf(ctx, sender, l.PersonID, l.DealID)
	if err != nil {
		return "", err
	}
	news, err := a.RecordNewsOf(ctx, l, s)
	if err != nil || len(news) == 0 {
		return "", err
	}
	return news[0].Words() + " Take it back and look at it.", nil
}
