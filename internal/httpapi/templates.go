package httpapi

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode/utf16"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// note is a margin note. From and To count UTF-16 code units in the text form,
// as editors in a browser do.
type note struct {
	Severity document.Severity `json:"severity" enum:"stops,advises"`
	Code     string            `json:"code"`
	Part     document.Part     `json:"part" enum:"subject,body,text,envelope"`
	Line     int               `json:"line"`
	Where    string            `json:"where,omitempty" doc:"The block of a formatted body, such as content[3]"`
	Column   int               `json:"column"`
	From     int               `json:"from"`
	To       int               `json:"to"`
	Text     string            `json:"text"`
	Message  string            `json:"message"`
	Fixes    []string          `json:"fixes"`
}

func notesOf(list []document.Note, subject, body string) []note {
	out := make([]note, 0, len(list))
	for _, n := range list {
		src := body
		switch n.Part {
		case document.Subject:
			src = subject
		case document.TextPart:
			src = "" // its place is its line
		}
		out = append(out, note{
			n.Severity, n.Code, n.Part, n.Line, n.Where, n.Column, units(src, n.Offset), units(src, n.Offset+n.Length),
			n.Text, n.Message, append([]string{}, n.Fixes...),
		})
	}
	return out
}

func units(s string, offset int) int {
	n := 0
	for _, r := range s[:min(offset, len(s))] {
		n += utf16.RuneLen(r)
	}
	return n
}

type templateOut struct {
	ID         int64                  `json:"id"`
	Name       string                 `json:"name"`
	WhenToUse  string                 `json:"whenToUse"`
	Subject    string                 `json:"subject" doc:"In the text form"`
	SubjectDoc document.Document      `json:"subjectDoc" doc:"As the editor takes it"`
	Body       string                 `json:"body" doc:"In the text form"`
	Language   string                 `json:"language" doc:"Of the values, such as en-GB; empty: the reader's"`
	Kind       string                 `json:"kind" enum:"plain,formatted,html"`
	Doc        *document.Document     `json:"doc,omitempty" doc:"A formatted body as the editor takes it"`
	State      domain.TemplateState   `json:"state" enum:"draft,ready,withdrawn"`
	Owner      string                 `json:"owner"`
	Version    int                    `json:"version"`
	UpdatedAt  time.Time              `json:"updatedAt"`
	FolderID   *int64                 `json:"folderId,omitempty"`
	Tags       []string               `json:"tags"`
	TextPart   *string                `json:"textPart,omitempty" doc:"The plain-text part in the text form, when it is written by hand"`
	TextOf     string                 `json:"textOf" doc:"What the body said when the plain-text part was written"`
	Stationery int64                  `json:"stationery" doc:"0 the default one, -1 none"`
	Untracked  bool                   `json:"untracked" doc:"Opens and clicks of its letters are not measured"`
	MayNot     []domain.Addition      `json:"mayNot" enum:"links,pictures,fields,attachments" doc:"What writers may not add"`
	Documents  []int64                `json:"documents" doc:"Approved documents that go with every letter"`
	OriginID   *int64                 `json:"originId,omitempty" doc:"The template that this copy follows"`
	Own        access.Rights          `json:"own" doc:"Who may use and edit it, as set on the template itself"`
	Counts     access.Rights          `json:"counts" doc:"The same as it counts, with the folders around it"`
	Fits       []field.Record         `json:"fits"`
	Notes      []note                 `json:"notes"`
	MayEdit    bool                   `json:"mayEdit"`
	Next       []domain.TemplateState `json:"next" enum:"draft,ready,withdrawn" doc:"The states that it can be stored in"`
	SisterOf   *int64                 `json:"sisterOf,omitempty" doc:"The template that this is another wording of; that one's name, note, tags, folder and rights count"`
	Wordings   []library.WordingLine  `json:"wordings" doc:"This one and those in other languages, the first first"`
}

func templateOutOf(t library.TemplateSheet) templateOut {
	var doc *document.Document
	if t.Body.Attrs.Body == document.BodyFormatted {
		doc = &t.Body
	}
	w := t.Input()
	return templateOut{
		ID: t.ID, Name: t.Name, WhenToUse: t.WhenToUse, Subject: w.Subject, SubjectDoc: t.Subject, Body: w.Body, Language: w.Language, Kind: w.Kind, Doc: doc,
		State: t.State, Owner: t.OwnerName, Version: t.Version, UpdatedAt: t.UpdatedAt, FolderID: t.FolderID, Tags: append([]string{}, t.Tags...),
		TextPart: w.TextPart, TextOf: w.TextOf, Stationery: w.Stationery, MayNot: append([]domain.Addition{}, t.Extras.MayNot...), Untracked: t.Extras.Untracked,
		Documents: append([]int64{}, t.Extras.Documents...), OriginID: t.OriginID, Own: t.Rights, Counts: t.Counts,
		Fits: append([]field.Record{}, t.Fits...), Notes: notesOf(t.Notes, w.Subject, w.Body), MayEdit: t.MayEdit, Next: t.State.Next(),
		SisterOf: t.SisterOf, Wordings: append([]library.WordingLine{}, t.Wordings...),
	}
}

