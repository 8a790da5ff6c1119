package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

const accountColumns = `id, name, addresses, user_id, audience, server, connections, per_minute, per_day, return_to, dkim_domain, dkim_selector, dkim_key,
	mailbox, mailbox_at, mailbox_said, created_at, deleted_at`

type accountRow struct {
	domain.Account
	AudienceJSON string `db:"audience"`
}

func (r *accountRow) read() (domain.Account, error) {
	err := readJSON("audience", r.AudienceJSON, &r.Audience)
	return r.Account, err
}

// Accounts lists the sending accounts in the order they were made.
func (s *Store) Accounts(ctx context.Context) ([]domain.Account, error) {
	var rows []accountRow
	if err := s.list(ctx, "list accounts", &rows, `SELECT `+accountColumns+` FROM sending_accounts WHERE deleted_at IS NULL ORDER BY id`); err != nil {
		return nil, err
	}
	out := make([]domain.Account, 0, len(rows))
	for _, r := range rows {
		a, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, a)
	}
	return out, nil
}

// Account gives one account that is not deleted.
func (s *Store) Account(ctx context.Context, id int64) (domain.Account, error) {
	var r accountRow
	if err := s.get(ctx, "load account", &r, `SELECT `+accountColumns+` FROM sending_accounts WHERE id = ? AND deleted_at IS NULL`, id); err != nil {
		return domain.Account{}, err
	}
	return r.read()
}

// PutAccount stores an account, a new one with the id 0, and gives its id.
func (s *Store) PutAccount(ctx context.Context, a domain.Account) (int64, error) {
	audience, err := writeJSON(a.Audience)
	if err != nil {
		return 0, wrap("store account", err)
	}
	row := accountRow{a, audience}
	if a.ID == 0 {
		return s.add(ctx, "add account", `INSERT INTO sending_accounts (name, addresses, user_id, audience, server, connections, per_minute, per_day, return_to,
			dkim_domain, dkim_selector, dkim_key, mailbox, created_at)
			VALUES (:name, :addresses, :user_id, :audience, :server, :connections, :per_minute, :per_day, :return_to, :dkim_domain, :dkim_selector, :dkim_key, :mailbox, :created_at)`, row)
	}
	found, err := s.change(ctx, "store account", `UPDATE sending_accounts SET name = :name, addresses = :addresses, user_id = :user_id, audience = :audience, server = :server,
		connections = :connections, per_minute = :per_minute, per_day = :per_day, return_to = :return_to, dkim_domain = :dkim_domain, dkim_selector = :dkim_selector,
		dkim_key = :dkim_key, mailbox = :mailbox, deleted_at = :deleted_at WHERE id = :id`, row)
	if err == nil && !found {
		err = domain.ErrNotFound
	}
	return a.ID, err
}

// PutBackAccount brings back an account that was deleted.
func (s *Store) PutBackAccount(ctx context.Context, id int64) error {
	back, err := s.one(ctx, "put account back", `UPDATE sending_accounts SET deleted_at = NULL WHERE id = ? AND deleted_at IS NOT NULL`, id)
	if err == nil && !back {
		return domain.ErrNotFound
	}
	return err
}

// MailboxRead says up to where the mailbox of an account was read, or why not.
func (s *Store) MailboxRead(ctx context.Context, id int64, at, said string) error {
	_, err := s.exec(ctx, "note mailbox", `UPDATE sending_accounts SET mailbox_at = ?, mailbox_said = ? WHERE id = ?`, at, said, id)
	return err
}

// ClaimLetter has a waiting letter of this version be sent now, unless its account has
// sent as many as it may; it tells whether it did.
func (s *Store) ClaimLetter(ctx context.Context, id int64, t domain.Claim) (bool, error) {
	taken, err := s.one(ctx, "take letter in hand", `UPDATE letters SET state = 'sending', reason = '', updated_at = ?, lease_until = ?, account_id = ?,
		message_id = ?, token = ?, tracked = ?, subject_line = ?, handed_over_at = NULL WHERE id = ? AND version = ? AND state = 'waiting'
		AND (? = 0 OR (SELECT count(*) FROM letters WHERE account_id = ? AND (handed_over_at >= ? OR state = 'sending')) < ?)`,
		t.At, t.Lease, t.AccountID, t.MessageID, t.Token, t.Tracked, t.SubjectLine, id, t.Version, t.PerDay, t.AccountID, t.Day, t.PerDay)
	if err != nil || !taken {
		return false, err
	}
	return true, s.noteStep(ctx, id, domain.Change{To: domain.Sending, At: t.At})
}

// Expired lists the letters that were to be dealt with by now.
func (s *Store) Expired(ctx context.Context, now time.Time) ([]int64, error) {
	var ids []int64
	err := s.list(ctx, "list expired leases", &ids, `SELECT id FROM letters WHERE state = 'sending' AND lease_until < ? ORDER BY id`, now)
	return ids, err
}

// Busy tells whether a letter is being handed over or due, or something is that makes one: a
// step of a plan, a letter of a round.
func (s *Store) Busy(ctx context.Context, now time.Time) (busy bool, err error) {
	err = s.get(ctx, "look for work", &busy, `SELECT EXISTS (SELECT 1 FROM letters WHERE state = 'sending') OR EXISTS (SELECT 1 FROM letters WHERE state = 'waiting' AND due_at <= ?)
		OR EXISTS (SELECT 1 FROM runs WHERE state = 'going' AND step_at <= ?) OR EXISTS (SELECT 1 FROM rounds r WHERE r.state = 'sending' AND EXISTS (SELECT 1 FROM round_people m WHERE m.round_id = r.id AND m.go_at <= ? AND m.state <> 'released'))`, now, now, now)
	return busy, err
}

// SetDue gives a waiting letter another time.
func (s *Store) SetDue(ctx context.Context, id int64, due time.Time) (bool, error) {
	return s.one(ctx, "set time", `UPDATE letters SET due_at = ? WHERE id = ? AND state = 'waiting'`, due, id)
}

// Steps lists the steps of a letter on its way, in their order.
func (s *Store) Steps(ctx context.Context, letterID int64) ([]domain.LetterStep, error) {
	list := []domain.LetterStep{}
	err := s.list(ctx, "list steps", &list, `SELECT state, reason, due_at, at FROM letter_steps WHERE letter_id = ? ORDER BY id`, letterID)
	return list, err
}
