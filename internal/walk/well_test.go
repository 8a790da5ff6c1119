package walk

import (
	"crypto/sha256"
	"fmt"
	"io"
	"regexp"
	"strings"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
)

// rows runs a query whose rows each say what is wrong.
func (w *walker) rows(what, query string, args ...any) error {
	rows, err := w.b.Store.DB().Query(query, args...)
	if err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	defer func() { _ = rows.Close() }()
	if !rows.Next() {
		return rows.Err()
	}
	var said string
	if err := rows.Scan(&said); err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return fmt.Errorf("%s: %s", what, said)
}

// stored is a sum of everything that is stored.
func (w *walker) stored() string {
	db := w.b.Store.DB()
	sum := sha256.New()
	tables, err := db.Query(`SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE '%find%' AND name NOT LIKE '%vocab%' ORDER BY name`)
	if err != nil {
		w.t.Fatal(err)
	}
	var names []string
	for tables.Next() {
		var name string
		if err := tables.Scan(&name); err != nil {
			w.t.Fatal(err)
		}
		names = append(names, name)
	}
	_ = tables.Close()
	for _, name := range names {
		rows, err := db.Query(`SELECT * FROM "` + name + `"`)
		if err != nil {
			w.t.Fatal(err)
		}
		columns, err := rows.Columns()
		if err != nil {
			w.t.Fatal(err)
		}
		for rows.Next() {
			values, into := make([]any, len(columns)), make([]any, len(columns))
			for i := range values {
				into[i] = &values[i]
			}
			if err := rows.Scan(into...); err != nil {
				w.t.Fatal(err)
			}
			_, _ = io.WriteString(sum, fmt.Sprintln(name, values))
		}
		_ = rows.Close()
	}
	return fmt.Sprintf("%x", sum.Sum(nil))
}

// rest lets every worker do what is due until nothing is; it fails when they do not come to rest.
func (w *walker) rest() error {
	for range 120 {
		due := false
		for _, one := range []struct {
			name string
			work func() (*time.Time, error)
		}{
			{"rounds", func() (*time.Time, error) { return w.b.App.Rounds.Work(ctx) }}, {"plans", func() (*time.Time, error) { return w.b.App.Plans.Work(ctx) }},
			{"reminders", func() (*time.Time, error) { return nil, w.b.App.Tasks.Remind(ctx) }}, {"imports", func() (*time.Time, error) { return nil, w.b.App.Transfer.WriteImports(ctx) }},
		} {
			next, err := one.work()
			if err != nil {
				return fmt.Errorf("%s: %w", one.name, err)
			}
			due = due || next != nil && !next.After(w.b.Now().Add(time.Minute))
		}
		list, _, err := w.b.Store.Due(ctx, w.b.Now(), 100)
		if err != nil {
			return err
		}
		for _, l := range list {
			due = true
			if err := w.b.Deliver(ctx, l.ID); err != nil {
				return fmt.Errorf("deliver letter %d: %w", l.ID, err)
			}
		}
		if !due {
			return nil
		}
		w.b.Pass(time.Second)
	}
	return fmt.Errorf("the workers do not come to rest")
}

// wellAfter looks whether everything holds that must.
func (w *walker) wellAfter(s step) error {
	if err := w.well(); err != nil {
		return fmt.Errorf("after %s: %w", s, err)
	}
	return nil
}

func (w *walker) well() error {
	if err := w.rest(); err != nil {
		return err
	}
	if failed := w.b.Failed(); len(failed) > 0 {
		return fmt.Errorf("set aside: %w", failed[0])
	}
	if err := w.rows("a letter is in hand of nobody", `SELECT 'letter ' || id FROM letters WHERE state = 'sending'`); err != nil {
		return err
	}
	if err := w.rows("a letter arrived twice", `SELECT sender || ' to ' || mailbox FROM post_letters GROUP BY mailbox, CAST(bytes AS TEXT) HAVING count(*) > 1`); err != nil {
		return err
	}
	for what, query := range lasting {
		if err := w.rows(what, query); err != nil {
			return err
		}
	}
	if err := w.roundsAddUp(); err != nil {
		return err
	}
	if err := w.historyTells(); err != nil {
		return err
	}
	if err := w.opens(); err != nil {
		return err
	}
	return w.lettersAreRight()
}

func (w *walker) roundsAddUp() error {
	for _, id := range w.rounds {
		r, err := w.b.Store.Round(ctx, id)
		if err != nil {
			return err
		}
		g, err := w.b.Store.Groups(ctx, id)
		if err != nil {
			return err
		}
		people := 0
		if err := w.b.Store.DB().QueryRow(`SELECT count(*) FROM round_people WHERE round_id = ?`, id).Scan(&people); err != nil {
			return err
		}
		if g.Total() != people {
			return fmt.Errorf("round %d (%s) counts %d of %d people", id, r.State, g.Total(), people)
		}
	}
	return nil
}

var (
	nameForm  = regexp.MustCompile(`\bQ[a-z]{4}\b`)
	unfilled  = regexp.MustCompile(`\{\{|\}\}|‹|›|\x{FFFD}|n/a|\bDear ,|\bTag ,`)
	greetings = regexp.MustCompile(`(?m)^(Dear|Guten Tag) `)
)

