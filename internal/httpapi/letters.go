package httpapi

import (
	"context"
	"net/http"
	"slices"
	"time"

	"lucidletter/core/advice"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/result"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

type LetterRow struct {
	ID        int64              `json:"id"`
	PersonID  int64              `json:"personId"`
	DealID    *int64             `json:"dealId,omitempty"`
	Internal  bool               `json:"internal" doc:"To colleagues about the deal"`
	Person    string             `json:"person"`
	ToEmail   string             `json:"toEmail"`
	Subject   string             `json:"subject"`
	Template  string             `json:"template"`
	State     domain.LetterState `json:"state" enum:"draft,waiting,sending,sent,refused,unsure,cancelled"`
	Reason    string             `json:"reason"`
	Attempts  int                `json:"attempts"`
	UpdatedAt time.Time          `json:"updatedAt"`
	DueAt     *time.Time         `json:"dueAt,omitempty"`
	SentAt    *time.Time         `json:"sentAt,omitempty"`
}

// OpenLetter is a letter that has not gone.
type OpenLetter struct {
	LetterRow
	Zone string `json:"zone" doc:"The recipient's time zone"`
}

func rowOf(l *domain.Letter, person, template string) LetterRow {
	reason, _ := result.ForPeople(l.Reason)
	if l.State == domain.Sent {
		reason = "" // what the server said stands among the delivery details
	}
	return LetterRow{l.ID, l.PersonID, l.DealID, l.Internal, person, l.ToEmail, l.SubjectLine, template, l.State, reason, l.Attempts, l.UpdatedAt, l.DueAt, l.SentAt}
}

// LetterPart is a part of a letter that is a page.
type LetterPart struct {
	Kind interchange.PartKind `json:"kind" enum:"words,link,picture"`
	Text string               `json:"text"`
	Link int                  `json:"link" doc:"The part that is the link around words, or -1"`
}

// DealChoice is a deal that a letter can be about.
type DealChoice struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type letterOut struct {
	LetterRow
	RoundID     *int64               `json:"roundId,omitempty" doc:"The round within which a draft is changed"`
	RunID       *int64               `json:"runId,omitempty" doc:"The run of a plan that it is a step of"`
	ToName      string               `json:"toName"`
	FromName    string               `json:"fromName"`
	FromEmail   string               `json:"fromEmail"`
	SubjectDoc  document.Document    `json:"subjectDoc"`
	Body        document.Document    `json:"body"`
	Version     int                  `json:"version"`
	Deal        string               `json:"deal"`
	PersonKind  field.Record         `json:"personKind"`
	Facts       []records.Fact       `json:"facts"`
	Gaps        []wire.Gap           `json:"gaps"`
	Stops       []wire.Note          `json:"stops"`
	Doubts      []library.Suggestion `json:"doubts"`
	Attachments []domain.Attachment  `json:"attachments"`
	WireSize    int                  `json:"wireSize" doc:"Bytes of the attachments on their way"`
	AlsoTo      []domain.Address     `json:"alsoTo" doc:"Who stands in To behind the addressee"`
	Deals       []DealChoice         `json:"deals" doc:"Of the person"`
	Cc          []domain.Address     `json:"cc"`
	Bcc         []domain.Address     `json:"bcc"`
	ReplyTo     string               `json:"replyTo"`
	Asked       []AskedOut           `json:"asked"`
	Tracking    compose.Tracking     `json:"tracking" doc:"Of a draft: whether opens and clicks are to be measured"`
	Answers     *int64               `json:"answers,omitempty" doc:"The incoming letter that it answers"`
	Quote       *domain.Quote        `json:"quote,omitempty" doc:"What it quotes below of that"`
	Strangers   []string             `json:"strangers" doc:"Who gets a copy and is in no record"`
	Remind      *time.Time           `json:"remind,omitempty" doc:"When to remind of an answer that did not come"`
	Signature   string               `json:"signature" doc:"The words of the signature that was put in"`
	Pieces      []string             `json:"pieces" doc:"The names of what was put in"`
	Advice      advice.Report        `json:"advice"`
	Times       desk.Times           `json:"times"`
	Page        string               `json:"page,omitempty" doc:"Of an HTML body, with its parts named"`
	Parts       []LetterPart         `json:"parts,omitempty" doc:"Of an HTML body, what can be changed in it"`
	TemplateID  *int64               `json:"templateId,omitempty"`
	TemplateVer *int                 `json:"templateVersion,omitempty"`
	News        string               `json:"templateNews,omitempty" doc:"What happened to the template since, such as: was withdrawn"`
	Kept        []domain.KeptWords   `json:"kept" doc:"What of a draft may speak of the records that it was written for before"`
	Before      int64                `json:"before,omitempty" doc:"The discarded draft that keeps the words of before"`
	RecordNews  []compose.RecordNews `json:"recordNews" doc:"What changed on the records since the draft was written from them"`
	Instead     string               `json:"instead,omitempty" enum:"discarded,sent,given" doc:"Of the answer to a save: what happened to the letter that was saved to; its words are in this new draft"`
}

func letterOutOf(l desk.LetterSheet) letterOut {
	out := letterOut{
		LetterRow: rowOf(&l.Letter, l.Person.Name(), l.TemplateName), ToName: l.ToName, FromName: l.FromName, FromEmail: l.FromEmail,
		SubjectDoc: l.Subject, Body: l.Body, Version: l.Version, Deal: l.DealName, PersonKind: l.Person.Kind,
		Facts: append([]records.Fact{}, l.Facts...), Gaps: []wire.Gap{}, Stops: wire.NotesOf(l.Stops, "", ""), Doubts: append([]library.Suggestion{}, l.Suggestions...),
		Asked: askedOf(l.Asked), Remind: l.Extras.Remind,
		Tracking: l.Tracking, Answers: l.AnswersID, Quote: l.Extras.Quote, Strangers: append([]string{}, l.Strangers...),
		News: l.TemplateNews, Before: l.Before, RecordNews: append([]compose.RecordNews{}, l.RecordNews...), Kept: append([]domain.KeptWords{}, l.Kept...), Instead: l.Instead,
		RoundID: l.RoundID, RunID: l.RunID, TemplateID: l.TemplateID, TemplateVer: l.TemplateVersion, Attachments: append([]domain.Attachment{}, l.Extras.Attachments...),
		AlsoTo: append([]domain.Address{}, l.Extras.AlsoTo...), Deals: []DealChoice{},
		Cc: append([]domain.Address{}, l.Extras.Cc...), Bcc: append([]domain.Address{}, l.Extras.Bcc...), ReplyTo: l.Extras.ReplyTo,
		Advice: l.Advice, Times: l.Times, WireSize: l.WireSize(), Pieces: []string{},
	}
	if l.Extras.Signature != nil {
		out.Signature = render.RenderText(*l.Extras.Signature)
	}
	for _, d := range l.Deals {
		out.Deals = append(out.Deals, DealChoice{d.ID, d.Name})
	}
	for _, p := range l.Extras.Pieces {
		out.Pieces = append(out.Pieces, p.Name)
	}
	if out.Advice.Notes == nil {
		out.Advice.Notes = []advice.Advice{}
	}
	if l.Body.Attrs.Body == document.BodyHTML {
		out.Page = letter.ShowPictures(interchange.ShowLetterParts(l.Body), library.PicturePath)
		for _, p := range interchange.LetterParts(l.Body) {
			out.Parts = append(out.Parts, LetterPart{p.Kind, p.Text, p.Link})
		}
	}
	for _, g := range l.Gaps {
		out.Gaps = append(out.Gaps, wire.Gap{
			Path: g.Path, Label: g.Label, Type: g.Type, Kind: g.Kind, Hint: g.Hint, Choices: append([]string{}, g.Choices...), Part: g.Part, Count: g.Count,
			Record: slices.Contains(l.Storable, g.Path),
		})
	}
	return out
}

type Wording struct {
	PersonID int64             `json:"personId" minimum:"1" doc:"Whom the words speak to; another person's letter is not touched"`
	Version  int               `json:"version" doc:"The version that the words were made on"`
	Subject  document.Document `json:"subject"`
	Body     document.Document `json:"body"`
}

func (w Wording) app() desk.Wording {
	return desk.Wording{PersonID: w.PersonID, Version: w.Version, Subject: w.Subject, Body: w.Body}
}

type proofOut struct {
	Mail  domain.ReadMail `json:"mail"`
	Size  int             `json:"size"`
	Sum   string          `json:"sum" doc:"Of all that its reader sees; given when it is sent, the letter goes only as it was shown"`
	Stops []wire.Note     `json:"stops"`
}

// letterAnswer turns a use case's letter into the answer.
func letterAnswer(l desk.LetterSheet, err error) (*body[letterOut], error) {
	if err != nil {
		return nil, err
	}
	return ok(letterOutOf(l)), nil
}

func (s *Server) letterRoutes() {
	handle(s, op("letters", http.MethodGet, "/api/letters", "My letters in some states, the newest first"),
		func(ctx context.Context, u domain.User, in *struct {
			State  []domain.LetterState `query:"state,explode" enum:"draft,waiting,sending,sent,refused,unsure,cancelled" required:"true"`
			Search string               `query:"q" maxLength:"200" doc:"Words of the subject, the recipient or the template"`
		}) (*body[[]LetterRow], error) {
			list, err := s.app.Desk.Letters(ctx, u, in.State, in.Search)
			out := make([]LetterRow, 0, len(list))
			for _, l := range list {
				out = append(out, rowOf(&l.Letter, l.PersonName, l.TemplateName))
			}
			return ok(out), err
		})
	handle(s, op("openLetters", http.MethodGet, "/api/open-letters", "My letters that have not gone: on their way, then drafts"),
		func(ctx context.Context, u domain.User, in *struct {
			Person  int64 `query:"person" minimum:"0"`
			Company int64 `query:"company" minimum:"0"`
			Deal    int64 `query:"deal" minimum:"0"`
		}) (*body[[]OpenLetter], error) {
			list, err := s.app.Desk.OpenLetters(ctx, u, in.Person, in.Company, in.Deal)
			out := make([]OpenLetter, 0, len(list))
			for _, l := range list {
				out = append(out, OpenLetter{rowOf(&l.Letter, l.PersonName, l.TemplateName), l.Zone})
			}
			return ok(out), err
		})
	handle(s, op("onTheWay", http.MethodGet, "/api/on-the-way", "The letters to people, or about deals, that wait to go"),
		func(ctx context.Context, u domain.User, in *struct {
			Kind field.Record `query:"kind" enum:"person,deal" required:"true"`
			ID   []int64      `query:"id,explode" maxItems:"10" required:"true"`
		}) (*body[[]outbound.OnTheWay], error) {
			list, err := s.app.Outbound.OnTheWayOn(ctx, u, in.Kind, in.ID...)
			return ok(list), err
		})
	handle(s, op("unfit", http.MethodGet, "/api/unfit", "My letters that wait to go and no longer say what their records say"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]outbound.OnTheWay], error) {
			list, err := s.app.Outbound.UnfitOf(ctx, u)
			return ok(list), err
		})
	handle(s, web.Making(op("startLetter", http.MethodPost, "/api/letters", "Start a letter to a person")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				PersonID   int64  `json:"personId"`
				TemplateID *int64 `json:"templateId,omitempty"`
				DealID     *int64 `json:"dealId,omitempty"`
				Fitting    bool   `json:"fitting,omitempty" doc:"Takes the template's wording in the person's language where there is one"`
			}
		}) (*body[letterOut], error) {
			if t := in.Body.TemplateID; t != nil && in.Body.Fitting {
				id, err := s.app.Desk.FittingWording(ctx, u, *t, in.Body.PersonID, in.Body.DealID)
				if err != nil {
					return letterAnswer(desk.LetterSheet{}, err)
				}
				in.Body.TemplateID = &id
			}
			return letterAnswer(s.app.Desk.StartLetter(ctx, u, in.Body.PersonID, in.Body.TemplateID, in.Body.DealID))
		})
	handle(s, op("letter", http.MethodGet, "/api/letters/{id}", "One letter"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Letter(ctx, u, in.ID))
		})
	handle(s, web.Large(op("saveDraft", http.MethodPut, "/api/letters/{id}", "Save the wording of a draft"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body Wording
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SaveDraft(ctx, u, in.ID, in.Body.app()))
		})
	s.fillRoutes()
	s.draftRoutes()
	s.sendRoutes()
}