type TemplateIn struct {
	Input
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
		Name: t.Name, WhenToUse: t.WhenToUse, Input: t.Input.wording(), State: t.State, FolderID: t.FolderID, Tags: t.Tags, MayNot: t.MayNot, Untracked: t.Untracked, Documents: t.Documents,
	}
}

// Language is a language that letters can be written in.
type Language struct {
	Code string `json:"code"`
	Name string `json:"name" doc:"In English"`
}

type checked struct {
	Notes    []note                `json:"notes"`
	Fits     []field.Record        `json:"fits"`
	Removed  []interchange.Removed `json:"removed" doc:"What was taken out of an HTML body, since letters cannot hold it"`
	Language string                `json:"language" doc:"That dates and amounts are written in: the given one, or the one the text is recognised to be in"`
}

// Input is wording that is being typed, in the text form.
type Input struct {
	Subject    string             `json:"subject"`
	Body       string             `json:"body"`
	Kind       string             `json:"kind,omitempty" enum:"plain,formatted,html" doc:"Of the body; plain when it is left out"`
	Language   string             `json:"language,omitempty" maxLength:"35"`
	Doc        *document.Document `json:"doc,omitempty" doc:"A formatted body as the editor has it, instead of body"`
	SubjectDoc *document.Document `json:"subjectDoc,omitempty" doc:"The subject as the editor has it, instead of subject"`

	TextPart   *string `json:"textPart,omitempty" doc:"The plain-text part when it is written by hand"`
	TextOf     string  `json:"textOf,omitempty" doc:"What the body said when it was written"`
	Stationery int64   `json:"stationery,omitempty" minimum:"-1" doc:"0 the default one, -1 none"`
	TemplateID int64   `json:"templateId,omitempty" doc:"The template that is being changed"`
}

func (t Input) wording() library.Input { return library.Input(t) }

// formattedOut is a wording as the formatted editor takes it.
type formattedOut struct {
	SubjectDoc document.Document `json:"subjectDoc"`
	Doc        document.Document `json:"doc"`
}

// maxDocument is what a request with a template or a letter may hold.
const maxDocument = 8 << 20

func (s *Server) templateRoutes() {
	handle(s, op("template", http.MethodGet, "/api/templates/{id}", "One template"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[templateOut], error) {
			t, err := s.app.Library.Template(ctx, u, in.ID)
			return ok(templateOutOf(t)), err
		})
	handle(s, large(web.Making(op("addTemplate", http.MethodPost, "/api/templates", "Make a template")), maxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body TemplateIn }) (*body[templateOut], error) {
			t, err := s.app.Library.AddTemplate(ctx, u, in.Body.input())
			return ok(templateOutOf(t)), err
		})
	handle(s, large(op("changeTemplate", http.MethodPut, "/api/templates/{id}", "Store a template if nobody else has since"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				TemplateIn
				Version int `json:"version" doc:"The version that the change was made on"`
			}
		}) (*body[templateOut], error) {
			t, err := s.app.Library.ChangeTemplate(ctx, u, in.ID, in.Body.Version, in.Body.input())
			return ok(templateOutOf(t)), err
		})
	handle(s, web.Making(op("addWording", http.MethodPost, "/api/templates/{id}/wordings", "Begin the wording of a template in another language, as a draft")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Language string `json:"language" maxLength:"35" minLength:"1"`
			}
		}) (*body[templateOut], error) {
			t, err := s.app.Library.AddWording(ctx, u, in.ID, in.Body.Language)
			return ok(templateOutOf(t)), err
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
		}) (*body[templateOut], error) {
			t, err := s.app.Library.TemplateVersion(ctx, u, in.ID, in.Version)
			return ok(templateOutOf(t)), err
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
	handle(s, large(op("reachOfWording", http.MethodPost, "/api/templates/reach", "The same for wording that is being typed"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body Input }) (*body[library.Reach], error) {
			r, err := s.app.Library.ReachOf(ctx, u, in.Body.wording())
			return ok(r), err
		})
	handle(s, large(op("previewTemplate", http.MethodPost, "/api/templates/preview", "Wording merged with a real person"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Input
				PersonID int64  `json:"personId,omitempty" doc:"This person; else the one at the index"`
				Search   string `json:"search,omitempty"`
				Index    int    `json:"index,omitempty"`
			}
		}) (*body[library.Trial], error) {
			t, err := s.app.Library.TryOn(ctx, u, in.Body.wording(), in.Body.PersonID, in.Body.Search, in.Body.Index)
			return ok(t), err
		})
	handle(s, large(op("formattedBody", http.MethodPost, "/api/templates/formatted", "A plain body in the text form as a formatted document"), maxDocument),
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
	handle(s, large(op("checkTemplate", http.MethodPost, "/api/templates/check", "The notes on wording that is being typed"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct{ Body Input }) (*body[checked], error) {
			c, err := s.app.Library.CheckTemplate(ctx, u, in.Body.wording())
			return ok(checked{notesOf(c.Notes, in.Body.Subject, in.Body.Body), append([]field.Record{}, c.Fits...), append([]interchange.Removed{}, c.Removed...), c.Language}), err
		})
}
