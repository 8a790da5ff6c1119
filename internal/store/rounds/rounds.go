// Package rounds keeps rounds, the people in them and recipes.
package rounds

import (
	"context"
	"fmt"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// Table satisfies the ports of the rounds service. Make it with New.
type Table struct{ db database.DB }

// New gives the rounds of a database.
func New(db database.DB) *Table { return &Table{db} }

const roundColumns = `id, owner_id, name, state, reason, list_id, filter, recipe_id, template_id, template_version, seen_version, said, doubles, version, created_at, updated_at, began_at, ended_at`

// AddRound stores a round.
func (s *Table) AddRound(ctx context.Context, r domain.Round) (int64, error) {
	return s.db.Add(ctx, "add round", `INSERT INTO rounds (owner_id, name, state, list_id, filter, recipe_id, template_id, template_version, seen_version, said, doubles, version, created_at, updated_at)
		VALUES (:owner_id, :name, :state, :list_id, :filter, :recipe_id, :template_id, :template_version, :seen_version, :said, :doubles, :version, :created_at, :updated_at)`, r)
}

// Round gives a round, or ErrNotFound.
func (s *Table) Round(ctx context.Context, id int64) (r domain.Round, err error) {
	err = s.db.Get(ctx, "load round", &r, `SELECT `+roundColumns+` FROM rounds WHERE id = ?`, id)
	return r, err
}

// Rounds lists the rounds of somebody, the newest first.
func (s *Table) Rounds(ctx context.Context, ownerID int64, limit int) ([]domain.Round, error) {
	list := []domain.Round{}
	err := s.db.Select(ctx, "list rounds", &list, `SELECT `+roundColumns+` FROM rounds WHERE owner_id = ? ORDER BY updated_at DESC, id DESC LIMIT ?`, ownerID, limit)
	return list, err
}

// RoundsIn lists all rounds in one of some states, by number.
func (s *Table) RoundsIn(ctx context.Context, states ...domain.RoundState) ([]domain.Round, error) {
	asked, err := database.Packed(states)
	if err != nil {
		return nil, err
	}
	list := []domain.Round{}
	err = s.db.Select(ctx, "list rounds", &list, `SELECT `+roundColumns+` FROM rounds WHERE state IN (SELECT value FROM json_each(?)) ORDER BY id`, asked)
	return list, err
}

// UpdateRound stores what a round is made of as version r.Version+1, or gives ErrStale.
func (s *Table) UpdateRound(ctx context.Context, r domain.Round) error {
	hit, err := s.db.Change(ctx, "store round", `UPDATE rounds SET name = :name, template_id = :template_id, template_version = :template_version, seen_version = :seen_version,
		said = :said, updated_at = :updated_at, version = version + 1 WHERE id = :id AND version = :version`, r)
	if err == nil && !hit {
		return domain.ErrStale
	}
	return err
}

// MoveRound changes the state of a round that is still in the state that r.State says.
func (s *Table) MoveRound(ctx context.Context, r domain.Round, to domain.RoundState, reason string, at time.Time) (bool, error) {
	began, ended := r.BeganAt, (*time.Time)(nil)
	if to == domain.RoundSending && began == nil {
		began = &at
	}
	if to.Over() {
		ended = &at
	}
	res, err := s.db.Exec(ctx, "move round", `UPDATE rounds SET state = ?, reason = ?, updated_at = ?, began_at = ?, ended_at = ? WHERE id = ? AND state = ?`, to, reason, at, began, ended, r.ID, r.State)
	return database.Hits(res, err)
}

// BeganAt notes when the sending of a round began.
func (s *Table) BeganAt(ctx context.Context, id int64, at time.Time) error {
	_, err := s.db.Exec(ctx, "note when round began", `UPDATE rounds SET began_at = ? WHERE id = ?`, at, id)
	return err
}

// HoldLetters keeps the letters of a round that wait from going, or lets them go again at due.
func (s *Table) HoldLetters(ctx context.Context, roundID int64, due *time.Time, reason string, at time.Time) error {
	where, from := `round_id = ? AND state = 'waiting' AND due_at IS NOT NULL`, roundID
	if due != nil {
		where = `round_id = ? AND state = 'waiting' AND due_at IS NULL`
	}
	if _, err := s.db.Exec(ctx, "note step", `INSERT INTO letter_steps (letter_id, state, reason, due_at, at) SELECT id, 'waiting', ?, ?, ? FROM letters WHERE `+where, reason, due, at, from); err != nil {
		return err
	}
	_, err := s.db.Exec(ctx, "hold letters", `UPDATE letters SET due_at = ?, reason = ?, updated_at = ? WHERE `+where, due, reason, at, from)
	return err
}

// SetLetterRound has a draft be changed within a round.
func (s *Table) SetLetterRound(ctx context.Context, letterID, roundID int64) error {
	_, err := s.db.Exec(ctx, "put letter into round", `UPDATE letters SET round_id = ? WHERE id = ? AND state = 'draft'`, roundID, letterID)
	return err
}

// LetGoOfDrafts makes the drafts that were changed within a round their writer's own.
func (s *Table) LetGoOfDrafts(ctx context.Context, roundID int64) error {
	_, err := s.db.Exec(ctx, "let go of drafts", `UPDATE letters SET round_id = NULL WHERE round_id = ? AND state = 'draft'`, roundID)
	return err
}

// CancelLetters cancels the letters of a round that wait.
func (s *Table) CancelLetters(ctx context.Context, roundID int64, reason string, at time.Time) error {
	const where = `round_id = ? AND state = 'waiting'`
	if _, err := s.db.Exec(ctx, "note step", `INSERT INTO letter_steps (letter_id, state, reason, due_at, at) SELECT id, 'cancelled', ?, NULL, ? FROM letters WHERE `+where, reason, at, roundID); err != nil {
		return err
	}
	_, err := s.db.Exec(ctx, "cancel letters", `UPDATE letters SET state = 'cancelled', reason = ?, updated_at = ? WHERE `+where, reason, at, roundID)
	return err
}

// LettersWaiting lists the letters of a round that wait.
func (s *Table) LettersWaiting(ctx context.Context, roundID int64) ([]int64, error) {
	ids := []int64{}
	err := s.db.Select(ctx, "list letters of round", &ids, `SELECT id FROM letters WHERE round_id = ? AND state = 'waiting' ORDER BY id`, roundID)
	return ids, err
}

// UnderWay counts the letters of a round that wait or are being handed over.
func (s *Table) UnderWay(ctx context.Context, roundID int64) (n int, err error) {
	err = s.db.Get(ctx, "count letters of round", &n, `SELECT count(*) FROM letters WHERE round_id = ? AND state IN ('waiting', 'sending')`, roundID)
	return n, err
}

// RoundStop tells what came in between that keeps a letter of a round from going.
func (s *Table) RoundStop(ctx context.Context, l *domain.Letter) (domain.RoundStop, error) {
	var r struct {
		Wrote   *string `db:"wrote"`
		Twice   bool    `db:"twice"`
		Stopped bool    `db:"stopped"`
	}
	err := s.db.Get(ctx, "look what came in between", &r, `SELECT
		(SELECT r.state = 'stopped' FROM rounds r WHERE r.id = l.round_id) AS stopped,
		(SELECT max(h.at) FROM history h JOIN rounds r ON r.id = l.round_id WHERE h.person_id = l.person_id AND h.kind IN `+query.Wrote+` AND h.at >= r.began_at) AS wrote,
		EXISTS (SELECT 1 FROM letters o INDEXED BY letters_to WHERE o.to_email = l.to_email COLLATE NOCASE AND o.round_id = l.round_id AND o.id <> l.id AND o.state IN ('sent', 'sending', 'unsure')) AS twice
		FROM letters l WHERE l.id = ?`, l.ID)
	out := domain.RoundStop{Twice: r.Twice, Stopped: r.Stopped}
	if err == nil && r.Wrote != nil {
		out.Wrote, err = readTime(*r.Wrote)
	}
	return out, err
}

// readTime reads a time that went through a function of SQLite.
func readTime(s string) (*time.Time, error) {
	at, err := time.Parse("2006-01-02 15:04:05.999999999-07:00", s)
	if err != nil {
		return nil, fmt.Errorf("read a time: %w", err)
	}
	at = at.UTC()
	return &at, nil
}

const recipeColumns = `SELECT r.id, r.name, r.owner_id, u.first_name || ' ' || u.last_name AS owner, r.list_id, l.name AS list_name, r.said, r.version, r.created_at, r.deleted_at
	FROM recipes r JOIN users u ON u.id = r.owner_id JOIN lists l ON l.id = r.list_id`

// Recipes lists those that are not deleted, by name.
func (s *Table) Recipes(ctx context.Context) ([]domain.Recipe, error) {
	list := []domain.Recipe{}
	err := s.db.Select(ctx, "list recipes", &list, recipeColumns+` WHERE r.deleted_at IS NULL ORDER BY lower(r.name), r.id`)
	return list, err
}

// Recipe gives a recipe, also a deleted one, or ErrNotFound.
func (s *Table) Recipe(ctx context.Context, id int64) (r domain.Recipe, err error) {
	err = s.db.Get(ctx, "load recipe", &r, recipeColumns+` WHERE r.id = ?`, id)
	return r, err
}

// AddRecipe stores a recipe.
func (s *Table) AddRecipe(ctx context.Context, r domain.Recipe) (int64, error) {
	return s.db.Add(ctx, "add recipe", `INSERT INTO recipes (name, owner_id, list_id, said, created_at) VALUES (:name, :owner_id, :list_id, :said, :created_at)`, r)
}

// UpdateRecipe stores a recipe as version r.Version+1, or gives ErrStale.
func (s *Table) UpdateRecipe(ctx context.Context, r domain.Recipe) error {
	hit, err := s.db.Change(ctx, "store recipe", `UPDATE recipes SET name = :name, list_id = :list_id, said = :said, version = version + 1 WHERE id = :id AND version = :version AND deleted_at IS NULL`, r)
	if err == nil && !hit {
		return domain.ErrStale
	}
	return err
}

// DeleteRecipe marks a recipe as deleted or, with nil, puts it back; or ErrNotFound.
func (s *Table) DeleteRecipe(ctx context.Context, id int64, at *time.Time) error {
	hit, err := database.Hits(s.db.Exec(ctx, "delete recipe", `UPDATE recipes SET deleted_at = ? WHERE id = ?`, at, id))
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

// OtherTemplates gives the templates that were chosen for single people of a round.
func (s *Table) OtherTemplates(ctx context.Context, roundID int64) ([]domain.PinnedWording, error) {
	list := []domain.PinnedWording{}
	err := s.db.Select(ctx, "list other templates of round", &list, `SELECT DISTINCT template_id AS id, template_version AS version FROM round_people
		WHERE round_id = ? AND template_id IS NOT NULL ORDER BY 1, 2`, roundID)
	return list, err
}
