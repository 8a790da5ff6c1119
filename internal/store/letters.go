package store

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// writeDocument stores a tree as its JSON.
func writeDocument(d document.Document) (string, error) {
	data, err := json.Marshal(d)
	return string(data), err
}

func readDocument(what, stored string) (document.Document, error) {
	d, err := document.ParseJSON([]byte(stored))
	return d, wrap("read "+what, err)
}

const letterColumns = `l.id, l.person_id, l.company_id, l.deal_id, l.template_id, l.template_version, l.sender_id, l.state, l.reason, l.to_name, l.to_email,
	l.from_name, l.from_email, l.subject_line, l.fixed, l.extras, l.internal, l.version, l.attempts, l.message_id, l.token, l.tracked, l.answers_id, l.thread_id, l.in_reply_to, l.refs, l.created_at, l.updated_at, l.queued_at, l.due_at, l.first_try_at, l.handed_over_at, l.sent_at, l.deleted_at, l.seen, l.round_id, l.run_id, l.order_id,
	l.subject AS subject_json, l.body AS body_json`

// letterHead are the columns without the words.
var letterHead = letterColumns[:strings.Index(letterColumns, ",\n\tl.subject AS")]

// letterLine are the columns that lists show.
const letterLine = `l.id, l.person_id, l.company_id, l.deal_id, l.template_id, l.sender_id, l.state, l.reason, l.to_name, l.to_email, l.subject_line, l.internal, l.tracked,
	l.version, l.attempts, l.created_at, l.updated_at, l.queued_at, l.due_at, l.sent_at, l.deleted_at, l.round_id, l.run_id`

type letterRow struct {
	domain.Letter
	SubjectJSON string `db:"subject_json"`
	BodyJSON    string `db:"body_json"`
}

func (r *letterRow) read() (domain.Letter, error) {
	var err error
	if r.Subject, err = readDocument("subject of letter", r.SubjectJSON); err != nil {
		return r.Letter, err
	}
	r.Body, err = readDocument("body of letter", r.BodyJSON)
	return r.Letter, err
}

func letterRowOf(l domain.Letter) (letterRow, error) {
	r := letterRow{Letter: l}
	var err error
	if r.SubjectJSON, err = writeDocument(l.Subject); err != nil {
		return r, err
	}
	r.BodyJSON, err = writeDocument(l.Body)
	return r, err
}

// AddLetter stores a letter.
func (s *Store) AddLetter(ctx context.Context, l domain.Letter) (int64, error) {
	row, err := letterRowOf(l)
	if err != nil {
		return 0, wrap("add letter", err)
	}
	return s.add(ctx, "add letter", `INSERT INTO letters (person_id, company_id, deal_id, template_id, template_version, sender_id, state, reason, to_name, to_email,
		from_name, from_email, subject, body, subject_line, fixed, extras, internal, version, attempts, message_id, token, tracked, answers_id, thread_id, in_reply_to, refs, created_at, updated_at, queued_at, due_at, handed_over_at, sent_at, seen, round_id, run_id, order_id)
		VALUES (:person_id, :company_id, :deal_id, :template_id, :template_version, :sender_id, :state, :reason, :to_name, :to_email,
		:from_name, :from_email, :subject_json, :body_json, :subject_line, :fixed, :extras, :internal, :version, :attempts, :message_id, :token, :tracked, :answers_id, :thread_id, :in_reply_to, :refs, :created_at, :updated_at, :queued_at, :due_at, :handed_over_at, :sent_at, :seen, :round_id, :run_id, :order_id)`, row)
}

// AddSent stores a letter that was sent already, with its bytes.
func (s *Store) AddSent(ctx context.Context, l domain.Letter, bytes []byte) (int64, error) {
	id, err := s.AddLetter(ctx, l)
	if err != nil {
		return 0, err
	}
	if err := s.PutBytes(ctx, id, bytes); err != nil {
		return 0, err
	}
	return id, s.noteLast(ctx, id)
}

