package rounds

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/eligibility"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

const memberColumns = `m.id, m.round_id, m.position, m.person_id, m.state, m.reasons, m.missing, m.allowed, m.hard, m.sum, m.good, m.template_id, m.template_version, m.fills, m.letter_id, m.email_key,
	m.checked, m.person_version, m.go_at, m.told, m.after_done`

// AddMembers puts people into a round behind the others, those who are not in it and are
// there; it tells how many were added.
func (s *Table) AddMembers(ctx context.Context, roundID int64, ids []int64) (int, error) {
	list, err := database.Packed(ids)
	if err != nil {
		return 0, err
	}
	res, err := s.db.Exec(ctx, "add people to round", `INSERT OR IGNORE INTO round_people (round_id, position, person_id, email_key)
		SELECT ?, k.key + 1 + (SELECT coalesce(max(position), 0) FROM round_people WHERE round_id = ?), p.id, p.email_key
		FROM json_each(?) k JOIN people p ON p.id = k.value WHERE p.deleted_at IS NULL ORDER BY k.key`, roundID, roundID, list)
	if err != nil {
		return 0, err
	}
	n, err := res.RowsAffected()
	return int(n), err
}

// MemberIDs gives the people of a round in their order.
func (s *Table) MemberIDs(ctx context.Context, roundID int64) ([]int64, error) {
	ids := []int64{}
	err := s.db.Select(ctx, "list people of round", &ids, `SELECT person_id FROM round_people WHERE round_id = ? ORDER BY position`, roundID)
	return ids, err
}

// Member gives one person of a round, or ErrNotFound.
func (s *Table) Member(ctx context.Context, roundID, personID int64) (m domain.Member, err error) {
	err = s.db.Get(ctx, "load person of round", &m, `SELECT `+memberColumns+` FROM round_people m WHERE m.round_id = ? AND m.person_id = ?`, roundID, personID)
	return m, err
}

// MemberOfLetter gives whom of a round a letter is for, or ErrNotFound.
func (s *Table) MemberOfLetter(ctx context.Context, letterID int64) (m domain.Member, err error) {
	err = s.db.Get(ctx, "load person of round", &m, `SELECT `+memberColumns+` FROM round_people m WHERE m.letter_id = ?`, letterID)
	return m, err
}

// KeptOf gives the record that somebody's was merged into, or ErrNotFound.
func (s *Table) KeptOf(ctx context.Context, goneID int64) (id int64, err error) {
	err = s.db.Get(ctx, "look for a merge", &id, `SELECT g.kept_id FROM merges g JOIN people p ON p.id = g.kept_id AND p.deleted_at IS NULL WHERE g.gone_id = ? AND g.undone_at IS NULL ORDER BY g.id DESC LIMIT 1`, goneID)
	return id, err
}

