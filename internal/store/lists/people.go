package lists

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/filter"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// SortColumns are the columns that an index of people is sorted by; the first is the usual one.
var SortColumns = map[string]string{"": "p.sort_name", "name": "p.sort_name", "company.name": "p.company_sort", "written": "p.last_letter_at", "created": "p.created_at"}

// ManyFound is from how many people on those that a search found are not sorted, unless
// somebody asks for an order.
const ManyFound = 1000

// listOf is a part of the people: what they must fit, and how they are sorted.
type listOf struct {
	where sq.And
	terms string // of a search, each begins a word
	order string
	args  []any  // of the order
	empty string // puts those without a value behind the others; "" when the order is an index
	bare  bool   // nothing narrows it but the kind
	rare  bool   // few may fit, and no index tells which
}

func (s *Table) listOf(ctx context.Context, q *domain.PeopleQuery) (listOf, error) {
	l := listOf{where: sq.And{sq.Expr("p.deleted_at IS NULL")}, rare: !q.Where.Empty()}
	words := []string{}
	for word := range strings.FieldsSeq(q.Search) {
		// An address is looked up as one.
		if address := strings.ToLower(strings.Trim(word, `<>(),;:"'`)); strings.IndexByte(address, '@') > 0 {
			l.where = append(l.where, sq.Expr("p.email_key >= ? AND p.email_key < ?", address, address+"\U0010ffff"))
		} else {
			words = append(words, word)
		}
	}
	var err error
	if l.terms, err = s.matching(ctx, strings.Join(words, " ")); err != nil {
		return l, err
	}
	if q.Kind != "" {
		l.where = append(l.where, sq.Eq{"p.kind": string(q.Kind)})
	}
	if q.Only != nil {
		l.where = append(l.where, sq.Eq{"p.id": q.Only})
	}
	if !q.Where.Empty() {
		l.where = append(l.where, query.Filtered(q.Where))
	}
	if q.InDeal {
		l.rare = true
		l.where = append(l.where, sq.Expr(`EXISTS (SELECT 1 FROM deals d WHERE d.deleted_at IS NULL AND `+query.OpenDeal+`
			AND (d.main_contact_id = p.id OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = p.id)))`))
	}
	l.bare = l.terms == "" && len(words) == 0 && q.Search == "" && q.Only == nil && q.Where.Empty() && !q.InDeal
	if l.order = SortColumns[q.By.Path]; l.order == "" {
		l.order, l.args = query.SortedBy(&q.By, query.PersonColumn(q.By.Path))
		l.empty = "1"
	}
	return l, nil
}

// mostTerms is how many words that begin alike are looked for one by one.
const mostTerms = 64

// matching is the full-text query of a search. A beginning of more letters than the index
// has beginnings for is written as the words that have it: they are read as far as somebody
// looks, and not all at once.
func (s *Table) matching(ctx context.Context, search string) (string, error) {
	var parts []string
	for _, w := range strings.FieldsFunc(search, query.NotWord) {
		terms := []string{}
		if lower := strings.ToLower(w); len(w) > 3 && strings.IndexFunc(w, func(r rune) bool { return r > unicode.MaxASCII }) < 0 {
			if err := s.db.Select(ctx, "find words", &terms, `SELECT term FROM people_vocab WHERE term >= ? AND term < ? LIMIT ?`, lower, lower+"\U0010ffff", mostTerms+1); err != nil {
				return "", err
			}
		}
		if len(terms) == 0 || len(terms) > mostTerms {
			parts = append(parts, `"`+w+`"*`)
			continue
		}
		parts = append(parts, `("`+strings.Join(terms, `" OR "`)+`")`)
	}
	return strings.Join(parts, " AND "), nil
}

// query asks for something of the list, in its order or in none.
func (l *listOf) query(what string, sorted, down bool) sq.SelectBuilder {
	sel := sq.Select(what).From("people p").Where(l.where)
	if l.terms != "" {
		sel = sq.Select(what).From("people_find f CROSS JOIN people p ON p.id = f.rowid").Where("people_find MATCH ?", l.terms).Where(l.where)
	}
	if !sorted {
		return sel
	}
	dir := map[bool]string{false: " ASC", true: " DESC"}[down]
	if l.empty != "" {
		// One value, worked out once for each person, and those without it at the end.
		return sel.OrderByClause("("+l.order+") IS NULL, "+l.order+dir+", p.sort_name"+dir+", p.id"+dir, append(slices.Clone(l.args), l.args...)...)
	}
	return sel.OrderBy(l.order+dir, "p.id"+dir)
}

