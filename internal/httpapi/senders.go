package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// FromOut is an address to write from, with its signature.
type FromOut struct {
	Name      string            `json:"name"`
	Email     string            `json:"email"`
	Own       bool              `json:"own" doc:"The user's own address, which cannot be taken away"`
	Signature document.Document `json:"signature" doc:"A formatted document with fields of the sender"`
}

func fromsOf(list []domain.FromAddress) []FromOut {
	out := make([]FromOut, 0, len(list))
	for i, f := range list {
		if len(f.Signature.Content) == 0 {
			f.Signature = render.Formatted(document.NewPlain(""))
		}
		out = append(out, FromOut{f.Name, f.Email, i == 0, f.Signature})
	}
	return out
}

type senderOut struct {
	ID    int64     `json:"id"`
	Name  string    `json:"name"`
	Froms []FromOut `json:"froms"`
}

// senderRoutes are what users set for the letters that they send.
func (s *Server) senderRoutes() {
	handle(s, op("setHold", http.MethodPut, "/api/me/hold", "Set for how many seconds my letters can be taken back"),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Seconds int `json:"seconds"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.SetHold(ctx, u, in.Body.Seconds)
		})
	handle(s, op("setProfile", http.MethodPut, "/api/me", "Set what letters say of me"),
		func(ctx context.Context, u domain.User, in *struct{ Body ProfileIn }) (*struct{}, error) {
			return nil, s.app.Desk.SetProfile(ctx, u, in.Body.app(&u))
		})
	handle(s, op("froms", http.MethodGet, "/api/me/from", "The addresses that I may write from"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]FromOut], error) {
			list, err := s.app.Team.FromAddresses(ctx, u)
			return ok(fromsOf(list)), err
		})
	handle(s, web.Large(op("setSignature", http.MethodPut, "/api/me/signature", "Set the signature of one of my addresses"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Email     string            `json:"email"`
				Signature document.Document `json:"signature"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.SetSignature(ctx, u, in.Body.Email, in.Body.Signature)
		})
	handle(s, op("senders", http.MethodGet, "/api/senders", "Everybody with the addresses that they may write from"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]senderOut], error) {
			all, err := s.app.Desk.Senders(ctx, u)
			out := make([]senderOut, 0, len(all))
			for _, one := range all {
				out = append(out, senderOut{one.User.ID, one.User.Name(), fromsOf(one.Froms)})
			}
			return ok(out), err
		})
	handle(s, op("allowFrom", http.MethodPost, "/api/senders/{id}/from", "Let a user write from another address"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Name  string `json:"name" maxLength:"200"`
				Email string `json:"email" maxLength:"254"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Desk.AllowFrom(ctx, u, in.ID, in.Body.Name, in.Body.Email)
		})
	handle(s, op("forbidFrom", http.MethodDelete, "/api/senders/{id}/from", "Take an address from a user"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Email string `query:"email" required:"true"`
		}) (*struct{}, error) {
			return nil, s.app.Desk.ForbidFrom(ctx, u, in.ID, in.Email)
		})
	handle(s, op("putBackFrom", http.MethodPost, "/api/senders/{id}/from/put-back", "Undo that an address was taken from a user"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Email string `query:"email" required:"true"`
		}) (*struct{}, error) {
			return nil, s.app.Desk.PutBackFrom(ctx, u, in.ID, in.Email)
		})
}

// ProfileIn is what a user says of themselves.
type ProfileIn struct {
	Phone       string            `json:"phone" maxLength:"100"`
	JobTitle    string            `json:"jobTitle" maxLength:"200"`
	BookingLink string            `json:"bookingLink" maxLength:"2000"`
	TimeZone    *string           `json:"timeZone,omitempty" maxLength:"60" doc:"Where my clock is; missing leaves it as it is"`
	Country     *string           `json:"country,omitempty" maxLength:"80" doc:"Whose holidays I keep; missing leaves it as it is"`
	TaskMail    *bool             `json:"taskMail,omitempty" doc:"Remind me of tasks by email; missing leaves it as it is"`
	Own         map[string]string `json:"own" doc:"Own fields of senders by path, in canonical form"`
}

// app gives the profile, with what was not said as it was.
func (in *ProfileIn) app(u *domain.User) desk.Profile {
	p := desk.Profile{Phone: in.Phone, JobTitle: in.JobTitle, BookingLink: in.BookingLink, TimeZone: u.TimeZone, Country: u.Country, TaskMail: u.TaskMail, Own: in.Own}
	if in.TimeZone != nil {
		p.TimeZone = *in.TimeZone
	}
	if in.Country != nil {
		p.Country = *in.Country
	}
	if in.TaskMail != nil {
		p.TaskMail = *in.TaskMail
	}
	return p
}
