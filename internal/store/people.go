package store

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"
	"unicode"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

const personColumns = `id, kind, honorific, first_name, last_name, email, phone, job_title, city, country, language, time_zone,
	company_id, company_name, lead_status, lead_source, department, contact_since, owner_id, own, said_right, opted_out_at, untracked, created_at, updated_at, version, deleted_at`

// Person gives one person.
func (s *Store) Person(ctx context.Context, id int64) (domain.Person, error) {
	if b := s.batch(ctx); b != nil {
		return readOnce(b.people, id, func() (domain.Person, error) { return s.person(ctx, id) })
	}
	return s.person(ctx, id)
}

func (s *Store) person(ctx context.Context, id int64) (p domain.Person, err error) {
	err = s.get(ctx, "load person", &p, `SELECT `+personColumns+` FROM people WHERE id = ?`, id)
	return p, err
}

// PeopleOf gives people by their ids.
func (s *Store) PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var list []domain.Person
	err = s.list(ctx, "load people", &list, `SELECT `+personColumns+` FROM people WHERE id IN (SELECT value FROM json_each(?))`, asked)
	return list, err
}

// PeopleIDs gives everybody, those of one company together.
func (s *Store) PeopleIDs(ctx context.Context) ([]int64, error) {
	ids := []int64{}
	err := s.list(ctx, "go through people", &ids, `SELECT id FROM people WHERE deleted_at IS NULL ORDER BY company_id, id`)
	return ids, err
}

// PeopleEdition rises when people change, or what is told of them from companies and deals.
func (s *Store) PeopleEdition(ctx context.Context) (n int64, err error) {
	err = s.get(ctx, "look whether people changed", &n, `SELECT n FROM people_edition WHERE id = 1`)
	return n, err
}

// PeopleWithDeals gives people, each with the newest open deal. What is asked for each of
// them need not wait for a connection that waits for it: no query is open.
func (s *Store) PeopleWithDeals(ctx context.Context, ids []int64) ([]domain.PersonDeal, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var list []domain.PersonDeal
	err = s.list(ctx, "go through people", &list, `SELECT `+personColumns+`, (SELECT d.id FROM deals d
		WHERE d.main_contact_id = people.id AND d.deleted_at IS NULL AND d.stage NOT IN ('won', 'lost') ORDER BY d.created_at DESC, d.id DESC LIMIT 1) AS deal_id
		FROM people WHERE id IN (SELECT value FROM json_each(?)) AND deleted_at IS NULL ORDER BY company_id, id`, asked)
	return list, err
}

// PeopleByEmail gives everybody with an address key.
func (s *Store) PeopleByEmail(ctx context.Context, key string) (p []domain.Person, err error) {
	err = s.list(ctx, "find people by email", &p, `SELECT `+personColumns+` FROM people WHERE email_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 20`, key)
	return p, err
}

// personRow is a person with the columns that are worked out from it.
type personRow struct {
	domain.Person
	EmailKey string `db:"email_key"`
	SortName string `db:"sort_name"`
}

func rowOf(p domain.Person) personRow {
	name := strings.TrimSpace(p.LastName + " " + p.FirstName)
	if name == "" {
		name = p.Email
	}
	return personRow{p, field.EmailKey(p.Email), strings.ToLower(name)}
}

// companySort is what a person is sorted by in the list by company.
const companySort = `lower(CASE :kind WHEN 'lead' THEN :company_name ELSE coalesce((SELECT name FROM companies WHERE id = :company_id AND deleted_at IS NULL), '') END)`

// AddPerson stores a person and what it is found by.
func (s *Store) AddPerson(ctx context.Context, p domain.Person) (int64, error) {
	id, err := s.add(ctx, "add person", `INSERT INTO people (kind, honorific, first_name, last_name, email, email_key, phone, job_title, city, country, language,
		time_zone, company_id, company_name, lead_status, lead_source, department, contact_since, owner_id, own, said_right, opted_out_at, untracked, created_at, updated_at, sort_name, company_sort)
		VALUES (:kind, :honorific, :first_name, :last_name, :email, :email_key, :phone, :job_title, :city, :country, :language,
		:time_zone, :company_id, :company_name, :lead_status, :lead_source, :department, :contact_since, :owner_id, :own, :said_right, :opted_out_at, :untracked, :created_at, :updated_at, :sort_name, `+companySort+`)`, rowOf(p))
	if err != nil {
		return 0, err
	}
	p.ID = id
	return id, s.index(ctx, p)
}