// People gives a window of the people table and how many fit: all of them, or no more than
// one beyond q.Most. The first window costs what it shows; for the others the list is found
// once and kept a few seconds, or is read from near by.
func (s *Table) People(ctx context.Context, q domain.PeopleQuery) (domain.PeoplePage, error) {
	page := domain.PeoplePage{Rows: []domain.PersonRow{}}
	if query.Wordless(q.Search) {
		return page, nil
	}
	ids, err := s.pageOf(ctx, &q, &page)
	if err == nil {
		page.Rows, err = s.PeopleRows(ctx, ids, q.Columns)
	}
	return page, err
}

func (s *Table) pageOf(ctx context.Context, q *domain.PeopleQuery, page *domain.PeoplePage) ([]int64, error) {
	if ids, total, known, err := s.near(ctx, *q); err != nil || known {
		page.Total = total
		return ids, err
	}
	l, err := s.listOf(ctx, q)
	if err != nil {
		return nil, err
	}
	limit, offset := uint64(max(0, q.Limit)), uint64(max(0, q.Offset))
	if l.terms != "" {
		return s.searched(ctx, q, &l, page)
	}
	if column := query.Indexed[q.By.Path]; column != "" && l.bare {
		return s.byValue(ctx, q, column, page)
	}
	if l.empty != "" || offset > 0 && l.rare || q.Most == 0 && l.rare {
		return s.wholeList(ctx, q, &l, page)
	}
	// Sorted by an index: only so much of it is read as the window needs.
	if q.Most > 0 && l.rare {
		query, args, err := l.query("p.id", true, q.Down).Limit(limit + 1).ToSql()
		if err != nil {
			return nil, wrap("list people", err)
		}
		ids, err := s.recalled(ctx, query, args)
		page.Total, page.More = len(ids), len(ids) > int(limit)
		return ids[:min(len(ids), int(limit))], err
	}
	if err := s.countTo(ctx, q, &l, page); err != nil {
		return nil, err
	}
	return s.ids(ctx, l.query("p.id", true, q.Down).Limit(limit).Offset(offset))
}

// byValue gives a window of everybody, or of a kind, sorted by a column that has an index; those
// without a value stand behind the others.
func (s *Table) byValue(ctx context.Context, q *domain.PeopleQuery, column string, page *domain.PeoplePage) ([]int64, error) {
	dir := map[bool]string{false: " ASC", true: " DESC"}[q.Down]
	where, args := "deleted_at IS NULL", []any{}
	if q.Kind != "" {
		where, args = where+" AND kind = ?", append(args, string(q.Kind))
	}
	with, without := where+" AND trim("+column+") <> ''", where+" AND trim("+column+") = ''"
	limit, offset := max(0, q.Limit), max(0, q.Offset)
	var err error
	if page.Total, err = s.counted(ctx, where, args); err != nil {
		return nil, err
	}
	ids := []int64{}
	err = s.db.Ask(ctx, &ids, `SELECT id FROM people WHERE `+with+` ORDER BY lower(trim(`+column+`))`+dir+`, sort_name`+dir+`, id`+dir+` LIMIT ? OFFSET ?`, append(slices.Clone(args), limit, offset)...)
	if err != nil || len(ids) == limit {
		return ids, wrap("list people", err)
	}
	filled, err := s.counted(ctx, with, args)
	if err != nil {
		return nil, err
	}
	rest := []int64{}
	err = s.db.Ask(ctx, &rest, `SELECT id FROM people WHERE `+without+` ORDER BY sort_name`+dir+`, id`+dir+` LIMIT ? OFFSET ?`, append(slices.Clone(args), limit-len(ids), max(0, offset-filled))...)
	return append(ids, rest...), wrap("list people", err)
}

