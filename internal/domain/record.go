package domain

import (
	"maps"
	"strings"

	"lucidletter/core/field"
)

// DealLine is a deal with its amount as it is read.
type DealLine struct {
	Deal
	Amount string `json:"amount"`
}

// With gives own values with one of them changed.
func (o Own) With(path, value string) Own {
	out := maps.Clone(o)
	if out == nil {
		return nil // a draft of which nothing was noted
	}
	if value == "" {
		delete(out, path)
	} else {
		out[path] = value
	}
	return out
}

// Value gives a stored value of a person by its path, or "".
func (p *Person) Value(path string) string {
	if at := p.Column(path); at != nil {
		return strings.TrimSpace(*at)
	}
	for stored, v := range p.Own {
		if _, key, _ := strings.Cut(path, "."); strings.HasSuffix(stored, "."+key) {
			return v
		}
	}
	return ""
}

// Column gives the place of a person's standard field that can be written, or
// nil. lead.company_name and company.name of a lead are the same.
func (p *Person) Column(path string) *string {
	_, key, _ := strings.Cut(path, ".")
	switch path {
	case "lead.status":
		return &p.LeadStatus
	case "lead.source":
		return &p.LeadSource
	case "lead.company_name":
		return &p.CompanyName
	case "contact.department":
		return &p.Department
	case "contact.since":
		return &p.ContactSince
	}
	switch key {
	case "honorific":
		return &p.Honorific
	case "first_name":
		return &p.FirstName
	case "last_name":
		return &p.LastName
	case "email":
		return &p.Email
	case "phone":
		return &p.Phone
	case "job_title":
		return &p.JobTitle
	case "city":
		return &p.City
	case "country":
		return &p.Country
	case "language":
		return &p.Language
	case "time_zone":
		return &p.TimeZone
	case "basis":
		return &p.Basis
	case "basis_since":
		return &p.BasisSince
	case "basis_source":
		return &p.BasisSource
	}
	return nil
}

// Column gives the place of a company's standard field.
func (c *Company) Column(path string) *string {
	switch path {
	case "company.name":
		return &c.Name
	case "company.website":
		return &c.Website
	case "company.industry":
		return &c.Industry
	case "company.employees":
		return &c.Employees
	case "company.phone":
		return &c.Phone
	case "company.street":
		return &c.Street
	case "company.postal_code":
		return &c.PostalCode
	case "company.city":
		return &c.City
	case "company.country":
		return &c.Country
	}
	return nil
}

// TeamLanguage is a value of teams that no letter holds: letters to people whose
// language is not known are in it.
var TeamLanguage = field.Def{Path: "team.language", Label: "Language of letters", Type: field.Text, Record: field.Team}

// Column gives the place of a deal's standard field; its amount is in two.
func (d *Deal) Column(path string) *string {
	switch path {
	case "deal.name":
		return &d.Name
	case "deal.stage":
		return &d.Stage
	case "deal.close_date":
		return &d.CloseDate
	}
	return nil
}

// Column gives the place of a team's standard field.
func (t *Team) Column(path string) *string {
	switch path {
	case "team.name":
		return &t.Name
	case "team.postal_address":
		return &t.PostalAddress
	case "team.website":
		return &t.Website
	case TeamLanguage.Path:
		return &t.Language
	}
	return nil
}

// DealRow is a deal as lists show it.
type DealRow struct {
	DealLine
	Company string `json:"company" db:"company"`
	Contact string `json:"contact" db:"contact"`
	Owner   string `json:"owner" db:"owner"`

	Cells []string `json:"cells,omitempty" db:"-" doc:"The values of the columns, as those of people"`
}

// DealPerson is a contact of a deal.
type DealPerson struct {
	ID       int64  `json:"id" db:"id"`
	Name     string `json:"name" db:"name"`
	Email    string `json:"email" db:"email"`
	JobTitle string `json:"jobTitle" db:"job_title"`
	Main     bool   `json:"main" db:"main"`
}

// Read writes the amount for people.
func (d *DealRow) Read() {
	d.Amount = d.ShownAmount()
}

// PersonDeal is a person with the newest open deal, if there is one.
type PersonDeal struct {
	Person
	DealID *int64 `db:"deal_id"`
}
