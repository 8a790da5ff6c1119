package walk

import (
	"errors"
	"fmt"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// opens looks at what screens show, drawn anew each time: everything that is named somewhere opens,
// whatever became of what it rests on.
func (w *walker) opens() error {
	for _, u := range w.users {
		if err := w.listsOf(u); err != nil {
			return err
		}
	}
	for _, one := range []struct {
		of    string
		query string
		open  func(u domain.User, id int64) error
	}{
		{"letter", `SELECT id FROM letters WHERE deleted_at IS NULL AND sender_id = ? ORDER BY random() LIMIT 6`, func(u domain.User, id int64) error {
			_, err := w.b.App.Desk.Letter(ctx, u, id)
			return err
		}},
		{"proof of letter", `SELECT id FROM letters WHERE deleted_at IS NULL AND state = 'sent' AND sender_id = ? ORDER BY random() LIMIT 3`, func(u domain.User, id int64) error {
			_, err := w.b.App.Desk.ProofOf(ctx, u, id, desk.When{})
			return err
		}},
		{"person", `SELECT id FROM people WHERE ? > 0 ORDER BY random() LIMIT 6`, func(u domain.User, id int64) error {
			if _, err := w.b.App.Records.Person(ctx, u, id); err != nil {
				return err
			}
			if _, err := w.b.App.Outbound.UnfitTo(ctx, u, id); err != nil {
				return err
			}
			_, err := w.b.App.Inbox.Ledger(ctx, u, domain.HistoryQuery{PersonID: id, Limit: 50})
			return err
		}},
		{"deal", `SELECT id FROM deals WHERE ? > 0 ORDER BY random() LIMIT 3`, func(u domain.User, id int64) error {
			_, err := w.b.App.Records.DealPage(ctx, id)
			return err
		}},
		{"company", `SELECT id FROM companies WHERE ? > 0 ORDER BY random() LIMIT 3`, func(u domain.User, id int64) error {
			_, err := w.b.App.Records.CompanyPage(ctx, id)
			return err
		}},
		{"round", `SELECT id FROM rounds WHERE owner_id = ? ORDER BY random() LIMIT 3`, func(u domain.User, id int64) error {
			_, err := w.b.App.Rounds.Round(ctx, u, id)
			return err
		}},
		{"run", `SELECT id FROM runs WHERE owner_id = ? ORDER BY random() LIMIT 4`, func(u domain.User, id int64) error {
			_, ruler, err := w.b.App.Plans.RunRuler(ctx, u, id)
			if err != nil {
				return err
			}
			r, err := w.b.Store.Run(ctx, id)
			if err != nil || r.State != domain.RunGoing || r.StepAt == nil {
				return err
			}
			for _, s := range ruler.Steps {
				if s.Key == r.StepKey && !s.Done && !s.At.Equal(*r.StepAt) && r.LetterID == nil {
					return fmt.Errorf("step %d is announced for %s and due at %s", s.Key, s.At, r.StepAt)
				}
			}
			return nil
		}},
		{"template", `SELECT id FROM templates WHERE deleted_at IS NULL AND sister_of IS NULL AND ? > 0 ORDER BY random() LIMIT 3`, func(_ domain.User, id int64) error {
			_, err := w.b.App.Library.Template(ctx, w.users[2], id)
			return err
		}},
	} {
		for _, u := range w.users {
			ids, err := w.ids(one.query, u.ID)
			if err != nil {
				return fmt.Errorf("%s: %w", one.of, err)
			}
			for _, id := range ids {
				if err := one.open(u, id); err != nil && !errors.Is(err, domain.ErrDiscarded) {
					return fmt.Errorf("%s %d does not open: %w", one.of, id, err)
				}
			}
		}
	}
	return nil
}

func (w *walker) ids(query string, args ...any) ([]int64, error) {
	rows, err := w.b.Store.DB().Query(query, args...)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	var out []int64
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return out, rows.Err()
}

// listsOf looks at what Today and the other lists show, and whether they count what they list.
func (w *walker) listsOf(u domain.User) error {
	a := w.b.App
	for what, look := range map[string]func() error{
		"today's answers": func() error { _, err := a.Inbox.IncomingToAnswer(ctx, u); return err },
		"news":            func() error { _, err := a.Inbox.OpenNews(ctx, u); return err },
		"coming steps":    func() error { _, err := a.Plans.Coming(ctx, u); return err },
		"open letters":    func() error { _, err := a.Desk.OpenLetters(ctx, u, 0, 0, 0); return err },
		"unfit letters":   func() error { _, err := a.Outbound.UnfitOf(ctx, u); return err },
		"orders":          func() error { _, _, err := a.Orders.List(ctx, u); return err },
		"plans":           func() error { _, err := a.Plans.Plans(ctx, u); return err },
		"rounds":          func() error { _, err := a.Rounds.Rounds(ctx, u); return err },
		"recipes":         func() error { _, err := a.Rounds.Recipes(ctx, u); return err },
		"lists": func() error {
			list, err := a.Records.Lists(ctx, u)
			if err != nil {
				return err
			}
			for _, l := range list {
				if l.Problem != "" {
					continue
				}
				asked := records.Asked{Where: l.Filter}
				n, err := a.Records.CountPeople(ctx, u, asked, domain.PeopleQuery{Most: 10_000})
				if err != nil {
					return err
				}
				ids, err := a.Records.IDsIn(ctx, u, asked, domain.PeopleQuery{}, 10_000)
				if err != nil || n != len(ids) {
					return fmt.Errorf("list %d counts %d of %d: %w", l.ID, n, len(ids), err)
				}
			}
			return nil
		},
		"folders": func() error {
			folders, err := a.Library.Folders(ctx, u, library.HoldsTemplates)
			if err != nil {
				return err
			}
			total := folders.Outside
			for _, f := range folders.Folders {
				total += f.Count
				page, err := a.Library.Library(ctx, u, domain.LibraryQuery{Folder: f.ID, Limit: 1000})
				if n := withInside(folders.Folders, f.ID); err != nil || page.Total != n {
					return fmt.Errorf("folder %d counts %d of %d: %w", f.ID, n, page.Total, err)
				}
			}
			if page, err := a.Library.Library(ctx, u, domain.LibraryQuery{Folder: domain.NoFolder, Limit: 1000}); err != nil || page.Total != folders.Outside {
				return fmt.Errorf("%d of %d stand outside: %w", folders.Outside, page.Total, err)
			}
			if page, err := a.Library.Library(ctx, u, domain.LibraryQuery{Limit: 1000}); err != nil || page.Total != folders.Total || total != folders.Total {
				return fmt.Errorf("the library counts %d, its folders %d, of %d: %w", folders.Total, total, page.Total, err)
			}
			return nil
		},
	} {
		if err := look(); err != nil {
			return fmt.Errorf("%s of %s: %w", what, u.FirstName, err)
		}
	}
	return nil
}

// historyTells holds what everybody's values were when it was last looked: who is another now has
// something in their history since.
func (w *walker) historyTells() error {
	rows, err := w.b.Store.DB().Query(`SELECT p.id, p.kind || '|' || p.first_name || '|' || p.last_name || '|' || p.email || '|' || p.city || '|' || p.language || '|' || coalesce(p.company_id, 0) || '|' || (p.deleted_at IS NULL) || '|' || (p.opted_out_at IS NULL),
		coalesce((SELECT max(id) FROM history WHERE person_id = p.id), 0) FROM people p`)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	now := map[int64]told{}
	for rows.Next() {
		var id int64
		var t told
		if err := rows.Scan(&id, &t.values, &t.entry); err != nil {
			return err
		}
		if was, known := w.told[id]; known && was.values != t.values && t.entry <= was.entry {
			return fmt.Errorf("the history of person %d does not tell that %s became %s", id, was.values, t.values)
		}
		now[id] = t
	}
	w.told = now
	return rows.Err()
}

type told struct {
	values string
	entry  int64
}

// withInside counts what is in a folder and those inside it.
func withInside(list []library.FolderSheet, id int64) int {
	n := 0
	for _, f := range list {
		if f.ID == id {
			n += f.Count
		}
		if f.ParentID != nil && *f.ParentID == id {
			n += withInside(list, f.ID)
		}
	}
	return n
}
