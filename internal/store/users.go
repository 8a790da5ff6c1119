package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

const userColumns = `id, email, password_hash, role, team_id, first_name, last_name, phone, job_title, booking_link, signature, hold_seconds, time_zone, country, task_mail, own`

// User gives one user.
func (s *Store) User(ctx context.Context, id int64) (domain.User, error) {
	if b := s.batch(ctx); b != nil {
		return readOnce(b.users, id, func() (domain.User, error) { return s.user(ctx, id) })
	}
	return s.user(ctx, id)
}

func (s *Store) user(ctx context.Context, id int64) (u domain.User, err error) {
	err = s.get(ctx, "load user", &u, `SELECT `+userColumns+` FROM users WHERE id = ?`, id)
	return u, err
}

// UserByEmail gives the user of an address key.
func (s *Store) UserByEmail(ctx context.Context, key string) (u domain.User, err error) {
	err = s.get(ctx, "load user", &u, `SELECT `+userColumns+` FROM users WHERE email_key = ?`, key)
	return u, err
}

// Users lists all users by name.
func (s *Store) Users(ctx context.Context) (u []domain.User, err error) {
	err = s.list(ctx, "list users", &u, `SELECT `+userColumns+` FROM users ORDER BY last_name, first_name, id`)
	return u, err
}

// Teams lists all teams by name.
func (s *Store) Teams(ctx context.Context) (t []domain.Team, err error) {
	err = s.list(ctx, "list teams", &t, `SELECT id, name, postal_address, website, language, own FROM teams ORDER BY name, id`)
	return t, err
}

// Team gives one team.
func (s *Store) Team(ctx context.Context, id int64) (domain.Team, error) {
	if b := s.batch(ctx); b != nil {
		return readOnce(b.teams, id, func() (domain.Team, error) { return s.team(ctx, id) })
	}
	return s.team(ctx, id)
}

func (s *Store) team(ctx context.Context, id int64) (t domain.Team, err error) {
	err = s.get(ctx, "load team", &t, `SELECT id, name, postal_address, website, language, own FROM teams WHERE id = ?`, id)
	return t, err
}

// CountUsers tells how many users there are.
func (s *Store) CountUsers(ctx context.Context) (n int, err error) {
	err = s.get(ctx, "count users", &n, `SELECT count(*) FROM users`)
	return n, err
}

// UpdateTeam stores the values of a team.
func (s *Store) UpdateTeam(ctx context.Context, t domain.Team) error {
	_, err := s.change(ctx, "store team", `UPDATE teams SET name = :name, postal_address = :postal_address, website = :website, language = :language, own = :own WHERE id = :id`, t)
	return err
}

// AddTeam stores a team.
func (s *Store) AddTeam(ctx context.Context, t domain.Team) (int64, error) {
	return s.add(ctx, "add team", `INSERT INTO teams (name, postal_address, website, language, own) VALUES (:name, :postal_address, :website, :language, :own)`, t)
}

// AddUser stores a user.
func (s *Store) AddUser(ctx context.Context, u domain.User) (int64, error) {
	return s.add(ctx, "add user", `INSERT INTO users (email, email_key, password_hash, role, team_id, first_name, last_name, phone, job_title, booking_link, signature, hold_seconds, time_zone, country, task_mail, own)
		VALUES (:email, :email_key, :password_hash, :role, :team_id, :first_name, :last_name, :phone, :job_title, :booking_link, :signature, :hold_seconds, :time_zone, :country, :task_mail, :own)`,
		struct {
			domain.User
			EmailKey string `db:"email_key"`
		}{u, field.EmailKey(u.Email)})
}

// OwnFields gives the own fields of the workspace in their order.
func (s *Store) OwnFields(ctx context.Context) ([]field.Def, error) {
	var rows []struct {
		Path, Record, Label, Type, Choices string
	}
	if err := s.list(ctx, "list own fields", &rows, `SELECT path, record, label, type, choices FROM own_fields WHERE deleted_at IS NULL ORDER BY position, path`); err != nil {
		return nil, err
	}
	out := make([]field.Def, 0, len(rows))
	for _, r := range rows {
		d := field.Def{Path: r.Path, Record: field.Record(r.Record), Label: r.Label, Type: field.Type(r.Type), Own: true}
		if err := json.Unmarshal([]byte(r.Choices), &d.Choices); err != nil {
			return nil, wrap("read the choices of "+r.Path, err)
		}
		out = append(out, d)
	}
	return out, nil
}

// AddOwnField stores an own field behind the others.
func (s *Store) AddOwnField(ctx context.Context, d field.Def) error {
	choices, err := json.Marshal(append([]string{}, d.Choices...))
	if err != nil {
		return wrap("add own field", err)
	}
	_, err = s.exec(ctx, "add own field", `INSERT INTO own_fields (path, record, label, type, choices, position)
		VALUES (?, ?, ?, ?, ?, (SELECT count(*) FROM own_fields))`, d.Path, d.Record, d.Label, d.Type, string(choices))
	return err
}

// UpdateOwnField stores the label and the choices of the field at its path.
func (s *Store) UpdateOwnField(ctx context.Context, d field.Def) error {
	choices, err := writeJSON(append([]string{}, d.Choices...))
	if err == nil {
		_, err = s.exec(ctx, "update own field", `UPDATE own_fields SET label = ?, choices = ? WHERE path = ?`, d.Label, choices, d.Path)
	}
	return err
}

// OrderOwnFields gives the fields at these paths this order.
func (s *Store) OrderOwnFields(ctx context.Context, paths []string) error {
	text, err := writeJSON(paths)
	if err == nil {
		_, err = s.exec(ctx, "order own fields", `UPDATE own_fields SET position = (SELECT j.key FROM json_each(?1) j WHERE j.value = own_fields.path)
			WHERE path IN (SELECT value FROM json_each(?1))`, text)
	}
	return err
}

// DeleteOwnField takes a field out of the catalogue or puts it back.
func (s *Store) DeleteOwnField(ctx context.Context, path string, at *time.Time) error {
	found, err := s.one(ctx, "delete own field", `UPDATE own_fields SET deleted_at = ? WHERE path = ?`, at, path)
	if err == nil && !found {
		return domain.ErrNotFound
	}
	return err
}

// OwnFieldDeleted tells whether a field of this path was deleted.
func (s *Store) OwnFieldDeleted(ctx context.Context, path string) (deleted bool, err error) {
	err = s.get(ctx, "look for own field", &deleted, `SELECT EXISTS (SELECT 1 FROM own_fields WHERE path = ? AND deleted_at IS NOT NULL)`, path)
	return deleted, err
}

// SetHold stores how many seconds a user's letters can be taken back.
func (s *Store) SetHold(ctx context.Context, userID int64, seconds int) error {
	_, err := s.exec(ctx, "set hold", `UPDATE users SET hold_seconds = ? WHERE id = ?`, seconds, userID)
	return err
}

// UserOfAddress gives the user who has an address to write from.
func (s *Store) UserOfAddress(ctx context.Context, key string) (u domain.User, err error) {
	if u, err = s.UserByEmail(ctx, key); !errors.Is(err, domain.ErrNotFound) {
		return u, err
	}
	var id int64
	if err = s.get(ctx, "find user of address", &id, `SELECT user_id FROM from_addresses WHERE email_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 1`, key); err != nil {
		return u, err
	}
	return s.User(ctx, id)
}
