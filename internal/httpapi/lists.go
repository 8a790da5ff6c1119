package httpapi

import (
	"cmp"
	"context"
	"io"
	"net/http"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// ListIn is a list that is saved.
type ListIn struct {
	Name    string `json:"name" maxLength:"80"`
	Filter  string `json:"filter" maxLength:"12800" doc:"In its text form"`
	Sort    string `json:"sort" maxLength:"80" doc:"The path of a column; empty: by name"`
	Down    bool   `json:"down"`
	Columns string `json:"columns,omitempty" maxLength:"4000" doc:"In their text form; empty: the usual ones"`
	Shared  bool   `json:"shared" doc:"Everybody sees it"`
}

func (in *ListIn) list() domain.List {
	return domain.List{Name: in.Name, Filter: in.Filter, Sort: in.Sort, Down: in.Down, Columns: in.Columns, Shared: in.Shared}
}

// listRoutes are filters of people, and what is done with whom they find.
func (s *Server) listRoutes() {
	handle(s, op("filterFields", http.MethodGet, "/api/filter/fields", "What a filter of people can ask about"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[[]filter.Field], error) {
			list, err := s.app.Records.FilterFields(ctx)
			return ok(list), err
		})
	handle(s, op("readFilter", http.MethodGet, "/api/filter", "Read the text form of a filter"),
		func(ctx context.Context, _ domain.User, in *struct {
			Where string `query:"where" maxLength:"12800"`
		}) (*body[records.FilterSheet], error) {
			sheet, err := s.app.Records.ReadFilter(ctx, in.Where)
			return ok(sheet), err
		})
	handle(s, op("checkFilter", http.MethodPost, "/api/filter", "Check a filter and give its text form"),
		func(ctx context.Context, _ domain.User, in *struct {
			Body struct {
				Tree filter.Expr `json:"tree"`
			}
		}) (*body[records.FilterSheet], error) {
			sheet, err := s.app.Records.CheckFilter(ctx, in.Body.Tree)
			return ok(sheet), err
		})
	handle(s, op("lists", http.MethodGet, "/api/lists", "The lists that I saved and those that are shared"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]records.ListSheet], error) {
			list, err := s.app.Records.Lists(ctx, u)
			return ok(list), err
		})
	handle(s, web.Making(op("addList", http.MethodPost, "/api/lists", "Save a list")),
		func(ctx context.Context, u domain.User, in *struct{ Body ListIn }) (*body[wire.MadeRecord], error) {
			id, err := s.app.Records.PutList(ctx, u, 0, in.Body.list())
			return ok(wire.MadeRecord{ID: id}), err
		})
	handle(s, op("changeList", http.MethodPut, "/api/lists/{id}", "Save a list anew"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body ListIn
		}) (*struct{}, error) {
			_, err := s.app.Records.PutList(ctx, u, in.ID, in.Body.list())
			return nil, err
		})
	handle(s, op("deleteList", http.MethodDelete, "/api/lists/{id}", "Delete a list; the people stay"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Records.DeleteList(ctx, u, in.ID, false)
		})
	handle(s, op("putBackList", http.MethodPost, "/api/lists/{id}/put-back", "Put back a list that was deleted"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Records.DeleteList(ctx, u, in.ID, true)
		})
	handle(s, web.Making(op("changeMany", http.MethodPost, "/api/people/change", "Give a field of several people one value")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				IDs   []int64 `json:"ids" maxItems:"5000"`
				Path  string  `json:"path" maxLength:"80"`
				Value string  `json:"value" maxLength:"100000"`
			}
		}) (*body[records.Changed], error) {
			out, err := s.app.Records.ChangeMany(ctx, u, in.Body.IDs, in.Body.Path, in.Body.Value)
			return ok(out), err
		})
	handle(s, op("undoMany", http.MethodPost, "/api/people/change/undo", "Undo a change of several people"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Undo int64 `json:"undo" doc:"The number that the change gave"`
			}
		}) (*body[[]records.LeftOne], error) {
			left, err := s.app.Records.UndoMany(ctx, u, in.Body.Undo)
			return ok(left), err
		})
}

