package store

import (
	"context"
	"iter"
	"slices"
	"strings"
	"unicode"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/field"
	"lucidletter/internal/app"
)

const personColumns = `id, kind, honorific, first_name, last_name, email, phone, job_title, city, country, language, time_zone,
	company_id, company_name, lead_status, lead_source, department, contact_since, owner_id, own, said_right, opted_out_at, untracked, created_at, updated_at, version`

// Person gives one person.
func (s *Store) Person(ctx context.Context, id int64) (p app.Person, err error) {
	err = s.get(ctx, "load person", &p, `SELECT `+personColumns+` FROM people WHERE id = ?`, id)
	return p, err
}

// PeopleOf gives people by their ids.
func (s *Store) PeopleOf(ctx context.Context, ids []int64) ([]app.Person, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var list []app.Person
	err = s.list(ctx, "load people", &list, `SELECT `+personColumns+` FROM people WHERE id IN (SELECT value FROM json_each(?))`, asked)
	return list, err
}

// window is how many people are read at a time where everybody is gone through.
const window = 500

// EachPerson goes through everybody, those of one company together, each with the newest
// open deal. It reads in windows: while one is gone through, no query is open, so that
// what is asked for each of them need not wait for a connection that waits for it.
// Whoever is deleted meanwhile is left out.
func (s *Store) EachPerson(ctx context.Context) iter.Seq2[app.PersonDeal, error] {
	return func(yield func(app.PersonDeal, error) bool) {
		var ids []int64
		if err := s.list(ctx, "go through people", &ids, `SELECT id FROM people ORDER BY company_id, id`); err != nil {
			yield(app.PersonDeal{}, err)
			return
		}
		for some := range slices.Chunk(ids, window) {
			list, err := s.peopleWithDeals(ctx, some)
			if err != nil {
				yield(app.PersonDeal{}, err)
				return
			}
			for _, p := range list {
				if !yield(p, nil) {
					return
				}
			}
		}
	}
}

func (s *Store) peopleWithDeals(ctx context.Context, ids []int64) ([]app.PersonDeal, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var list []app.PersonDeal
	err = s.list(ctx, "go through people", &list, `SELECT `+personColumns+`, (SELECT d.id FROM deals d
		WHERE d.main_contact_id = people.id AND d.stage NOT IN ('won', 'lost') ORDER BY d.created_at DESC, d.id DESC LIMIT 1) AS deal_id
		FROM people WHERE id IN (SELECT value FROM json_each(?)) ORDER BY company_id, id`, asked)
	return list, err
}

// PeopleByEmail gives everybody with an address key.
func (s *Store) PeopleByEmail(ctx context.Context, key string) (p []app.Person, err error) {
	err = s.list(ctx, "find people by email", &p, `SELECT `+personColumns+` FROM people WHERE email_key = ? ORDER BY id LIMIT 20`, key)
	return p, err
}

// personRow is a person with the columns that are worked out from it.
type personRow struct {
	app.Person
	EmailKey string `db:"email_key"`
	SortName string `db:"sort_name"`
}

func rowOf(p app.Person) personRow {
	name := strings.TrimSpace(p.LastName + " " + p.FirstName)
	if name == "" {
		name = p.Email
	}
	return personRow{p, field.EmailKey(p.Email), strings.ToLower(name)}
}

// AddPerson stores a person and what it is found by.
func (s *Store) AddPerson(ctx context.Context, p app.Person) (int64, error) {
	id, err := s.add(ctx, "add person", `INSERT INTO people (kind, honorific, first_name, last_name, email, email_key, phone, job_title, city, country, language,
		time_zone, company_id, company_name, lead_status, lead_source, department, contact_since, owner_id, own, said_right, opted_out_at, untracked, created_at, updated_at, sort_name)
		VALUES (:kind, :honorific, :first_name, :last_name, :email, :email_key, :phone, :job_title, :city, :country, :language,
		:time_zone, :company_id, :company_name, :lead_status, :lead_source, :department, :contact_since, :owner_id, :own, :said_right, :opted_out_at, :untracked, :created_at, :updated_at, :sort_name)`, rowOf(p))
	if err != nil {
		return 0, err
	}
	p.ID = id
	return id, s.index(ctx, p)
}

