package httpapi

import (
	"context"
	"net/http"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

func (s *Server) sendRoutes() {
	handle(s, op("outboxHold", http.MethodGet, "/api/outbox/hold", "Why nothing is sent; empty while letters go"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[domain.OutboxHold], error) {
			hold, err := s.app.Outbound.OutboxHold(ctx)
			return ok(hold), err
		})
	handle(s, op("sendAgain", http.MethodDelete, "/api/outbox/hold", "Let letters go that are on hold"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*struct{}, error) {
			return nil, s.app.Outbound.SendAgain(ctx, u)
		})
	handle(s, web.Making(op("send", http.MethodPost, "/api/letters/{id}/send", "Put a proofread draft into the outbox")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Version int        `json:"version" doc:"The version that was proofread"`
				To      string     `json:"to" doc:"The address that was confirmed"`
				Local   string     `json:"local,omitempty" doc:"When it goes, such as 2026-11-26T09:00; now without it"`
				Zone    string     `json:"zone,omitempty" doc:"Of local, such as Europe/London; the recipient's without it"`
				Morning bool       `json:"morning,omitempty" doc:"In the recipient's next working morning"`
				Remind  *time.Time `json:"remind,omitempty" doc:"Remind me then if there is no answer"`
				Any     bool       `json:"remindAny,omitempty" doc:"Also when there is one"`
				Proof   string     `json:"proof,omitempty" maxLength:"64" doc:"The sum of the proof that was looked at: the letter goes only as it was shown"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Send(ctx, u, in.ID, in.Body.Version, in.Body.To, desk.When{Local: in.Body.Local, Zone: in.Body.Zone, Morning: in.Body.Morning, Remind: in.Body.Remind, Any: in.Body.Any, Proof: in.Body.Proof}))
		})
	handle(s, web.Making(op("writeAgain", http.MethodPost, "/api/letters/{id}/again", "Start a new draft with the words of a letter that did not go")),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.WriteAgain(ctx, u, in.ID))
		})
	for _, move := range []struct {
		id, path, summary string
		do                func(context.Context, domain.User, int64) (desk.LetterSheet, error)
	}{
		{"retry", "retry", "Try to send it now", s.app.Desk.Retry},
		{"takeBack", "take-back", "Make it a draft again", s.app.Desk.TakeBack},
		{"arrived", "arrived", "Settle an unsure letter as sent", s.app.Desk.Arrived},
		{"cancel", "cancel", "Keep it from going; it stays for the record", s.app.Desk.Cancel},
	} {
		handle(s, op(move.id, http.MethodPost, "/api/letters/{id}/"+move.path, move.summary),
			func(ctx context.Context, u domain.User, in *IDInput) (*body[letterOut], error) {
				return letterAnswer(move.do(ctx, u, in.ID))
			})
	}
	handle(s, op("changeTime", http.MethodPost, "/api/letters/{id}/time", "Have a letter that waits go at another time"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Local   string `json:"local,omitempty" doc:"Such as 2026-11-26T09:00; now without it"`
				Zone    string `json:"zone,omitempty"`
				Morning bool   `json:"morning,omitempty"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.ChangeTime(ctx, u, in.ID, desk.When{Local: in.Body.Local, Zone: in.Body.Zone, Morning: in.Body.Morning}))
		})
	handle(s, op("steps", http.MethodGet, "/api/letters/{id}/steps", "The way of a letter, step by step"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[[]domain.LetterStep], error) {
			list, err := s.app.Desk.StepsOf(ctx, u, in.ID)
			return ok(list), err
		})
	handle(s, op("source", http.MethodGet, "/api/letters/{id}/source", "The bytes of a letter that went out"),
		func(ctx context.Context, u domain.User, in *IDInput) (*sourceOut, error) {
			b, err := s.app.Desk.Source(ctx, u, in.ID)
			return &sourceOut{"message/rfc822", `attachment; filename="letter.eml"`, b}, err
		})
}
