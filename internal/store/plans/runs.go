package plans

import (
	"context"
	"slices"
	"strings"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

const runColumns = `r.id, r.plan_id, r.person_id, r.deal_id, r.owner_id, r.state, r.reason, r.said, r.step_key, r.step_at, r.from_at, r.not_before, r.letter_id, r.last_id, r.thread_id, r.version, r.started_at, r.ended_at`

// AddRun stores a run.
func (s *Table) AddRun(ctx context.Context, r domain.Run) (int64, error) {
	return s.db.Add(ctx, "add run", `INSERT INTO runs (plan_id, person_id, deal_id, owner_id, state, reason, said, step_key, step_at, from_at, not_before, letter_id, last_id, thread_id, version, started_at, ended_at)
		VALUES (:plan_id, :person_id, :deal_id, :owner_id, :state, :reason, :said, :step_key, :step_at, :from_at, :not_before, :letter_id, :last_id, :thread_id, :version, :started_at, :ended_at)`, r)
}

// Run gives a run, or ErrNotFound.
func (s *Table) Run(ctx context.Context, id int64) (r domain.Run, err error) {
	err = s.db.Get(ctx, "load run", &r, `SELECT `+runColumns+` FROM runs r WHERE r.id = ?`, id)
	return r, err
}

// UpdateRun stores a run as version r.Version+1 and lets go of it, or gives ErrStale.
func (s *Table) UpdateRun(ctx context.Context, r domain.Run) error {
	hit, err := s.db.Change(ctx, "store run", `UPDATE runs SET state = :state, reason = :reason, said = :said, step_key = :step_key, step_at = :step_at, from_at = :from_at, not_before = :not_before,
		letter_id = :letter_id, last_id = :last_id, thread_id = :thread_id, ended_at = :ended_at, lease_until = NULL, version = version + 1 WHERE id = :id AND version = :version`, r)
	if err == nil && !hit {
		return domain.ErrStale
	}
	return err
}

const runRows = `SELECT ` + runColumns + `, pl.name AS plan, p.first_name, p.last_name, p.email, p.time_zone, p.country,
	coalesce(CASE WHEN p.kind = 'lead' THEN p.company_name ELSE c.name END, '') AS company, u.first_name || ' ' || u.last_name AS owner,
	coalesce(l.state, '') AS letter_state, (SELECT count(*) FROM run_steps d WHERE d.run_id = r.id) AS done
	FROM runs r JOIN plans pl ON pl.id = r.plan_id JOIN people p ON p.id = r.person_id JOIN users u ON u.id = r.owner_id
	LEFT JOIN companies c ON c.id = p.company_id LEFT JOIN letters l ON l.id = r.letter_id AND l.deleted_at IS NULL`

// Runs gives a window of runs and how many the query finds: those that come next first, then
// the latest.
func (s *Table) Runs(ctx context.Context, q domain.RunsQuery) ([]domain.RunRow, int, error) {
	states, err := database.Packed(q.States)
	if err != nil {
		return nil, 0, err
	}
	where := []string{"TRUE"}
	var args []any
	add := func(sql string, arg any) { where, args = append(where, sql), append(args, arg) }
	for column, id := range map[string]int64{"r.plan_id": q.PlanID, "r.person_id": q.PersonID, "r.owner_id": q.OwnerID} {
		if id != 0 {
			add(column+" = ?", id)
		}
	}
	if len(q.States) > 0 {
		add("r.state IN (SELECT value FROM json_each(?))", states)
	}
	for word := range strings.FieldsSeq(strings.ToLower(q.Search)) {
		add("instr(lower(p.first_name || ' ' || p.last_name || ' ' || p.email || ' ' || p.company_name), ?) > 0", word)
	}
	total := 0
	if err := s.db.Get(ctx, "count runs", &total, `SELECT count(*) FROM runs r JOIN people p ON p.id = r.person_id WHERE `+strings.Join(where, " AND "), args...); err != nil {
		return nil, 0, err
	}
	list := []domain.RunRow{}
	err = s.db.Select(ctx, "list runs", &list, runRows+` WHERE `+strings.Join(where, " AND ")+` ORDER BY r.step_at IS NULL, r.step_at, r.id DESC LIMIT ? OFFSET ?`, append(args, q.Limit, q.Offset)...)
	return list, total, err
}

// OnPlans gives the runs that are not over of some people, by person; the earliest first.
func (s *Table) OnPlans(ctx context.Context, people []int64) (map[int64][]domain.RunRow, error) {
	packed, err := database.Packed(people)
	if err != nil {
		return nil, err
	}
	var list []domain.RunRow
	err = s.db.Select(ctx, "look who is on plans", &list, runRows+` WHERE r.person_id IN (SELECT value FROM json_each(?)) AND r.state IN `+query.RunsNotOver+` ORDER BY r.id`, packed)
	out := map[int64][]domain.RunRow{}
	for i := range list {
		out[list[i].PersonID] = append(out[list[i].PersonID], list[i])
	}
	return out, err
}

// AddRunStep notes that a step came. A step comes once: again it is an error.
func (s *Table) AddRunStep(ctx context.Context, d domain.RunStep) error {
	_, err := s.db.Add(ctx, "add step of run", `INSERT INTO run_steps (run_id, step_key, what, name, letter_id, task_id, at) VALUES (:run_id, :step_key, :what, :name, :letter_id, :task_id, :at)`, d)
	return err
}

// RunSteps gives the steps that came, in their order.
func (s *Table) RunSteps(ctx context.Context, runID int64) ([]domain.RunStep, error) {
	list := []domain.RunStep{}
	err := s.db.Select(ctx, "list steps of run", &list, `SELECT id, run_id, step_key, what, name, letter_id, task_id, at FROM run_steps WHERE run_id = ? ORDER BY id`, runID)
	return list, err
}

// StepsDone gives the keys of the steps that came, of each run of a plan that is not over.
func (s *Table) StepsDone(ctx context.Context, planID int64) (map[int64][]int, error) {
	var rows []struct {
		RunID   int64 `db:"run_id"`
		StepKey int   `db:"step_key"`
	}
	err := s.db.Select(ctx, "list steps of plan", &rows, `SELECT d.run_id, d.step_key FROM runs r JOIN run_steps d ON d.run_id = r.id WHERE r.plan_id = ? AND r.state IN `+query.RunsNotOver+` ORDER BY d.id`, planID)
	out := map[int64][]int{}
	for _, r := range rows {
		out[r.RunID] = append(out[r.RunID], r.StepKey)
	}
	return out, err
}

// ClaimRuns takes runs in hand whose step is due, until a lease ends, and gives their ids;
// those that another worker has are left out. A lease further ahead than it can be is of a
// clock that was set back, and counts for nothing.
func (s *Table) ClaimRuns(ctx context.Context, now time.Time, lease time.Duration, limit int) (ids []int64, err error) {
	err = s.db.Within(ctx, func(ctx context.Context) error {
		if err := s.db.Select(ctx, "look for due steps", &ids, `SELECT id FROM runs INDEXED BY runs_due WHERE state = 'going' AND step_at <= ?
			AND (lease_until IS NULL OR lease_until <= ? OR lease_until > ?) ORDER BY step_at LIMIT ?`, now, now, now.Add(lease), limit); err != nil || len(ids) == 0 {
			return err
		}
		packed, err := database.Packed(ids)
		if err == nil {
			_, err = s.db.Exec(ctx, "claim due steps", `UPDATE runs SET lease_until = ? WHERE id IN (SELECT value FROM json_each(?))`, now.Add(lease), packed)
		}
		return err
	})
	return ids, err
}

// RunsAhead gives the ids of runs whose next step is reckoned from a time after one.
func (s *Table) RunsAhead(ctx context.Context, after time.Time, limit int) (ids []int64, err error) {
	err = s.db.Select(ctx, "look for runs of a clock that was ahead", &ids, `SELECT id FROM runs INDEXED BY runs_from WHERE state = 'going' AND from_at > ? ORDER BY from_at LIMIT ?`, after, limit)
	return ids, err
}

// NextStepAt tells when the next step is due, nil when none is.
func (s *Table) NextStepAt(ctx context.Context) (*time.Time, error) {
	var list []time.Time
	err := s.db.Select(ctx, "look for the next step", &list, `SELECT step_at FROM runs INDEXED BY runs_due WHERE state = 'going' ORDER BY step_at LIMIT 1`)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	return &list[0], nil
}

// LetGo ends the leases of a worker that is no more.
func (s *Table) LetGo(ctx context.Context) error {
	_, err := s.db.Exec(ctx, "let go of steps", `UPDATE runs SET lease_until = NULL WHERE lease_until IS NOT NULL`)
	return err
}

// Proofread gives the runs that wait for a letter which is not a draft any more.
func (s *Table) Proofread(ctx context.Context, limit int) ([]int64, error) {
	var ids []int64
	err := s.db.Select(ctx, "look for proofread letters", &ids, `SELECT r.id FROM runs r INDEXED BY runs_waiting JOIN letters l ON l.id = r.letter_id
		WHERE r.letter_id IS NOT NULL AND r.state IN ('waiting', 'paused') AND l.state IN ('waiting', 'sending', 'sent') AND l.deleted_at IS NULL LIMIT ?`, limit)
	return ids, err
}

// RunEvents gives what happened to people who are on plans, behind an entry of the history,
// and the last entry that was looked at.
func (s *Table) RunEvents(ctx context.Context, after int64, limit int) (list []domain.RunEvent, last int64, err error) {
	kinds, err := database.Packed(plan.StoppingEvents())
	if err != nil {
		return nil, 0, err
	}
	if err := s.db.Get(ctx, "last entry", &last, `SELECT coalesce(max(id), 0) FROM history`); err != nil || last <= after {
		return nil, last, err
	}
	err = s.db.Select(ctx, "look what happened to people on plans", &list, `SELECT h.id, h.person_id, r.id AS run_id, h.kind, h.text, h.incoming_id, coalesce(i.back_on, '') AS back_on, h.at
		FROM history h JOIN runs r ON r.person_id = h.person_id AND r.state IN `+query.RunsNotOver+` LEFT JOIN incoming i ON i.id = h.incoming_id
		WHERE h.id > ? AND h.id <= ? AND h.kind IN (SELECT value FROM json_each(?)) AND NOT h.machine ORDER BY h.id, r.id LIMIT ?`, after, last, kinds, limit)
	if len(list) == limit {
		last = list[limit-1].ID // the rest of this entry comes again
		if last > after+1 {
			last--
		}
	}
	return list, last, err
}

// EventSince tells whether something happened to a person behind an entry of the history, of
// which a run of theirs is to be stopped or delayed.
func (s *Table) EventSince(ctx context.Context, personID, after int64) (bool, error) {
	kinds, err := database.Packed(plan.StoppingEvents())
	if err != nil {
		return false, err
	}
	is := false
	err = s.db.Get(ctx, "look what happened to somebody", &is, `SELECT EXISTS (SELECT 1 FROM history WHERE person_id = ? AND id > ? AND kind IN (SELECT value FROM json_each(?)) AND NOT machine)`, personID, after, kinds)
	return is, err
}

// RunsOfDeal gives the runs that end when a deal does: those about it, and those about no deal
// whose person is in it.
func (s *Table) RunsOfDeal(ctx context.Context, dealID int64) ([]int64, error) {
	var ids []int64
	err := s.db.Select(ctx, "look for runs of deal", &ids, `SELECT r.id FROM runs r WHERE r.state IN `+query.RunsNotOver+` AND (r.deal_id = ? OR r.deal_id IS NULL AND r.person_id IN (
		SELECT main_contact_id FROM deals WHERE id = ? UNION SELECT person_id FROM deal_contacts WHERE deal_id = ?)) ORDER BY r.id`, dealID, dealID, dealID)
	return ids, err
}

// RunsIn gives the runs of a person that are not over.
func (s *Table) RunsIn(ctx context.Context, personID int64) ([]int64, error) {
	var ids []int64
	err := s.db.Select(ctx, "look for runs of person", &ids, `SELECT id FROM runs WHERE person_id = ? AND state IN `+query.RunsNotOver+` ORDER BY id`, personID)
	return ids, err
}

// EndedSince gives the kind of the first event since a time that stops the runs of a person, ""
// for none.
func (s *Table) EndedSince(ctx context.Context, personID int64, since time.Time) (string, error) {
	var kinds []string
	err := s.db.Select(ctx, "look what came in between", &kinds, `SELECT kind FROM history WHERE person_id = ? AND at >= ? AND NOT machine ORDER BY id`, personID, since)
	for _, kind := range kinds {
		if plan.OnEvent(kind).Stops {
			return kind, err
		}
	}
	return "", err
}

// CancelRunLetters takes the letters of a run that wait out of the outbox.
func (s *Table) CancelRunLetters(ctx context.Context, runID int64, reason string, at time.Time) error {
	const where = `run_id = ? AND state = 'waiting' AND person_id = (SELECT person_id FROM runs WHERE id = run_id)`
	if _, err := s.db.Exec(ctx, "note step", `INSERT INTO letter_steps (letter_id, state, reason, due_at, at) SELECT id, 'cancelled', ?, NULL, ? FROM letters WHERE `+where, reason, at, runID); err != nil {
		return err
	}
	_, err := s.db.Exec(ctx, "cancel letters of run", `UPDATE letters SET state = 'cancelled', reason = ?, due_at = NULL, updated_at = ? WHERE `+where, reason, at, runID)
	return err
}

// LastRuns gives when the last run of a plan ended for each of some people who went through it.
func (s *Table) LastRuns(ctx context.Context, planID int64, people []int64) (map[int64]time.Time, error) {
	out := map[int64]time.Time{}
	packed, err := database.Packed(people)
	if err != nil {
		return nil, err
	}
	var list []struct {
		PersonID int64     `db:"person_id"`
		EndedAt  time.Time `db:"ended_at"`
	}
	err = s.db.Select(ctx, "look who went through a plan", &list, `SELECT person_id, ended_at FROM runs
		WHERE plan_id = ? AND person_id IN (SELECT value FROM json_each(?)) AND state IN ('finished', 'stopped') AND ended_at IS NOT NULL ORDER BY id`, planID, packed)
	for _, one := range list {
		out[one.PersonID] = one.EndedAt
	}
	return out, err
}

// OpenDealsOf counts the deals of people that are neither won nor lost, of whom have some.
func (s *Table) OpenDealsOf(ctx context.Context, people []int64) (map[int64]int, error) {
	out := map[int64]int{}
	packed, err := database.Packed(people)
	if err != nil {
		return nil, err
	}
	var list []struct {
		PersonID int64 `db:"person_id"`
		N        int   `db:"n"`
	}
	err = s.db.Select(ctx, "count open deals", &list, `SELECT person_id, count(DISTINCT id) AS n FROM (
			SELECT d.main_contact_id AS person_id, d.id FROM deals d WHERE d.main_contact_id IN (SELECT value FROM json_each(?)) AND d.deleted_at IS NULL AND `+query.OpenDeal+`
			UNION SELECT c.person_id, d.id FROM deal_contacts c JOIN deals d ON d.id = c.deal_id
			WHERE c.person_id IN (SELECT value FROM json_each(?)) AND d.deleted_at IS NULL AND `+query.OpenDeal+`) GROUP BY person_id`, packed, packed)
	for _, one := range list {
		out[one.PersonID] = one.N
	}
	return out, err
}

// NextStep gives when the next step of a plan comes or the next letter of a round goes, nil for
// never; what is due already does not count.
func (s *Table) NextStep(ctx context.Context, now time.Time) (*time.Time, error) {
	var list []time.Time
	err := s.db.Select(ctx, "look for the next step", &list, `SELECT step_at FROM runs WHERE state = 'going' AND step_at > ? ORDER BY step_at LIMIT 1`, now)
	if err != nil {
		return nil, err
	}
	var rounds []time.Time
	if err := s.db.Select(ctx, "look for the next of rounds", &rounds, `SELECT m.go_at FROM rounds r JOIN round_people m ON m.round_id = r.id WHERE r.state = 'sending' AND m.go_at > ? AND m.state <> 'released' ORDER BY m.go_at LIMIT 1`, now); err != nil {
		return nil, err
	}
	if list = append(list, rounds...); len(list) == 0 {
		return nil, nil
	}
	first := slices.MinFunc(list, time.Time.Compare)
	return &first, nil
}