// noteLast keeps the latest letter on the person's line of the people table.
func (s *Store) noteLast(ctx context.Context, letterID int64) error {
	_, err := s.exec(ctx, "note last letter", `UPDATE people SET last_letter_at = l.sent_at, last_subject = l.subject_line
		FROM letters l WHERE l.id = ? AND NOT l.internal AND people.id = l.person_id AND (people.last_letter_at IS NULL OR people.last_letter_at < l.sent_at)`, letterID)
	return err
}

// Letter gives one letter.
func (s *Store) Letter(ctx context.Context, id int64) (domain.Letter, error) {
	if b := s.batch(ctx); b != nil {
		return readOnce(b.letters, id, func() (domain.Letter, error) { return s.letter(ctx, id) })
	}
	return s.letter(ctx, id)
}

func (s *Store) letter(ctx context.Context, id int64) (domain.Letter, error) {
	var r letterRow
	if err := s.get(ctx, "load letter", &r, `SELECT `+letterColumns+` FROM letters l WHERE l.id = ?`, id); err != nil {
		return domain.Letter{}, err
	}
	return r.read()
}

// LettersOf gives letters by their ids, without those that are not there or cannot be read.
func (s *Store) LettersOf(ctx context.Context, ids []int64) ([]domain.Letter, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var rows []letterRow
	if err := s.list(ctx, "load letters", &rows, `SELECT `+letterColumns+` FROM letters l WHERE l.id IN (SELECT value FROM json_each(?))`, asked); err != nil {
		return nil, err
	}
	out := make([]domain.Letter, 0, len(rows))
	for i := range rows {
		if l, err := rows[i].read(); err == nil {
			out = append(out, l)
		}
	}
	return out, nil
}

// Letters lists the letters of a query, the newest first. What lists do not show is left out.
func (s *Store) Letters(ctx context.Context, q domain.LettersQuery) ([]domain.LetterRow, error) {
	where := sq.Eq{"l.sender_id": q.SenderID, "l.state": q.States, "l.deleted_at": nil}
	for column, id := range map[string]int64{"l.person_id": q.PersonID, "l.company_id": q.CompanyID, "l.deal_id": q.DealID} {
		if id != 0 {
			where[column] = id
		}
	}
	sel := sq.Select(letterLine, "CASE WHEN l.internal THEN l.to_name ELSE trim(p.first_name || ' ' || p.last_name) END AS person_name", "coalesce(t.name, '') AS template_name").
		From("letters l").Join("people p ON p.id = l.person_id").LeftJoin("templates t ON t.id = l.template_id").
		Where(where).OrderBy("l.updated_at DESC", "l.id DESC").Limit(uint64(q.Limit))
	// A letter that is changed within a round is found there, as long as that is not over.
	sel = sel.Where("(l.state <> 'draft' OR l.round_id IS NULL)")
	for word := range strings.FieldsSeq(q.Search) {
		sel = sel.Where("instr(lower(l.subject_line || ' ' || l.to_name || ' ' || l.to_email || ' ' || p.first_name || ' ' || p.last_name || ' ' || coalesce(t.name, '')), ?) > 0", strings.ToLower(word))
	}
	query, args, err := sel.ToSql()
	if err != nil {
		return nil, wrap("list letters", err)
	}
	rows := []domain.LetterRow{}
	err = s.list(ctx, "list letters", &rows, query, args...)
	return rows, err
}

// UpdateDraft stores the wording and recipient of a draft, or gives ErrStale.
func (s *Store) UpdateDraft(ctx context.Context, l domain.Letter) error {
	row, err := letterRowOf(l)
	if err != nil {
		return wrap("save draft", err)
	}
	stored, err := s.change(ctx, "save draft", `UPDATE letters SET subject = :subject_json, body = :body_json, subject_line = :subject_line, fixed = :fixed, extras = :extras,
		person_id = :person_id, company_id = :company_id, deal_id = :deal_id, template_id = :template_id, template_version = :template_version,
		to_name = :to_name, to_email = :to_email, from_name = :from_name, from_email = :from_email, seen = :seen, answers_id = :answers_id, thread_id = :thread_id,
		in_reply_to = :in_reply_to, refs = :refs, updated_at = :updated_at, version = version + 1
		WHERE id = :id AND version = :version AND state = 'draft' AND deleted_at IS NULL`, row)
	if err == nil && !stored {
		return domain.ErrStale
	}
	return err
}

