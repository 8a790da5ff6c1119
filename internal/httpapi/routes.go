package httpapi

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/follow"
	"lucidletter/internal/httpapi/rounds"
	"lucidletter/internal/httpapi/web"
)

func (s *Server) routes() {
	s.sessionRoutes()
	s.peopleRoutes()
	s.makingRoutes()
	s.listRoutes()
	s.manyRoutes()
	s.mergeRoutes()
	s.libraryRoutes()
	s.templateRoutes()
	s.sheetRoutes()
	s.shelfRoutes()
	s.passageRoutes()
	s.stationeryRoutes()
	s.fileRoutes()
	s.inOutRoutes()
	s.dealRoutes()
	s.letterRoutes()
	s.backRoutes()
	s.historyRoutes()
	s.accountRoutes()
	s.askRoutes()
	s.optOutRoutes()
	s.postRoutes()
	follow.Register(s.web, s.app)
	rounds.Register(s.web, s.app)
}

// me is the one who is signed in.
type me struct {
	domain.User
	Name string `json:"name"`
	May  mayDo  `json:"may" doc:"What the screens need not ask for each thing"`
}

// mayDo is what somebody may do whatever it is about.
type mayDo struct {
	EditShared   bool `json:"editShared" doc:"Stationery, documents, own fields; let letters go that are on hold; let somebody be written to again"`
	EditSenders  bool `json:"editSenders" doc:"Which addresses others write from"`
	EditSettings bool `json:"editSettings" doc:"What holds for the workspace, and how its letters go"`
}

func meOf(u domain.User) me {
	may := func(what access.Action) bool { return access.May(u.As(), what, access.Thing{}) }
	return me{u, u.Name(), mayDo{may(access.EditShared), may(access.EditSenders), may(access.EditSettings)}}
}

// IDInput is the number in the address of an operation.
type IDInput = web.IDInput

func (s *Server) sessionRoutes() {
	huma.Register(s.api, op("signIn", http.MethodPost, "/api/session", "Sign in"),
		func(ctx context.Context, in *struct {
			Device string `cookie:"lucidletter_device" doc:"Marks a device on which somebody signed in before"`
			Body   struct {
				Email    string `json:"email" maxLength:"254"`
				Password string `json:"password" maxLength:"200"`
			}
		}) (*signedInOut, error) {
			u, err := s.signIn(ctx, in.Body.Email, in.Body.Password, in.Device)
			if err == nil {
				err = s.sessions.RenewToken(ctx)
			}
			if err != nil {
				return nil, s.answer("signIn", err)
			}
			s.sessions.Put(ctx, userKey, u.ID)
			out := &signedInOut{Body: meOf(u)}
			if c := s.device(&u); c != nil {
				out.Device = c.String()
			}
			return out, nil
		})
	huma.Register(s.api, op("sessionState", http.MethodGet, "/api/session/state", "Whether somebody is signed in; no error for those who are not"),
		func(ctx context.Context, _ *struct{}) (*body[sessionState], error) {
			_, err := s.user(ctx)
			if err != nil && !errors.Is(err, errSignedOut) {
				return nil, s.answer("sessionState", err)
			}
			return ok(sessionState{err == nil}), nil
		})
	handle(s, op("session", http.MethodGet, "/api/session", "Who is signed in"),
		func(_ context.Context, u domain.User, _ *struct{}) (*body[me], error) { return ok(meOf(u)), nil })
	handle(s, op("signOut", http.MethodDelete, "/api/session", "Sign out"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*struct{}, error) {
			return nil, s.sessions.Destroy(ctx)
		})
	handle(s, op("fields", http.MethodGet, "/api/fields", "The field catalogue"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[[]fieldInfo], error) {
			cat, err := s.app.Records.Catalogue(ctx)
			if err != nil {
				return nil, err
			}
			out := make([]fieldInfo, 0, cat.Len())
			for _, d := range cat.Fields() {
				out = append(out, fieldInfo{d.Path, d.Record, d.Label, cat.Name(d.Path), d.Type, append([]string{}, d.Choices...), d.Own, records.AtHome(d), transfer.Importable(d), records.AtHome(d) && records.Writable(d)})
			}
			return ok(out), nil
		})
}

// signedInOut is who has signed in, and the mark of their device.
type signedInOut struct {
	Device string `header:"Set-Cookie"`
	Body   me
}

type sessionState struct {
	SignedIn bool `json:"signedIn"`
}

type fieldInfo struct {
	Path    string       `json:"path"`
	Record  field.Record `json:"record"`
	Label   string       `json:"label"`
	Name    string       `json:"name" doc:"The label, with the record where another field is called the same"`
	Type    field.Type   `json:"type"`
	Choices []string     `json:"choices"`
	Own     bool         `json:"own"`
	Home    bool         `json:"home" doc:"It stands on this record, and is not one of another record seen from here"`
	Import  bool         `json:"import" doc:"A column of a file can be for it"`
	Write   bool         `json:"write" doc:"It can be written down when a record is made"`
}

// personOut is everything that the page of a person shows.
type personOut struct {
	records.PersonSheet
	Unfit []outbound.OnTheWay `json:"unfit" doc:"Letters on their way that say something else than the record does by now"`
}

func (s *Server) person(ctx context.Context, u domain.User, id int64) (*body[personOut], error) {
	p, err := s.app.Records.Person(ctx, u, id)
	if err != nil {
		return nil, err
	}
	unfit, err := s.app.Outbound.UnfitTo(ctx, u, id)
	return ok(personOut{p, unfit}), err
}

func (s *Server) peopleRoutes() {
	s.tableRoutes()
	handle(s, web.Making(op("addLead", http.MethodPost, "/api/people", "Make a lead of somebody who is known by an address")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Text string `json:"text" maxLength:"500" doc:"An address, alone or with a name"`
			}
		}) (*body[domain.Person], error) {
			p, err := s.app.Records.AddLead(ctx, u, in.Body.Text)
			return ok(p), err
		})
	handle(s, op("person", http.MethodGet, "/api/people/{id}", "One person"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[personOut], error) {
			return s.person(ctx, u, in.ID)
		})
	handle(s, op("changePerson", http.MethodPatch, "/api/people/{id}", "Change fields of a person"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Version int               `json:"version,omitempty" doc:"The one that the change was made on"`
				Was     map[string]string `json:"was,omitempty" doc:"Instead of the version: the values that stood in the fields"`
				Set     map[string]string `json:"set" doc:"Field paths and values in canonical form; an empty value clears the field"`
			}
		}) (*body[personOut], error) {
			var err error
			if in.Body.Version > 0 {
				_, err = s.app.Records.ChangePerson(ctx, u, in.ID, in.Body.Version, in.Body.Set)
			} else {
				_, err = s.app.Records.ChangeValues(ctx, u, in.ID, in.Body.Was, in.Body.Set)
			}
			if err != nil {
				return nil, err
			}
			return s.person(ctx, u, in.ID)
		})
	handle(s, op("choices", http.MethodGet, "/api/people/{id}/templates", "The ready templates, merged with this person"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Deal int64 `query:"deal" minimum:"0"`
		}) (*body[[]library.Choice], error) {
			c, err := s.app.Desk.ChoicesFor(ctx, u, in.ID, optional(in.Deal))
			return ok(append([]library.Choice{}, c...)), err
		})
	s.importRoutes()
}

func optional(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}
