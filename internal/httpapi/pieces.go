package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/document"
	"lucidletter/core/sentence"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type pieceOut struct {
	Name    string            `json:"name"`
	Subject document.Document `json:"subject"`
	Body    document.Document `json:"body"`
	Without []sentence.Frame  `json:"without" enum:"greeting,closing" doc:"What of the template stayed behind, since the letter has its own"`
}

// SourceIn names a template or a passage.
type SourceIn struct {
	TemplateID int64            `json:"templateId,omitempty"`
	Passage    string           `json:"passage,omitempty" doc:"Its shortcut"`
	Without    []sentence.Frame `json:"without,omitempty" enum:"greeting,closing" doc:"What of the template stays behind"`
}

func (in SourceIn) app() desk.Source {
	return desk.Source{TemplateID: in.TemplateID, Passage: in.Passage, Without: in.Without}
}

type asTemplateOut struct {
	Subject document.Document `json:"subject"`
	Body    document.Document `json:"body"`
	Words   string            `json:"words" doc:"For people"`
	Offers  []desk.FieldOffer `json:"offers" doc:"Values of the records that stand as plain words"`
}

// asTemplateRoutes make templates out of letters.
func (s *Server) asTemplateRoutes() {
	handle(s, op("asTemplate", http.MethodGet, "/api/letters/{id}/as-template", "The wording of a letter as that of a template, and what else could be a field in it"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Take []string `query:"take,explode" doc:"Paths of the offers that become fields"`
		}) (*body[asTemplateOut], error) {
			t, err := s.app.Desk.AsTemplate(ctx, u, in.ID, in.Take)
			return ok(asTemplateOut{t.Subject, t.Body, t.Words, t.Offers}), err
		})
	handle(s, web.Making(op("saveAsTemplate", http.MethodPost, "/api/letters/{id}/as-template", "Make a draft of a template out of a letter")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Name      string   `json:"name"`
				WhenToUse string   `json:"whenToUse"`
				FolderID  *int64   `json:"folderId,omitempty"`
				Take      []string `json:"take"`
			}
		}) (*body[int64], error) {
			t, err := s.app.Desk.SaveAsTemplate(ctx, u, in.ID, in.Body.Name, in.Body.WhenToUse, in.Body.FolderID, in.Body.Take)
			return ok(t.ID), err
		})
}

// pieceRoutes put templates and passages into a letter and take them out.
func (s *Server) pieceRoutes() {
	handle(s, op("piece", http.MethodGet, "/api/letters/{id}/piece", "A template or a passage merged for the person of a letter, to be put into it"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Template int64  `query:"template"`
			Passage  string `query:"passage" doc:"Its shortcut"`
		}) (*body[pieceOut], error) {
			p, err := s.app.Desk.PieceFor(ctx, u, in.ID, desk.Source{TemplateID: in.Template, Passage: in.Passage})
			return ok(pieceOut{p.Name, p.Subject, p.Body, append([]sentence.Frame{}, p.Without...)}), err
		})
	handle(s, web.Large(op("insert", http.MethodPost, "/api/letters/{id}/pieces", "Save the wording that a piece was put into"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				SourceIn
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Insert(ctx, u, in.ID, in.Body.Wording.app(), in.Body.SourceIn.app()))
		})
	handle(s, web.Large(op("takeOut", http.MethodPost, "/api/letters/{id}/pieces/{piece}/out", "Save the wording without what is left of a piece, or with another in its place"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Piece int `path:"piece" doc:"Its place among the pieces, from 0"`
			Body  struct {
				Wording
				Instead *SourceIn `json:"instead,omitempty"`
			}
		}) (*body[letterOut], error) {
			var instead *desk.Source
			if in.Body.Instead != nil {
				other := in.Body.Instead.app()
				instead = &other
			}
			return letterAnswer(s.app.Desk.TakeOut(ctx, u, in.ID, in.Body.Wording.app(), in.Piece, instead))
		})
	handle(s, web.Large(op("format", http.MethodPost, "/api/letters/{id}/format", "Save a plain letter as a formatted one"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body Wording
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Format(ctx, u, in.ID, in.Body.app()))
		})
	handle(s, web.Large(op("unformat", http.MethodPost, "/api/letters/{id}/unformat", "Undo that a letter was formatted, before anything else is written"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body Wording
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Unformat(ctx, u, in.ID, in.Body.app()))
		})
	handle(s, op("startOver", http.MethodPost, "/api/letters/{id}/start-over", "Give a draft the wording of a template instead of its own"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Version    int   `json:"version"`
				TemplateID int64 `json:"templateId"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.StartOver(ctx, u, in.ID, in.Body.Version, in.Body.TemplateID))
		})
}
