package lists

import "context"

// PeopleEdition rises when people change, or what is told of them from companies and deals.
func (s *Table) PeopleEdition(ctx context.Context) (n int64, err error) {
	err = s.db.Get(ctx, "look whether people changed", &n, `SELECT n FROM people_edition WHERE id = 1`)
	return n, err
}
