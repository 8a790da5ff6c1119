package httpapi

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/question"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// AskedOut is a question that a letter asks, with the answers that came last.
type AskedOut struct {
	ID         int64          `json:"id"`
	Sheet      question.Sheet `json:"sheet"`
	Answers    []string       `json:"answers" doc:"In the order of the questions; empty while nobody answered"`
	AnsweredAt *time.Time     `json:"answeredAt,omitempty"`
}

func askedOf(list []domain.Asked) []AskedOut {
	out := make([]AskedOut, 0, len(list))
	for _, q := range list {
		out = append(out, AskedOut{q.ID, q.Sheet, append([]string{}, q.Answers...), q.AnsweredAt})
	}
	return out
}

// askRoutes put questions into letters.
func (s *Server) askRoutes() {
	handle(s, web.Making(op("ask", http.MethodPost, "/api/letters/{id}/questions", "Have a letter ask something; gives the words to put in")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body question.Sheet
		}) (*body[document.Document], error) {
			d, err := s.app.Desk.Ask(ctx, u, in.ID, in.Body)
			return ok(d), err
		})
	handle(s, web.Large(op("askNoMore", http.MethodPost, "/api/letters/{id}/questions/{question}/out", "Save the wording without a question"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Question int64 `path:"question"`
			Body     Wording
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.AskNoMore(ctx, u, in.ID, in.Body.app(), in.Question))
		})
}

// calendar answers the private address of a user's calendar; its token is what
// opens it, since calendar programs do not sign in.
func (s *Server) calendar(c *gin.Context) {
	token, _ := strings.CutSuffix(c.Param("file"), ".ics")
	u, tasks, letters, err := s.app.Tasks.CalendarOf(c.Request.Context(), token)
	var raw []byte
	var steps []domain.ComingStep
	if err == nil {
		steps, err = s.app.Plans.Coming(c.Request.Context(), u)
	}
	if err == nil {
		raw, err = files.Calendar(tasks, letters, steps, s.app.PublicURL(), s.app.Now())
	}
	switch {
	case errors.Is(err, domain.ErrNotFound):
		c.String(http.StatusNotFound, "There is no calendar at this address; take the address from the program again.\n")
	case err != nil:
		s.log.Error("calendar not written", "error", err)
		c.String(http.StatusInternalServerError, "The calendar could not be written; try again later.\n")
	default:
		c.Header("Content-Disposition", `attachment; filename="tasks.ics"`)
		c.Header("Cache-Control", "private, no-cache")
		c.Data(http.StatusOK, "text/calendar; charset=utf-8", raw)
	}
}

// dealRoutes are the deals, and letters to colleagues about them.
func (s *Server) dealRoutes() {
	handle(s, op("deal", http.MethodGet, "/api/deals/{id}", "One deal with its people and its history"),
		func(ctx context.Context, _ domain.User, in *IDInput) (*body[records.DealSheet], error) {
			d, err := s.app.Records.DealPage(ctx, in.ID)
			return ok(d), err
		})
	handle(s, op("changeRecord", http.MethodPatch, "/api/records/{kind}/{id}", "Change one value of a deal, a company or a team"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Kind field.Record `path:"kind" enum:"deal,company,team"`
			Body struct {
				Path  string `json:"path" maxLength:"80"`
				Was   string `json:"was" doc:"What stood there when it was changed, in canonical form"`
				Value string `json:"value"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Records.ChangeRecord(ctx, u, in.Kind, in.ID, in.Body.Path, in.Body.Was, in.Body.Value)
		})
	handle(s, op("teams", http.MethodGet, "/api/teams", "The teams with their values"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]records.TeamSheet], error) {
			list, err := s.app.Records.TeamSheets(ctx, u)
			return ok(list), err
		})
	handle(s, web.Making(op("startInternal", http.MethodPost, "/api/deals/{id}/internal", "Start a letter to colleagues about a deal")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Colleagues []int64 `json:"colleagues" doc:"Ids of users"`
				TemplateID *int64  `json:"templateId,omitempty"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.StartInternal(ctx, u, in.ID, in.Body.Colleagues, in.Body.TemplateID))
		})
	handle(s, web.Large(op("setColleagues", http.MethodPost, "/api/letters/{id}/colleagues", "Save the wording of a letter to colleagues for others of them"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Wording
				Colleagues []int64 `json:"colleagues"`
			}
		}) (*body[letterOut], error) {
			return letterAnswer(s.app.Desk.SetColleagues(ctx, u, in.ID, in.Body.Wording.app(), in.Body.Colleagues))
		})
}