func (s *Server) draftRoutes() {
	handle(s, op("discard", http.MethodDelete, "/api/letters/{id}", "Discard a draft; it can be restored"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Desk.Discard(ctx, u, in.ID)
		})
	handle(s, op("restoreLetter", http.MethodPost, "/api/letters/{id}/restore", "Restore a draft that was discarded"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.Restore(ctx, u, in.ID))
		})
	handle(s, web.Large(op("recordNews", http.MethodPost, "/api/letters/{id}/record-news", "Save the wording with what changed on the records, or leave it as it is"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Take bool `json:"take" doc:"Write the new values into the letter"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SettleRecordNews(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Take))
		})
	handle(s, web.Large(op("settleKept", http.MethodPost, "/api/letters/{id}/kept", "Save the wording: what in it may speak of the records before fits"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body Wording
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SettleKept(ctx, u, in.ID, in.Body.app()))
		})
	handle(s, op("proof", http.MethodGet, "/api/letters/{id}/proof", "What the recipient gets, read back from the composed bytes"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Local   string `query:"local" doc:"When it is to go, as for sending"`
			Zone    string `query:"zone"`
			Morning bool   `query:"morning"`
		}) (*body[proofOut], error) {
			p, err := s.app.Desk.ProofOf(ctx, u, in.ID, desk.When{Local: in.Local, Zone: in.Zone, Morning: in.Morning})
			return ok(proofOut{p.Mail, p.Size, p.Sum, wire.NotesOf(p.Stops, "", "")}), err
		})
}

type sourceOut struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}