// UpdatePerson stores p as version p.Version+1, or gives ErrStale.
func (s *Store) UpdatePerson(ctx context.Context, p domain.Person) error {
	return s.Within(ctx, func(ctx context.Context) error {
		stored, err := s.change(ctx, "update person", `UPDATE people SET kind = :kind, honorific = :honorific, first_name = :first_name, last_name = :last_name,
			email = :email, email_key = :email_key, phone = :phone, job_title = :job_title, city = :city, country = :country, language = :language,
			time_zone = :time_zone, company_id = :company_id, company_name = :company_name, lead_status = :lead_status, lead_source = :lead_source,
			department = :department, contact_since = :contact_since, owner_id = :owner_id, own = :own, said_right = :said_right, opted_out_at = :opted_out_at, untracked = :untracked,
			updated_at = :updated_at, sort_name = :sort_name, company_sort = `+companySort+`, version = version + 1
			WHERE id = :id AND version = :version AND deleted_at IS NULL`, rowOf(p))
		if err != nil {
			return err
		}
		if !stored {
			if now, err := s.person(ctx, p.ID); err == nil && now.DeletedAt != nil {
				return &domain.StateError{Why: p.Name() + " was deleted from the records. Put the record back first."}
			}
			return domain.ErrStale
		}
		return s.reindex(ctx, p)
	})
}

// DeletePerson marks a person as deleted or, with nil, puts them back; or ErrNotFound.
func (s *Store) DeletePerson(ctx context.Context, id int64, at *time.Time) error {
	return s.Within(ctx, func(ctx context.Context) error {
		if err := s.mark(ctx, "people", id, at); err != nil {
			return err
		}
		if _, err := s.exec(ctx, "delete or put back a person", `UPDATE people SET version = version + 1 WHERE id = ?`, id); err != nil {
			return err
		}
		if at != nil {
			_, err := s.exec(ctx, "forget words of person", `DELETE FROM people_find WHERE rowid = ?`, id)
			return err
		}
		p, err := s.person(ctx, id)
		if err != nil {
			return err
		}
		return s.reindex(ctx, p)
	})
}

// reindex stores anew what a person is found by.
func (s *Store) reindex(ctx context.Context, p domain.Person) error {
	if _, err := s.exec(ctx, "find words of person", `DELETE FROM people_find WHERE rowid = ?`, p.ID); err != nil {
		return err
	}
	return s.index(ctx, p)
}

// HangsOn counts what belongs to a record, of which kind is person, company or deal.
func (s *Store) HangsOn(ctx context.Context, kind field.Record, id int64) (h domain.Hangs, err error) {
	column := map[field.Record]string{field.Person: "person_id", field.Company: "company_id", field.Deal: "deal_id"}[kind]
	err = s.get(ctx, "look what belongs to a record", &h, `SELECT
		(SELECT count(*) FROM letters WHERE `+column+` = :id AND state = 'sent') AS letters,
		(SELECT count(*) FROM letters WHERE `+column+` = :id AND state = 'draft' AND deleted_at IS NULL) AS drafts,
		(SELECT count(*) FROM letters WHERE `+column+` = :id AND state IN ('waiting', 'refused')) AS waiting,
		(SELECT count(*) FROM people WHERE company_id = :id AND :kind = 'company' AND deleted_at IS NULL) AS people,
		(SELECT count(*) FROM deals WHERE deleted_at IS NULL AND (:kind = 'company' AND company_id = :id OR :kind = 'person' AND main_contact_id = :id)) AS deals,
		(SELECT count(*) FROM tasks WHERE done_at IS NULL AND (:kind = 'person' AND person_id = :id OR :kind = 'deal' AND deal_id = :id)) AS tasks`,
		sql.Named("id", id), sql.Named("kind", string(kind)))
	return h, err
}

