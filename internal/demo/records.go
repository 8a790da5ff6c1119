package demo

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// slug makes the part of an address out of a name.
func slug(s string) string {
	plain, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn))), s)
	if err != nil {
		plain = s
	}
	s = strings.Trim(strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		case r == ' ' || r == '-':
			return '-'
		}
		return -1
	}, plain), "-")
	return strings.ReplaceAll(s, "--", "-")
}

// trades are the words by which the name of a firm tells its trade, and the
// template of the first letter for it.
var trades = map[string]string{
	"flor": "florist", "flower": "florist", "bloom": "florist", "leaf": "florist", "bake": "bakery", "bread": "bakery", "patisserie": "bakery", "oven": "bakery",
	"dairy": "cheesemaker", "cheese": "cheesemaker", "creamery": "cheesemaker", "affinage": "cheesemaker",
	"lab": "laboratory", "diagnostics": "laboratory", "bioscience": "laboratory", "assay": "laboratory",
	"kitchen": "kitchen", "catering": "kitchen", "canteen": "kitchen", "banqueting": "kitchen", "hearth": "kitchen",
}

// suits tells whether a template for one trade would go to a firm of that trade.
func suits(template, firm string) bool {
	trade, first := strings.CutPrefix(template, "First letter to a ")
	if !first {
		return true
	}
	for word, of := range trades {
		if of == trade && strings.Contains(strings.ToLower(firm), word) {
			return true
		}
	}
	return false
}

func (m *maker) companies() error {
	trades, err := rows("companies.txt")
	if err != nil {
		return err
	}
	places, err := rows("places.txt")
	if err != nil {
		return err
	}
	family, err := words("last_names.txt")
	if err != nil {
		return err
	}
	taken := map[string]bool{}
	for len(m.firms) < companies {
		trade, place := pick(m.r, trades), pick(m.r, places)
		name := pick(m.r, family) + " " + strings.TrimSpace(pick(m.r, strings.Split(trade[1], ",")))
		if taken[name] {
			continue
		}
		taken[name] = true
		c := domain.Company{
			Name: name, Industry: trade[0], Website: "https://" + slug(name) + ".example", City: place[0], Country: place[1],
			Street: fmt.Sprintf("%s %d", place[2], 1+m.r.IntN(90)), PostalCode: place[3], Employees: fmt.Sprint(2 + m.r.IntN(60)),
			Phone: fmt.Sprintf("+44 1632 960%03d", m.r.IntN(1000)), OwnerID: new(pick(m.r, m.ids[:4])), CreatedAt: m.ago(30, 400),
		}
		if m.chance(60) {
			c.Own = domain.Own{"company.own.delivery_days": pick(m.r, []string{"Monday and Thursday", "Tuesday", "daily before six", "Wednesday and Saturday", "every other Friday"})}
		}
		if m.chance(15) {
			c.Street = ""
		}
		if c.ID, err = m.s.AddCompany(m.ctx, c); err != nil {
			return err
		}
		m.firms = append(m.firms, c)
	}
	return nil
}

// ago is a time between two numbers of days before today, in working hours.
func (m *maker) ago(from, to int) time.Time {
	day := m.today.AddDate(0, 0, -from-m.r.IntN(to-from+1))
	return workingDay(day.Add(time.Duration(7*60+m.r.IntN(9*60)) * time.Minute))
}

// workingDay gives a time of a weekend on the Friday before.
func workingDay(t time.Time) time.Time {
	switch t.Weekday() {
	case time.Saturday:
		return t.AddDate(0, 0, -1)
	case time.Sunday:
		return t.AddDate(0, 0, -2)
	}
	return t
}

func (m *maker) people() error {
	first, err := words("first_names.txt")
	if err != nil {
		return err
	}
	last, err := words("last_names.txt")
	if err != nil {
		return err
	}
	places, err := rows("places.txt")
	if err != nil {
		return err
	}
	taken := map[string]bool{}
	for i := range people {
		f, l := pick(m.r, first), pick(m.r, last)
		for taken[f+l] {
			f, l = pick(m.r, first), pick(m.r, last)
		}
		taken[f+l] = true
		p := domain.Person{
			Kind: field.Lead, FirstName: f, LastName: l, Phone: fmt.Sprintf("+44 7700 900%03d", m.r.IntN(1000)), OwnerID: new(pick(m.r, m.ids[:4])),
			JobTitle: pick(m.r, []string{"Owner", "Manager", "Head baker", "Buyer", "Laboratory manager", "Head chef", "Operations", "Accounts", "Site manager"}),
		}
		m.placed(&p, i, pick(m.r, places), places)
		m.troubled(&p, i)
		if i%7 != 3 {
			p.Basis, p.BasisSource = basisOf(&p)
			p.BasisSince = p.CreatedAt.Format(time.DateOnly)
		}
		p.UpdatedAt = p.CreatedAt
		if p.ID, err = m.s.AddPerson(m.ctx, p); err != nil {
			return err
		}
		p.Version = 1
		if err := m.entry(p.ID, domain.EntryCreated, p.Email, p.CreatedAt, *p.OwnerID); err != nil {
			return err
		}
		if p.OptedOutAt != nil {
			if p.Email != "" {
				if err := m.s.AddOptOut(m.ctx, domain.OptOut{Key: field.EmailKey(p.Email), Email: p.Email, Reason: "asked to be unsubscribed", At: *p.OptedOutAt}); err != nil {
					return err
				}
			}
			if err := m.entry(p.ID, domain.EntryOptedOut, "asked to be unsubscribed", *p.OptedOutAt, 0); err != nil {
				return err
			}
		}
		m.all = append(m.all, p)
	}
	return nil
}

