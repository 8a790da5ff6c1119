package httpapi

import (
	"context"
	"mime"
	"net/http"

	"lucidletter/core/document"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// backRoutes are what came back of letters, and what holds for the workspace.
func (s *Server) backRoutes() {
	handle(s, op("incoming", http.MethodGet, "/api/incoming", "What people wrote to me that nobody has answered or laid by, the latest first"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]domain.IncomingRow], error) {
			list, err := s.app.Inbox.IncomingToAnswer(ctx, u)
			return ok(list), err
		})
	handle(s, op("incomingLetter", http.MethodGet, "/api/incoming/{id}", "A letter that came in"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Pictures bool `query:"pictures" doc:"With the pictures from elsewhere, whose senders learn of it"`
		}) (*body[inbox.IncomingSheet], error) {
			sheet, err := s.app.Inbox.Incoming(ctx, u, in.ID, in.Pictures)
			return ok(sheet), err
		})
	handle(s, op("incomingSource", http.MethodGet, "/api/incoming/{id}/source", "The bytes of a letter that came in"),
		func(ctx context.Context, u domain.User, in *IDInput) (*sourceOut, error) {
			b, err := s.app.Inbox.IncomingSource(ctx, u, in.ID)
			return &sourceOut{"message/rfc822", `attachment; filename="letter.eml"`, b}, err
		})
	handle(s, op("incomingFile", http.MethodGet, "/api/incoming/{id}/files/{file}", "A file that came with a letter, to be saved"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			File int `path:"file" minimum:"0"`
		}) (*sourceOut, error) {
			f, b, err := s.app.Inbox.IncomingFile(ctx, u, in.ID, in.File)
			// Saved, not shown: it came from outside.
			return &sourceOut{"application/octet-stream", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}), b}, err
		})
	handle(s, op("undoReport", http.MethodDelete, "/api/incoming/{id}/barred", "Let all addresses be written to again that a report keeps letters from"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Inbox.UndoReport(ctx, u, in.ID)
		})
	handle(s, op("layBy", http.MethodPost, "/api/incoming/{id}/read", "Take an incoming letter from what is to be answered"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Inbox.SetIncomingRead(ctx, u, in.ID)
		})
	handle(s, web.Making(op("answer", http.MethodPost, "/api/incoming/{id}/answer", "Begin the answer to an incoming letter")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				TemplateID int64 `json:"templateId,omitempty" minimum:"0"`
				All        bool  `json:"all,omitempty" doc:"Everybody else who got the letter gets a copy"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Inbox.StartAnswer(ctx, u, in.ID, optional(in.Body.TemplateID), in.Body.All))
		})
	s.cameBackRoutes()
}

func (s *Server) cameBackRoutes() {
	handle(s, op("back", http.MethodGet, "/api/letters/{id}/back", "What came back of a letter"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[domain.Back], error) {
			b, err := s.app.Desk.BackOf(ctx, u, in.ID)
			return ok(b), err
		})
	handle(s, op("sent", http.MethodGet, "/api/sent", "What I sent, the latest first, with what came back"),
		func(ctx context.Context, u domain.User, in *struct {
			Search string `query:"q" maxLength:"200" doc:"Words of the subject, the recipient or the template"`
		}) (*body[[]sentOut], error) {
			rows, err := s.app.Desk.SentLetters(ctx, u, in.Search)
			out := make([]sentOut, 0, len(rows))
			for _, r := range rows {
				out = append(out, sentOut{rowOf(&r.Letter, r.PersonName, r.TemplateName), r.Back})
			}
			return ok(out), err
		})
	handle(s, web.Large(op("setTracked", http.MethodPut, "/api/letters/{id}/tracked", "Save the wording with whether opens and clicks are measured"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				On bool `json:"on"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetTracked(ctx, u, in.ID, in.Body.Wording.app(), in.Body.On))
		})
	handle(s, op("linkDocument", http.MethodPost, "/api/letters/{id}/document-link", "Words that lead the reader to an approved document, to be put in"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				DocumentID int64 `json:"documentId" minimum:"1"`
			}
		}) (*body[document.Document], error) {
			d, err := s.app.Desk.LinkDocument(ctx, u, in.ID, in.Body.DocumentID)
			return ok(d), err
		})
	handle(s, web.Large(op("setQuote", http.MethodPut, "/api/letters/{id}/quote", "Save the wording with other words quoted below"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Words string `json:"words" doc:"None leaves the quote out"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Inbox.SetQuote(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Words))
		})
	handle(s, op("cameIn", http.MethodGet, "/api/letters/{id}/incoming", "What came in for a letter, the earliest first"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[[]domain.IncomingRow], error) {
			list, err := s.app.Inbox.IncomingOf(ctx, u, in.ID)
			return ok(list), err
		})
	s.workspaceRoutes()
}

type sentOut struct {
	LetterRow
	Back domain.Back `json:"back"`
}

// workspaceRoutes are what holds for the workspace and for a person.
func (s *Server) workspaceRoutes() {
	handle(s, op("settings", http.MethodGet, "/api/settings", "What holds for the workspace"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[domain.Settings], error) {
			set, err := s.app.Team.Settings(ctx)
			return ok(set), err
		})
	handle(s, op("setSettings", http.MethodPut, "/api/settings", "Change what holds for the workspace"),
		func(ctx context.Context, u domain.User, in *body[domain.Settings]) (*struct{}, error) {
			if err := s.app.Records.CheckLeadFields(ctx, in.Body.LeadFields); err != nil {
				return nil, err
			}
			return nil, s.app.Team.SetSettings(ctx, u, in.Body)
		})
	handle(s, op("setPersonTracked", http.MethodPut, "/api/people/{id}/tracked", "Whether it is measured what a person opens"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				On bool `json:"on"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.SetPersonTracked(ctx, u, in.ID, in.Body.On)
		})
	handle(s, op("addressWorks", http.MethodPost, "/api/people/{id}/address-works", "Let an address be written to again that letters came back from"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Inbox.AddressWorks(ctx, u, in.ID)
		})
	handle(s, op("addressFails", http.MethodPost, "/api/people/{id}/address-fails", "Undo that an address works again"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Desk.AddressFails(ctx, u, in.ID)
		})
}
