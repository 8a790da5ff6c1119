package httpapi

import (
	"context"
	"net/http"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type passageOut struct {
	ID        int64              `json:"id"`
	Name      string             `json:"name"`
	Shortcut  string             `json:"shortcut"`
	Words     string             `json:"words" doc:"For people"`
	Kind      string             `json:"kind" enum:"plain,formatted"`
	Body      string             `json:"body" doc:"In the text form"`
	Doc       *document.Document `json:"doc,omitempty" doc:"A formatted body as the editor takes it"`
	FolderID  *int64             `json:"folderId,omitempty"`
	Own       access.Rights      `json:"own"`
	Owner     string             `json:"owner"`
	Mine      bool               `json:"mine"`
	MayEdit   bool               `json:"mayEdit"`
	Version   int                `json:"version"`
	UpdatedAt time.Time          `json:"updatedAt"`
}

func passageOutOf(p library.PassageSheet) passageOut {
	out := passageOut{
		ID: p.ID, Name: p.Name, Shortcut: p.Shortcut, Words: p.Words, Kind: p.Body.Attrs.Body, Body: p.BodyText, FolderID: p.FolderID, Own: p.Rights,
		Owner: p.OwnerName, Mine: p.Mine, MayEdit: p.MayEdit, Version: p.Version, UpdatedAt: p.UpdatedAt,
	}
	if out.Kind == document.BodyFormatted {
		out.Doc = &p.Body
	}
	return out
}

type PassageIn struct {
	Name     string             `json:"name"`
	Shortcut string             `json:"shortcut"`
	Body     string             `json:"body"`
	Kind     string             `json:"kind,omitempty" enum:"plain,formatted"`
	Doc      *document.Document `json:"doc,omitempty"`
	FolderID *int64             `json:"folderId,omitempty"`
	Own      access.Rights      `json:"own"`
}

func (p PassageIn) input() library.PassageInput {
	return library.PassageInput{Name: p.Name, Shortcut: p.Shortcut, Body: p.Body, Kind: p.Kind, Doc: p.Doc, FolderID: p.FolderID, Rights: p.Own}
}

// usedBy names what uses a shared thing.
type usedBy struct {
	Templates []string `json:"templates"`
	Others    int      `json:"others" doc:"Templates that you do not see"`
}

func usedByOf(names []string, others int, err error) (*body[usedBy], error) {
	return ok(usedBy{names, others}), err
}

func (s *Server) passageRoutes() {
	answer := func(p library.PassageSheet, err error) (*body[passageOut], error) { return ok(passageOutOf(p)), err }
	handle(s, op("passages", http.MethodGet, "/api/passages", "The passages that I may use"),
		func(ctx context.Context, u domain.User, in *struct {
			Search string `query:"q" maxLength:"200"`
			Folder int64  `query:"folder" minimum:"-1"`
		}) (*body[[]passageOut], error) {
			list, err := s.app.Library.Passages(ctx, u, in.Search, in.Folder)
			out := make([]passageOut, 0, len(list))
			for _, p := range list {
				out = append(out, passageOutOf(p))
			}
			return ok(out), err
		})
	handle(s, op("passage", http.MethodGet, "/api/passages/{id}", "One passage"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[passageOut], error) {
			return answer(s.app.Library.Passage(ctx, u, in.ID))
		})
	handle(s, web.Large(web.Making(op("addPassage", http.MethodPost, "/api/passages", "Make a passage")), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body PassageIn }) (*body[passageOut], error) {
			return answer(s.app.Library.AddPassage(ctx, u, in.Body.input()))
		})
	handle(s, web.Large(op("changePassage", http.MethodPut, "/api/passages/{id}", "Store a passage if nobody else has since"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				PassageIn
				Version int `json:"version"`
			}
		}) (*body[passageOut], error) {
			return answer(s.app.Library.ChangePassage(ctx, u, in.ID, in.Body.Version, in.Body.input()))
		})
	handle(s, op("passageUsers", http.MethodGet, "/api/passages/{id}/dependants", "The templates that use a passage"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[usedBy], error) {
			return usedByOf(s.app.Library.UsersOfPassage(ctx, u, in.ID))
		})
	handle(s, op("deletePassage", http.MethodDelete, "/api/passages/{id}", "Take a passage away; templates that use it get a note"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Library.DeletePassage(ctx, u, in.ID)
		})
	handle(s, op("putBackPassage", http.MethodPost, "/api/passages/{id}/put-back", "Undo the deletion of a passage"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Library.PutBackPassage(ctx, u, in.ID)
		})
}

