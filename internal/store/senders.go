package store

import (
	"context"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

type fromRow struct {
	domain.FromAddress
	EmailKey      string `db:"email_key"`
	SignatureJSON string `db:"signature_json"`
}

// FromAddresses lists the addresses that were allowed to a user, by address.
func (s *Store) FromAddresses(ctx context.Context, userID int64) ([]domain.FromAddress, error) {
	if b := s.batch(ctx); b != nil {
		return readOnce(b.froms, userID, func() ([]domain.FromAddress, error) { return s.fromAddresses(ctx, userID) })
	}
	return s.fromAddresses(ctx, userID)
}

func (s *Store) fromAddresses(ctx context.Context, userID int64) ([]domain.FromAddress, error) {
	var rows []fromRow
	if err := s.list(ctx, "list From addresses", &rows, `SELECT id, user_id, name, email, email_key, signature AS signature_json FROM from_addresses WHERE user_id = ? AND deleted_at IS NULL ORDER BY email_key`, userID); err != nil {
		return nil, err
	}
	out := make([]domain.FromAddress, 0, len(rows))
	for _, r := range rows {
		if r.SignatureJSON != "" {
			var err error
			if r.Signature, err = readDocument("signature of "+r.Email, r.SignatureJSON); err != nil {
				return nil, err
			}
		}
		out = append(out, r.FromAddress)
	}
	return out, nil
}

// PutFromAddress adds an address of a user, or stores its name and signature.
func (s *Store) PutFromAddress(ctx context.Context, f domain.FromAddress) error {
	r := fromRow{FromAddress: f, EmailKey: field.EmailKey(f.Email)}
	if len(f.Signature.Content) > 0 {
		var err error
		if r.SignatureJSON, err = writeDocument(f.Signature); err != nil {
			return wrap("store From address", err)
		}
	}
	_, err := s.exec(ctx, "store From address", `INSERT INTO from_addresses (user_id, name, email, email_key, signature) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (user_id, email_key) DO UPDATE SET name = excluded.name, signature = excluded.signature, deleted_at = NULL`, r.UserID, r.Name, r.Email, r.EmailKey, r.SignatureJSON)
	return err
}

// DeleteFromAddress takes an address from a user.
func (s *Store) DeleteFromAddress(ctx context.Context, userID int64, key string, at time.Time) error {
	gone, err := s.one(ctx, "delete From address", `UPDATE from_addresses SET deleted_at = ? WHERE user_id = ? AND email_key = ? AND deleted_at IS NULL`, at, userID, key)
	return missing(gone, err)
}

// RestoreFromAddress undoes DeleteFromAddress.
func (s *Store) RestoreFromAddress(ctx context.Context, userID int64, key string) error {
	back, err := s.one(ctx, "restore From address", `UPDATE from_addresses SET deleted_at = NULL WHERE user_id = ? AND email_key = ? AND deleted_at IS NOT NULL`, userID, key)
	return missing(back, err)
}

// UpdateProfile stores what a user says of themselves.
func (s *Store) UpdateProfile(ctx context.Context, u domain.User) error {
	_, err := s.change(ctx, "store profile", `UPDATE users SET phone = :phone, job_title = :job_title, booking_link = :booking_link, time_zone = :time_zone, country = :country, task_mail = :task_mail, own = :own WHERE id = :id`, u)
	return err
}

// CalendarToken gives the token of a user's calendar address.
func (s *Store) CalendarToken(ctx context.Context, userID int64) (token string, err error) {
	err = s.get(ctx, "load calendar address", &token, `SELECT calendar_token FROM users WHERE id = ?`, userID)
	return token, err
}

// SetCalendarToken stores the token of a user's calendar address.
func (s *Store) SetCalendarToken(ctx context.Context, userID int64, token string) error {
	_, err := s.exec(ctx, "store calendar address", `UPDATE users SET calendar_token = ? WHERE id = ?`, token, userID)
	return err
}

// UserByCalendar gives the user of a calendar address.
func (s *Store) UserByCalendar(ctx context.Context, token string) (u domain.User, err error) {
	err = s.get(ctx, "load user", &u, `SELECT `+userColumns+` FROM users WHERE calendar_token = ?`, token)
	return u, err
}
