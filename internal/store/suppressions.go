package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Suppressions gives what keeps letters from address keys.
func (s *Store) Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error) {
	var rows []struct {
		Key    string     `db:"key"`
		Listed *time.Time `db:"listed"`
		Said   *time.Time `db:"said"`
		Reason *string    `db:"reason"`
		At     *time.Time `db:"at"`
		Letter *int64     `db:"letter_id"`
		Report *int64     `db:"incoming_id"`
	}
	if had, ok := s.batch(ctx).suppressed(keys); ok {
		return had, nil
	}
	if len(keys) == 0 {
		return map[string]domain.Suppression{}, nil
	}
	asked, err := writeJSON(keys)
	if err != nil {
		return nil, err
	}
	err = s.list(ctx, "look what keeps letters from addresses", &rows, `SELECT k.value AS key, (SELECT at FROM opt_outs WHERE email_key = k.value AND deleted_at IS NULL) AS listed,
		(SELECT opted_out_at FROM people WHERE email_key = k.value AND opted_out_at IS NOT NULL ORDER BY id LIMIT 1) AS said, b.reason, b.at, b.letter_id, b.incoming_id
		FROM json_each(?) k LEFT JOIN bad_addresses b ON b.email_key = k.value AND b.deleted_at IS NULL`, asked)
	out := make(map[string]domain.Suppression, len(rows))
	for _, r := range rows {
		one := domain.Suppression{OptedOutAt: r.Listed}
		if one.OptedOutAt == nil {
			one.OptedOutAt = r.Said
		}
		if r.At != nil {
			one.Bad = &domain.BadAddress{Key: r.Key, Reason: *r.Reason, At: *r.At, LetterID: r.Letter, ReportID: r.Report}
		}
		out[r.Key] = one
	}
	return out, err
}

// PutBadAddress writes down that letters came back from an address.
func (s *Store) PutBadAddress(ctx context.Context, b domain.BadAddress) error {
	_, err := s.exec(ctx, "mark address", `INSERT INTO bad_addresses (email_key, reason, at, letter_id, incoming_id) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (email_key) DO UPDATE SET reason = excluded.reason, at = excluded.at, letter_id = excluded.letter_id,
			incoming_id = CASE WHEN bad_addresses.deleted_at IS NULL THEN bad_addresses.incoming_id ELSE excluded.incoming_id END, deleted_at = NULL`,
		b.Key, b.Reason, b.At, b.LetterID, b.ReportID)
	return err
}

// SuppressedBy gives the keys of the addresses that a report keeps letters from: those that
// it says are no good, and those whose readers it says do not want any.
func (s *Store) SuppressedBy(ctx context.Context, reportID int64) (bad, optedOut []string, err error) {
	bad, optedOut = []string{}, []string{}
	err = s.list(ctx, "list addresses of report", &bad, `SELECT email_key FROM bad_addresses WHERE incoming_id = ? AND deleted_at IS NULL ORDER BY email_key`, reportID)
	if err == nil {
		err = s.list(ctx, "list addresses of report", &optedOut, `SELECT email_key FROM opt_outs WHERE incoming_id = ? AND deleted_at IS NULL ORDER BY email_key`, reportID)
	}
	return bad, optedOut, err
}

// DeleteBadAddress lets an address be written to again.
func (s *Store) DeleteBadAddress(ctx context.Context, key string, at time.Time) error {
	_, err := s.exec(ctx, "let address be tried again", `UPDATE bad_addresses SET deleted_at = ? WHERE email_key = ?`, at, key)
	return err
}

// RestoreBadAddress undoes DeleteBadAddress.
func (s *Store) RestoreBadAddress(ctx context.Context, key string) error {
	back, err := s.one(ctx, "keep address from letters", `UPDATE bad_addresses SET deleted_at = NULL WHERE email_key = ? AND deleted_at IS NOT NULL`, key)
	return missing(back, err)
}
