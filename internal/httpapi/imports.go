package httpapi

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/core/field"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
)

// importRoutes bring files of people in, and take them back.
func (s *Server) importRoutes() {
	handle(s, web.Large(web.Making(op("import", http.MethodPost, "/api/imports", "Import people, companies and deals from a CSV file, or people from vCards")), files.MaxFile+1<<20), s.importPeople)
	handle(s, op("imports", http.MethodGet, "/api/imports", "The imports of the user, of team leads those of everybody, the newest first"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]domain.ImportLine], error) {
			list, err := s.app.Transfer.Imports(ctx, u)
			return ok(list), err
		})
	handle(s, op("importStatus", http.MethodGet, "/api/imports/{id}", "How far a long import is"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[domain.ImportReport], error) {
			report, err := s.app.Transfer.Import(ctx, u, in.ID)
			return ok(report), err
		})
	handle(s, op("takeBackImport", http.MethodPost, "/api/imports/{id}/take-back", "Undo an import as a whole; what was changed since stays and is named"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[domain.ImportReport], error) {
			report, err := s.app.Transfer.TakeBack(ctx, u, in.ID)
			return ok(report), err
		})
}

type importInput struct {
	Check       bool   `query:"check" doc:"Only report what would happen"`
	SkipRefused bool   `query:"skipRefused" doc:"Import the good rows although others are refused"`
	Kind        string `query:"kind" enum:"lead,contact," doc:"What rows without a kind are"`
	Columns     string `query:"columns" doc:"A JSON object of header and field path; - leaves a column out"`
	Answers     string `query:"answers" doc:"A JSON object of the key of a row that asks and its answer: the id of a person, new, or skip"`
	Tidy        string `query:"tidy" maxLength:"200" doc:"Which untidy values are tidied: spaces, junk, capitals, phones, country, with commas between them"`
	RawBody     huma.MultipartFormFiles[struct {
		File huma.FormFile `form:"file" required:"true"`
	}]
}

func (s *Server) importPeople(ctx context.Context, u domain.User, in *importInput) (*body[domain.ImportReport], error) {
	o := transfer.ImportOptions{File: in.RawBody.Data().File.Filename, Check: in.Check, SkipRefused: in.SkipRefused, Kind: field.Record(in.Kind)}
	if in.Columns != "" && json.Unmarshal([]byte(in.Columns), &o.Columns) != nil {
		return nil, &domain.InvalidError{Fields: []domain.FieldError{{Where: "columns", Why: "is not a JSON object of header and field path"}}}
	}
	if in.Answers != "" && json.Unmarshal([]byte(in.Answers), &o.Answers) != nil {
		return nil, &domain.InvalidError{Fields: []domain.FieldError{{Where: "answers", Why: "is not a JSON object of keys and answers"}}}
	}
	for how := range strings.SplitSeq(in.Tidy, ",") {
		if how = strings.TrimSpace(how); how == "" {
			continue
		}
		if !slices.Contains(field.Tidyings(), field.Tidying(how)) {
			return nil, domain.Invalid("tidy", "%q is no way to tidy values; choose of spaces, junk, capitals, phones and country", how)
		}
		o.Tidy = append(o.Tidy, field.Tidying(how))
	}
	file := in.RawBody.Data().File
	defer func() { _ = file.Close() }()
	table, err := files.OpenPeople(file)
	if err != nil {
		return nil, err
	}
	report, err := s.app.Transfer.ImportPeople(ctx, u, table, o)
	return ok(report), err
}
