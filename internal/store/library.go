package store

import (
	"context"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/access"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

// indexTemplate stores what a template is found by: the words of all its wordings.
func (s *Store) indexTemplate(ctx context.Context, id int64) error {
	list, err := s.WordingsOf(ctx, id)
	if err != nil || len(list) == 0 {
		return err
	}
	var subjects, bodies []string
	for i := range list {
		subjects = append(subjects, render.Words(list[i].Subject))
		bodies = append(bodies, render.Words(list[i].Body))
	}
	if _, err := s.exec(ctx, "find words of template", `DELETE FROM templates_find WHERE rowid = ?`, id); err != nil {
		return err
	}
	_, err = s.exec(ctx, "find words of template", `INSERT INTO templates_find (rowid, name, when_to_use, subject, body) VALUES (?, ?, ?, ?, ?)`,
		id, list[0].Name, list[0].WhenToUse, strings.Join(subjects, "\n"), strings.Join(bodies, "\n"))
	return err
}

// indexTemplates indexes templates that an earlier program stored.
func (s *Store) indexTemplates(ctx context.Context) error {
	return s.Within(ctx, func(ctx context.Context) error {
		var ids []int64
		err := s.list(ctx, "templates to find", &ids, `SELECT id FROM templates WHERE sister_of IS NULL AND id NOT IN (SELECT rowid FROM templates_find)`)
		for i := 0; err == nil && i < len(ids); i++ {
			err = s.indexTemplate(ctx, ids[i])
		}
		return err
	})
}

var librarySorts = map[string]string{
	"name": "t.name COLLATE NOCASE", "changed": "t.updated_at", "order": "t.position", "used": "used.n", "last": "used.last",
}

// libraryFilter turns a query into conditions, without its search.
func libraryFilter(userID int64, q domain.LibraryQuery) sq.And {
	where := sq.And{sq.Expr("t.deleted_at IS NULL"), sq.Expr("t.sister_of IS NULL")}
	if q.State != "" {
		where = append(where, sq.Eq{"t.state": string(q.State)})
	}
	if q.Owner != 0 {
		where = append(where, sq.Eq{"t.owner_id": q.Owner})
	}
	if q.Starred {
		where = append(where, sq.Expr("t.id IN (SELECT template_id FROM stars WHERE user_id = ?)", userID))
	}
	switch {
	case q.Folder == domain.NoFolder:
		where = append(where, sq.Expr("t.folder_id IS NULL"))
	case q.Folder != 0:
		// A folder holds what the folders in it hold, as its number says.
		where = append(where, sq.Expr("t.folder_id IN (WITH RECURSIVE inside(id) AS (VALUES (?) UNION SELECT f.id FROM folders f JOIN inside ON f.parent_id = inside.id WHERE f.deleted_at IS NULL) SELECT id FROM inside)", q.Folder))
	}
	if q.Tag != "" {
		where = append(where, sq.Expr("EXISTS (SELECT 1 FROM json_each(t.tags) WHERE value = ?)", q.Tag))
	}
	return where
}

// together sums what was counted by template_id, n and last, over all wordings of a
// template, as a table to join.
func together(counted string) string {
	return "(SELECT coalesce(w.sister_of, w.id) AS template_id, sum(c.n) AS n, max(c.last) AS last FROM (" + counted + ") c JOIN templates w ON w.id = c.template_id GROUP BY 1) used ON used.template_id = t.id"
}

// wordings is a condition on a column that holds for a template or another wording of it.
func wordings(column, id string) string {
	return column + " IN (SELECT w.id FROM templates w WHERE w.id = " + id + " OR w.sister_of = " + id + ")"
}

// FindTemplates gives what rights are decided on, in the order of the query.
func (s *Store) FindTemplates(ctx context.Context, userID int64, q domain.LibraryQuery) ([]domain.TemplateKey, error) {
	where := libraryFilter(userID, q)
	dir := " ASC"
	if q.Down {
		dir = " DESC"
	}
	sel := sq.Select("t.id", "t.owner_id", "t.state", "t.folder_id", "t.version", "t.rights AS rights_json").From("templates t")
	order, sorted := librarySorts[q.Sort]
	if terms := query.Match(q.Search); terms != "" {
		sel = sel.Join("templates_find f ON f.rowid = t.id")
		where = append(where, sq.Expr("templates_find MATCH ?", terms))
		// Ranking every template by one or two letters says nothing and takes long.
		if !sorted && len(strings.TrimSpace(q.Search)) > 2 {
			order = "bm25(templates_find, 8, 3, 4, 1)"
		}
	} else if strings.TrimSpace(q.Search) != "" {
		where = append(where, sq.Expr("0"))
	}
	if order == "" {
		order = librarySorts["name"]
	}
	switch {
	case q.Recent:
		sel = sel.Join(together("SELECT template_id, 0 AS n, max(sent_at) AS last FROM letters WHERE sender_id = ? AND sent_at IS NOT NULL GROUP BY template_id"), userID)
		if !sorted && q.Search == "" {
			order, dir = "used.last", " DESC"
		}
	case q.Sort == "used" || q.Sort == "last":
		sel = sel.LeftJoin(together("SELECT template_id, count(*) AS n, max(sent_at) AS last FROM letters WHERE sent_at IS NOT NULL AND internal = 0 GROUP BY template_id"))
	}
	if q.Folder > 0 && q.Sort == "order" {
		sel = sel.OrderByClause("t.folder_id <> ?", q.Folder).OrderBy("(SELECT f.position FROM folders f WHERE f.id = t.folder_id)", "t.folder_id")
	}
	query, args, err := sel.Where(where).OrderBy(order+dir, "t.name COLLATE NOCASE", "t.id").ToSql()
	if err != nil {
		return nil, wrap("find templates", err)
	}
	var rows []struct {
		domain.TemplateKey
		RightsJSON string `db:"rights_json"`
	}
	if err := s.list(ctx, "find templates", &rows, query, args...); err != nil {
		return nil, err
	}
	out := make([]domain.TemplateKey, len(rows))
	read := map[string]access.Rights{} // most templates have the same
	for i, r := range rows {
		rights, had := read[r.RightsJSON]
		if !had {
			if err := readJSON("rights of template", r.RightsJSON, &rights); err != nil {
				return nil, err
			}
			read[r.RightsJSON] = rights
		}
		out[i] = r.TemplateKey
		out[i].Rights = rights
	}
	return out, nil
}

// TemplateLines gives these templates in this order.
func (s *Store) TemplateLines(ctx context.Context, userID int64, ids []int64) ([]domain.TemplateLine, error) {
	query, args, err := sq.Select("t.id", "t.owner_id", "t.state", "t.folder_id", "t.version", "t.name", "t.when_to_use", "t.updated_at",
		"t.rights AS rights_json", "t.tags AS tags_json", "trim(u.first_name || ' ' || u.last_name) AS owner_name",
		"(SELECT count(*) FROM letters l WHERE "+wordings("l.template_id", "t.id")+" AND l.sent_at IS NOT NULL AND l.internal = 0) AS used",
		"(SELECT max(l.sent_at) FROM letters l WHERE "+wordings("l.template_id", "t.id")+") AS last_sent",
		"(SELECT json_group_array(coalesce(json_extract(w.body, '$.attrs.lang'), '') ORDER BY w.id) FROM templates w WHERE (w.id = t.id OR w.sister_of = t.id) AND w.deleted_at IS NULL) AS languages_json",
	).Column("EXISTS (SELECT 1 FROM stars s WHERE s.template_id = t.id AND s.user_id = ?) AS starred", userID).
		From("templates t").Join("users u ON u.id = t.owner_id").Where(sq.Eq{"t.id": ids}).ToSql()
	if err != nil {
		return nil, wrap("list templates", err)
	}
	var rows []struct {
		domain.TemplateLine
		RightsJSON string  `db:"rights_json"`
		TagsJSON   string  `db:"tags_json"`
		LastSent   *string `db:"last_sent"`
		Languages  string  `db:"languages_json"`
	}
	if err := s.list(ctx, "list templates", &rows, query, args...); err != nil {
		return nil, err
	}
	byID := map[int64]domain.TemplateLine{}
	for _, r := range rows {
		if err := readJSON("rights of template", r.RightsJSON, &r.Rights); err != nil {
			return nil, err
		}
		if err := readJSON("tags of template", r.TagsJSON, &r.Tags); err != nil {
			return nil, err
		}
		if err := readJSON("languages of template", r.Languages, &r.TemplateLine.Languages); err != nil {
			return nil, err
		}
		if r.LastSent != nil {
			// An expression has no declared type, so the driver gives text.
			at, err := time.Parse("2006-01-02 15:04:05.999999999-07:00", *r.LastSent)
			if err != nil {
				return nil, wrap("read last use", err)
			}
			r.LastUsed = &at
		}
		byID[r.ID] = r.TemplateLine
	}
	out := make([]domain.TemplateLine, 0, len(ids))
	for _, id := range ids {
		if l, ok := byID[id]; ok {
			out = append(out, l)
		}
	}
	return out, nil
}

// FoundIn marks the hits of a search in these templates.
func (s *Store) FoundIn(ctx context.Context, search string, ids []int64) (map[int64]domain.Found, error) {
	out := map[int64]domain.Found{}
	terms := query.Match(search)
	if terms == "" || len(ids) == 0 {
		return out, nil
	}
	// The plus keeps each template from being searched by itself, which takes seven times as
	// long as one pass over all that is found.
	query, args, err := sq.Select("rowid AS id",
		"highlight(templates_find, 0, char(2), char(3)) AS name", "highlight(templates_find, 1, char(2), char(3)) AS when_to_use",
		"highlight(templates_find, 2, char(2), char(3)) AS subject", "snippet(templates_find, 3, char(2), char(3), '…', 16) AS body",
	).From("templates_find").Where(sq.And{sq.Expr("templates_find MATCH ?", terms), sq.Eq{"+rowid": ids}}).ToSql()
	if err != nil {
		return nil, wrap("mark what was found", err)
	}
	var rows []struct {
		ID int64 `db:"id"`
		domain.Found
	}
	if err := s.list(ctx, "mark what was found", &rows, query, args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		out[r.ID] = r.Found
	}
	return out, nil
}

// PlaceTemplate stores the folder of a template and its place in the order.
func (s *Store) PlaceTemplate(ctx context.Context, t domain.Template, before int64) error {
	return s.Within(ctx, func(ctx context.Context) error {
		if _, err := s.exec(ctx, "place template", `UPDATE templates SET folder_id = ? WHERE id = ?`, t.FolderID, t.ID); err != nil {
			return err
		}
		if err := s.keepTogether(ctx, t.ID); err != nil {
			return err
		}
		return s.order(ctx, "templates", `deleted_at IS NULL AND sister_of IS NULL AND folder_id IS (SELECT folder_id FROM templates WHERE id = ?)`, t.ID, before)
	})
}

// order numbers the rows of a condition anew, with one of them before another
// one or last. The condition has one place, for the id.
func (s *Store) order(ctx context.Context, table, where string, id, before int64) error {
	var ids []int64
	if err := s.list(ctx, "order "+table, &ids, `SELECT id FROM `+table+` WHERE `+where+` ORDER BY position, name COLLATE NOCASE, id`, id); err != nil {
		return err
	}
	place := 0
	set := func(id int64) error {
		place++
		_, err := s.exec(ctx, "order "+table, `UPDATE `+table+` SET position = ? WHERE id = ? AND position <> ?`, place, id, place)
		return err
	}
	placed := false
	for _, other := range ids {
		if other == id {
			continue
		}
		if other == before {
			if err := set(id); err != nil {
				return err
			}
			placed = true
		}
		if err := set(other); err != nil {
			return err
		}
	}
	if placed {
		return nil
	}
	return set(id)
}

// SetTemplateRights stores who may use and edit a template.
func (s *Store) SetTemplateRights(ctx context.Context, id int64, r access.Rights) error {
	text, err := writeJSON(r)
	if err != nil {
		return err
	}
	return s.Within(ctx, func(ctx context.Context) error {
		if _, err := s.exec(ctx, "set rights of template", `UPDATE templates SET rights = ? WHERE id = ?`, text, id); err != nil {
			return err
		}
		return s.keepTogether(ctx, id)
	})
}

// DeleteTemplate takes a template and its other wordings out of the library, or puts
// back what went together.
func (s *Store) DeleteTemplate(ctx context.Context, id int64, at *time.Time) error {
	return s.Within(ctx, func(ctx context.Context) error {
		if _, err := s.exec(ctx, "delete wordings", `UPDATE templates SET deleted_at = ? WHERE sister_of = ? AND deleted_at IS (SELECT f.deleted_at FROM templates f WHERE f.id = ?)`, at, id, id); err != nil {
			return err
		}
		if _, err := s.exec(ctx, "delete template", `UPDATE templates SET deleted_at = ? WHERE id = ?`, at, id); err != nil {
			return err
		}
		t, err := s.Template(ctx, id)
		if err != nil {
			return err
		}
		return s.indexTemplate(ctx, first(&t))
	})
}

// Star puts a template among those that a user likes, or takes it out.
func (s *Store) Star(ctx context.Context, userID, templateID int64, on bool) error {
	query := `DELETE FROM stars WHERE user_id = ? AND template_id = ?`
	if on {
		query = `INSERT OR IGNORE INTO stars (user_id, template_id) VALUES (?, ?)`
	}
	_, err := s.exec(ctx, "star template", query, userID, templateID)
	return err
}

// SetOrigin stores which version of its original a copy looked at.
func (s *Store) SetOrigin(ctx context.Context, id int64, origin *int64, version int) error {
	_, err := s.exec(ctx, "set origin of template", `UPDATE templates SET origin_id = ?, origin_version = ? WHERE id = ?`, origin, version, id)
	return err
}

// CopiesOf counts the copies that follow a template.
func (s *Store) CopiesOf(ctx context.Context, id int64) (n int, err error) {
	err = s.get(ctx, "count copies", &n, `SELECT count(*) FROM templates WHERE origin_id = ? AND deleted_at IS NULL`, id)
	return n, err
}

// DraftsOf counts the letters being written from a template.
func (s *Store) DraftsOf(ctx context.Context, templateID int64) (n int, err error) {
	err = s.get(ctx, "count drafts", &n, `SELECT count(*) FROM letters WHERE `+wordings("template_id", "?1")+` AND state = 'draft' AND deleted_at IS NULL`, templateID)
	return n, err
}
