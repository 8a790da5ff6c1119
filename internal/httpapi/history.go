package httpapi

import (
	"context"
	"io"
	"net/http"

	"lucidletter/internal/app/inbox"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
)

// historyRoutes are what happened, and what is new.
func (s *Server) historyRoutes() {
	handle(s, op("ledger", http.MethodGet, "/api/history", "What happened with a person, a company or a deal, the newest first, conversations folded together"),
		func(ctx context.Context, u domain.User, in *struct {
			Person  int64  `query:"person" minimum:"0"`
			Company int64  `query:"company" minimum:"0"`
			Deal    int64  `query:"deal" minimum:"0"`
			Only    string `query:"only" enum:"letters,back,changes,"`
			Offset  int    `query:"offset" minimum:"0"`
		}) (*body[inbox.LedgerPage], error) {
			page, err := s.app.Inbox.Ledger(ctx, u, domain.HistoryQuery{PersonID: in.Person, CompanyID: in.Company, DealID: in.Deal, Only: in.Only, Offset: in.Offset})
			return ok(page), err
		})
	handle(s, op("news", http.MethodGet, "/api/news", "What came back for me since I looked"),
		func(ctx context.Context, u domain.User, in *struct {
			After int64 `query:"after" default:"-1" doc:"What the last answer gave as last"`
		}) (*body[inbox.News], error) {
			n, err := s.app.Inbox.News(ctx, u, in.After)
			return ok(n), err
		})
	handle(s, op("openNews", http.MethodGet, "/api/news/open", "What came back for me besides replies, until I deal with it"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]domain.NewsRow], error) {
			list, err := s.app.Inbox.OpenNews(ctx, u)
			return ok(list), err
		})
	handle(s, op("recentNews", http.MethodGet, "/api/news/recent", "What came back for me last"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]domain.NewsRow], error) {
			list, err := s.app.Inbox.RecentNews(ctx, u)
			return ok(list), err
		})
	handle(s, op("settleNews", http.MethodPost, "/api/news/{id}/done", "Deal with something that came back, or undo that"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Done bool `json:"done"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Inbox.SettleNews(ctx, u, in.ID, in.Body.Done)
		})
	handle(s, op("company", http.MethodGet, "/api/companies/{id}", "One company with its people and deals"),
		func(ctx context.Context, _ domain.User, in *IDInput) (*body[records.CompanySheet], error) {
			c, err := s.app.Records.CompanyPage(ctx, in.ID)
			return ok(c), err
		})
	handle(s, web.Patient(op("mbox", http.MethodGet, "/api/people/{id}/mbox", "Everything written to and by a person, as one mbox file")),
		func(ctx context.Context, u domain.User, in *IDInput) (*web.Spooled, error) {
			return web.Spool("letters.mbox", "application/mbox", func(w io.Writer) (int, error) {
				return 0, files.Mbox(w, func(f func(*inbox.MailItem) error) error { return s.app.Inbox.EachMail(ctx, u, in.ID, f) })
			})
		})
}