// counted counts people, or tells what was counted while nobody has changed since.
func (s *Table) counted(ctx context.Context, where string, args []any) (int, error) {
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return 0, err
	}
	key := fmt.Sprint("count ", where, args)
	if s.db.InTransaction(ctx) {
		key = ""
	}
	marks, total, known := s.Places.Of(edition, key)
	if known && key != "" {
		return total, nil
	}
	count := func() (n int, err error) {
		err = s.db.Ask(ctx, &n, `SELECT count(*) FROM people WHERE `+where, args...)
		return n, err
	}
	if key == "" {
		total, err = count()
	} else {
		total, err = together(ctx, s, fmt.Sprint(edition, key), count)
	}
	switch {
	case marks == nil || key == "": // somebody else finds it out
	case err != nil:
		s.Places.Keep(edition, key, nil, 0)
	default:
		s.Places.Keep(edition, key, marks, total)
	}
	return total, wrap("count people", err)
}

// recalled reads ids, or gives those that were read a few seconds ago while nobody has changed
// since: several look at the same list, and its screen asks for it more than once.
func (s *Table) recalled(ctx context.Context, query string, args []any) ([]int64, error) {
	ids := []int64{}
	if s.db.InTransaction(ctx) {
		return ids, wrap("list people", s.db.Ask(ctx, &ids, query, args...))
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return nil, err
	}
	if kept, known := s.found.Of(edition, query, args); known {
		return slices.Clone(kept), nil
	}
	ids, err = together(ctx, s, fmt.Sprint(edition, query, args), func() (ids []int64, err error) {
		if err = s.db.Ask(ctx, &ids, query, args...); err == nil {
			s.found.Keep(edition, query, args, ids)
		}
		return ids, err
	})
	return slices.Clone(ids), wrap("list people", err)
}

// countTo counts to the most that anybody needs.
func (s *Table) countTo(ctx context.Context, q *domain.PeopleQuery, l *listOf, page *domain.PeoplePage) error {
	counted := l.query("1", false, false)
	if q.Most > 0 {
		counted = counted.Limit(uint64(q.Most) + 1)
	}
	query, args, err := sq.Select("count(*) AS id").FromSelect(counted, "x").ToSql()
	if err == nil {
		var n []int64
		if n, err = s.recalled(ctx, query, args); err == nil {
			page.Total = int(n[0])
		}
	}
	page.More = q.Most > 0 && page.Total > q.Most
	return wrap("count people", err)
}

// PeopleFound gives the ids of whom a query finds, in its order, from q.Offset on and no more
// than q.Limit.
func (s *Table) PeopleFound(ctx context.Context, q domain.PeopleQuery) ([]int64, error) {
	if query.Wordless(q.Search) {
		return []int64{}, nil
	}
	l, err := s.listOf(ctx, &q)
	if err != nil {
		return nil, err
	}
	sel := l.query("p.id", true, q.Down)
	if l.terms != "" && q.By.Path == "" {
		// In the order that People gives them in.
		page := domain.PeoplePage{}
		if err := s.countTo(ctx, &domain.PeopleQuery{Most: ManyFound}, &l, &page); err != nil {
			return nil, err
		}
		if page.More {
			sel = l.query("p.id", false, false).OrderBy("f.rowid DESC")
		}
	}
	return s.ids(ctx, sel.Limit(uint64(max(0, q.Limit))).Offset(uint64(max(0, q.Offset))))
}

// CountPeople counts whom a query finds: all of them, or no more than one beyond q.Most. Of
// the whole list it is remembered where people stand in it.
func (s *Table) CountPeople(ctx context.Context, q domain.PeopleQuery) (int, error) {
	if query.Wordless(q.Search) {
		return 0, nil
	}
	if q.Most == 0 {
		if total, known, err := s.findPlaces(ctx, q); err != nil || known {
			return total, err
		}
	}
	q.By = filter.Field{}
	l, err := s.listOf(ctx, &q)
	if err != nil {
		return 0, err
	}
	page := domain.PeoplePage{}
	err = s.countTo(ctx, &q, &l, &page)
	return page.Total, err
}

