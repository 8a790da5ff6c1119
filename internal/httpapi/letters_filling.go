package httpapi

import (
	"context"
	"net/http"

	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

func (s *Server) fillRoutes() {
	handle(s, web.Large(op("fillGap", http.MethodPost, "/api/letters/{id}/fill", "Save the wording with a gap filled"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Path       string `json:"path"`
				Value      string `json:"value" doc:"In canonical form"`
				AlsoRecord bool   `json:"alsoRecord" doc:"Store the value on the person too"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.FillGap(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Path, in.Body.Value, in.Body.AlsoRecord))
		})
	handle(s, web.Large(op("itIsRight", http.MethodPost, "/api/letters/{id}/right", "Say that a value which looks like none is right"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Path string `json:"path"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.ItIsRight(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Path))
		})
	handle(s, web.Large(op("doubtAgain", http.MethodPost, "/api/letters/{id}/doubt", "Have a value that looks like none count as missing again"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Path string `json:"path"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SuggestAgain(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Path))
		})
	handle(s, web.Large(op("correct", http.MethodPost, "/api/letters/{id}/correct", "Save the wording with other words for a field"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Path       string `json:"path"`
				Value      string `json:"value"`
				AlsoRecord bool   `json:"alsoRecord"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Correct(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Path, in.Body.Value, in.Body.AlsoRecord))
		})
	handle(s, web.Large(op("writeBack", http.MethodPost, "/api/letters/{id}/write-back", "Store on the record what the writer made of a value in this wording"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Path string `json:"path"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.WriteBack(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Path))
		})
	s.envelopeRoutes()
}
