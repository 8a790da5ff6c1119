package httpapi

import (
	"context"
	"net/http"

	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// optOutRoutes are the list of addresses that nobody writes to.
func (s *Server) optOutRoutes() {
	handle(s, op("optOuts", http.MethodGet, "/api/opt-outs", "The addresses that nobody may write to, the latest first"),
		func(ctx context.Context, _ domain.User, in *struct {
			Search string `query:"q" maxLength:"254"`
		}) (*body[[]domain.OptOut], error) {
			list, err := s.app.Inbox.OptOuts(ctx, in.Search)
			return ok(list), err
		})
	handle(s, web.Large(web.Making(op("addOptOuts", http.MethodPost, "/api/opt-outs", "Write addresses down that nobody may write to")), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Text   string `json:"text" doc:"Addresses as people paste them"`
				Reason string `json:"reason" maxLength:"500"`
			}
		}) (*body[addedOptOuts], error) {
			n, rest, err := s.app.Inbox.AddOptOuts(ctx, u, in.Body.Text, in.Body.Reason)
			return ok(addedOptOuts{n, append([]string{}, rest...)}), err
		})
	handle(s, op("optInAgain", http.MethodPost, "/api/opt-outs/again", "Let an address be written to again, since its owner asked for it"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Email  string `json:"email" maxLength:"254"`
				Reason string `json:"reason" maxLength:"500"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Inbox.OptInAgain(ctx, u, in.Body.Email, in.Body.Reason)
		})
	handle(s, op("putBackOptOut", http.MethodPost, "/api/opt-outs/put-back", "Undo that an address was let be written to again"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Email string `json:"email" maxLength:"254"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.PutBackOptOut(ctx, u, in.Body.Email)
		})
}

type addedOptOuts struct {
	Added int      `json:"added"`
	Rest  []string `json:"rest" doc:"What no address was found in"`
}
