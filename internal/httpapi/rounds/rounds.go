// Package rounds carries rounds over HTTP.
package rounds

import (
	"cmp"
	"context"
	"encoding/csv"
	"io"
	"net/http"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/question"
	"lucidletter/internal/app"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// routes are the operations of this package.
type routes struct {
	api *web.API
	app *app.App
}

// Register registers the operations.
func Register(api *web.API, a *app.App) {
	r := &routes{api, a}
	r.rounds()
	r.changes()
	r.recipes()
}

// RoundOut is a round as its page shows it.
type RoundOut struct {
	ID           int64                `json:"id"`
	Name         string               `json:"name"`
	State        domain.RoundState    `json:"state" enum:"open,sending,paused,done,stopped"`
	Reason       string               `json:"reason" doc:"Why it is paused"`
	Version      int                  `json:"version"`
	List         string               `json:"list" doc:"The list that it began with, empty: a selection"`
	Doubles      int                  `json:"doubles" doc:"People who were picked twice; each gets one letter"`
	TemplateID   *int64               `json:"templateId,omitempty"`
	Template     string               `json:"template"`
	TemplateNews string               `json:"templateNews" doc:"What happened to it since the sender looked"`
	PartNews     string               `json:"partNews" doc:"What else of its letters was changed since the sender looked, as a sentence"`
	Languages    []string             `json:"languages" doc:"Of its wordings in other languages, such as German"`
	OwnWording   bool                 `json:"ownWording" doc:"The round has words of its own"`
	Ask          *question.Sheet      `json:"ask,omitempty" doc:"What each letter asks"`
	From         string               `json:"from"`
	ReplyTo      string               `json:"replyTo"`
	Attachments  []domain.Attachment  `json:"attachments"`
	When         domain.RoundWhen     `json:"when"`
	After        domain.RoundAfter    `json:"after"`
	Total        int                  `json:"total"`
	Groups       domain.RoundGroups   `json:"groups"`
	Asks         []AskOut             `json:"asks" doc:"The blanks of the template"`
	Missing      []rounds.Lack        `json:"missing"`
	Reasons      []rounds.ReasonGroup `json:"reasons"`
	PerDay       int                  `json:"perDay" doc:"How many letters the account sends in a day; 0 any number"`
	Grounds      []string             `json:"grounds"`
	Unmailable   bool                 `json:"unmailable" doc:"Nobody of the round has an address"`
	HadToday     int                  `json:"hadToday" doc:"How many of those whose letters could go have a letter today already"`
	Working      bool                 `json:"working" doc:"People are being checked; ask again"`
	NextAt       *time.Time           `json:"nextAt,omitempty" doc:"When the next letter goes"`
	Recipe       string               `json:"recipe"`
	Look         string               `json:"look" doc:"What its recipe says to look at"`
	CreatedAt    time.Time            `json:"createdAt"`
	BeganAt      *time.Time           `json:"beganAt,omitempty"`
	EndedAt      *time.Time           `json:"endedAt,omitempty"`
}

// AskOut is a blank of the template of a round.
type AskOut struct {
	Path     string   `json:"path"`
	Label    string   `json:"label"`
	Kind     string   `json:"kind"`
	Hint     string   `json:"hint"`
	Choices  []string `json:"choices"`
	Optional bool     `json:"optional"`
	Value    string   `json:"value" doc:"What was answered for everybody, empty nothing yet"`
}

func roundOf(s *rounds.Sheet) RoundOut {
	out := RoundOut{
		ID: s.ID, Name: s.Name, State: s.State, Reason: s.Reason, Version: s.Version, List: s.List, Doubles: s.Doubles, TemplateID: s.TemplateID, Template: s.Template,
		TemplateNews: s.TemplateNews, PartNews: s.PartNews, Languages: append([]string{}, s.Languages...), OwnWording: s.Said.Wording != nil, Ask: s.Said.Ask, From: s.Said.From, ReplyTo: s.Said.ReplyTo, Attachments: append([]domain.Attachment{}, s.Said.Attachments...), When: s.Said.When, After: s.Said.After, Total: s.Total,
		Groups: s.Groups, Asks: []AskOut{}, Missing: s.Missing, Reasons: s.Reasons, PerDay: s.PerDay, Grounds: append([]string{}, s.Grounds...), Unmailable: s.Unmailable, HadToday: s.HadToday, Working: s.Working,
		NextAt: s.NextAt, CreatedAt: s.CreatedAt, BeganAt: s.BeganAt, EndedAt: s.EndedAt,
	}
	for _, a := range s.Asks {
		out.Asks = append(out.Asks, AskOut(a))
	}
	if s.Recipe != nil {
		out.Recipe, out.Look = s.Recipe.Name, s.Recipe.Said.Look
	}
	return out
}

// RoundLine is a round in the list of rounds.
type RoundLine struct {
	ID        int64              `json:"id"`
	Name      string             `json:"name"`
	State     domain.RoundState  `json:"state" enum:"open,sending,paused,done,stopped"`
	Template  string             `json:"template"`
	Groups    domain.RoundGroups `json:"groups"`
	Total     int                `json:"total"`
	UpdatedAt time.Time          `json:"updatedAt"`
}

// MemberOut is one person in the list of a round.
type MemberOut struct {
	PersonID  int64      `json:"personId"`
	Name      string     `json:"name"`
	Company   string     `json:"company"`
	Email     string     `json:"email"`
	State     string     `json:"state" enum:"not checked,ready,gap,changed,set aside,skipped,waiting,sending,sent,refused,unsure,cancelled,taken back"`
	Why       string     `json:"why"`
	Proofread bool       `json:"proofread"`
	Stale     bool       `json:"stale" doc:"Was proofread with other words"`
	Sum       string     `json:"sum" doc:"Of the words of the letter"`
	LetterID  *int64     `json:"letterId,omitempty"`
	Outcome   string     `json:"outcome" doc:"What came back: replied, opted out, bounced, away, clicked, opened"`
	SentAt    *time.Time `json:"sentAt,omitempty"`
	GoAt      *time.Time `json:"goAt,omitempty"`
	Codes     []string   `json:"codes" doc:"Of the reasons for which they are skipped"`
}

func memberOf(r *domain.MemberRow) MemberOut {
	out := MemberOut{
		PersonID: r.PersonID, Name: r.Name(), Company: r.Company, Email: r.Email, Proofread: r.Proofread(), Stale: r.Good != "" && !r.Proofread(),
		Sum: r.Sum, LetterID: r.LetterID, Outcome: r.Outcome, SentAt: r.SentAt, GoAt: r.GoAt, Codes: []string{},
	}
	for _, one := range r.Reasons {
		out.Codes = append(out.Codes, string(one.Code))
	}
	out.State, out.Why = rounds.Standing(r)
	return out
}

// MembersIn asks for people of a round.
type MembersIn struct {
	web.IDInput
	Group   string `query:"group" maxLength:"20" doc:"Those who stand there: ready, gap, aside, skipped, waiting, sent, refused, unsure, left, unknown; good, open or changed of the ready ones; told; or what came back"`
	Reason  string `query:"reason" maxLength:"20"`
	Missing string `query:"missing" maxLength:"120"`
	Search  string `query:"q" maxLength:"200"`
	Hardest bool   `query:"hardest" doc:"The hardest letters first"`
	Offset  int    `query:"offset" minimum:"0"`
	Limit   int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
}

func (in *MembersIn) query() domain.MembersQuery {
	return domain.MembersQuery{RoundID: in.ID, Group: in.Group, Reason: eligibility.Code(in.Reason), Missing: in.Missing, Search: in.Search, Hardest: in.Hardest, Offset: in.Offset, Limit: in.Limit}
}

// ShownOut is the letter of one person of a round.
type ShownOut struct {
	Person      MemberOut            `json:"person"`
	Template    string               `json:"template"`
	Mail        *domain.ReadMail     `json:"mail,omitempty" doc:"The letter as it would go, or went; missing where none can be made"`
	Why         string               `json:"why" doc:"Why there is none"`
	Stops       []string             `json:"stops"`
	Gaps        []wire.Gap           `json:"gaps"`
	Differs     []library.Stretch    `json:"differs" doc:"From the letter that was looked at before"`
	Suggestions []library.Suggestion `json:"suggestions"`
	Fills       map[string]string    `json:"fills" doc:"What was filled in for this letter alone"`
}

// PeopleIn names people of a round: some, or those alike.
type PeopleIn struct {
	People  []int64 `json:"people,omitempty" maxItems:"100000"`
	Reason  string  `json:"reason,omitempty" maxLength:"20" doc:"All who are skipped for it; or, with people, the reason that is overruled"`
	Missing string  `json:"missing,omitempty" maxLength:"120" doc:"All who lack it"`
}

func (r *routes) people(ctx context.Context, u domain.User, id int64, in *PeopleIn) ([]int64, error) {
	if len(in.People) > 0 {
		return in.People, nil
	}
	return r.app.Rounds.Alike(ctx, u, id, in.Missing, eligibility.Code(in.Reason))
}

type doneOut struct {
	People int `json:"people" doc:"With how many it was done"`
}

// rounds are the operations about rounds: one template to many people.
func (r *routes) rounds() {
	web.Handle(r.api, web.Op("rounds", http.MethodGet, "/api/rounds", "My rounds, the newest first"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*web.Body[[]RoundLine], error) {
			list, err := r.app.Rounds.Rounds(ctx, u)
			out := []RoundLine{}
			for i := range list {
				r := &list[i]
				out = append(out, RoundLine{r.ID, r.Name, r.State, r.Template, r.Groups, r.Groups.Total(), r.UpdatedAt})
			}
			return web.OK(out), err
		})
	web.Handle(r.api, web.Making(web.Op("startRound", http.MethodPost, "/api/rounds", "Start a round with some people, those of a list, or from a recipe")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Name       string  `json:"name,omitempty" maxLength:"120"`
				People     []int64 `json:"people,omitempty" maxItems:"100001"`
				ListID     *int64  `json:"listId,omitempty"`
				TemplateID *int64  `json:"templateId,omitempty"`
				RecipeID   *int64  `json:"recipeId,omitempty"`
			}
		}) (*web.Body[wire.MadeRecord], error) {
			id, err := r.app.Rounds.StartRound(ctx, u, rounds.Start{Name: in.Body.Name, People: in.Body.People, ListID: in.Body.ListID, TemplateID: in.Body.TemplateID, RecipeID: in.Body.RecipeID})
			return web.OK(wire.MadeRecord{ID: id}), err
		})
	web.Handle(r.api, web.Op("round", http.MethodGet, "/api/rounds/{id}", "A round: who is ready, has a gap, is skipped and why"), r.show)
	web.Handle(r.api, web.Op("roundTemplates", http.MethodGet, "/api/rounds/{id}/templates", "The templates that a round may go out in, and how many people each fits; ask again while it is running"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[rounds.Offer], error) {
			out, err := r.app.Rounds.Templates(ctx, u, in.ID)
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("roundPeople", http.MethodGet, "/api/rounds/{id}/people", "People of a round"),
		func(ctx context.Context, u domain.User, in *MembersIn) (*web.Body[struct {
			People []MemberOut `json:"people"`
			Total  int         `json:"total"`
		}], error) {
			rows, total, err := r.app.Rounds.People(ctx, u, in.query())
			out := struct {
				People []MemberOut `json:"people"`
				Total  int         `json:"total"`
			}{[]MemberOut{}, total}
			for i := range rows {
				out.People = append(out.People, memberOf(&rows[i]))
			}
			return web.OK(out), err
		})
	r.looks()
}