// UpdateMember stores how somebody of a round stands.
func (s *Table) UpdateMember(ctx context.Context, m domain.Member) error {
	hit, err := s.db.Change(ctx, "store person of round", `UPDATE round_people SET person_id = :person_id, state = :state, reasons = :reasons, missing = :missing, allowed = :allowed, hard = :hard, sum = :sum, good = :good,
		template_id = :template_id, template_version = :template_version, fills = :fills, letter_id = :letter_id, email_key = :email_key, checked = :checked, person_version = :person_version,
		go_at = :go_at, told = :told, after_done = :after_done WHERE id = :id`, m)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

// SaveCheck stores what a check found about somebody of a round.
func (s *Table) SaveCheck(ctx context.Context, m domain.Member) error {
	_, err := s.db.Change(ctx, "store check", `UPDATE round_people SET state = :state, reasons = :reasons, missing = :missing, hard = :hard, sum = :sum, checked = :checked, person_version = :person_version WHERE id = :id`, m)
	return err
}

// open are the states in which somebody is looked at again.
const open = `m.state IN ('unknown', 'ready', 'gap', 'skipped', 'changed')`

// ToCheck gives people of a round, or with a number only this one, who were not checked for its version, or whose record
// was changed since; those behind a position, in their order.
func (s *Table) ToCheck(ctx context.Context, roundID, person int64, version, after, limit int) ([]domain.Member, error) {
	list := []domain.Member{}
	err := s.db.Select(ctx, "list people to check", &list, `SELECT `+memberColumns+` FROM round_people m JOIN people p ON p.id = m.person_id
		LEFT JOIN letters l ON l.id = m.letter_id
		WHERE m.round_id = ? AND m.position > ? AND (? = 0 OR m.person_id = ?) AND `+open+` AND (l.id IS NULL OR l.state = 'draft') AND (m.checked <> ? OR m.person_version <> p.version OR l.id IS NOT NULL AND (l.deleted_at IS NOT NULL OR m.sum <> 'letter ' || l.version)) ORDER BY m.position LIMIT ?`, roundID, after, person, person, version, limit)
	return list, err
}

// KeepChecks has those who were checked for the version before count as checked for this.
func (s *Table) KeepChecks(ctx context.Context, roundID int64, version int) error {
	_, err := s.db.Exec(ctx, "keep checks", `UPDATE round_people SET checked = ? WHERE round_id = ? AND checked = ?`, version, roundID, version-1)
	return err
}

// CheckAgain has people of a round looked at again: those with an address or, with "", all.
func (s *Table) CheckAgain(ctx context.Context, roundID int64, emailKey string) error {
	_, err := s.db.Exec(ctx, "have people checked again", `UPDATE round_people SET checked = 0 WHERE round_id = ? AND (? = '' OR email_key = ?)`, roundID, emailKey, emailKey)
	return err
}

// group is where somebody of a round stands; the state of a letter counts once it has left
// the desk.
const group = `CASE WHEN l.id IS NOT NULL AND (m.state = 'released' OR l.state <> 'draft') THEN
		CASE l.state WHEN 'waiting' THEN 'waiting' WHEN 'sending' THEN 'waiting' WHEN 'sent' THEN 'sent' WHEN 'refused' THEN 'refused' WHEN 'unsure' THEN 'unsure' ELSE 'left' END
	WHEN m.state = 'changed' THEN 'ready' ELSE m.state END`

// outcome is what came back of a letter that was sent, the weightiest.
const outcome = `CASE WHEN l.state IS NULL OR l.state NOT IN ('sent', 'unsure', 'refused') THEN ''
	ELSE coalesce((SELECT CASE h.kind WHEN 'replied' THEN 'replied' WHEN 'answered' THEN 'replied' WHEN 'opted out' THEN 'opted out' WHEN 'complained' THEN 'opted out' WHEN 'bounced' THEN 'bounced' WHEN 'away' THEN 'away' WHEN 'clicked' THEN 'clicked' WHEN 'document' THEN 'clicked' ELSE 'opened' END
		FROM history h WHERE h.letter_id = l.id AND h.kind IN ('replied', 'answered', 'opted out', 'complained', 'bounced', 'away', 'clicked', 'document', 'opened') AND NOT h.machine
		ORDER BY CASE h.kind WHEN 'opted out' THEN 1 WHEN 'complained' THEN 1 WHEN 'replied' THEN 2 WHEN 'answered' THEN 2 WHEN 'bounced' THEN 3 WHEN 'away' THEN 4 WHEN 'clicked' THEN 5 WHEN 'document' THEN 5 ELSE 6 END LIMIT 1), '') END`

// filtered is what people of a query fit.
func filtered(q *domain.MembersQuery) sq.And {
	where := sq.And{sq.Eq{"m.round_id": q.RoundID}}
	switch q.Group {
	case "":
	case "good":
		where = append(where, sq.Expr("m.state IN ('ready', 'changed') AND m.good = m.sum AND (l.id IS NULL OR l.state = 'draft')"))
	case "open":
		where = append(where, sq.Expr("m.state IN ('ready', 'changed') AND m.good <> m.sum AND (l.id IS NULL OR l.state = 'draft')"))
	case "changed":
		where = append(where, sq.Expr("m.state = 'changed' AND l.state = 'draft'"))
	case "told":
		where = append(where, sq.Expr("m.told <> ''"))
	case "replied", "opted out", "bounced", "away", "clicked", "opened":
		where = append(where, sq.Expr(outcome+" = ?", q.Group))
	case "ready", "gap", "aside", "skipped", "unknown":
		// The index of states finds most of them.
		where = append(where, sq.Expr("m.state IN (?, 'changed') AND "+group+" = ?", q.Group, q.Group))
	default:
		where = append(where, sq.Expr(group+" = ?", q.Group))
	}
	if q.Reason != "" {
		where = append(where, sq.Expr("m.state = 'skipped' AND EXISTS (SELECT 1 FROM json_each(m.reasons) j WHERE j.value ->> 'code' = ?)", string(q.Reason)))
	}
	if q.Missing != "" {
		where = append(where, sq.Expr("m.state = 'gap' AND EXISTS (SELECT 1 FROM json_each(m.missing) j WHERE j.value = ?)", q.Missing))
	}
	if q.EmailKey != "" {
		where = append(where, sq.Eq{"m.email_key": q.EmailKey})
	}
	if q.Person != 0 {
		where = append(where, sq.Eq{"m.person_id": q.Person})
	}
	for word := range strings.FieldsSeq(q.Search) {
		where = append(where, sq.Expr("instr(lower(' ' || p.first_name || ' ' || p.last_name || ' ' || p.email), ?) > 0", " "+strings.ToLower(word)))
	}
	return where
}

// Place gives where somebody stands in the list of a query, from 0; -1 when they do not.
func (s *Table) Place(ctx context.Context, q domain.MembersQuery, person int64) (int, error) {
	rows, _, err := s.Members(ctx, domain.MembersQuery{RoundID: q.RoundID, Person: person, Limit: 1})
	if err != nil || len(rows) == 0 {
		return -1, err
	}
	before := append(filtered(&q), sq.Expr("m.position < ?", rows[0].Position))
	if q.Hardest {
		before = append(filtered(&q), sq.Expr("(m.hard > ? OR m.hard = ? AND m.position < ?)", rows[0].Hard, rows[0].Hard, rows[0].Position))
	}
	n, there := 0, 0
	for _, one := range []struct {
		into  *int
		where sq.And
	}{{&there, append(filtered(&q), sq.Eq{"m.person_id": person})}, {&n, before}} {
		query, args, err := joinedMembers("count(*)", one.where).ToSql()
		if err == nil {
			err = s.db.Get(ctx, "find place in round", one.into, query, args...)
		}
		if err != nil {
			return -1, err
		}
	}
	if there == 0 {
		return -1, nil
	}
	return n, nil
}

func joinedMembers(what string, where sq.And) sq.SelectBuilder {
	return sq.Select(what).From("round_people m").Join("people p ON p.id = m.person_id").LeftJoin("letters l ON l.id = m.letter_id AND l.deleted_at IS NULL").Where(where)
}

// Members gives a window of the people of a round, and how many the query finds.
func (s *Table) Members(ctx context.Context, q domain.MembersQuery) ([]domain.MemberRow, int, error) {
	where := filtered(&q)
	from := func(what string) sq.SelectBuilder { return joinedMembers(what, where) }
	query, args, err := from("count(*)").ToSql()
	if err != nil {
		return nil, 0, err
	}
	total := 0
	if err := s.db.Get(ctx, "count people of round", &total, query, args...); err != nil {
		return nil, 0, err
	}
	order := []string{"m.position"}
	if q.Hardest {
		order = []string{"m.hard DESC", "m.position"}
	}
	rows := []domain.MemberRow{}
	query, args, err = from(memberColumns + `, p.first_name, p.last_name, p.email, coalesce((SELECT c.name FROM companies c WHERE c.id = p.company_id), p.company_name) AS company,
		coalesce(l.state, '') AS letter_state, coalesce(l.reason, '') AS letter_reason, l.sent_at, ` + outcome + ` AS outcome`).
		OrderBy(order...).Limit(uint64(max(0, q.Limit))).Offset(uint64(max(0, q.Offset))).ToSql()
	if err == nil {
		err = s.db.Select(ctx, "list people of round", &rows, query, args...)
	}
	return rows, total, err
}

// Groups counts the people of a round.
func (s *Table) Groups(ctx context.Context, roundID int64) (domain.RoundGroups, error) {
	g := domain.RoundGroups{Reasons: map[string]int{}, Missing: map[string]int{}, Outcomes: map[string]int{}}
	type count struct {
		Key string `db:"key"`
		N   int    `db:"n"`
	}
	var rows []count
	const joined = ` FROM round_people m LEFT JOIN letters l ON l.id = m.letter_id AND l.deleted_at IS NULL WHERE m.round_id = ? `
	if err := s.db.Select(ctx, "count people of round", &rows, `SELECT `+group+` AS key, count(*) AS n`+joined+`GROUP BY 1`, roundID); err != nil {
		return g, err
	}
	at := map[string]*int{"ready": &g.Ready, "gap": &g.Gap, "aside": &g.Aside, "skipped": &g.Skipped, "waiting": &g.Waiting, "sent": &g.Sent, "refused": &g.Refused, "unsure": &g.Unsure, "left": &g.Left, "unknown": &g.Unknown}
	for _, r := range rows {
		if at[r.Key] == nil {
			return g, fmt.Errorf("count people of round: %q is no group", r.Key)
		}
		*at[r.Key] += r.N
	}
	var more struct {
		Changed, Proofread, Going, Told int
	}
	if err := s.db.Get(ctx, "count people of round", &more, `SELECT coalesce(sum(m.state = 'changed'), 0) AS changed, coalesce(sum(m.good <> '' AND m.good = m.sum), 0) AS proofread, coalesce(sum(m.go_at IS NOT NULL), 0) AS going,
		(SELECT count(*) FROM round_people t WHERE t.round_id = ? AND t.told <> '') AS told`+joined+`AND m.state IN ('ready', 'changed') AND (l.id IS NULL OR l.state = 'draft')`, roundID, roundID); err != nil {
		return g, err
	}
	g.Changed, g.Proofread, g.Going, g.Told = more.Changed, more.Proofread, more.Going, more.Told
	into := func(m map[string]int, query string) error {
		rows = nil
		err := s.db.Select(ctx, "count people of round", &rows, query, roundID)
		for _, r := range rows {
			m[r.Key] = r.N
		}
		return err
	}
	if err := into(g.Reasons, `SELECT j.value ->> 'code' AS key, count(*) AS n FROM round_people m, json_each(m.reasons) j WHERE m.round_id = ? AND m.state = 'skipped' GROUP BY 1`); err != nil {
		return g, err
	}
	if err := into(g.Missing, `SELECT j.value AS key, count(*) AS n FROM round_people m, json_each(m.missing) j WHERE m.round_id = ? AND m.state = 'gap' GROUP BY 1`); err != nil {
		return g, err
	}
	if g.Sent+g.Unsure+g.Refused == 0 {
		return g, nil
	}
	if err := into(g.Outcomes, `SELECT `+outcome+` AS key, count(*) AS n`+joined+`AND m.state = 'released' GROUP BY 1`); err != nil {
		return g, err
	}
	delete(g.Outcomes, "")
	return g, nil
}

// Facts gives what else is known of some people of a round: who else of it has their
// address, who was written to since a time by somebody else or with the template, who wrote
// to the sender since the round was sent.
func (s *Table) Facts(ctx context.Context, r *domain.Round, people []int64, quietSince time.Time) (domain.MemberFacts, error) {
	f := domain.MemberFacts{Twins: map[int64]string{}, Again: map[int64]time.Time{}, Colleague: map[int64]domain.ByColleague{}, Answered: map[int64]time.Time{}, Merged: map[int64]string{}}
	ids, err := database.Packed(people)
	if err != nil {
		return f, err
	}
	type row struct {
		ID   int64   `db:"id"`
		Name string  `db:"name"`
		At   *string `db:"at"`
	}
	ask := func(put func(id int64, name string, at time.Time), query string, args ...any) error {
		var rows []row
		if err := s.db.Select(ctx, "look at people of round", &rows, query, args...); err != nil {
			return err
		}
		for _, one := range rows {
			at := time.Time{}
			if one.At != nil {
				t, err := readTime(*one.At)
				if err != nil {
					return err
				}
				at = *t
			}
			put(one.ID, one.Name, at)
		}
		return nil
	}
	const name = `CASE WHEN trim(%[1]s.first_name || ' ' || %[1]s.last_name) = '' THEN %[1]s.email ELSE trim(%[1]s.first_name || ' ' || %[1]s.last_name) END`
	err = ask(func(id int64, who string, _ time.Time) { f.Twins[id] = who }, `SELECT m.person_id AS id, `+fmt.Sprintf(name, "p")+` AS name, NULL AS at
		FROM json_each(?) k CROSS JOIN round_people m ON m.round_id = ? AND m.person_id = k.value CROSS JOIN round_people o ON o.round_id = m.round_id AND o.email_key = m.email_key AND o.id <> m.id AND o.state <> 'aside'
		JOIN people p ON p.id = o.person_id AND p.deleted_at IS NULL LEFT JOIN letters l ON l.id = o.letter_id
		WHERE m.email_key <> '' AND (l.id IS NULL OR l.state NOT IN ('refused', 'cancelled'))`, ids, r.ID)
	if err != nil {
		return f, err
	}
	if r.TemplateID != nil {
		err = ask(func(id int64, _ string, at time.Time) { f.Again[id] = at }, `SELECT l.person_id AS id, '' AS name, max(l.sent_at) AS at FROM json_each(?) k JOIN letters l INDEXED BY letters_person ON l.person_id = k.value
			WHERE l.template_id = ? AND l.state IN ('sent', 'unsure', 'waiting', 'sending') AND NOT l.internal AND (l.round_id IS NULL OR l.round_id <> ?) GROUP BY l.person_id`, ids, *r.TemplateID, r.ID)
		if err != nil {
			return f, err
		}
	}
	if !quietSince.IsZero() {
		by := func(id int64, who string, at time.Time) {
			if had, ok := f.Colleague[id]; !ok || !had.At.IsZero() && at.IsZero() {
				f.Colleague[id] = domain.ByColleague{Who: who, At: at}
			}
		}
		err = ask(by, `SELECT l.person_id AS id, u.first_name || ' ' || u.last_name AS name, max(CASE l.state WHEN 'sent' THEN l.sent_at END) AS at FROM json_each(?) k JOIN letters l INDEXED BY letters_person ON l.person_id = k.value JOIN users u ON u.id = l.sender_id
			WHERE l.sender_id <> ? AND NOT l.internal AND (l.state IN ('sent', 'unsure') AND coalesce(l.sent_at, l.updated_at) >= ? OR l.state IN ('waiting', 'sending')) GROUP BY l.person_id`, ids, r.OwnerID, quietSince)
		if err != nil {
			return f, err
		}
		err = ask(by, `SELECT m.person_id AS id, u.first_name || ' ' || u.last_name AS name, NULL AS at FROM json_each(?) k CROSS JOIN round_people m INDEXED BY round_people_person ON m.person_id = k.value JOIN rounds r ON r.id = m.round_id JOIN users u ON u.id = r.owner_id
			WHERE r.owner_id <> ? AND r.state IN ('sending', 'paused') AND m.go_at IS NOT NULL AND m.state IN ('ready', 'changed') AND (? IS NULL OR (r.began_at, r.id) < (?, ?))`, ids, r.OwnerID, r.BeganAt, r.BeganAt, r.ID)
		if err != nil {
			return f, err
		}
	}
	if r.BeganAt != nil {
		err = ask(func(id int64, _ string, at time.Time) { f.Answered[id] = at }, `SELECT h.person_id AS id, '' AS name, max(h.at) AS at FROM json_each(?) k JOIN history h ON h.person_id = k.value
			WHERE h.kind IN `+query.Wrote+` AND h.at >= ? GROUP BY h.person_id`, ids, *r.BeganAt)
		if err != nil {
			return f, err
		}
	}
	err = ask(func(id int64, who string, _ time.Time) { f.Merged[id] = who }, `SELECT g.gone_id AS id, `+fmt.Sprintf(name, "p")+` AS name, NULL AS at FROM json_each(?) k JOIN merges g ON g.gone_id = k.value AND g.undone_at IS NULL JOIN people p ON p.id = g.kept_id`, ids)
	return f, err
}

// Decide notes that it was decided about people who came to or went from the list.
func (s *Table) Decide(ctx context.Context, roundID int64, ids []int64) error {
	list, err := database.Packed(ids)
	if err == nil {
		_, err = s.db.Exec(ctx, "note decision", `INSERT OR IGNORE INTO round_decided (round_id, person_id) SELECT ?, value FROM json_each(?)`, roundID, list)
	}
	return err
}

// Decided gives about whom it was decided.
func (s *Table) Decided(ctx context.Context, roundID int64) ([]int64, error) {
	ids := []int64{}
	err := s.db.Select(ctx, "list decisions", &ids, `SELECT person_id FROM round_decided WHERE round_id = ?`, roundID)
	return ids, err
}

// SetMany puts people of a round aside or back. Those who were released stay; it tells how
// many it changed.
func (s *Table) SetMany(ctx context.Context, roundID int64, people []int64, from []domain.MemberState, to domain.MemberState) (int, error) {
	ids, err := database.Packed(people)
	if err != nil {
		return 0, err
	}
	states, err := json.Marshal(from)
	if err != nil {
		return 0, err
	}
	res, err := s.db.Exec(ctx, "change people of round", `UPDATE round_people SET state = ?, checked = 0, go_at = NULL WHERE round_id = ? AND person_id IN (SELECT value FROM json_each(?)) AND state IN (SELECT value FROM json_each(?))`, to, roundID, ids, string(states))
	if err != nil {
		return 0, err
	}
	n, err := res.RowsAffected()
	return int(n), err
}

// PeopleWith gives people of a round who lack a field, or are skipped for a reason.
func (s *Table) PeopleWith(ctx context.Context, roundID int64, missing string, reason eligibility.Code, limit int) ([]int64, error) {
	ids := []int64{}
	if missing != "" {
		err := s.db.Select(ctx, "list people of round", &ids, `SELECT m.person_id FROM round_people m WHERE m.round_id = ? AND m.state = 'gap' AND EXISTS (SELECT 1 FROM json_each(m.missing) j WHERE j.value = ?) ORDER BY m.position LIMIT ?`, roundID, missing, limit)
		return ids, err
	}
	err := s.db.Select(ctx, "list people of round", &ids, `SELECT m.person_id FROM round_people m WHERE m.round_id = ? AND m.state = 'skipped' AND EXISTS (SELECT 1 FROM json_each(m.reasons) j WHERE j.value ->> 'code' = ?) ORDER BY m.position LIMIT ?`, roundID, string(reason), limit)
	return ids, err
}
