package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
)

// DealPeople gives the people of a deal, the main contact first.
func (s *Store) DealPeople(ctx context.Context, id int64) ([]domain.DealPerson, error) {
	list := []domain.DealPerson{}
	err := s.list(ctx, "list people of deal", &list, `SELECT p.id, trim(p.first_name || ' ' || p.last_name) AS name, p.email, p.job_title, p.id IS d.main_contact_id AS main
		FROM deals d JOIN people p ON p.id = d.main_contact_id OR p.id IN (SELECT person_id FROM deal_contacts WHERE deal_id = d.id)
		WHERE d.id = ? AND p.deleted_at IS NULL ORDER BY main DESC, p.sort_name, p.id`, id)
	return list, err
}

// SetDealOwn stores the own fields of a deal.
func (s *Store) SetDealOwn(ctx context.Context, id int64, own domain.Own) error {
	_, err := s.exec(ctx, "store own fields of deal", `UPDATE deals SET own = ? WHERE id = ?`, own, id)
	return err
}

// CompanyPeople lists the contacts of a company by name.
func (s *Store) CompanyPeople(ctx context.Context, id int64) ([]domain.DealPerson, error) {
	list := []domain.DealPerson{}
	err := s.list(ctx, "list people of company", &list, `SELECT id, trim(first_name || ' ' || last_name) AS name, email, job_title, 0 AS main
		FROM people WHERE company_id = ? AND deleted_at IS NULL ORDER BY sort_name, id LIMIT 200`, id)
	return list, err
}

// Deal gives one deal.
func (s *Store) Deal(ctx context.Context, id int64) (d domain.Deal, err error) {
	err = s.get(ctx, "load deal", &d, `SELECT `+lists.DealColumns+` FROM deals d WHERE d.id = ?`, id)
	return d, err
}

// UpdateDeal stores the values of a deal.
func (s *Store) UpdateDeal(ctx context.Context, d domain.Deal) error {
	_, err := s.change(ctx, "store deal", `UPDATE deals SET name = :name, stage = :stage, amount_minor = :amount_minor, zero_given = :zero_given, currency = :currency, close_date = :close_date, own = :own,
		company_id = :company_id, main_contact_id = :main_contact_id, owner_id = :owner_id WHERE id = :id`, d)
	return err
}

// SetDealPeople stores who is in a deal besides its main contact.
func (s *Store) SetDealPeople(ctx context.Context, id int64, others []int64) error {
	return s.Within(ctx, func(ctx context.Context) error {
		if _, err := s.exec(ctx, "take people out of deal", `DELETE FROM deal_contacts WHERE deal_id = ?`, id); err != nil {
			return err
		}
		for _, person := range others {
			if _, err := s.exec(ctx, "add contact of deal", `INSERT OR IGNORE INTO deal_contacts (deal_id, person_id) VALUES (?, ?)`, id, person); err != nil {
				return err
			}
		}
		return nil
	})
}

// DeleteDeal marks a deal as deleted or, with nil, puts it back; or ErrNotFound.
func (s *Store) DeleteDeal(ctx context.Context, id int64, at *time.Time) error {
	return s.mark(ctx, "deals", id, at)
}

// DealsOf gives the deals of a person as main or other contact, the newest
// first.
func (s *Store) DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error) {
	d := []domain.Deal{}
	err := s.list(ctx, "list deals", &d, `SELECT `+lists.DealColumns+` FROM deals d
		WHERE d.deleted_at IS NULL AND (d.main_contact_id = ? OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = ?)) ORDER BY d.created_at DESC, d.id DESC`, personID, personID)
	return d, err
}

// AddDeal stores a deal with its other contacts.
func (s *Store) AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error) {
	var id int64
	err := s.Within(ctx, func(ctx context.Context) (err error) {
		id, err = s.add(ctx, "add deal", `INSERT INTO deals (name, company_id, main_contact_id, stage, amount_minor, zero_given, currency, close_date, owner_id, own, created_at)
			VALUES (:name, :company_id, :main_contact_id, :stage, :amount_minor, :zero_given, :currency, :close_date, :owner_id, :own, :created_at)`, d)
		for _, person := range others {
			if err == nil {
				_, err = s.exec(ctx, "add contact of deal", `INSERT OR IGNORE INTO deal_contacts (deal_id, person_id) VALUES (?, ?)`, id, person)
			}
		}
		return err
	})
	return id, err
}
