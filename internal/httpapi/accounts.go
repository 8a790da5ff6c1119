package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/access"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// AccountIn is a sending account as an administrator sets it.
type AccountIn struct {
	Name          string          `json:"name" maxLength:"200"`
	Addresses     []string        `json:"addresses" maxItems:"200" doc:"Addresses, or domains such as @fernhollow.example; none stands for all"`
	UserID        *int64          `json:"userId,omitempty" doc:"Whose own account it is"`
	Audience      access.Audience `json:"audience" doc:"Who may use a shared one"`
	Server        LoginOut        `json:"server"`
	ServerSecret  *string         `json:"serverSecret,omitempty" maxLength:"8000" doc:"Left out, it stays"`
	Connections   int             `json:"connections"`
	PerMinute     int             `json:"perMinute"`
	PerDay        int             `json:"perDay"`
	ReturnTo      string          `json:"returnTo" maxLength:"254"`
	Mailbox       LoginOut        `json:"mailbox" doc:"Without a host no mailbox is looked into"`
	MailboxSecret *string         `json:"mailboxSecret,omitempty" maxLength:"8000"`
}

// LoginOut is where and how the program signs in, without the secret.
type LoginOut struct {
	Host     string `json:"host" maxLength:"253"`
	Port     int    `json:"port" minimum:"0" maximum:"65535"`
	Security string `json:"security" enum:"starttls,tls,none,"`
	Method   string `json:"method" enum:"none,plain,login,xoauth2,"`
	User     string `json:"user" maxLength:"254"`
}

func (l LoginOut) app() domain.Login {
	return domain.Login{Host: l.Host, Port: l.Port, Security: l.Security, Method: l.Method, User: l.User}
}

func loginOf(l domain.Login) LoginOut { return LoginOut{l.Host, l.Port, l.Security, l.Method, l.User} }

type accountOut struct {
	ID int64 `json:"id"`
	AccountIn
	HasSecret        bool           `json:"hasSecret"`
	HasMailboxSecret bool           `json:"hasMailboxSecret"`
	MailboxSaid      string         `json:"mailboxSaid" doc:"Why the mailbox could not be read, or empty"`
	DKIMDomain       string         `json:"dkimDomain"`
	DKIMSelector     string         `json:"dkimSelector"`
	Record           team.DNSRecord `json:"record" doc:"To be published for the signatures"`
}

func accountOf(a team.AccountSheet) accountOut {
	return accountOut{
		ID: a.ID,
		AccountIn: AccountIn{
			Name: a.Name, Addresses: append([]string{}, a.Addresses...), UserID: a.UserID, Audience: a.Audience, Server: loginOf(a.Server),
			Connections: a.Connections, PerMinute: a.PerMinute, PerDay: a.PerDay, ReturnTo: a.ReturnTo, Mailbox: loginOf(a.Mailbox),
		},
		HasSecret: a.HasSecret, HasMailboxSecret: a.HasMailboxSecret, MailboxSaid: a.MailboxSaid,
		DKIMDomain: a.DKIMDomain, DKIMSelector: a.DKIMSelector, Record: a.Record,
	}
}

func (in AccountIn) app() team.AccountInput {
	return team.AccountInput{
		Name: in.Name, Addresses: in.Addresses, UserID: in.UserID, Audience: in.Audience, Server: in.Server.app(), ServerSecret: in.ServerSecret,
		Connections: in.Connections, PerMinute: in.PerMinute, PerDay: in.PerDay, ReturnTo: in.ReturnTo, Mailbox: in.Mailbox.app(), MailboxSecret: in.MailboxSecret,
	}
}

func (s *Server) accountRoutes() {
	handle(s, op("accounts", http.MethodGet, "/api/accounts", "The mail servers that letters go through"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]accountOut], error) {
			list, err := s.app.Team.Accounts(ctx, u)
			out := make([]accountOut, 0, len(list))
			for _, a := range list {
				out = append(out, accountOf(a))
			}
			return ok(out), err
		})
	put := func(ctx context.Context, u domain.User, id int64, in AccountIn) (*body[accountOut], error) {
		a, err := s.app.Team.PutAccount(ctx, u, id, in.app())
		if err != nil {
			return nil, err
		}
		return ok(accountOf(a)), nil
	}
	handle(s, web.Making(op("addAccount", http.MethodPost, "/api/accounts", "Add a mail server")),
		func(ctx context.Context, u domain.User, in *body[AccountIn]) (*body[accountOut], error) {
			return put(ctx, u, 0, in.Body)
		})
	handle(s, op("changeAccount", http.MethodPut, "/api/accounts/{id}", "Change a mail server"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body AccountIn
		}) (*body[accountOut], error) {
			return put(ctx, u, in.ID, in.Body)
		})
	handle(s, op("deleteAccount", http.MethodDelete, "/api/accounts/{id}", "Take a mail server away"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Team.DeleteAccount(ctx, u, in.ID)
		})
	handle(s, op("putBackAccount", http.MethodPost, "/api/accounts/{id}/put-back", "Bring back a mail server that was taken away"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Team.PutBackAccount(ctx, u, in.ID)
		})
	handle(s, op("testAccount", http.MethodPost, "/api/accounts/{id}/test", "Sign in at the servers of an account, and tell how far it came"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[[]team.TestStep], error) {
			steps, err := s.app.Team.TestAccount(ctx, u, in.ID)
			return ok(append([]team.TestStep{}, steps...)), err
		})
	handle(s, op("dkim", http.MethodPost, "/api/accounts/{id}/dkim", "Make a key that signs the letters of an account"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Domain   string `json:"domain" maxLength:"253"`
				Selector string `json:"selector" maxLength:"63"`
			}
		}) (*body[accountOut], error) {
			a, err := s.app.Team.NewDKIMKey(ctx, u, in.ID, in.Body.Domain, in.Body.Selector)
			if err != nil {
				return nil, err
			}
			return ok(accountOf(a)), nil
		})
}
