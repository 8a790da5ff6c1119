package guard

import (
	"context"
	"database/sql"
	"errors"
	"sync"
	"time"
)

// Databases is where sessions are kept: they are read where others read, so that who is
// signed in never waits for who writes.
type Databases interface {
	DB() *sql.DB
	Readers() *sql.DB
}

// Sessions keeps sessions (scs.CtxStore); waits end with the request.
type Sessions struct{ DB Databases }

// Julian is a time in days as SQLite's julianday gives it.
func Julian(t time.Time) float64 { return float64(t.UnixMilli())/86_400_000 + 2_440_587.5 }

// FindCtx gives what a session holds.
func (s Sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	var data []byte
	err := s.DB.Readers().QueryRowContext(ctx, `SELECT data FROM sessions WHERE token = ? AND expiry > ?`, token, Julian(time.Now())).Scan(&data)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx stores a session, and takes those away whose time is over.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	_, err := s.DB.DB().ExecContext(ctx, `INSERT INTO sessions (token, data, expiry) VALUES (?, ?, ?)
		ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry`, token, data, Julian(expiry))
	if err == nil {
		_, err = s.DB.DB().ExecContext(ctx, `DELETE FROM sessions WHERE expiry <= ?`, Julian(time.Now()))
	}
	return err
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	_, err := s.DB.DB().ExecContext(ctx, `DELETE FROM sessions WHERE token = ?`, token)
	return err
}

// Find, Commit and Delete make it a scs.Store; the manager calls the ones above.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

func (s Sessions) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }

// Tally counts what is told of once a minute.
type Tally struct {
	mu   sync.Mutex
	n    int
	told time.Time
}

// Add counts one more, and gives how many there were when it is time to tell.
func (t *Tally) Add(now time.Time) int {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.n++
	if now.Sub(t.told) < time.Minute {
		return 0
	}
	n := t.n
	t.n, t.told = 0, now
	return n
}
