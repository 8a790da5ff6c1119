package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/field"
	"lucidletter/core/twin"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// RecordInput names a record.
type RecordInput struct {
	Kind field.Record `path:"kind" enum:"person,company,deal"`
	ID   int64        `path:"id" minimum:"1"`
}

// typedValues are values by field path, as people write them.
type typedValues map[string]string

type CompanyChoice struct {
	CompanyID *int64 `json:"companyId,omitempty" doc:"One that is there"`
	Company   string `json:"company,omitempty" maxLength:"200" doc:"Or a name; one is made when there is none of it"`
}

// makingRoutes write records down and take them away.
func (s *Server) makingRoutes() {
	handle(s, web.Making(op("addPerson", http.MethodPost, "/api/records/person", "Write down a lead or a contact")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				CompanyChoice
				Kind    field.Record `json:"kind" enum:"lead,contact"`
				Values  typedValues  `json:"values"`
				OwnerID *int64       `json:"ownerId,omitempty" doc:"Who is signed in without it"`
			}
		}) (*body[wire.MadeRecord], error) {
			b := &in.Body
			p, err := s.app.Records.AddPerson(ctx, u, records.NewPerson{Kind: b.Kind, Values: b.Values, CompanyID: b.CompanyID, Company: b.Company, OwnerID: b.OwnerID})
			return ok(wire.MadeRecord{ID: p.ID}), err
		})
	handle(s, web.Making(op("addCompany", http.MethodPost, "/api/records/company", "Write down a company")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Values  typedValues `json:"values"`
				OwnerID *int64      `json:"ownerId,omitempty"`
			}
		}) (*body[wire.MadeRecord], error) {
			id, err := s.app.Records.AddCompany(ctx, u, records.NewCompany{Values: in.Body.Values, OwnerID: in.Body.OwnerID})
			return ok(wire.MadeRecord{ID: id}), err
		})
	handle(s, web.Making(op("addDeal", http.MethodPost, "/api/records/deal", "Write down a deal")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Values    typedValues `json:"values"`
				CompanyID *int64      `json:"companyId,omitempty" doc:"That of the main contact without it"`
				Company   string      `json:"company,omitempty" doc:"The name of one instead, which is made when there is none"`
				MainID    *int64      `json:"mainId,omitempty" doc:"The main contact"`
				OtherIDs  []int64     `json:"otherIds,omitempty"`
				OwnerID   *int64      `json:"ownerId,omitempty"`
			}
		}) (*body[wire.MadeRecord], error) {
			b := &in.Body
			id, err := s.app.Records.AddDeal(ctx, u, records.NewDeal{Values: b.Values, CompanyID: b.CompanyID, Company: b.Company, MainID: b.MainID, OtherIDs: b.OtherIDs, OwnerID: b.OwnerID})
			return ok(wire.MadeRecord{ID: id}), err
		})
	handle(s, op("twins", http.MethodGet, "/api/twins", "People who may be the one that is being written down"),
		func(ctx context.Context, _ domain.User, in *struct {
			First   string `query:"first" maxLength:"200"`
			Last    string `query:"last" maxLength:"200"`
			Email   string `query:"email" maxLength:"254"`
			Company string `query:"company" maxLength:"200"`
		}) (*body[[]records.Twin], error) {
			list, err := s.app.Records.Twins(ctx, twin.Person{First: in.First, Last: in.Last, Email: in.Email, Company: in.Company})
			return ok(list), err
		})
	s.relationRoutes()
	s.deletingRoutes()
}

