package library

import (
	"context"

	"lucidletter/internal/domain"
)

// Choice is a template as the picker offers it for one person, merged with that
// person's values. Reason says why it cannot be used when Fits is false.
type Choice struct {
	ID        int64  `json:"id"`
	Name      string `json:"name"`
	WhenToUse string `json:"whenToUse"`
	Fits      bool   `json:"fits"`
	Reason    string `json:"reason"`
	Subject   string `json:"subject"`
	Preview   string `json:"preview"`
	Gaps      int    `json:"gaps"`
	Language  string `json:"language" doc:"That the words are in, by its English name; empty when it is not known"`
	Foreign   bool   `json:"foreign" doc:"In another language than the person's"`

	Others []WordingLine `json:"others" doc:"The ready wordings in other languages"`
}

// Near ranks the templates that the user starred, and those they wrote with last.
func (a *Service) Near(ctx context.Context, u domain.User) (map[int64]int, error) {
	out := map[int64]int{}
	recent, err := a.store.FindTemplates(ctx, u.ID, domain.LibraryQuery{Recent: true})
	if err != nil {
		return nil, err
	}
	for i := range min(len(recent), nearest) {
		out[recent[i].ID] = nearest - i
	}
	starred, err := a.store.FindTemplates(ctx, u.ID, domain.LibraryQuery{Starred: true, Sort: "name"})
	for i := range starred {
		out[starred[i].ID] += nearest + 1
	}
	return out, err
}

// nearest is how many templates come first because they were used last.
const nearest = 5