// lettersAreRight reads what went since it was last looked.
func (w *walker) lettersAreRight() error {
	rows, err := w.b.Store.DB().Query(`SELECT id FROM letters WHERE state IN ('sent', 'unsure') AND NOT internal ORDER BY id`)
	if err != nil {
		return err
	}
	var ids []int64
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return err
		}
		if !w.seen[id] {
			ids = append(ids, id)
		}
	}
	_ = rows.Close()
	for _, id := range ids {
		w.seen[id] = true
		l, err := w.b.Store.Letter(ctx, id)
		if err != nil {
			return err
		}
		bytes, err := w.b.Store.Bytes(ctx, id)
		if err != nil {
			return fmt.Errorf("letter %d: %w", id, err)
		}
		m, err := mail.Reader{}.Read(bytes)
		if err != nil {
			return fmt.Errorf("letter %d: %w", id, err)
		}
		if err := w.letterIsRight(&l, &m); err != nil {
			return fmt.Errorf("letter %d to %s: %w\n%s\n%s", id, l.ToEmail, err, m.Subject, m.Text)
		}
	}
	return nil
}

func (w *walker) letterIsRight(l *domain.Letter, m *domain.ReadMail) error {
	all := m.Subject + "\n" + m.Text
	if found := unfilled.FindString(all); found != "" {
		return fmt.Errorf("%q went out", found)
	}
	if n := len(greetings.FindAllString(m.Text, -1)); n > 1 {
		return fmt.Errorf("it greets %d times", n)
	}
	if strings.Contains(all, "Guten Tag") && strings.Contains(all, "Dear ") {
		return fmt.Errorf("it is in two languages")
	}
	if proof, known := w.proofs[l.ID]; known && l.RoundID == nil && proof != m.Text {
		return fmt.Errorf("its proof was\n%s", proof)
	}
	for _, name := range nameForm.FindAllString(all, -1) {
		if !w.names[l.PersonID][name] && !w.confirmed[l.ID] {
			return fmt.Errorf("%s is no name of person %d", name, l.PersonID)
		}
	}
	return nil
}

// lasting is what must hold at any time; each row of a query is something that does not.
var lasting = map[string]string{
	"a reference leads nowhere":             `SELECT "table" || ' ' || rowid || ' to ' || parent FROM pragma_foreign_key_check`,
	"a run that goes has no next step":      `SELECT 'run ' || id FROM runs WHERE state = 'going' AND step_at IS NULL`,
	"a run that is over has a next step":    `SELECT 'run ' || id FROM runs WHERE state IN ('finished', 'stopped') AND (step_at IS NOT NULL OR ended_at IS NULL)`,
	"a run waits without a reason":          `SELECT 'run ' || id FROM runs WHERE state = 'waiting' AND reason = ''`,
	"a run stopped without a reason":        `SELECT 'run ' || id FROM runs WHERE state = 'stopped' AND reason = ''`,
	"a step came twice":                     `SELECT 'run ' || run_id || ' step ' || step_key FROM run_steps GROUP BY run_id, step_key HAVING count(*) > 1`,
	"a letter of a step was used twice":     `SELECT 'letter ' || letter_id FROM run_steps WHERE letter_id IS NOT NULL GROUP BY letter_id HAVING count(*) > 1`,
	"two runs of one plan at a time":        `SELECT 'person ' || person_id FROM runs WHERE state IN ('going', 'waiting', 'paused') GROUP BY plan_id, person_id HAVING count(*) > 1`,
	"an address got two letters of a round": `SELECT lower(to_email) || ' round ' || round_id FROM letters WHERE round_id IS NOT NULL AND state IN ('sent', 'unsure') GROUP BY round_id, lower(to_email) HAVING count(*) > 1`,
	"a letter is refused without a reason":  `SELECT 'letter ' || id FROM letters WHERE state = 'refused' AND reason = ''`,
	"a letter waits and is due never":       `SELECT 'letter ' || l.id FROM letters l LEFT JOIN rounds r ON r.id = l.round_id WHERE l.state = 'waiting' AND l.due_at IS NULL AND coalesce(r.state, '') <> 'paused'`,
	"a discarded letter is on its way":      `SELECT 'letter ' || id FROM letters WHERE deleted_at IS NOT NULL AND state IN ('waiting', 'sending')`,
	"somebody of a round is twice in it":    `SELECT 'person ' || person_id FROM round_people GROUP BY round_id, person_id HAVING count(*) > 1`,
	"a letter went by itself twice within a day": `SELECT 'letter ' || x.id FROM letters x JOIN letters y ON y.person_id = x.person_id AND y.to_email = x.to_email AND y.id < x.id WHERE x.order_id IS NOT NULL AND y.order_id IS NOT NULL AND x.state = 'sent' AND y.state = 'sent'
			AND NOT x.internal AND x.queued_at >= y.sent_at AND julianday(substr(x.queued_at, 1, 19)) - julianday(substr(y.sent_at, 1, 19)) < 0.9 AND x.version = 1 AND y.version = 1`,
}
