package httpapi

import (
	"context"
	"net/http"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type TemplateIn struct {
	wire.Input
	Name      string               `json:"name"`
	WhenToUse string               `json:"whenToUse"`
	State     domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
	FolderID  *int64               `json:"folderId,omitempty" doc:"Where a new template is put"`
	Tags      []string             `json:"tags,omitempty"`
	Untracked bool                 `json:"untracked,omitempty"`
	MayNot    []domain.Addition    `json:"mayNot,omitempty" enum:"links,pictures,fields,attachments"`
	Documents []int64              `json:"documents,omitempty"`
}

func (t TemplateIn) input() library.TemplateInput {
	return library.TemplateInput{
		Name: t.Name, WhenToUse: t.WhenToUse, Input: t.Input.Wording(), State: t.State, FolderID: t.FolderID, Tags: t.Tags, MayNot: t.MayNot, Untracked: t.Untracked, Documents: t.Documents,
	}
}

// Language is a language that letters can be written in.
type Language struct {
	Code string `json:"code"`
	Name string `json:"name" doc:"In English"`
}

type checked struct {
	Notes    []wire.Note           `json:"notes"`
	Fits     []field.Record        `json:"fits"`
	Removed  []interchange.Removed `json:"removed" doc:"What was taken out of an HTML body, since letters cannot hold it"`
	Language string                `json:"language" doc:"That dates and amounts are written in: the given one, or the one the text is recognised to be in"`
}

// formattedOut is a wording as the formatted editor takes it.
type formattedOut struct {
	SubjectDoc document.Document `json:"subjectDoc"`
	Doc        document.Document `json:"doc"`
}

func (s *Server) templateRoutes() {
	handle(s, op("template", http.MethodGet, "/api/templates/{id}", "One template"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.Template(ctx, u, in.ID)
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, web.Large(web.Making(op("addTemplate", http.MethodPost, "/api/templates", "Make a template")), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body TemplateIn }) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.AddTemplate(ctx, u, in.Body.input())
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, web.Large(op("changeTemplate", http.MethodPut, "/api/templates/{id}", "Store a template if nobody else has since"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				TemplateIn
				Version int `json:"version" doc:"The version that the change was made on"`
			}
		}) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.ChangeTemplate(ctx, u, in.ID, in.Body.Version, in.Body.input())
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, web.Making(op("addWording", http.MethodPost, "/api/templates/{id}/wordings", "Begin the wording of a template in another language, as a draft")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Language string `json:"language" maxLength:"35" minLength:"1"`
			}
		}) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.AddWording(ctx, u, in.ID, in.Body.Language)
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, op("versions", http.MethodGet, "/api/templates/{id}/versions", "The versions of a template, the newest first"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[[]domain.VersionRow], error) {
			list, err := s.app.Library.Versions(ctx, u, in.ID)
			return ok(list), err
		})
	handle(s, op("version", http.MethodGet, "/api/templates/{id}/versions/{version}", "A template as it was"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Version int `path:"version" minimum:"1"`
		}) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.TemplateVersion(ctx, u, in.ID, in.Version)
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, op("compareVersions", http.MethodGet, "/api/templates/{id}/compare", "What a later version changed, by words"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			From int `query:"from" minimum:"1" required:"true"`
			To   int `query:"to" minimum:"1" required:"true"`
		}) (*body[library.Comparison], error) {
			c, err := s.app.Library.CompareVersions(ctx, u, in.ID, in.From, in.To)
			return ok(c), err
		})
	s.wordingRoutes()
}

func (s *Server) wordingRoutes() {
	handle(s, op("reach", http.MethodGet, "/api/templates/{id}/reach", "How many people a template can be sent to without a gap"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[library.Reach], error) {
			r, err := s.app.Library.ReachOfTemplate(ctx, u, in.ID)
			return ok(r), err
		})
	handle(s, web.Large(op("reachOfWording", http.MethodPost, "/api/templates/reach", "The same for wording that is being typed"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body wire.Input }) (*body[library.Reach], error) {
			r, err := s.app.Library.ReachOf(ctx, u, in.Body.Wording())
			return ok(r), err
		})
	handle(s, web.Large(op("previewTemplate", http.MethodPost, "/api/templates/preview", "Wording merged with a real person"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				wire.Input
				PersonID int64  `json:"personId,omitempty" doc:"This person; else the one at the index"`
				Search   string `json:"search,omitempty"`
				Index    int    `json:"index,omitempty"`
			}
		}) (*body[library.Trial], error) {
			t, err := s.app.Library.TryOn(ctx, u, in.Body.Wording(), in.Body.PersonID, in.Body.Search, in.Body.Index)
			return ok(t), err
		})
	handle(s, web.Large(op("formattedBody", http.MethodPost, "/api/templates/formatted", "A plain body in the text form as a formatted document"), wire.MaxDocument),
		func(_ context.Context, _ domain.User, in *struct {
			Body struct {
				Subject string `json:"subject,omitempty" maxLength:"4000"`
				Body    string `json:"body" maxLength:"1048576"`
			}
		}) (*body[formattedOut], error) {
			return ok(formattedOut{markup.Parse(in.Body.Subject), render.Formatted(markup.Parse(in.Body.Body))}), nil
		})
	handle(s, op("languages", http.MethodGet, "/api/languages", "The languages that dates and amounts can be written in"),
		func(context.Context, domain.User, *struct{}) (*body[[]Language], error) {
			out := []Language{}
			for _, code := range field.Languages() {
				out = append(out, Language{code, field.LanguageName(code)})
			}
			slices.SortFunc(out, func(x, y Language) int { return strings.Compare(x.Name, y.Name) })
			return ok(out), nil
		})
	handle(s, web.Large(op("checkTemplate", http.MethodPost, "/api/templates/check", "The notes on wording that is being typed"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body wire.Input }) (*body[checked], error) {
			c, err := s.app.Library.CheckTemplate(ctx, u, in.Body.Wording())
			return ok(checked{wire.NotesOf(c.Notes, in.Body.Subject, in.Body.Body), append([]field.Record{}, c.Fits...), append([]interchange.Removed{}, c.Removed...), c.Language}), err
		})
}