// searched gives a window of whom a search found. Very many are not sorted by themselves:
// the newest come first.
func (s *Table) searched(ctx context.Context, q *domain.PeopleQuery, l *listOf, page *domain.PeoplePage) ([]int64, error) {
	if q.By.Path != "" || q.Most == 0 {
		return s.wholeList(ctx, q, l, page)
	}
	newest, err := s.ids(ctx, l.query("p.id", false, false).OrderBy("f.rowid DESC").Limit(ManyFound+1))
	if err != nil {
		return nil, err
	}
	if len(newest) <= ManyFound {
		found, err := database.Packed(newest)
		if err != nil {
			return nil, err
		}
		page.Total = len(newest)
		dir := map[bool]string{false: " ASC", true: " DESC"}[q.Down]
		ids := []int64{}
		err = s.db.Select(ctx, "sort people", &ids, `SELECT p.id FROM json_each(?) k CROSS JOIN people p ON p.id = k.value ORDER BY `+l.order+dir+`, p.id`+dir+` LIMIT ? OFFSET ?`, found, max(0, q.Limit), max(0, q.Offset))
		return ids, err
	}
	page.Total, page.More, page.Unsorted = len(newest), true, true
	if q.Offset+q.Limit <= len(newest) {
		return newest[q.Offset : q.Offset+q.Limit], nil
	}
	return s.ids(ctx, l.query("p.id", false, false).OrderBy("f.rowid DESC").Limit(uint64(max(0, q.Limit))).Offset(uint64(max(0, q.Offset))))
}

// wholeList gives a window of a list that is found as a whole, or was a moment ago.
func (s *Table) wholeList(ctx context.Context, q *domain.PeopleQuery, l *listOf, page *domain.PeoplePage) ([]int64, error) {
	query, args, err := l.query("p.id", true, q.Down).ToSql()
	if err != nil {
		return nil, wrap("list people", err)
	}
	edition, err := s.PeopleEdition(ctx)
	if err != nil {
		return nil, err
	}
	inTx := s.db.InTransaction(ctx)
	ids, known := s.found.Of(edition, query, args)
	find := func() (ids []int64, err error) {
		err = s.db.Ask(ctx, &ids, query, args...)
		return ids, err
	}
	switch {
	case inTx:
		ids, err = find()
	case !known || q.Offset == 0:
		if ids, err = together(ctx, s, fmt.Sprint(edition, query, args), find); err == nil && len(ids) > q.Limit {
			s.found.Keep(edition, query, args, ids)
		}
	}
	if err != nil {
		return nil, wrap("list people", err)
	}
	page.Total, page.More = len(ids), false
	from := min(max(0, q.Offset), len(ids))
	return slices.Clone(ids[from:min(len(ids), from+max(0, q.Limit))]), nil
}

func (s *Table) ids(ctx context.Context, sel sq.SelectBuilder) ([]int64, error) {
	ids := []int64{}
	query, args, err := sel.ToSql()
	if err == nil {
		err = s.db.Ask(ctx, &ids, query, args...)
	}
	return ids, wrap("list people", err)
}

// PeopleRows gives the rows of people in the order of their ids, with the values of columns.
func (s *Table) PeopleRows(ctx context.Context, ids []int64, columns []filter.TableColumn) ([]domain.PersonRow, error) {
	rows := []domain.PersonRow{}
	if len(ids) == 0 {
		return rows, nil
	}
	asked, err := database.Packed(ids)
	if err != nil {
		return nil, err
	}
	err = s.db.Select(ctx, "list people", &rows, `SELECT p.id, p.kind, p.first_name, p.last_name, p.email, p.job_title, p.city,
		CASE p.kind WHEN 'lead' THEN p.company_name ELSE coalesce(c.name, '') END AS company,
		CASE p.kind WHEN 'lead' THEN p.lead_status ELSE p.department END AS status,
		coalesce(u.first_name || ' ' || u.last_name, '') AS owner,
		p.opted_out_at IS NOT NULL AS opted_out,
		p.last_letter_at AS last_letter, p.last_subject
		FROM json_each(?) k CROSS JOIN people p ON p.id = k.value LEFT JOIN companies c ON c.id = p.company_id AND c.deleted_at IS NULL LEFT JOIN users u ON u.id = p.owner_id
		ORDER BY k.key`, asked)
	if err != nil {
		return rows, err
	}
	return rows, s.fillCells(ctx, "people p ON p.id = k.value", columns, query.PersonColumn, len(rows), func(i int) (int64, *[]string) { return rows[i].ID, &rows[i].Cells })
}