// looks look at the letters of rounds, their lists and what came of them.
func (r *routes) looks() {
	web.Handle(r.api, web.Op("roundPlace", http.MethodGet, "/api/rounds/{id}/people/{person}/place", "Where somebody stands in a list of people of a round"),
		func(ctx context.Context, u domain.User, in *struct {
			MembersIn
			Person int64 `path:"person" minimum:"1"`
		}) (*web.Body[struct {
			At int `json:"at" doc:"From 0; -1 when they do not"`
		}], error) {
			at, err := r.app.Rounds.Place(ctx, u, in.query(), in.Person)
			return web.OK(struct {
				At int `json:"at" doc:"From 0; -1 when they do not"`
			}{at}), err
		})
	web.Handle(r.api, web.Op("roundLetter", http.MethodGet, "/api/rounds/{id}/people/{person}", "The letter of one person of a round as it would go, or as it went"), r.letter)
	web.Handle(r.api, web.Op("roundListNews", http.MethodGet, "/api/rounds/{id}/list", "Who came to the list of a round or went from it since"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[rounds.ListNews], error) {
			out, err := r.app.Rounds.ListNewsOf(ctx, u, in.ID)
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("takeListNews", http.MethodPost, "/api/rounds/{id}/list", "Decide about who came to the list of a round and who went from it"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				Add    *bool `json:"add,omitempty" doc:"Whether those who came get a letter"`
				Remove *bool `json:"remove,omitempty" doc:"Whether those who went are set aside"`
			}
		}) (*web.Body[RoundOut], error) {
			if err := r.app.Rounds.TakeListNews(ctx, u, in.ID, in.Body.Add, in.Body.Remove); err != nil {
				return nil, err
			}
			return r.show(ctx, u, &in.IDInput)
		})
	web.Handle(r.api, web.Op("roundSummary", http.MethodGet, "/api/rounds/{id}/summary.csv", "What happened to each person of a round, as CSV (RFC 4180)"), r.summary)
	web.Handle(r.api, web.Op("roundReport", http.MethodGet, "/api/rounds/{id}/report", "The preflight of a round as a program reads it"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[rounds.Preflight], error) {
			out, err := r.app.Rounds.Preflight(ctx, u, in.ID)
			return web.OK(out), err
		})
}

