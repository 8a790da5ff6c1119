package store

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

const personColumns = `id, kind, honorific, first_name, last_name, email, phone, job_title, city, country, language, time_zone, basis, basis_since, basis_source,
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

// PeopleWithDeals gives people, each with the newest open deal. What is asked for each of
// them need not wait for a connection that waits for it: no query is open.
func (s *Store) PeopleWithDeals(ctx context.Context, ids []int64) ([]domain.PersonDeal, error) {
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	var list []domain.PersonDeal
	err = s.list(ctx, "go through people", &list, `SELECT `+personColumns+`, (SELECT d.id FROM deals d
		WHERE d.main_contact_id = people.id AND d.deleted_at IS NULL AND `+query.OpenDeal+` ORDER BY d.created_at DESC, d.id DESC LIMIT 1) AS deal_id
		FROM people WHERE id IN (SELECT value FROM json_each(?)) AND deleted_at IS NULL ORDER BY company_id, id`, asked)
	return list, err
}

// PeopleByEmail gives everybody with an address key.
func (s *Store) PeopleByEmail(ctx context.Context, key string) (p []domain.Person, err error) {
	err = s.list(ctx, "find people by email", &p, `SELECT `+personColumns+` FROM people WHERE email_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 20`, key)
	return p, err
}

// PeopleByEmails gives everybody with one of some address keys, by number.
func (s *Store) PeopleByEmails(ctx context.Context, keys []string) ([]domain.Person, error) {
	asked, err := writeJSON(keys)
	if err != nil {
		return nil, err
	}
	var list []domain.Person
	err = s.list(ctx, "find people by email", &list, `SELECT `+personColumns+` FROM (SELECT DISTINCT p.id AS there FROM json_each(?) k CROSS JOIN people p INDEXED BY people_email ON p.email_key = k.value) CROSS JOIN people WHERE id = there AND deleted_at IS NULL ORDER BY id`, asked)
	return list, err
}

// personRow is a person with the columns that are worked out from it. Firm is the name of
// the company that is there.
type personRow struct {
	domain.Person
	EmailKey    string `db:"email_key"`
	SortName    string `db:"sort_name"`
	CompanySort string `db:"company_sort"`
	Firm        string `db:"-"`
}

// rowsOf works the columns out.
func (s *Store) rowsOf(ctx context.Context, people ...domain.Person) ([]personRow, error) {
	rows := make([]personRow, len(people))
	firms := map[int64]string{}
	for i := range people {
		p := &people[i]
		name := strings.TrimSpace(p.LastName + " " + p.FirstName)
		if name == "" {
			name = p.Email
		}
		rows[i] = personRow{Person: *p, EmailKey: field.EmailKey(p.Email), SortName: strings.ToLower(name), CompanySort: query.LowerASCII(p.CompanyName)}
		if p.CompanyID == nil {
			if p.Kind != field.Lead {
				rows[i].CompanySort = ""
			}
			continue
		}
		firm, known := firms[*p.CompanyID]
		if !known {
			c, err := s.Company(ctx, *p.CompanyID)
			if err != nil {
				return nil, err
			}
			if firm = c.Name; c.DeletedAt != nil {
				firm = ""
			}
			firms[*p.CompanyID] = firm
		}
		if rows[i].Firm = firm; p.Kind != field.Lead {
			rows[i].CompanySort = query.LowerASCII(firm)
		}
	}
	return rows, nil
}

// words are what a person is found by.
func (r *personRow) words() string {
	words := []string{r.FirstName, r.LastName, r.Email, r.JobTitle, r.City, r.CompanyName}
	if r.CompanyID != nil && r.Firm != "" {
		words = append(words, r.Firm)
	}
	return strings.Join(words, " ")
}

const addPerson = `INSERT INTO people (kind, honorific, first_name, last_name, email, email_key, phone, job_title, city, country, language,
	time_zone, basis, basis_since, basis_source, company_id, company_name, lead_status, lead_source, department, contact_since, owner_id, own, said_right, opted_out_at, untracked, created_at, updated_at, sort_name, company_sort)
	VALUES (:kind, :honorific, :first_name, :last_name, :email, :email_key, :phone, :job_title, :city, :country, :language,
	:time_zone, :basis, :basis_since, :basis_source, :company_id, :company_name, :lead_status, :lead_source, :department, :contact_since, :owner_id, :own, :said_right, :opted_out_at, :untracked, :created_at, :updated_at, :sort_name, :company_sort)`

// AddPerson stores a person and what it is found by.
func (s *Store) AddPerson(ctx context.Context, p domain.Person) (int64, error) {
	rows, err := s.rowsOf(ctx, p)
	if err != nil {
		return 0, err
	}
	id, err := s.add(ctx, "add person", addPerson, rows[0])
	if err != nil {
		return 0, err
	}
	rows[0].ID = id
	if err := s.index(ctx, &rows[0]); err != nil {
		return 0, err
	}
	return id, s.peopleAdded(ctx)
}

// peopleAdded raises the edition: people were added.
func (s *Store) peopleAdded(ctx context.Context) error {
	_, err := s.exec(ctx, "note that people changed", `UPDATE people_edition SET n = n + 1`)
	return err
}

// atOnce is how many rows one statement adds.
const atOnce = 300

// AddPeople is AddPerson of several, and gives their numbers in their order.
func (s *Store) AddPeople(ctx context.Context, people []domain.Person) ([]int64, error) {
	ids := make([]int64, 0, len(people))
	err := s.Within(ctx, func(ctx context.Context) error {
		for part := range slices.Chunk(people, atOnce) {
			rows, err := s.rowsOf(ctx, part...)
			if err != nil {
				return err
			}
			// Numbers of one statement follow each other: nobody else writes.
			last, err := s.add(ctx, "add people", addPerson, rows)
			if err != nil {
				return err
			}
			found := make([]foundRow, len(rows))
			for i := range rows {
				ids = append(ids, last-int64(len(rows)-1-i))
				found[i] = foundRow{ids[len(ids)-1], rows[i].words()}
			}
			if _, err := s.add(ctx, "find words of people", addFound, found); err != nil {
				return err
			}
		}
		return s.peopleAdded(ctx)
	})
	return ids, err
}

type foundRow struct {
	ID    int64  `db:"id"`
	Words string `db:"words"`
}

const addFound = `INSERT INTO people_find (rowid, words) VALUES (:id, :words)`

// AddEntries is AddEntry of several.
func (s *Store) AddEntries(ctx context.Context, entries []domain.Entry) error {
	return s.Within(ctx, func(ctx context.Context) error {
		for part := range slices.Chunk(entries, atOnce) {
			if _, err := s.add(ctx, "add to history", addEntry, part); err != nil {
				return err
			}
		}
		return nil
	})
}

// UpdatePerson stores p as version p.Version+1, or gives ErrStale.
func (s *Store) UpdatePerson(ctx context.Context, p domain.Person) error {
	return s.Within(ctx, func(ctx context.Context) error {
		rows, err := s.rowsOf(ctx, p)
		if err != nil {
			return err
		}
		stored, err := s.change(ctx, "update person", `UPDATE people SET kind = :kind, honorific = :honorific, first_name = :first_name, last_name = :last_name,
			email = :email, email_key = :email_key, phone = :phone, job_title = :job_title, city = :city, country = :country, language = :language,
			time_zone = :time_zone, basis = :basis, basis_since = :basis_since, basis_source = :basis_source, company_id = :company_id, company_name = :company_name, lead_status = :lead_status, lead_source = :lead_source,
			department = :department, contact_since = :contact_since, owner_id = :owner_id, own = :own, said_right = :said_right, opted_out_at = :opted_out_at, untracked = :untracked,
			updated_at = :updated_at, sort_name = :sort_name, company_sort = :company_sort, version = version + 1
			WHERE id = :id AND version = :version AND deleted_at IS NULL`, rows[0])
		if err != nil {
			return err
		}
		if !stored {
			if now, err := s.person(ctx, p.ID); err == nil && now.DeletedAt != nil {
				return &domain.StateError{Why: p.Name() + " was deleted from the records. Put the record back first."}
			}
			return domain.ErrStale
		}
		return s.reindex(ctx, &rows[0])
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
		rows, err := s.rowsOf(ctx, p)
		if err != nil {
			return err
		}
		return s.reindex(ctx, &rows[0])
	})
}

// reindex stores anew what a person is found by.
func (s *Store) reindex(ctx context.Context, p *personRow) error {
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
		(SELECT count(*) FROM tasks WHERE done_at IS NULL AND (:kind = 'person' AND person_id = :id OR :kind = 'deal' AND deal_id = :id)) AS tasks,
		(SELECT count(*) FROM runs WHERE state IN `+query.RunsNotOver+` AND (:kind = 'person' AND person_id = :id OR :kind = 'deal' AND deal_id = :id)) AS runs,
		(SELECT count(*) FROM round_people m JOIN rounds r ON r.id = m.round_id WHERE :kind = 'person' AND m.person_id = :id AND r.state NOT IN ('done', 'stopped')) AS rounds,
		(SELECT count(*) FROM history WHERE `+column+` = :id AND kind IN ('changed', 'call', 'visit', 'note', 'replied', 'received', 'answered')
			AND (:kind <> 'company' OR person_id IS NULL AND deal_id IS NULL)) AS worked`,
		sql.Named("id", id), sql.Named("kind", string(kind)))
	return h, err
}

func (s *Store) index(ctx context.Context, p *personRow) error {
	_, err := s.exec(ctx, "find words of person", `INSERT INTO people_find (rowid, words) VALUES (?, ?)`, p.ID, p.words())
	return err
}

// PeopleBeginning gives some people of whom words begin with what was typed, those who
// were written to last first. Of very many the first that are found are looked at.
func (s *Store) PeopleBeginning(ctx context.Context, typed string, limit int) ([]domain.PersonRow, error) {
	terms := query.Match(typed)
	if terms == "" {
		return []domain.PersonRow{}, nil
	}
	var ids []int64
	err := s.list(ctx, "complete address", &ids, `SELECT p.id FROM (SELECT rowid AS id FROM people_find WHERE people_find MATCH ? LIMIT 400) f JOIN people p ON p.id = f.id
		ORDER BY p.last_letter_at IS NULL, p.last_letter_at DESC, p.sort_name, p.id LIMIT ?`, terms, limit)
	if err != nil {
		return nil, err
	}
	return s.PeopleRows(ctx, ids, nil)
}
