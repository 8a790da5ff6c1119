package httpapi

import (
	"context"
	"net/http"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type addressesOut struct {
	Found []domain.Address `json:"found"`
	Rest  []string         `json:"rest" doc:"What no address was found in"`
}

// envelopeRoutes are what stands around the wording of a letter.
func (s *Server) envelopeRoutes() {
	handle(s, web.Large(op("setEnvelope", http.MethodPost, "/api/letters/{id}/envelope", "Save the wording with other copies and another address for answers"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Cc      []domain.Address `json:"cc"`
				Bcc     []domain.Address `json:"bcc"`
				ReplyTo string           `json:"replyTo"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetEnvelope(ctx, u, in.ID, in.Body.Wording.app(), desk.Envelope{Cc: in.Body.Cc, Bcc: in.Body.Bcc, ReplyTo: in.Body.ReplyTo}))
		})
	handle(s, web.Large(op("setAddressee", http.MethodPost, "/api/letters/{id}/addressee", "Save the wording for another person or deal, whose values go in"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				ToPersonID int64            `json:"toPersonId" minimum:"1" doc:"Whom the letter goes to from now on"`
				AlsoTo     []domain.Address `json:"alsoTo" doc:"Who else stands in To"`
				DealID     *int64           `json:"dealId,omitempty" doc:"The person's only open deal without it"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetAddressee(ctx, u, in.ID, in.Body.Wording.app(), desk.Addressee{PersonID: in.Body.ToPersonID, AlsoTo: in.Body.AlsoTo, DealID: in.Body.DealID}))
		})
	handle(s, web.Large(op("setLetterPart", http.MethodPost, "/api/letters/{id}/part", "Save a letter that is a page with other words in one part"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Part int    `json:"part"`
				Text string `json:"text"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetLetterPart(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Part, in.Body.Text))
		})
	s.addressRoutes()
}

func (s *Server) addressRoutes() {
	handle(s, op("whoHas", http.MethodGet, "/api/addresses/people", "The people with an address"),
		func(ctx context.Context, _ domain.User, in *struct {
			Email string `query:"email" required:"true" maxLength:"254"`
		}) (*body[[]desk.KnownAddress], error) {
			list, err := s.app.Desk.WhoHas(ctx, in.Email)
			return ok(list), err
		})
	handle(s, web.Large(op("setAttachments", http.MethodPost, "/api/letters/{id}/attachments", "Save the wording with other attachments"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Attachments []domain.Attachment `json:"attachments" doc:"Uploaded ones by sha, approved documents by documentId"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetAttachments(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Attachments))
		})
	handle(s, web.Large(op("upload", http.MethodPost, "/api/uploads", "Store a file that is to be attached to a letter"), library.MaxAttachment+1<<20),
		func(ctx context.Context, u domain.User, in *struct{ RawBody Upload }) (*body[domain.Attachment], error) {
			name, raw, err := readUpload(in.RawBody, library.MaxAttachment)
			if err != nil {
				return nil, err
			}
			at, err := s.app.Library.Upload(ctx, u, name, raw)
			return ok(at), err
		})
	handle(s, op("readAddresses", http.MethodPost, "/api/addresses/read", "Read a list of addresses as people paste them"),
		func(_ context.Context, _ domain.User, in *struct {
			Body struct {
				Text string `json:"text" maxLength:"100000"`
			}
		}) (*body[addressesOut], error) {
			found, rest := records.ReadAddresses(in.Body.Text)
			return ok(addressesOut{append([]domain.Address{}, found...), append([]string{}, rest...)}), nil
		})
	handle(s, op("completeAddress", http.MethodGet, "/api/addresses", "People and colleagues whose name or address begins with a text"),
		func(ctx context.Context, _ domain.User, in *struct {
			Q string `query:"q"`
		}) (*body[[]desk.KnownAddress], error) {
			list, err := s.app.Desk.CompleteAddress(ctx, in.Q)
			return ok(list), err
		})
	handle(s, web.Large(op("setFrom", http.MethodPost, "/api/letters/{id}/from", "Save the wording from another of my addresses, with its signature"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				From string `json:"from"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetFrom(ctx, u, in.ID, in.Body.Wording.app(), in.Body.From))
		})
	s.pieceRoutes()
	s.senderRoutes()
	s.asTemplateRoutes()
}