// DeleteDraft discards a draft or, with nil, restores it.
func (s *Store) DeleteDraft(ctx context.Context, id int64, at *time.Time) error {
	hit, err := s.one(ctx, "discard draft", `UPDATE letters SET deleted_at = ? WHERE id = ? AND state = 'draft'`, at, id)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

// Move changes the state of a letter that is still in the state from.
func (s *Store) Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error) {
	set := sq.Update("letters").Set("state", c.To).Where(sq.Eq{"id": id, "state": from, "deleted_at": nil})
	if from != c.To || c.Step {
		set = set.Set("reason", c.Reason).Set("updated_at", c.At)
	}
	if c.Due != nil {
		set = set.Set("due_at", *c.Due)
	}
	if c.Queued || c.Again {
		set = set.Set("first_try_at", nil)
	}
	if c.Queued {
		set = set.Set("queued_at", c.At)
	}
	if c.HandedOver != nil {
		set = set.Set("attempts", sq.Expr("attempts + 1")).Set("first_try_at", sq.Expr("coalesce(first_try_at, ?)", *c.HandedOver))
	}
	switch {
	case c.To == domain.Waiting || c.To == domain.Draft:
		set = set.Set("handed_over_at", nil)
	case c.HandedOver != nil:
		set = set.Set("handed_over_at", *c.HandedOver)
	}
	if c.SentAt != nil {
		set = set.Set("sent_at", *c.SentAt)
	}
	switch {
	case c.To != domain.Sending:
		set = set.Set("lease_until", nil)
	case c.Lease != nil:
		set = set.Set("lease_until", *c.Lease)
	}
	query, args, err := set.ToSql()
	if err != nil {
		return false, wrap("move letter", err)
	}
	moved := false
	err = s.Within(ctx, func(ctx context.Context) (err error) {
		if moved, err = s.one(ctx, "move letter", query, args...); err != nil || !moved {
			return err
		}
		if from != c.To || c.Step {
			if err = s.noteStep(ctx, id, c); err != nil {
				return err
			}
		}
		switch c.To {
		case domain.Sent:
			return s.noteLast(ctx, id)
		case domain.Draft:
			// What is edited again is composed again.
			if _, err = s.exec(ctx, "forget bytes", `DELETE FROM letter_bytes WHERE letter_id = ?`, id); err != nil {
				return err
			}
			_, err = s.exec(ctx, "forget attempts", `UPDATE letters SET message_id = '', token = '', tracked = 0, attempts = 0, due_at = NULL, round_id = NULL WHERE id = ?`, id)
			if err == nil {
				// Links to documents stand in the words, the others are made anew.
				_, err = s.exec(ctx, "forget links", `DELETE FROM letter_links WHERE letter_id = ? AND document_id IS NULL`, id)
			}
		}
		return err
	})
	return moved, err
}

func (s *Store) noteStep(ctx context.Context, id int64, c domain.Change) error {
	_, err := s.exec(ctx, "note step", `INSERT INTO letter_steps (letter_id, state, reason, due_at, at) VALUES (?, ?, ?, ?, ?)`, id, c.To, c.Reason, c.Due, c.At)
	return err
}