// Which says whom something is done with: some people, or those of a search and a filter.
type Which struct {
	IDs    []int64      `json:"ids,omitempty" maxItems:"50000"`
	Where  string       `json:"where,omitempty" maxLength:"12800"`
	Search string       `json:"q,omitempty" maxLength:"200"`
	Kind   field.Record `json:"kind,omitempty" enum:"lead,contact"`
	Sort   string       `json:"sort,omitempty" maxLength:"80" doc:"The path of a column; empty: by name"`
	Down   bool         `json:"down,omitempty"`
}

func (w *Which) query() domain.PeopleQuery {
	return domain.PeopleQuery{Search: w.Search, Kind: w.Kind, Down: w.Down}
}

func (w *Which) asked() records.Asked { return records.Asked{Where: w.Where, Sort: w.Sort} }

// mergeRoutes make one record of two.
func (s *Server) mergeRoutes() {
	handle(s, op("compareTwo", http.MethodGet, "/api/people/{id}/twin/{other}", "The fields in which two people differ"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Other int64 `path:"other" minimum:"1"`
		}) (*body[[]records.Side], error) {
			list, err := s.app.Records.Compare(ctx, u, in.ID, in.Other)
			return ok(list), err
		})
	handle(s, web.Making(op("merge", http.MethodPost, "/api/people/{id}/merge", "Make one record of two; the answer is the number by which it is taken back")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Version int      `json:"version"`
				OtherID int64    `json:"otherId" minimum:"1" doc:"Whose letters, history, deals and tasks go over"`
				Take    []string `json:"take" doc:"The paths of the values that are taken from the other"`
			}
		}) (*body[wire.MadeRecord], error) {
			id, err := s.app.Records.Merge(ctx, u, in.ID, in.Body.OtherID, in.Body.Version, in.Body.Take)
			return ok(wire.MadeRecord{ID: id}), err
		})
	handle(s, op("split", http.MethodPost, "/api/merges/{id}/undo", "Take a merge back; the answer names values that were changed since and stay"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[[]string], error) {
			left, err := s.app.Records.Split(ctx, u, in.ID)
			return ok(append([]string{}, left...)), err
		})
}

// manyRoutes are what is done with several people at once.
func (s *Server) manyRoutes() {
	handle(s, op("peopleIds", http.MethodPost, "/api/people/ids", "The numbers of the people of a search and a filter, in their order, 5,000 at most"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Which
				Offset int `json:"offset,omitempty" minimum:"0"`
				Limit  int `json:"limit,omitempty" minimum:"0" maximum:"5000"`
			}
		}) (*body[[]int64], error) {
			q := in.Body.query()
			q.Offset = in.Body.Offset
			ids, err := s.app.Records.IDsIn(ctx, u, in.Body.asked(), q, cmp.Or(in.Body.Limit, 5000))
			return ok(ids), err
		})
	handle(s, web.Patient(op("exportPeople", http.MethodPost, "/api/people/export", "People as a file: CSV, or vCards of version 4.0")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Which
				As string `json:"as" enum:"csv,vcard"`
			}
		}) (*web.Spooled, error) {
			e, err := s.app.Transfer.ExportPeople(ctx, u, in.Body.IDs, in.Body.asked(), in.Body.query())
			if err != nil {
				return nil, err
			}
			each := func(f func(*transfer.ExportedPerson) error) error { return e.Each(ctx, f) }
			if in.Body.As == "vcard" {
				return web.Spool("people.vcf", "text/vcard; charset=utf-8", func(w io.Writer) (int, error) { return 0, files.PeopleVCard(w, each, s.app.Now()) })
			}
			return web.Spool("people.csv", "text/csv; charset=utf-8", func(w io.Writer) (int, error) { return files.PeopleCSV(w, e.Columns, each) })
		})
}
