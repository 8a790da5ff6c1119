package records

import (
	"context"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/twin"
	"lucidletter/internal/domain"
)

// Twin is a person who may be the one that is being written down.
type Twin struct {
	domain.PersonRow
	Why twin.Reason `json:"why" enum:"email,name,close"`
}

// mostTwins is how many are shown.
const mostTwins = 5

// Twins finds people who may be the one that is being typed.
func (a *Service) Twins(ctx context.Context, typed twin.Person) ([]Twin, error) {
	out := []Twin{}
	seen := map[int64]bool{}
	look := func(rows []domain.PersonRow) {
		for _, r := range rows {
			why := twin.People(typed, twin.Person{First: r.FirstName, Last: r.LastName, Email: r.Email, Company: r.Company})
			if why != "" && !seen[r.ID] && len(out) < mostTwins {
				seen[r.ID] = true
				out = append(out, Twin{r, why})
			}
		}
	}
	if field.CheckEmail(typed.Email) == nil {
		there, err := a.store.PeopleByEmail(ctx, field.EmailKey(typed.Email))
		if err != nil {
			return nil, err
		}
		for i := range there {
			p := &there[i]
			look([]domain.PersonRow{{ID: p.ID, Kind: p.Kind, FirstName: p.FirstName, LastName: p.LastName, Email: p.Email, JobTitle: p.JobTitle, City: p.City, Company: p.CompanyName}})
		}
	}
	// Who has the same beginning of a name, or works where they do.
	for _, words := range []string{beginning(typed.Last), beginning(typed.First), beginning(typed.Company)} {
		if words == "" {
			continue
		}
		rows, err := a.store.PeopleBeginning(ctx, words, 200)
		if err != nil {
			return nil, err
		}
		look(rows)
	}
	return out, nil
}

// beginning is what records that may be twins are looked up by: slips seldom stand in the
// first letters (Winkler 1990).
func beginning(words string) string {
	first, _, _ := strings.Cut(field.PlainWords(words), " ")
	if r := []rune(first); len(r) > 3 {
		return string(r[:3])
	}
	return first
}