type stationeryOut struct {
	ID        int64             `json:"id"`
	Name      string            `json:"name"`
	Header    document.Document `json:"header"`
	Footer    document.Document `json:"footer"`
	Ready     bool              `json:"ready"`
	Default   bool              `json:"default"`
	Version   int               `json:"version"`
	UpdatedAt time.Time         `json:"updatedAt"`
}

func stationeryOutOf(st domain.Stationery) stationeryOut {
	return stationeryOut{st.ID, st.Name, st.Header, st.Footer, st.Ready, st.Default, st.Version, st.UpdatedAt}
}

type StationeryIn struct {
	Name    string            `json:"name"`
	Header  document.Document `json:"header"`
	Footer  document.Document `json:"footer"`
	Ready   bool              `json:"ready"`
	Default bool              `json:"default"`
}

type previewOut struct {
	HTML string `json:"html"`
}

func (s *Server) stationeryRoutes() {
	answer := func(st domain.Stationery, err error) (*body[stationeryOut], error) {
		return ok(stationeryOutOf(st)), err
	}
	handle(s, op("stationery", http.MethodGet, "/api/stationery", "Every stationery"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[[]stationeryOut], error) {
			list, err := s.app.Library.AllStationery(ctx)
			out := make([]stationeryOut, 0, len(list))
			for _, st := range list {
				out = append(out, stationeryOutOf(st))
			}
			return ok(out), err
		})
	handle(s, web.Large(web.Making(op("addStationery", http.MethodPost, "/api/stationery", "Make a stationery")), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body StationeryIn }) (*body[stationeryOut], error) {
			return answer(s.app.Library.AddStationery(ctx, u, library.StationeryInput(in.Body)))
		})
	handle(s, web.Large(op("changeStationery", http.MethodPut, "/api/stationery/{id}", "Store a stationery if nobody else has since"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				StationeryIn
				Version int `json:"version"`
			}
		}) (*body[stationeryOut], error) {
			return answer(s.app.Library.ChangeStationery(ctx, u, in.ID, in.Body.Version, library.StationeryInput(in.Body.StationeryIn)))
		})
	handle(s, web.Large(op("previewStationery", http.MethodPost, "/api/stationery/preview", "A stationery around a template"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				StationeryIn
				TemplateID int64 `json:"templateId,omitempty"`
			}
		}) (*body[previewOut], error) {
			html, err := s.app.Library.PreviewStationery(ctx, u, library.StationeryInput(in.Body.StationeryIn), in.Body.TemplateID)
			return ok(previewOut{html}), err
		})
	handle(s, op("stationeryUsers", http.MethodGet, "/api/stationery/{id}/dependants", "The templates that use a stationery"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[usedBy], error) {
			return usedByOf(s.app.Library.UsersOfStationery(ctx, u, in.ID))
		})
	for _, way := range []struct {
		id, method, path, summary string
		back                      bool
	}{
		{"deleteStationery", http.MethodDelete, "/api/stationery/{id}", "Take a stationery away; templates go on without", false},
		{"putBackStationery", http.MethodPost, "/api/stationery/{id}/put-back", "Undo the deletion of a stationery", true},
	} {
		handle(s, op(way.id, way.method, way.path, way.summary),
			func(ctx context.Context, u domain.User, in *struct {
				IDInput
				Version int `query:"version" minimum:"1" required:"true"`
			}) (*body[stationeryOut], error) {
				return answer(s.app.Library.DeleteStationery(ctx, u, in.ID, in.Version, way.back))
			})
	}
}