// Due gives the waiting letters whose time has come, and the next time.
func (s *Store) Due(ctx context.Context, now time.Time, limit int) ([]domain.DueLetter, *time.Time, error) {
	var ids []domain.DueLetter
	if err := s.list(ctx, "list due letters", &ids, `SELECT id, sender_id, from_email FROM letters WHERE state = 'waiting' AND due_at <= ? ORDER BY due_at, id LIMIT ?`, now, limit); err != nil {
		return nil, nil, err
	}
	var next []time.Time
	if err := s.list(ctx, "next due letter", &next, `SELECT due_at FROM letters WHERE state = 'waiting' AND due_at > ? ORDER BY due_at LIMIT 1`, now); err != nil {
		return nil, nil, err
	}
	if len(next) == 0 {
		return ids, nil, nil
	}
	return ids, &next[0], nil
}

// PullBack has letters go now that were put into the outbox to go at once, at a time that is more
// than slack ahead; it tells how many.
func (s *Store) PullBack(ctx context.Context, now time.Time, slack time.Duration) (int, error) {
	var ids []int64
	err := s.list(ctx, "look for letters of a clock that was ahead", &ids, `SELECT id FROM letters WHERE state = 'waiting' AND due_at > ? AND queued_at > ? AND (julianday(due_at) - julianday(queued_at)) * 86400 <= ?`, now, now.Add(slack), slack.Seconds())
	if err != nil || len(ids) == 0 {
		return 0, err
	}
	packed, err := writeJSON(ids)
	if err != nil {
		return 0, err
	}
	_, err = s.exec(ctx, "have letters go now", `UPDATE letters SET due_at = ?, queued_at = ? WHERE state = 'waiting' AND id IN (SELECT value FROM json_each(?))`, now, now, packed)
	return len(ids), err
}

// InState gives the letters in a state, whoever sends them.
func (s *Store) InState(ctx context.Context, state domain.LetterState) ([]domain.Letter, error) {
	var rows []letterRow
	if err := s.list(ctx, "list letters", &rows, `SELECT `+letterColumns+` FROM letters l WHERE l.state = ? ORDER BY l.id`, state); err != nil {
		return nil, err
	}
	out := make([]domain.Letter, 0, len(rows))
	for _, r := range rows {
		l, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, nil
}

// PutBytes stores the bytes of a letter, once.
func (s *Store) PutBytes(ctx context.Context, id int64, bytes []byte) error {
	_, err := s.exec(ctx, "store bytes", `INSERT INTO letter_bytes (letter_id, bytes) VALUES (?, ?)`, id, bytes)
	return err
}

// Bytes gives the bytes of a letter.
func (s *Store) Bytes(ctx context.Context, id int64) (b []byte, err error) {
	err = s.get(ctx, "load bytes", &b, `SELECT bytes FROM letter_bytes WHERE letter_id = ?`, id)
	return b, err
}

// WaitingOn gives the letters to a person, or about a deal, that wait to go, the next first.
func (s *Store) WaitingOn(ctx context.Context, kind field.Record, id int64, limit int) ([]int64, error) {
	var ids []int64
	column := "person_id"
	if kind == field.Deal {
		column = "deal_id"
	}
	err := s.list(ctx, "list letters on their way", &ids, `SELECT id FROM letters WHERE `+column+` = ? AND state = 'waiting' AND NOT internal AND deleted_at IS NULL ORDER BY due_at, id LIMIT ?`, id, limit)
	return ids, err
}

// WaitingOf gives the letters of a sender that wait to go, the next first.
func (s *Store) WaitingOf(ctx context.Context, senderID int64, limit int) ([]int64, error) {
	var ids []int64
	err := s.list(ctx, "list letters of a sender on their way", &ids, `SELECT id FROM letters WHERE sender_id = ? AND state = 'waiting' AND NOT internal AND deleted_at IS NULL ORDER BY due_at, id LIMIT ?`, senderID, limit)
	return ids, err
}

// WrittenTo tells whether any letter was sent to a person.
func (s *Store) WrittenTo(ctx context.Context, personID int64) (sent bool, err error) {
	err = s.get(ctx, "look for letters", &sent, `SELECT EXISTS (SELECT 1 FROM letters WHERE person_id = ? AND state = 'sent' AND NOT internal)`, personID)
	return sent, err
}
