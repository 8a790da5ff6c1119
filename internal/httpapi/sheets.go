package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type pagePart struct {
	Kind  interchange.PartKind `json:"kind" enum:"words,link,picture"`
	Text  string               `json:"text" doc:"In the text form"`
	Shown string               `json:"shown" doc:"With the labels of fields"`
	Link  int                  `json:"link" doc:"The part that is the link around these words, or -1"`
}

type pageOut struct {
	Body    string                `json:"body"`
	Shown   string                `json:"shown" doc:"The page as it will look; data-part, data-link and data-picture name its parts"`
	Parts   []pagePart            `json:"parts"`
	Removed []interchange.Removed `json:"removed" doc:"What was taken out, since letters cannot hold it"`
}

func pageOutOf(p library.PageSheet) pageOut {
	out := pageOut{p.Body, p.Shown, []pagePart{}, append([]interchange.Removed{}, p.Removed...)}
	for _, part := range p.Parts {
		out.Parts = append(out.Parts, pagePart{part.Kind, part.Text, part.Shown, part.Link})
	}
	return out
}

type textPartOut struct {
	Text string `json:"text"`
}

// sheetRoutes are about a template that is being written: pages part by part, the
// plain-text part, tests, copies and their originals.
func (s *Server) sheetRoutes() {
	handle(s, web.Large(op("readPage", http.MethodPost, "/api/templates/page", "A page made safe for letters, with what can be changed in it"), wire.MaxDocument),
		func(ctx context.Context, _ domain.User, in *struct {
			Body struct {
				Body string `json:"body"`
			}
		}) (*body[pageOut], error) {
			p, err := s.app.Library.ReadPage(ctx, in.Body.Body)
			return ok(pageOutOf(p)), err
		})
	handle(s, web.Large(op("setPagePart", http.MethodPost, "/api/templates/page-part", "A page with other text in one of its parts"), wire.MaxDocument),
		func(ctx context.Context, _ domain.User, in *struct {
			Body struct {
				Body string `json:"body"`
				Part int    `json:"part"`
				Text string `json:"text" maxLength:"20000" doc:"In the text form"`
			}
		}) (*body[pageOut], error) {
			p, err := s.app.Library.SetPagePart(ctx, in.Body.Body, in.Body.Part, in.Body.Text)
			return ok(pageOutOf(p)), err
		})
	handle(s, web.Large(op("textPart", http.MethodPost, "/api/templates/text-part", "The plain-text part as it is made by itself"), wire.MaxDocument),
		func(_ context.Context, _ domain.User, in *struct{ Body wire.Input }) (*body[textPartOut], error) {
			text, err := s.app.Library.TextPartOf(in.Body.Wording())
			return ok(textPartOut{text}), err
		})
	handle(s, web.Large(web.Making(op("sendTest", http.MethodPost, "/api/templates/test", "Send wording merged with a person to me")), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				wire.Input
				Documents []int64 `json:"documents,omitempty"`
				PersonID  int64   `json:"personId,omitempty" doc:"Without one the first that it fits, or a stand-in"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.SendTest(ctx, u, in.Body.Wording(), in.Body.Documents, in.Body.PersonID)
		})
	handle(s, op("origin", http.MethodGet, "/api/templates/{id}/origin", "What changed in the original of a copy"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[library.Origin], error) {
			o, err := s.app.Library.OriginOf(ctx, u, in.ID)
			return ok(o), err
		})
	handle(s, op("followOrigin", http.MethodPost, "/api/templates/{id}/origin", "Take over some of the changes of the original, or none"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Now     int   `json:"now" doc:"The version of the original that was looked at"`
				Whole   bool  `json:"whole,omitempty" doc:"Take all of its wording"`
				Subject bool  `json:"subject,omitempty"`
				Take    []int `json:"take,omitempty" doc:"Which of the changes of the body"`
				End     bool  `json:"end,omitempty" doc:"Follow it no longer"`
			}
		}) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.FollowOrigin(ctx, u, in.ID, library.Follow(in.Body))
			return ok(wire.TemplateOf(t)), err
		})
}

type shelfLine struct {
	Key       string         `json:"key"`
	Moment    string         `json:"moment" doc:"Of the sale"`
	Name      string         `json:"name"`
	WhenToUse string         `json:"whenToUse"`
	Kind      string         `json:"kind" enum:"plain,formatted,html"`
	Fits      []field.Record `json:"fits"`
	Languages []string       `json:"languages" doc:"Of its other wordings, by English names; they are copied with it"`
}

// shelfRoutes are about the starter shelf.
func (s *Server) shelfRoutes() {
	handle(s, op("shelf", http.MethodGet, "/api/shelf", "The ready-written templates, by moment of the sale"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[[]shelfLine], error) {
			list, err := s.app.Library.Shelf(ctx)
			out := make([]shelfLine, 0, len(list))
			for _, l := range list {
				kind := l.Kind
				if kind == "" {
					kind = document.BodyPlain
				}
				languages := []string{}
				for _, w := range l.Wordings {
					languages = append(languages, field.LanguageName(w.Language))
				}
				out = append(out, shelfLine{l.Key, l.Moment, l.Name, l.WhenToUse, kind, append([]field.Record{}, l.Fits...), languages})
			}
			return ok(out), err
		})
	handle(s, op("tryShelf", http.MethodGet, "/api/shelf/{key}", "One of them with one of my people, or a stand-in"),
		func(ctx context.Context, u domain.User, in *struct {
			Key   string `path:"key" maxLength:"80"`
			Index int    `query:"index" minimum:"0"`
		}) (*body[library.Trial], error) {
			t, err := s.app.Library.TryShelf(ctx, u, in.Key, in.Index)
			return ok(t), err
		})
	handle(s, web.Making(op("copyFromShelf", http.MethodPost, "/api/shelf/copy", "Put some of them into the library, as drafts of mine")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Keys     []string `json:"keys" minItems:"1" maxItems:"60"`
				FolderID *int64   `json:"folderId,omitempty"`
			}
		}) (*body[[]int64], error) {
			ids, err := s.app.Library.CopyFromShelf(ctx, u, in.Body.Keys, in.Body.FolderID)
			return ok(ids), err
		})
}