// UpdatePerson stores p as version p.Version+1, or gives ErrStale.
func (s *Store) UpdatePerson(ctx context.Context, p app.Person) error {
	return s.Within(ctx, func(inner app.Store) error {
		tx := inner.(*Store)
		stored, err := tx.change(ctx, "update person", `UPDATE people SET kind = :kind, honorific = :honorific, first_name = :first_name, last_name = :last_name,
			email = :email, email_key = :email_key, phone = :phone, job_title = :job_title, city = :city, country = :country, language = :language,
			time_zone = :time_zone, company_id = :company_id, company_name = :company_name, lead_status = :lead_status, lead_source = :lead_source,
			department = :department, contact_since = :contact_since, owner_id = :owner_id, own = :own, said_right = :said_right, opted_out_at = :opted_out_at, untracked = :untracked,
			updated_at = :updated_at, sort_name = :sort_name, version = version + 1
			WHERE id = :id AND version = :version`, rowOf(p))
		if err != nil {
			return err
		}
		if !stored {
			return app.ErrStale
		}
		if _, err := tx.exec(ctx, "find words of person", `DELETE FROM people_find WHERE rowid = ?`, p.ID); err != nil {
			return err
		}
		return tx.index(ctx, p)
	})
}

func (s *Store) index(ctx context.Context, p app.Person) error {
	words := []string{p.FirstName, p.LastName, p.Email, p.JobTitle, p.City, p.CompanyName}
	if p.CompanyID != nil {
		var name string
		if err := s.get(ctx, "load company", &name, `SELECT name FROM companies WHERE id = ?`, *p.CompanyID); err != nil {
			return err
		}
		words = append(words, name)
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
	"name": "p.sort_name", "company": "company COLLATE NOCASE", "last": "p.last_letter_at", "added": "p.created_at",
}

// People gives a window of the people table and the number of all that fit.
func (s *Store) People(ctx context.Context, q app.PeopleQuery) ([]app.PersonRow, int, error) {
	where := sq.And{}
	if q.Kind != "" {
		where = append(where, sq.Eq{"p.kind": string(q.Kind)})
	}
	if q.InDeal {
		where = append(where, sq.Expr(`EXISTS (SELECT 1 FROM deals d WHERE d.stage NOT IN ('won', 'lost')
			AND (d.main_contact_id = p.id OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = p.id)))`))
	}
	if terms := match(q.Search); terms != "" {
		where = append(where, sq.Expr("p.id IN (SELECT rowid FROM people_find WHERE people_find MATCH ?)", terms))
	} else if strings.TrimSpace(q.Search) != "" {
		where = append(where, sq.Expr("0"))
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
	dir := " ASC"
	if q.Down {
		dir = " DESC"
	}
	query, args, err = sq.Select(
		"p.id", "p.kind", "p.first_name", "p.last_name", "p.email", "p.job_title", "p.city",
		"CASE p.kind WHEN 'lead' THEN p.company_name ELSE coalesce(c.name, '') END AS company",
		"CASE p.kind WHEN 'lead' THEN p.lead_status ELSE p.department END AS status",
		"coalesce(u.first_name || ' ' || u.last_name, '') AS owner",
		"p.opted_out_at IS NOT NULL AS opted_out",
		"p.last_letter_at AS last_letter", "p.last_subject",
	).From("people p").LeftJoin("companies c ON c.id = p.company_id").LeftJoin("users u ON u.id = p.owner_id").
		Where(where).OrderBy(order+dir, "p.id"+dir).Limit(uint64(q.Limit)).Offset(uint64(q.Offset)).ToSql()
	if err != nil {
		return nil, 0, wrap("list people", err)
	}
	rows := []app.PersonRow{}
	err = s.list(ctx, "list people", &rows, query, args...)
	return rows, total, err
}
