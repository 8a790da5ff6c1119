package store

import (
	"context"
	"slices"
	"sync"

	"lucidletter/internal/domain"
)

// places remembers where in the sorted list of people every placesApart-th stands, so that
// a page from the middle of very many is read from near by. It holds as long as nobody is
// added or changed.
type places struct {
	mu      sync.Mutex
	edition int64
	busy    map[string]bool // lists that somebody is finding out about
	total   map[string]int  // by column and kind, as the marks
	marks   map[string][]place
}

// of gives what is remembered of a list. When it is not known, marks are nil while somebody
// finds it out, and empty for who is to find out and to call keep.
func (p *places) of(edition int64, list string) (marks []place, total int, known bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.edition != edition {
		p.edition, p.total, p.marks, p.busy = edition, map[string]int{}, map[string][]place{}, map[string]bool{}
	}
	if marks, known = p.marks[list]; !known {
		if p.busy[list] {
			return nil, 0, false
		}
		p.busy[list] = true
		return []place{}, 0, false
	}
	return marks, p.total[list], true
}

// known gives what is remembered of a list, if it is.
func (p *places) known(edition int64, list string) (marks []place, total int, known bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if marks, known = p.marks[list]; !known || p.edition != edition {
		return nil, 0, false
	}
	return marks, p.total[list], true
}

// keep remembers what was found out, unless people changed meanwhile; nil that it could
// not be.
func (p *places) keep(edition int64, list string, marks []place, total int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.edition != edition {
		return
	}
	if p.busy[list] = false; marks != nil {
		p.marks[list], p.total[list] = marks, total
	}
}

// place is a person in a sorted list, by what it is sorted by.
type place struct {
	Key string `db:"key"`
	ID  int64  `db:"id"`
}

const placesApart = 500

// sortsWithKey are the sorts whose column is never empty.
var sortsWithKey = map[string]string{"": "sort_name", "name": "sort_name", "company.name": "company_sort"}

// listOfPlaces gives the column that a list is sorted by, and of whom it is, when places in it
// can be remembered: nothing narrows it but the kind.
func listOfPlaces(q *domain.PeopleQuery) (column, where string, args []any) {
	column = sortsWithKey[q.By.Path]
	if q.Search != "" || q.InDeal || !q.Where.Empty() {
		return "", "", nil
	}
	if q.Kind != "" {
		return column, "deleted_at IS NULL AND kind = ?", []any{string(q.Kind)}
	}
	return column, "deleted_at IS NULL", nil
}

// findPlaces counts a list and remembers places in it; false when it is not one of those, or
// somebody else does.
func (s *Store) findPlaces(ctx context.Context, q domain.PeopleQuery) (total int, known bool, err error) {
	column, where, args := listOfPlaces(&q)
	if s.within(ctx) != nil || column == "" {
		return 0, false, nil
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return 0, false, err
	}
	list := column + string(q.Kind)
	marks, total, known := s.places.of(edition, list)
	if known || marks == nil {
		return total, known, nil
	}
	err = s.get(ctx, "count people", &total, `SELECT count(*) FROM people WHERE `+where, args...)
	if err == nil {
		err = s.list(ctx, "find places in the list", &marks, `SELECT key, id FROM (SELECT `+column+` AS key, id, row_number() OVER (ORDER BY `+column+`, id) AS n FROM people WHERE `+where+`) WHERE n % ? = 1 ORDER BY n`, append(slices.Clone(args), placesApart)...)
	}
	if err != nil {
		s.places.keep(edition, list, nil, 0)
		return 0, false, err
	}
	s.places.keep(edition, list, marks, total)
	return total, true, nil
}

// near gives a page of the list that no search narrows, and how many there are, from near
// by; false when it is not known where that is.
func (s *Store) near(ctx context.Context, q domain.PeopleQuery) (ids []int64, total int, known bool, err error) {
	column, where, args := listOfPlaces(&q)
	if s.within(ctx) != nil || column == "" {
		return nil, 0, false, nil
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return nil, 0, false, err
	}
	marks, total, known := s.places.known(edition, column+string(q.Kind))
	if !known {
		return nil, 0, false, nil
	}
	limit, offset := max(0, min(q.Limit, total-q.Offset)), q.Offset
	if q.Down {
		offset = total - offset - limit
	}
	if limit == 0 || offset/placesApart >= len(marks) {
		return []int64{}, total, true, nil
	}
	from := marks[offset/placesApart]
	args = append(args, from.Key, from.ID, limit, offset%placesApart)
	err = s.list(ctx, "list people", &ids, `SELECT id FROM people WHERE `+where+` AND (`+column+`, id) >= (?, ?) ORDER BY `+column+`, id LIMIT ? OFFSET ?`, args...)
	if q.Down {
		slices.Reverse(ids)
	}
	return ids, total, true, err
}
