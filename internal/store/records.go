package store

import (
	"context"
	"strings"

	"lucidletter/internal/app"
)

const companyColumns = `id, name, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at`

// Company gives one company.
func (s *Store) Company(ctx context.Context, id int64) (c app.Company, err error) {
	err = s.get(ctx, "load company", &c, `SELECT `+companyColumns+` FROM companies WHERE id = ?`, id)
	return c, err
}

// nameKey is the form under which two names of a company are the same.
func nameKey(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), " ") }

// CompanyByName gives the first company of a name, whatever its case and space.
func (s *Store) CompanyByName(ctx context.Context, name string) (c app.Company, err error) {
	err = s.get(ctx, "find company", &c, `SELECT `+companyColumns+` FROM companies WHERE name_key = ? ORDER BY id LIMIT 1`, nameKey(name))
	return c, err
}

type companyRow struct {
	app.Company
	NameKey string `db:"name_key"`
}

// AddCompany stores a company.
func (s *Store) AddCompany(ctx context.Context, c app.Company) (int64, error) {
	return s.add(ctx, "add company", `INSERT INTO companies (name, name_key, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at)
		VALUES (:name, :name_key, :website, :industry, :employees, :phone, :street, :postal_code, :city, :country, :owner_id, :own, :created_at)`, companyRow{c, nameKey(c.Name)})
}

const dealColumns = `d.id, d.name, d.company_id, d.main_contact_id, d.stage, d.amount_minor, d.currency, d.close_date, d.owner_id, d.own, d.created_at`

// Deal gives one deal.
func (s *Store) Deal(ctx context.Context, id int64) (d app.Deal, err error) {
	err = s.get(ctx, "load deal", &d, `SELECT `+dealColumns+` FROM deals d WHERE d.id = ?`, id)
	return d, err
}

// DealsOf gives the deals of a person as main or other contact, the newest
// first.
func (s *Store) DealsOf(ctx context.Context, personID int64) ([]app.Deal, error) {
	d := []app.Deal{}
	err := s.list(ctx, "list deals", &d, `SELECT `+dealColumns+` FROM deals d
		WHERE d.main_contact_id = ? OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = ?) ORDER BY d.created_at DESC, d.id DESC`, personID, personID)
	return d, err
}

// AddDeal stores a deal with its other contacts.
func (s *Store) AddDeal(ctx context.Context, d app.Deal, others []int64) (int64, error) {
	var id int64
	err := s.Within(ctx, func(inner app.Store) (err error) {
		tx := inner.(*Store)
		id, err = tx.add(ctx, "add deal", `INSERT INTO deals (name, company_id, main_contact_id, stage, amount_minor, currency, close_date, owner_id, own, created_at)
			VALUES (:name, :company_id, :main_contact_id, :stage, :amount_minor, :currency, :close_date, :owner_id, :own, :created_at)`, d)
		for _, person := range others {
			if err == nil {
				_, err = tx.exec(ctx, "add contact of deal", `INSERT OR IGNORE INTO deal_contacts (deal_id, person_id) VALUES (?, ?)`, id, person)
			}
		}
		return err
	})
	return id, err
}

// AddEntry files one line of a history.
func (s *Store) AddEntry(ctx context.Context, e app.Entry) error {
	_, err := s.add(ctx, "add to history", `INSERT INTO history (person_id, company_id, deal_id, letter_id, user_id, kind, text, at)
		VALUES (:person_id, :company_id, :deal_id, :letter_id, :user_id, :kind, :text, :at)`, e)
	return err
}

// History gives a window of what happened with a person, the newest first.
func (s *Store) History(ctx context.Context, personID int64, limit, offset int) ([]app.Entry, error) {
	e := []app.Entry{}
	err := s.list(ctx, "list history", &e, `SELECT h.id, h.person_id, h.company_id, h.deal_id, h.letter_id, h.user_id, h.kind, h.text, h.at,
		coalesce(u.first_name || ' ' || u.last_name, '') AS by_name
		FROM history h LEFT JOIN users u ON u.id = h.user_id WHERE h.person_id = ? ORDER BY h.at DESC, h.id DESC LIMIT ? OFFSET ?`, personID, limit, offset)
	return e, err
}
