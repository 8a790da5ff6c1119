package httpapi

import (
	"context"
	"net/http"
	"time"

	"lucidletter/internal/app/postbox"
	"lucidletter/internal/domain"
)

func (s *Server) postRoutes() {
	handle(s, op("mailboxes", http.MethodGet, "/api/post-office", "The mailboxes of the post office"),
		func(ctx context.Context, _ domain.User, in *struct {
			Search string `query:"q" maxLength:"200"`
		}) (*body[[]domain.Mailbox], error) {
			list, err := s.app.Postbox.Mailboxes(ctx, in.Search)
			return ok(list), err
		})
	handle(s, op("mailbox", http.MethodGet, "/api/post-office/{mailbox}", "The letters of one mailbox"),
		func(ctx context.Context, _ domain.User, in *struct {
			Mailbox string `path:"mailbox"`
		}) (*body[[]domain.PostLetter], error) {
			list, err := s.app.Postbox.Mailbox(ctx, in.Mailbox)
			return ok(list), err
		})
	handle(s, op("world", http.MethodGet, "/api/post-office-world", "The clock of the post office, and how its recipients can behave"),
		func(context.Context, domain.User, *struct{}) (*body[postbox.WorldSheet], error) {
			return ok(s.app.Postbox.WorldOf()), nil
		})
	handle(s, op("skipTime", http.MethodPost, "/api/post-office-world/clock", "Move the clock of the program and its post office on"),
		func(ctx context.Context, _ domain.User, in *struct {
			Body struct {
				Minutes int `json:"minutes" minimum:"1" maximum:"44640"`
			}
		}) (*body[postbox.WorldSheet], error) {
			_, err := s.app.Postbox.SkipTime(ctx, time.Duration(in.Body.Minutes)*time.Minute)
			return ok(s.app.Postbox.WorldOf()), err
		})
	handle(s, op("character", http.MethodGet, "/api/post-office/{mailbox}/character", "How a recipient behaves"),
		func(ctx context.Context, _ domain.User, in *struct {
			Mailbox string `path:"mailbox"`
		}) (*body[postbox.Character], error) {
			c, err := s.app.Postbox.CharacterOf(ctx, in.Mailbox)
			return ok(c), err
		})
	handle(s, op("setCharacter", http.MethodPut, "/api/post-office/{mailbox}/character", "Say how a recipient behaves"),
		func(ctx context.Context, _ domain.User, in *struct {
			Mailbox string `path:"mailbox"`
			Body    struct {
				Key string `json:"key" maxLength:"40"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Postbox.SetCharacter(ctx, in.Mailbox, in.Body.Key)
		})
	handle(s, op("postLetter", http.MethodGet, "/api/post-office-letters/{id}", "A letter as its recipient sees it"),
		func(ctx context.Context, _ domain.User, in *IDInput) (*body[postbox.PostSheet], error) {
			l, err := s.app.Postbox.PostLetter(ctx, in.ID)
			return ok(l), err
		})
}