// basisOf is why somebody may be written to, and where that is known from.
func basisOf(p *domain.Person) (ground, source string) {
	if p.Kind == field.Contact {
		return "Customer", "order"
	}
	switch p.LeadSource {
	case "trade fair":
		return "Met in person", "left their card at the fair"
	case "website", "call":
		return "Asked us", "enquiry by " + p.LeadSource
	case "recommendation":
		return "Referral", "named by a customer"
	}
	return "Published business address", "trade directory"
}

// placed gives two thirds of the people the company of a lead, the others one
// of the companies.
func (m *maker) placed(p *domain.Person, i int, place []string, places [][]string) {
	p.CreatedAt = m.ago(8, 260)
	p.City, p.Country, p.Language, p.TimeZone = place[0], place[1], place[4], place[5]
	if i%3 == 0 {
		firm := m.firms[(i/3)%len(m.firms)]
		p.Kind, p.CompanyID = field.Contact, &firm.ID
		p.Department = pick(m.r, []string{"Purchasing", "Production", "Accounts", ""})
		p.ContactSince = p.CreatedAt.AddDate(0, 0, 3).Format(time.DateOnly)
		p.City, p.Country = firm.City, firm.Country
		if at := slices.IndexFunc(places, func(row []string) bool { return row[0] == firm.City }); at >= 0 {
			p.TimeZone = places[at][5]
		}
		p.Email = slug(p.FirstName) + "@" + strings.TrimPrefix(firm.Website, "https://")
		return
	}
	p.LeadStatus = pick(m.r, field.LeadStatuses())
	p.LeadSource = pick(m.r, []string{"trade fair", "website", "recommendation", "call", "directory"})
	p.CompanyName = p.LastName + " " + pick(m.r, []string{"Flowers", "Bakery", "Dairy", "Laboratory", "Kitchens"})
	p.Email = slug(p.FirstName) + "@" + slug(p.CompanyName) + ".example"
	p.Own = domain.Own{}
	if m.chance(65) {
		p.Own["lead.own.volume"] = fmt.Sprintf("%d.5", 4+m.r.IntN(60))
	}
	if m.chance(70) {
		p.Own["lead.own.present_cooling"] = pick(m.r, []string{"none", "household fridges", "upright cabinets", "old cold room"})
	}
}

// troubled puts in what real records have wrong with them.
func (m *maker) troubled(p *domain.Person, i int) {
	switch i % 40 {
	case 5:
		p.FirstName = ""
	case 11:
		p.FirstName, p.LastName = strings.ToUpper(p.FirstName), strings.ToUpper(p.LastName)
	case 17:
		p.FirstName = strings.ToLower(p.FirstName)
	case 23:
		p.FirstName = "n/a"
	case 26:
		p.City, p.Phone = "", ""
	case 29:
		p.Email = ""
	case 32:
		p.JobTitle = "-"
	case 35:
		p.Honorific = "Dr"
	}
	switch i {
	case 50, 51: // two people, one address
		p.Email = "office@shared-counter.example"
	case 77, 200:
		p.OptedOutAt = new(m.ago(5, 60))
	}
}

func (m *maker) entry(person int64, kind domain.EntryKind, text string, at time.Time, user int64) error {
	e := domain.Entry{PersonID: &person, Kind: kind, Text: text, At: at}
	if user != 0 {
		e.UserID = &user
	}
	return m.s.AddEntry(m.ctx, e)
}

func (m *maker) deals() error {
	m.dealsOf = map[int64][]domain.Deal{}
	var contacts []domain.Person
	for _, p := range m.all {
		if p.Kind == field.Contact {
			contacts = append(contacts, p)
		}
	}
	for i := range deals {
		p := contacts[i%len(contacts)]
		volume := 6 + m.r.IntN(60)
		d := domain.Deal{
			Name: fmt.Sprintf("Cold room, %d m³", volume), CompanyID: p.CompanyID, MainContactID: &p.ID, Stage: pick(m.r, field.DealStages()),
			AmountMinor: int64(volume)*41000 + 250000, Currency: "GBP", CloseDate: m.today.AddDate(0, 0, m.r.IntN(90)-10).Format(time.DateOnly),
			OwnerID: p.OwnerID, CreatedAt: m.ago(5, 150), Own: domain.Own{"deal.own.volume": fmt.Sprint(volume)},
		}
		if p.Country != "United Kingdom" {
			d.Currency = "EUR"
		}
		if m.chance(50) {
			d.Own["deal.own.inspection_date"] = m.today.AddDate(0, 0, 20+m.r.IntN(200)).Format(time.DateOnly)
		}
		id, err := m.s.AddDeal(m.ctx, d, nil)
		if err != nil {
			return err
		}
		d.ID = id
		m.dealsOf[p.ID] = append(m.dealsOf[p.ID], d)
	}
	return nil
}
