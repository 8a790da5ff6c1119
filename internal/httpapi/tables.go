package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// TableInput is which window of a table somebody wants to see, and how.
type TableInput struct {
	Search  string `query:"q" maxLength:"200"`
	Sort    string `query:"sort" maxLength:"80" doc:"The path of a column; empty: the usual order"`
	Down    bool   `query:"down"`
	Offset  int    `query:"offset" minimum:"0"`
	Limit   int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
	Columns string `query:"columns" maxLength:"4000" doc:"Paths with commas between them, each with a colon and its width or without; empty: the usual ones"`
}

func (in *TableInput) asked() records.Asked {
	return records.Asked{Columns: in.Columns, Sort: in.Sort}
}

func (in *TableInput) records() domain.RecordsQuery {
	return domain.RecordsQuery{Search: in.Search, Down: in.Down, Offset: in.Offset, Limit: in.Limit}
}

// mostCounted is how far people are counted while somebody waits for the first of them.
const mostCounted = 10_000

type peoplePage struct {
	Total    int                  `json:"total"`
	More     bool                 `json:"more" doc:"There are more than total says; /api/people/count tells how many"`
	Unsorted bool                 `json:"unsorted" doc:"Very many fit the search, the newest come first; a column to sort by puts them in order"`
	Columns  []filter.TableColumn `json:"columns"`
	People   []domain.PersonRow   `json:"people"`
}

type companiesPage struct {
	Total     int                  `json:"total"`
	Columns   []filter.TableColumn `json:"columns"`
	Companies []domain.CompanyRow  `json:"companies"`
}

type dealsPage struct {
	Total   int                  `json:"total"`
	Columns []filter.TableColumn `json:"columns"`
	Deals   []domain.DealRow     `json:"deals"`
}

type countOut struct {
	Count int  `json:"count"`
	More  bool `json:"more" doc:"They are more than that"`
}

// tableRoutes are the tables of people, companies and deals.
func (s *Server) tableRoutes() {
	s.peopleTableRoutes()
	handle(s, op("companies", http.MethodGet, "/api/companies", "A window of the companies, by name"),
		func(ctx context.Context, _ domain.User, in *TableInput) (*body[companiesPage], error) {
			rows, total, columns, err := s.app.Records.Companies(ctx, in.asked(), in.records())
			return ok(companiesPage{total, columns, rows}), err
		})
	handle(s, op("deals", http.MethodGet, "/api/deals", "A window of the deals, those first that are open and close first"),
		func(ctx context.Context, _ domain.User, in *TableInput) (*body[dealsPage], error) {
			rows, total, columns, err := s.app.Records.Deals(ctx, in.asked(), in.records())
			return ok(dealsPage{total, columns, rows}), err
		})
	handle(s, op("columns", http.MethodGet, "/api/columns/{of}", "What a table can show beside the name"),
		func(ctx context.Context, _ domain.User, in *struct {
			Of field.Record `path:"of" enum:"person,company,deal"`
		}) (*body[[]filter.Field], error) {
			list, err := s.app.Records.ColumnFields(ctx, in.Of)
			return ok(list), err
		})
}

func (s *Server) peopleTableRoutes() {
	handle(s, op("people", http.MethodGet, "/api/people", "A window of the people table, by name"),
		func(ctx context.Context, u domain.User, in *struct {
			TableInput
			Kind  string `query:"kind" enum:"lead,contact,"`
			Where string `query:"where" maxLength:"12800" doc:"A filter in its text form"`
		}) (*body[peoplePage], error) {
			asked := in.asked()
			asked.Where = in.Where
			t, err := s.app.Records.PeopleTable(ctx, u, asked, domain.PeopleQuery{
				Search: in.Search, Kind: field.Record(in.Kind), Down: in.Down, Offset: in.Offset, Limit: in.Limit, Most: mostCounted,
			})
			return ok(peoplePage{t.Total, t.More, t.Unsorted, t.Columns, t.Rows}), err
		})
	handle(s, op("countPeople", http.MethodGet, "/api/people/count", "How many people a search and a filter find"),
		func(ctx context.Context, u domain.User, in *struct {
			Search string `query:"q" maxLength:"200"`
			Kind   string `query:"kind" enum:"lead,contact,"`
			Where  string `query:"where" maxLength:"12800" doc:"A filter in its text form"`
			Most   int    `query:"most" minimum:"0" doc:"Count no further; 0: to the end"`
		}) (*body[countOut], error) {
			n, err := s.app.Records.CountPeople(ctx, u, records.Asked{Where: in.Where}, domain.PeopleQuery{Search: in.Search, Kind: field.Record(in.Kind), Most: in.Most})
			if in.Most > 0 && n > in.Most {
				return ok(countOut{in.Most, true}), err
			}
			return ok(countOut{n, false}), err
		})
}
