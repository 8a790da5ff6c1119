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
	asked   int             // times that the edition was the same
	busy    map[string]bool // lists that somebody is finding out about
	total   map[string]int  // by column and kind, as the marks
	marks   map[string][]place
}

// of gives what is remembered of a list. It is not known: marks are nil while people are
// being changed, when it is not worth finding out, or somebody does, and empty for who is
// to find out and to call keep.
func (p *places) of(edition int64, list string) (marks []place, total int, known bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.edition != edition {
		p.edition, p.asked, p.total, p.marks, p.busy = edition, 0, map[string]int{}, map[string][]place{}, map[string]bool{}
	}
	if p.asked++; p.asked < 3 {
		return nil, 0, false
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
var sortsWithKey = map[string]string{"name": "sort_name", "": "sort_name", "company": "company_sort"}

// near gives a page of the list that no search narrows, and how many there are, from near
// by; false when it is not known where that is.
func (s *Store) near(ctx context.Context, q domain.PeopleQuery) (ids []int64, total int, known bool, err error) {
	column := sortsWithKey[q.Sort]
	if s.within(ctx) != nil || column == "" || q.Search != "" || q.InDeal || !q.Where.Empty() {
		return nil, 0, false, nil
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return nil, 0, false, err
	}
	kind := string(q.Kind)
	where, args := "deleted_at IS NULL", []any{}
	if kind != "" {
		where, args = "deleted_at IS NULL AND kind = ?", []any{kind}
	}
	marks, total, known := s.places.of(edition, column+kind)
	if !known && marks == nil {
		return nil, 0, false, nil // people are being changed
	}
	if !known {
		err := s.get(ctx, "count people", &total, `SELECT count(*) FROM people WHERE `+where, args...)
		if err == nil {
			err = s.list(ctx, "find places in the list", &marks, `SELECT key, id FROM (SELECT `+column+` AS key, id, row_number() OVER (ORDER BY `+column+`, id) AS n FROM people WHERE `+where+`) WHERE n % ? = 1 ORDER BY n`, append(slices.Clone(args), placesApart)...)
		}
		if err != nil {
			s.places.keep(edition, column+kind, nil, 0)
			return nil, 0, false, err
		}
		s.places.keep(edition, column+kind, marks, total)
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
	return ids, total, true, err
}
