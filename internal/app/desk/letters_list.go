package desk

import (
	"context"
	"slices"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// maxLetters is how many letters are listed at once.
const MaxLetters = 300

// Letters lists the user's letters in the given states in which all words of a search
// stand.
func (a *Service) Letters(ctx context.Context, u domain.User, states []domain.LetterState, search string) ([]domain.LetterRow, error) {
	return a.store.Letters(ctx, domain.LettersQuery{SenderID: u.ID, States: states, Search: search, Limit: MaxLetters})
}

// OpenLetter is a letter that is being written or on its way. Zone is the recipient's.
type OpenLetter struct {
	domain.LetterRow
	Zone string
}

// OpenLetters lists the user's letters that have not gone, about one record or with 0
// about all: those that go next first, then the drafts, the latest first.
func (a *Service) OpenLetters(ctx context.Context, u domain.User, person, company, deal int64) ([]OpenLetter, error) {
	rows, err := a.store.Letters(ctx, domain.LettersQuery{
		SenderID: u.ID, States: []domain.LetterState{domain.Draft, domain.Waiting, domain.Sending, domain.Refused, domain.Unsure}, PersonID: person, CompanyID: company, DealID: deal, Limit: MaxLetters,
	})
	if err != nil {
		return nil, err
	}
	ids := []int64{}
	for i := range rows {
		ids = append(ids, rows[i].PersonID)
	}
	people, err := a.store.PeopleOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	zones := map[int64]string{}
	for i := range people {
		zone, _ := compose.ZoneOf(&people[i])
		zones[people[i].ID] = zone.String()
	}
	out := make([]OpenLetter, 0, len(rows))
	for _, r := range rows {
		if person != 0 && r.Internal {
			continue // filed on its deal alone
		}
		out = append(out, OpenLetter{r, zones[r.PersonID]})
	}
	slices.SortStableFunc(out, func(x, y OpenLetter) int {
		a, b := x.State == domain.Draft, y.State == domain.Draft
		switch {
		case a != b && a:
			return 1
		case a != b:
			return -1
		case a || x.DueAt == nil || y.DueAt == nil:
			return 0
		}
		return x.DueAt.Compare(*y.DueAt)
	})
	return out, nil
}
