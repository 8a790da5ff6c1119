package store

import (
	"context"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

const companyColumns = `id, name, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at`

// Company gives one company.
func (s *Store) Company(ctx context.Context, id int64) (c domain.Company, err error) {
	err = s.get(ctx, "load company", &c, `SELECT `+companyColumns+` FROM companies WHERE id = ?`, id)
	return c, err
}

// nameKey is the form under which two names of a company are the same.
func nameKey(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), " ") }

// CompanyByName gives the first company of a name, whatever its case and space.
func (s *Store) CompanyByName(ctx context.Context, name string) (c domain.Company, err error) {
	err = s.get(ctx, "find company", &c, `SELECT `+companyColumns+` FROM companies WHERE name_key = ? ORDER BY id LIMIT 1`, nameKey(name))
	return c, err
}

type companyRow struct {
	domain.Company
	NameKey string `db:"name_key"`
}

// AddCompany stores a company.
func (s *Store) AddCompany(ctx context.Context, c domain.Company) (int64, error) {
	return s.add(ctx, "add company", `INSERT INTO companies (name, name_key, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at)
		VALUES (:name, :name_key, :website, :industry, :employees, :phone, :street, :postal_code, :city, :country, :owner_id, :own, :created_at)`, companyRow{c, nameKey(c.Name)})
}

const dealColumns = `d.id, d.name, d.company_id, d.main_contact_id, d.stage, d.amount_minor, d.currency, d.close_date, d.owner_id, d.own, d.created_at`

// Deal gives one deal.
func (s *Store) Deal(ctx context.Context, id int64) (d domain.Deal, err error) {
	err = s.get(ctx, "load deal", &d, `SELECT `+dealColumns+` FROM deals d WHERE d.id = ?`, id)
	return d, err
}

// UpdateDeal stores the values of a deal.
func (s *Store) UpdateDeal(ctx context.Context, d domain.Deal) error {
	_, err := s.change(ctx, "store deal", `UPDATE deals SET name = :name, stage = :stage, amount_minor = :amount_minor, currency = :currency, close_date = :close_date, own = :own WHERE id = :id`, d)
	return err
}

// UpdateCompany stores the values of a company.
func (s *Store) UpdateCompany(ctx context.Context, c domain.Company) error {
	_, err := s.change(ctx, "store company", `UPDATE companies SET name = :name, name_key = :name_key, website = :website, industry = :industry, employees = :employees, phone = :phone,
		street = :street, postal_code = :postal_code, city = :city, country = :country, own = :own WHERE id = :id`, companyRow{c, nameKey(c.Name)})
	if err == nil {
		_, err = s.exec(ctx, "sort by company", `UPDATE people SET company_sort = lower(?) WHERE company_id = ? AND kind <> 'lead'`, c.Name, c.ID)
	}
	return err
}

// DealsOf gives the deals of a person as main or other contact, the newest
// first.
func (s *Store) DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error) {
	d := []domain.Deal{}
	err := s.list(ctx, "list deals", &d, `SELECT `+dealColumns+` FROM deals d
		WHERE d.main_contact_id = ? OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = ?) ORDER BY d.created_at DESC, d.id DESC`, personID, personID)
	return d, err
}

// AddDeal stores a deal with its other contacts.
func (s *Store) AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error) {
	var id int64
	err := s.Within(ctx, func(ctx context.Context) (err error) {
		id, err = s.add(ctx, "add deal", `INSERT INTO deals (name, company_id, main_contact_id, stage, amount_minor, currency, close_date, owner_id, own, created_at)
			VALUES (:name, :company_id, :main_contact_id, :stage, :amount_minor, :currency, :close_date, :owner_id, :own, :created_at)`, d)
		for _, person := range others {
			if err == nil {
				_, err = s.exec(ctx, "add contact of deal", `INSERT OR IGNORE INTO deal_contacts (deal_id, person_id) VALUES (?, ?)`, id, person)
			}
		}
		return err
	})
	return id, err
}

// AddEntry files one line of a history.
func (s *Store) AddEntry(ctx context.Context, e domain.Entry) error {
	_, err := s.add(ctx, "add to history", `INSERT INTO history (person_id, company_id, deal_id, letter_id, user_id, kind, text, at, machine, link_id, incoming_id)
		VALUES (:person_id, :company_id, :deal_id, :letter_id, :user_id, :kind, :text, :at, :machine, :link_id, :incoming_id)`, e)
	return err
}

