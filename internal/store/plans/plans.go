// Package plans keeps plans, who goes through them, and tasks.
package plans

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
)

// Table satisfies the ports of the plans service. Make it with New.
type Table struct{ db database.DB }

// New gives the plans of a database.
func New(db database.DB) *Table { return &Table{db} }

type planRow struct {
	domain.Plan
	RightsJSON string `db:"rights"`
}

func rowOf(p domain.Plan) (planRow, error) {
	rights, err := json.Marshal(p.Rights)
	return planRow{p, string(rights)}, err
}

func (r *planRow) read() (domain.Plan, error) {
	if err := json.Unmarshal([]byte(r.RightsJSON), &r.Rights); err != nil {
		return r.Plan, fmt.Errorf("read the rights of a plan: %w", err)
	}
	return r.Plan, nil
}

const planColumns = `id, owner_id, name, when_to_use, state, rights, said, version, created_at, updated_at, updated_by, deleted_at`

// AddPlan stores a plan.
func (s *Table) AddPlan(ctx context.Context, p domain.Plan) (int64, error) {
	row, err := rowOf(p)
	if err != nil {
		return 0, err
	}
	return s.db.Add(ctx, "add plan", `INSERT INTO plans (owner_id, name, when_to_use, state, rights, said, version, created_at, updated_at, updated_by)
		VALUES (:owner_id, :name, :when_to_use, :state, :rights, :said, :version, :created_at, :updated_at, :updated_by)`, row)
}

// Plan gives a plan, also a deleted one; or ErrNotFound.
func (s *Table) Plan(ctx context.Context, id int64) (domain.Plan, error) {
	var row planRow
	if err := s.db.Get(ctx, "load plan", &row, `SELECT `+planColumns+` FROM plans WHERE id = ?`, id); err != nil {
		return domain.Plan{}, err
	}
	return row.read()
}

// Plans gives the plans that are not deleted, by name.
func (s *Table) Plans(ctx context.Context) ([]domain.Plan, error) {
	var rows []planRow
	if err := s.db.Select(ctx, "list plans", &rows, `SELECT `+planColumns+` FROM plans WHERE deleted_at IS NULL ORDER BY name COLLATE NOCASE, id`); err != nil {
		return nil, err
	}
	out := make([]domain.Plan, len(rows))
	for i := range rows {
		var err error
		if out[i], err = rows[i].read(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// UpdatePlan stores a plan as version p.Version+1, or gives ErrStale.
func (s *Table) UpdatePlan(ctx context.Context, p domain.Plan) error {
	row, err := rowOf(p)
	if err != nil {
		return err
	}
	hit, err := s.db.Change(ctx, "store plan", `UPDATE plans SET name = :name, when_to_use = :when_to_use, state = :state, rights = :rights, said = :said,
		updated_at = :updated_at, updated_by = :updated_by, version = version + 1 WHERE id = :id AND version = :version`, row)
	if err == nil && !hit {
		return domain.ErrStale
	}
	return err
}

// DeletePlan takes a plan out of the list, or with nil puts it back; or ErrNotFound.
func (s *Table) DeletePlan(ctx context.Context, id int64, at *time.Time) error {
	return found(database.Hits(s.db.Exec(ctx, "delete plan", `UPDATE plans SET deleted_at = ? WHERE id = ?`, at, id)))
}

// PlanCounts tells how many runs of each plan are in each state.
func (s *Table) PlanCounts(ctx context.Context) (map[int64]map[domain.RunState]int, error) {
	var rows []struct {
		PlanID int64           `db:"plan_id"`
		State  domain.RunState `db:"state"`
		N      int             `db:"n"`
	}
	err := s.db.Select(ctx, "count runs", &rows, `SELECT plan_id, state, count(*) AS n FROM runs GROUP BY plan_id, state`)
	out := map[int64]map[domain.RunState]int{}
	for _, r := range rows {
		if out[r.PlanID] == nil {
			out[r.PlanID] = map[domain.RunState]int{}
		}
		out[r.PlanID][r.State] = r.N
	}
	return out, err
}

// PlansWith gives the plans that are not deleted and have letters of a template, by name.
func (s *Table) PlansWith(ctx context.Context, templateID int64) ([]domain.Plan, error) {
	all, err := s.Plans(ctx)
	if err != nil {
		return nil, err
	}
	out := []domain.Plan{}
	for i := range all {
		for _, id := range all[i].Said.Templates() {
			if id == templateID {
				out = append(out, all[i])
			}
		}
	}
	return out, nil
}