// relationRoutes say whose a record is and what it belongs to.
func (s *Server) relationRoutes() {
	handle(s, op("setOwner", http.MethodPut, "/api/records/{kind}/{id}/owner", "Give a record to a colleague"),
		func(ctx context.Context, u domain.User, in *struct {
			RecordInput
			Body struct {
				OwnerID int64 `json:"ownerId" minimum:"1"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Records.SetOwner(ctx, u, in.Kind, in.ID, in.Body.OwnerID)
		})
	handle(s, op("setCompany", http.MethodPut, "/api/records/{kind}/{id}/company", "Say for whom a contact works, or with whom a deal is; without a company, for nobody"),
		func(ctx context.Context, u domain.User, in *struct {
			Kind field.Record `path:"kind" enum:"person,deal"`
			ID   int64        `path:"id" minimum:"1"`
			Body CompanyChoice
		}) (*struct{}, error) {
			return nil, s.app.Records.SetCompany(ctx, u, in.Kind, in.ID, in.Body.CompanyID, in.Body.Company)
		})
	handle(s, op("setDealPeople", http.MethodPut, "/api/deals/{id}/people", "Say who is in a deal"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				MainID   *int64  `json:"mainId,omitempty" doc:"The main contact"`
				OtherIDs []int64 `json:"otherIds"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Records.SetDealPeople(ctx, u, in.ID, in.Body.MainID, in.Body.OtherIDs)
		})
	handle(s, web.Making(op("makeContact", http.MethodPost, "/api/people/{id}/contact", "Make a contact of a lead")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				CompanyChoice
				Version int         `json:"version"`
				Deal    typedValues `json:"deal,omitempty" doc:"The values of a deal that is made with it"`
			}
		}) (*body[records.Qualified], error) {
			q := records.Qualify{CompanyID: in.Body.CompanyID, Company: in.Body.Company}
			if in.Body.Deal != nil {
				q.Deal = &records.NewDeal{Values: in.Body.Deal}
			}
			out, err := s.app.Records.MakeContact(ctx, u, in.ID, in.Body.Version, q)
			return ok(out), err
		})
	handle(s, op("makeLead", http.MethodPost, "/api/people/{id}/contact/undo", "Undo making a contact of a lead; the answer names what stays"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Undo int64 `json:"undo" doc:"The number that making the contact gave"`
			}
		}) (*body[[]string], error) {
			left, err := s.app.Records.MakeLead(ctx, u, in.ID, in.Body.Undo)
			return ok(left), err
		})
}

// deletingRoutes take records away and put them back, and write notes.
func (s *Server) deletingRoutes() {
	handle(s, op("hangsOn", http.MethodGet, "/api/records/{kind}/{id}/hangs", "What belongs to a record, and stays when it is deleted"),
		func(ctx context.Context, _ domain.User, in *RecordInput) (*body[domain.Hangs], error) {
			h, err := s.app.Records.HangsOn(ctx, in.Kind, in.ID)
			return ok(h), err
		})
	handle(s, op("deleteRecord", http.MethodDelete, "/api/records/{kind}/{id}", "Delete a record; what was written stays"),
		func(ctx context.Context, u domain.User, in *RecordInput) (*struct{}, error) {
			return nil, s.app.Records.Delete(ctx, u, in.Kind, in.ID)
		})
	handle(s, op("putBackRecord", http.MethodPost, "/api/records/{kind}/{id}/put-back", "Put back a record that was deleted"),
		func(ctx context.Context, u domain.User, in *RecordInput) (*struct{}, error) {
			return nil, s.app.Records.PutBack(ctx, u, in.Kind, in.ID)
		})
	handle(s, web.Making(op("addNote", http.MethodPost, "/api/records/{kind}/{id}/notes", "Write down a call, a visit or a note in the history of a record")),
		func(ctx context.Context, u domain.User, in *struct {
			RecordInput
			Body struct {
				What domain.EntryKind `json:"what" enum:"call,visit,note"`
				Text string           `json:"text" maxLength:"10000"`
			}
		}) (*body[wire.MadeRecord], error) {
			id, err := s.app.Records.AddNote(ctx, u, in.Kind, in.ID, in.Body.What, in.Body.Text)
			return ok(wire.MadeRecord{ID: id}), err
		})
	handle(s, op("deleteNote", http.MethodDelete, "/api/notes/{id}", "Take a note of one's own out of a history"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Records.DeleteNote(ctx, u, in.ID)
		})
}