const historyColumns = `h.id, h.person_id, h.company_id, h.deal_id, h.letter_id, h.user_id, h.kind, h.text, h.at, h.machine, h.link_id, h.incoming_id,
	coalesce(u.first_name || ' ' || u.last_name, '') AS by_name, coalesce(l.thread_id, l.id) AS thread_id, coalesce(l.subject_line, '') AS subject`

// what entries a view of the history shows; all without one.
var historyViews = map[string][]domain.EntryKind{
	"letters": {domain.EntrySent, domain.EntryRefused, domain.EntryReplied, domain.EntryReceived, domain.EntryAway, domain.EntryBounced, domain.EntryDelayed},
	"back":    {domain.EntryOpened, domain.EntryClicked, domain.EntryDocument, domain.EntryReplied, domain.EntryAnswered, domain.EntryAway, domain.EntryBounced, domain.EntryDelayed, domain.EntryComplained, domain.EntryOptedOut, domain.EntryReceived},
	"changes": {domain.EntryCreated, domain.EntryImported, domain.EntryChanged},
}

// History gives a window of what happened with a person, a company or a deal, the
// newest first.
func (s *Store) History(ctx context.Context, q domain.HistoryQuery) ([]domain.Entry, error) {
	of := sq.Eq{}
	for column, id := range map[string]int64{"h.person_id": q.PersonID, "h.company_id": q.CompanyID, "h.deal_id": q.DealID} {
		if id != 0 {
			of[column] = id
		}
	}
	if kinds := historyViews[q.Only]; kinds != nil {
		of["h.kind"] = kinds
	}
	query, args, err := sq.Select(historyColumns).From("history h").LeftJoin("users u ON u.id = h.user_id").LeftJoin("letters l ON l.id = h.letter_id").
		Where(of).OrderBy("h.at DESC", "h.id DESC").Limit(uint64(q.Limit)).Offset(uint64(q.Offset)).ToSql()
	if err != nil {
		return nil, wrap("list history", err)
	}
	e := []domain.Entry{}
	err = s.list(ctx, "list history", &e, query, args...)
	return e, err
}

const newsRows = `SELECT h.id, h.kind, h.text, h.at, h.person_id, h.letter_id, h.incoming_id,
		coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name, coalesce(l.subject_line, '') AS subject
		FROM history h LEFT JOIN letters l ON l.id = h.letter_id LEFT JOIN incoming i ON i.id = h.incoming_id LEFT JOIN people p ON p.id = h.person_id`

// OpenNews gives what came back besides replies and was not dealt with.
func (s *Store) OpenNews(ctx context.Context, userID int64, since time.Time, limit int) ([]domain.NewsRow, error) {
	list := []domain.NewsRow{}
	err := s.list(ctx, "list open news", &list, newsRows+`
		WHERE h.at > ? AND h.settled_at IS NULL AND NOT h.machine AND coalesce(l.sender_id, i.user_id) = ?
		AND h.kind IN ('bounced', 'away', 'answered', 'complained', 'opted out') ORDER BY h.at DESC, h.id DESC LIMIT ?`, since, userID, limit)
	return list, err
}

// SettleNews notes that an entry was dealt with, or was not.
func (s *Store) SettleNews(ctx context.Context, userID, id int64, at *time.Time) error {
	hit, err := s.one(ctx, "settle news", `UPDATE history SET settled_at = ? WHERE id = ? AND EXISTS (SELECT 1 FROM history h LEFT JOIN letters l ON l.id = h.letter_id
		LEFT JOIN incoming i ON i.id = h.incoming_id WHERE h.id = history.id AND coalesce(l.sender_id, i.user_id) = ?)`, at, id, userID)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

// News gives what came back for a user since an entry, and the id of the last entry.
func (s *Store) News(ctx context.Context, userID, after int64, limit int) (list []domain.NewsRow, last int64, err error) {
	if err = s.get(ctx, "last entry", &last, `SELECT coalesce(max(id), 0) FROM history`); err != nil || after < 0 {
		return nil, last, err
	}
	err = s.list(ctx, "list news", &list, newsRows+`
		WHERE h.id > ? AND NOT h.machine AND coalesce(l.sender_id, i.user_id) = ?
		AND h.kind NOT IN ('sent', 'refused', 'created', 'imported', 'changed', 'delayed') ORDER BY h.id DESC LIMIT ?`, after, userID, limit)
	return list, last, err
}