func (s *Store) index(ctx context.Context, p domain.Person) error {
	words := []string{p.FirstName, p.LastName, p.Email, p.JobTitle, p.City, p.CompanyName}
	if p.CompanyID != nil {
		c, err := s.Company(ctx, *p.CompanyID)
		if err != nil {
			return err
		}
		if c.DeletedAt == nil {
			words = append(words, c.Name)
		}
	}
	_, err := s.exec(ctx, "find words of person", `INSERT INTO people_find (rowid, words) VALUES (?, ?)`, p.ID, strings.Join(words, " "))
	return err
}

// match turns typed words into a full-text query: every word must begin a word
// of the record. Nothing of what was typed is read as an operator.
func match(search string) string {
	var terms []string
	for _, w := range strings.FieldsFunc(search, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }) {
		terms = append(terms, `"`+w+`"*`)
	}
	return strings.Join(terms, " AND ")
}

var peopleSorts = map[string]string{
	"name": "p.sort_name", "company": "p.company_sort", "last": "p.last_letter_at", "added": "p.created_at",
}

// People gives a window of the people table and the number of all that fit. Which they
// are is read from an index alone, from the nearer end of it; only the rows of the window
// are looked up.
func (s *Store) People(ctx context.Context, q domain.PeopleQuery) ([]domain.PersonRow, int, error) {
	if ids, total, known, err := s.near(ctx, q); err != nil || known {
		if q.Down {
			slices.Reverse(ids)
		}
		if err != nil {
			return nil, 0, err
		}
		rows, err := s.peopleRows(ctx, ids)
		return rows, total, err
	}
	where := sq.And{sq.Expr("p.deleted_at IS NULL")}
	if q.Kind != "" {
		where = append(where, sq.Eq{"p.kind": string(q.Kind)})
	}
	if !q.Where.Empty() {
		where = append(where, filtered(q.Where))
	}
	if q.InDeal {
		where = append(where, sq.Expr(`EXISTS (SELECT 1 FROM deals d WHERE d.deleted_at IS NULL AND d.stage NOT IN ('won', 'lost')
			AND (d.main_contact_id = p.id OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = p.id)))`))
	}
	if terms := match(q.Search); terms != "" {
		var packed string // the words are looked for once
		if err := s.get(ctx, "find people", &packed, `SELECT json_group_array(rowid) FROM people_find WHERE people_find MATCH ?`, terms); err != nil {
			return nil, 0, err
		}
		if total := strings.Count(packed, ",") + 1; len(where) == 1 && total > manyFound {
			ids, err := s.walkFound(ctx, q, packed, total)
			if err != nil {
				return nil, 0, err
			}
			rows, err := s.peopleRows(ctx, ids)
			return rows, total, err
		}
		where = append(where, sq.Expr("p.id IN (SELECT value FROM json_each(?))", packed))
	} else if strings.TrimSpace(q.Search) != "" {
		return []domain.PersonRow{}, 0, nil
	}
	var total int
	query, args, err := sq.Select("count(*)").From("people p").Where(where).ToSql()
	if err != nil {
		return nil, 0, wrap("count people", err)
	}
	if err := s.get(ctx, "count people", &total, query, args...); err != nil {
		return nil, 0, err
	}
	order, ok := peopleSorts[q.Sort]
	if !ok {
		order = peopleSorts["name"]
	}
	offset, limit, down := q.Offset, max(0, min(q.Limit, total-q.Offset)), q.Down
	if fromEnd := total - offset - limit; fromEnd < offset {
		offset, down = fromEnd, !down
	}
	dir := map[bool]string{false: " ASC", true: " DESC"}[down]
	query, args, err = sq.Select("p.id").From("people p").Where(where).OrderBy(order+dir, "p.id"+dir).Limit(uint64(limit)).Offset(uint64(max(0, offset))).ToSql()
	if err != nil {
		return nil, 0, wrap("list people", err)
	}
	var ids []int64
	if err := s.list(ctx, "list people", &ids, query, args...); err != nil {
		return nil, 0, err
	}
	if down != q.Down {
		slices.Reverse(ids)
	}
	rows, err := s.peopleRows(ctx, ids)
	return rows, total, err
}