func (r *routes) show(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[RoundOut], error) {
	sheet, err := r.app.Rounds.Round(ctx, u, in.ID)
	if err != nil {
		return nil, err
	}
	return web.OK(roundOf(&sheet)), nil
}

func (r *routes) letter(ctx context.Context, u domain.User, in *struct {
	web.IDInput
	Person int64 `path:"person" minimum:"1"`
	Before int64 `query:"before" doc:"Whose letter was looked at before"`
}) (*web.Body[ShownOut], error) {
	x, err := r.app.Rounds.Show(ctx, u, in.ID, in.Person, in.Before)
	if err != nil {
		return nil, err
	}
	out := ShownOut{
		Person: memberOf(&x.Row), Template: x.Template, Why: x.Why, Stops: append([]string{}, x.Stops...), Gaps: []wire.Gap{},
		Differs: append([]library.Stretch{}, x.Differs...), Suggestions: append([]library.Suggestion{}, x.Suspected...), Fills: map[string]string(x.Row.Fills),
	}
	if x.Proof != nil {
		out.Mail = &x.Proof.Mail
	}
	for _, g := range x.Gaps {
		out.Gaps = append(out.Gaps, wire.Gap{
			Path: g.Path, Label: g.Label, Type: g.Type, Kind: g.Kind, Hint: g.Hint, Choices: append([]string{}, g.Choices...), Part: g.Part, Count: g.Count,
			Record: g.Storable,
		})
	}
	return web.OK(out), nil
}

// summary writes everybody of a group, cells that a spreadsheet would run made safe.
func (r *routes) summary(ctx context.Context, u domain.User, in *MembersIn) (*web.Spooled, error) {
	return web.Spool("round.csv", "text/csv; charset=utf-8", func(out io.Writer) (safe int, err error) {
		w := csv.NewWriter(out)
		write := func(row []string) error {
			for i := range row {
				if made := files.MadeSafe(row[i]); made != row[i] {
					row[i] = made
					safe++
				}
			}
			return w.Write(row)
		}
		if err := write(rounds.Columns()); err != nil {
			return 0, err
		}
		q := in.query()
		q.Offset = 0
		err = r.app.Rounds.Summary(ctx, u, q, func(list []domain.MemberRow) error {
			for i := range list {
				if err := write(rounds.Row(&list[i])); err != nil {
					return err
				}
			}
			return nil
		})
		w.Flush()
		return safe, cmp.Or(err, w.Error())
	})
}
