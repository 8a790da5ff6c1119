package lists

import (
	"context"
	"slices"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

// SortsWithKey are the sorts whose column is never empty.
var SortsWithKey = map[string]string{"": "sort_name", "name": "sort_name", "company.name": "company_sort"}

// listOfPlaces gives the column that a list is sorted by, and of whom it is, when places in it
// can be remembered: nothing narrows it but the kind.
func listOfPlaces(q *domain.PeopleQuery) (column, where string, args []any) {
	column = SortsWithKey[q.By.Path]
	if q.Search != "" || q.InDeal || q.Only != nil || !q.Where.Empty() {
		return "", "", nil
	}
	if q.Kind != "" {
		return column, "deleted_at IS NULL AND kind = ?", []any{string(q.Kind)}
	}
	return column, "deleted_at IS NULL", nil
}

// findPlaces counts a list and remembers places in it; false when it is not one of those, or
// somebody else does.
func (s *Table) findPlaces(ctx context.Context, q domain.PeopleQuery) (total int, known bool, err error) {
	column, where, args := listOfPlaces(&q)
	if s.db.InTransaction(ctx) || column == "" {
		return 0, false, nil
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return 0, false, err
	}
	list := column + string(q.Kind)
	marks, total, known := s.Places.Of(edition, list)
	if known || marks == nil {
		return total, known, nil
	}
	err = s.db.Get(ctx, "count people", &total, `SELECT count(*) FROM people WHERE `+where, args...)
	if err == nil {
		err = s.db.Select(ctx, "find places in the list", &marks, `SELECT key, id FROM (SELECT `+column+` AS key, id, row_number() OVER (ORDER BY `+column+`, id) AS n FROM people WHERE `+where+`) WHERE n % ? = 1 ORDER BY n`, append(slices.Clone(args), query.PlacesApart)...)
	}
	if err != nil {
		s.Places.Keep(edition, list, nil, 0)
		return 0, false, err
	}
	s.Places.Keep(edition, list, marks, total)
	return total, true, nil
}

// near gives a page of the list that no search narrows, and how many there are, from near
// by; false when it is not known where that is.
func (s *Table) near(ctx context.Context, q domain.PeopleQuery) (ids []int64, total int, known bool, err error) {
	column, where, args := listOfPlaces(&q)
	if s.db.InTransaction(ctx) || column == "" {
		return nil, 0, false, nil
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return nil, 0, false, err
	}
	marks, total, known := s.Places.Known(edition, column+string(q.Kind))
	if !known {
		return nil, 0, false, nil
	}
	limit, offset := max(0, min(q.Limit, total-q.Offset)), q.Offset
	if q.Down {
		offset = total - offset - limit
	}
	if limit == 0 || offset/query.PlacesApart >= len(marks) {
		return []int64{}, total, true, nil
	}
	from := marks[offset/query.PlacesApart]
	args = append(args, from.Key, from.ID, limit, offset%query.PlacesApart)
	err = s.db.Select(ctx, "list people", &ids, `SELECT id FROM people WHERE `+where+` AND (`+column+`, id) >= (?, ?) ORDER BY `+column+`, id LIMIT ? OFFSET ?`, args...)
	if q.Down {
		slices.Reverse(ids)
	}
	return ids, total, true, err
}