// manyFound is from how many people on those that a search found are picked out of the
// list as it is sorted, and not sorted themselves.
const manyFound = 1000

// walkFound gives the ids of a window of those that a search found, total of them packed
// as a JSON array, by going along the list from its nearer end.
func (s *Store) walkFound(ctx context.Context, q domain.PeopleQuery, packed string, total int) ([]int64, error) {
	found := make(map[int64]bool, total)
	id := int64(0)
	for _, c := range []byte(packed) {
		switch {
		case c >= '0' && c <= '9':
			id = id*10 + int64(c-'0')
		case c == ',' || c == ']':
			found[id], id = true, 0
		}
	}
	order, ok := peopleSorts[q.Sort]
	if !ok {
		order = peopleSorts["name"]
	}
	limit, down, skip := max(0, min(q.Limit, total-q.Offset)), q.Down, q.Offset
	if fromEnd := total - skip - limit; fromEnd < skip {
		skip, down = fromEnd, !down
	}
	dir := map[bool]string{false: " ASC", true: " DESC"}[down]
	out := make([]int64, 0, limit)
	rows, err := s.reader(ctx).QueryContext(ctx, "SELECT p.id FROM people p WHERE p.deleted_at IS NULL ORDER BY "+order+dir+", p.id"+dir)
	if err != nil {
		return nil, wrap("find people", err)
	}
	defer func() { _ = rows.Close() }()
	for len(out) < limit && rows.Next() {
		if err := rows.Scan(&id); err != nil {
			return nil, wrap("find people", err)
		}
		if !found[id] {
			continue
		}
		if skip--; skip < 0 {
			out = append(out, id)
		}
	}
	if err := rows.Err(); err != nil {
		return nil, wrap("find people", err)
	}
	if down != q.Down {
		slices.Reverse(out)
	}
	return out, nil
}

// reader is what queries are asked of: the transaction, or a connection that reads.
func (s *Store) reader(ctx context.Context) interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
} {
	if t := s.within(ctx); t != nil {
		return t
	}
	return s.read
}

// peopleRows gives the rows of people in the order of their ids.
func (s *Store) peopleRows(ctx context.Context, ids []int64) ([]domain.PersonRow, error) {
	rows := []domain.PersonRow{}
	if len(ids) == 0 {
		return rows, nil
	}
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	err = s.list(ctx, "list people", &rows, `SELECT p.id, p.kind, p.first_name, p.last_name, p.email, p.job_title, p.city,
		CASE p.kind WHEN 'lead' THEN p.company_name ELSE coalesce(c.name, '') END AS company,
		CASE p.kind WHEN 'lead' THEN p.lead_status ELSE p.department END AS status,
		coalesce(u.first_name || ' ' || u.last_name, '') AS owner,
		p.opted_out_at IS NOT NULL AS opted_out,
		p.last_letter_at AS last_letter, p.last_subject
		FROM json_each(?) k CROSS JOIN people p ON p.id = k.value LEFT JOIN companies c ON c.id = p.company_id AND c.deleted_at IS NULL LEFT JOIN users u ON u.id = p.owner_id
		ORDER BY k.key`, asked)
	return rows, err
}

// PeopleBeginning gives some people of whom words begin with what was typed, those who
// were written to last first. Of very many the first that are found are looked at.
func (s *Store) PeopleBeginning(ctx context.Context, typed string, limit int) ([]domain.PersonRow, error) {
	terms := match(typed)
	if terms == "" {
		return []domain.PersonRow{}, nil
	}
	var ids []int64
	err := s.list(ctx, "complete address", &ids, `SELECT p.id FROM (SELECT rowid AS id FROM people_find WHERE people_find MATCH ? LIMIT 400) f JOIN people p ON p.id = f.id
		ORDER BY p.last_letter_at IS NULL, p.last_letter_at DESC, p.sort_name, p.id LIMIT ?`, terms, limit)
	if err != nil {
		return nil, err
	}
	return s.peopleRows(ctx, ids)
}
