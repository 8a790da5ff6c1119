package httpapi

import (
	"context"
	"net/http"

	"lucidletter/internal/app"
)

func (s *Server) postRoutes() {
	handle(s, op("mailboxes", http.MethodGet, "/api/post-office", "The mailboxes of the post office"),
		func(ctx context.Context, _ app.User, in *struct {
			Search string `query:"q" maxLength:"200"`
		}) (*body[[]app.Mailbox], error) {
			list, err := s.app.Mailboxes(ctx, in.Search)
			return ok(list), err
		})
	handle(s, op("mailbox", http.MethodGet, "/api/post-office/{mailbox}", "The letters of one mailbox"),
		func(ctx context.Context, _ app.User, in *struct {
			Mailbox string `path:"mailbox"`
		}) (*body[[]app.PostLetter], error) {
			list, err := s.app.Mailbox(ctx, in.Mailbox)
			return ok(list), err
		})
	handle(s, op("postLetter", http.MethodGet, "/api/post-office-letters/{id}", "A letter as its recipient sees it"),
		func(ctx context.Context, _ app.User, in *IDInput) (*body[app.PostSheet], error) {
			l, err := s.app.PostLetter(ctx, in.ID)
			return ok(l), err
		})
}
