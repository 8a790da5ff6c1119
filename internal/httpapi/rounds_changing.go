package httpapi

import (
	"context"
	"net/http"

	"lucidletter/core/preflight"
	"lucidletter/core/question"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// ChangeRound is what a change of a round is made on.
type ChangeRound struct {
	IDInput
	Version int `query:"version" required:"true" minimum:"1" doc:"Of what was looked at"`
}

// then gives the round after a change.
func (s *Server) then(ctx context.Context, u domain.User, id int64, err error) (*body[RoundOut], error) {
	if err != nil {
		return nil, err
	}
	return s.round(ctx, u, &IDInput{ID: id})
}

// roundChangeRoutes change what a round is made of, and who is in it.
func (s *Server) roundChangeRoutes() {
	handle(s, op("setRoundTemplate", http.MethodPut, "/api/rounds/{id}/template", "Choose the template of a round, in its newest version"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				TemplateID int64 `json:"templateId" minimum:"1"`
			}
		}) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.SetTemplate(ctx, u, in.ID, in.Version, in.Body.TemplateID))
		})
	handle(s, op("keepRoundTemplate", http.MethodPost, "/api/rounds/{id}/template/keep", "Keep the wording that the round has, although its template was changed or withdrawn"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.KeepTemplate(ctx, u, in.ID, in.Version))
		})
	handle(s, op("roundWording", http.MethodGet, "/api/rounds/{id}/wording", "The wording of a round, as the editor takes it"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[templateOut], error) {
			sheet, err := s.app.Rounds.Wording(ctx, u, in.ID)
			if err != nil {
				return nil, err
			}
			return ok(templateOutOf(sheet)), nil
		})
	handle(s, large(op("setRoundWording", http.MethodPut, "/api/rounds/{id}/wording", "Give a round words of its own; the template stays as it is"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body Input
		}) (*body[RoundOut], error) {
			w := in.Body.wording()
			return s.then(ctx, u, in.ID, s.app.Rounds.SetWording(ctx, u, in.ID, in.Version, &w))
		})
	handle(s, op("dropRoundWording", http.MethodDelete, "/api/rounds/{id}/wording", "Take the wording of the template again"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.SetWording(ctx, u, in.ID, in.Version, nil))
		})
	s.roundAroundRoutes()
	s.roundPeopleRoutes()
	s.roundSendingRoutes()
}

// roundAroundRoutes set what the letters of a round have in common beside their words.
func (s *Server) roundAroundRoutes() {
	handle(s, op("setRoundAsk", http.MethodPut, "/api/rounds/{id}/ask", "Have each letter of a round ask its reader something"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body question.Sheet
		}) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.SetAsk(ctx, u, in.ID, in.Version, &in.Body))
		})
	handle(s, op("dropRoundAsk", http.MethodDelete, "/api/rounds/{id}/ask", "Have the letters of a round ask nothing"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.SetAsk(ctx, u, in.ID, in.Version, nil))
		})
	handle(s, op("setRoundEnvelope", http.MethodPut, "/api/rounds/{id}/envelope", "Set the name of a round, its senders, attachments and what happens afterwards"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				Name        string              `json:"name" maxLength:"120"`
				From        string              `json:"from" maxLength:"254" doc:"Empty: the sender's own address"`
				ReplyTo     string              `json:"replyTo" maxLength:"254"`
				Attachments []domain.Attachment `json:"attachments" maxItems:"100"`
				After       domain.RoundAfter   `json:"after"`
			}
		}) (*body[RoundOut], error) {
			e := rounds.Envelope{Name: in.Body.Name, From: in.Body.From, ReplyTo: in.Body.ReplyTo, Attachments: in.Body.Attachments, After: in.Body.After}
			return s.then(ctx, u, in.ID, s.app.Rounds.SetEnvelope(ctx, u, in.ID, in.Version, e))
		})
	handle(s, op("fillRound", http.MethodPost, "/api/rounds/{id}/fill", "Answer a blank, or fill a gap, in the letters of everybody who lacks the value"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body FillIn
		}) (*body[RoundOut], error) {
			return s.then(ctx, u, in.ID, s.app.Rounds.Fill(ctx, u, in.ID, in.Version, in.Body.Path, in.Body.Value))
		})
	handle(s, large(op("pasteRound", http.MethodPost, "/api/rounds/{id}/paste", "Fill the letters of single people from a pasted table"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				Table   string            `json:"table" maxLength:"4000000"`
				Columns map[string]string `json:"columns,omitempty" doc:"What columns fill, by header: a blank as ?name, a field by its path, empty nothing"`
				Apply   bool              `json:"apply" doc:"Without it only what would happen is told"`
			}
		}) (*body[rounds.Pasted], error) {
			out, err := s.app.Rounds.Paste(ctx, u, in.ID, in.Body.Table, in.Body.Columns, in.Body.Apply)
			return ok(out), err
		})
}

// FillIn fills a gap or a blank.
type FillIn struct {
	Path  string `json:"path" maxLength:"120" doc:"Of a field, or of a blank as ?name"`
	Value string `json:"value" maxLength:"100000" doc:"Empty takes it back"`
}

// OnePerson is one person of a round.
type OnePerson struct {
	IDInput
	Person int64 `path:"person" minimum:"1"`
}

// roundPeopleRoutes are what is done with people of a round.
func (s *Server) roundPeopleRoutes() {
	handle(s, op("doInRound", http.MethodPost, "/api/rounds/{id}/do", "Do something with people of a round: mark letters good, hold people back, overrule a reason"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				PeopleIn
				Act rounds.Act `json:"act" enum:"good,not good,aside,back,allow,newer,take,check,instead"`
				Sum string     `json:"sum,omitempty" maxLength:"64" doc:"Of the words that were proofread"`
			}
		}) (*body[doneOut], error) {
			ids, err := s.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := s.app.Rounds.Do(ctx, u, in.ID, in.Body.Act, ids, preflight.Code(in.Body.Reason), in.Body.Sum)
			return ok(doneOut{n}), err
		})
	handle(s, op("fillRecords", http.MethodPost, "/api/rounds/{id}/records", "Write a value that people of a round lack on their records"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				PeopleIn
				FillIn
			}
		}) (*body[doneOut], error) {
			ids, err := s.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := s.app.Rounds.FillRecords(ctx, u, in.ID, ids, in.Body.Path, in.Body.Value)
			return ok(doneOut{n}), err
		})
	handle(s, op("setBasis", http.MethodPost, "/api/rounds/{id}/basis", "Write on the records of people of a round, who have none, why they may be written to"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				PeopleIn
				rounds.BasisGiven
			}
		}) (*body[doneOut], error) {
			ids, err := s.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := s.app.Rounds.SetBasis(ctx, u, in.ID, ids, in.Body.BasisGiven)
			return ok(doneOut{n}), err
		})
	handle(s, op("fillInRound", http.MethodPost, "/api/rounds/{id}/people/{person}/fill", "Answer a blank, or fill a gap, in the letter of one person alone"),
		func(ctx context.Context, u domain.User, in *struct {
			OnePerson
			Body FillIn
		}) (*struct{}, error) {
			return nil, s.app.Rounds.FillOne(ctx, u, in.ID, in.Person, in.Body.Path, in.Body.Value)
		})
	handle(s, op("templateInRound", http.MethodPut, "/api/rounds/{id}/people/{person}/template", "Give one person another template than the others"),
		func(ctx context.Context, u domain.User, in *struct {
			OnePerson
			Body struct {
				TemplateID int64 `json:"templateId" minimum:"0" doc:"0 the one that the others have"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Rounds.SetTemplateOf(ctx, u, in.ID, in.Person, in.Body.TemplateID)
		})
	handle(s, web.Making(op("changeInRound", http.MethodPost, "/api/rounds/{id}/people/{person}/letter", "Give one person a letter of their own, to be changed at the desk")),
		func(ctx context.Context, u domain.User, in *OnePerson) (*body[madeRecord], error) {
			id, err := s.app.Rounds.ChangeLetter(ctx, u, in.ID, in.Person)
			return ok(madeRecord{id}), err
		})
	handle(s, op("dropInRound", http.MethodDelete, "/api/rounds/{id}/people/{person}/letter", "Discard the letter that one person has of their own"),
		func(ctx context.Context, u domain.User, in *OnePerson) (*struct{}, error) {
			return nil, s.app.Rounds.DropLetter(ctx, u, in.ID, in.Person)
		})
}

// roundSendingRoutes send rounds.
func (s *Server) roundSendingRoutes() {
	handle(s, web.Making(op("sendRound", http.MethodPost, "/api/rounds/{id}/send", "Send the letters of a round that were proofread, or all that are ready")),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				Count int              `json:"count" minimum:"1" doc:"How many letters the sender was told of"`
				When  domain.RoundWhen `json:"when"`
			}
		}) (*body[RoundOut], error) {
			_, err := s.app.Rounds.Send(ctx, u, in.ID, in.Version, in.Body.Count, in.Body.When)
			return s.then(ctx, u, in.ID, err)
		})
	for _, one := range []struct {
		name, path, says string
		act              func(ctx context.Context, u domain.User, id int64) error
	}{
		{"pauseRound", "pause", "Pause a round that is being sent", s.app.Rounds.Pause},
		{"goOnRound", "go-on", "Go on with a round that is paused", s.app.Rounds.GoOn},
		{"stopRound", "stop", "End a round; what has not gone does not go", s.app.Rounds.Stop},
		{"reopenRound", "reopen", "Take a round that is being sent back to be proofread", s.app.Rounds.Reopen},
	} {
		handle(s, op(one.name, http.MethodPost, "/api/rounds/{id}/"+one.path, one.says),
			func(ctx context.Context, u domain.User, in *IDInput) (*body[RoundOut], error) {
				return s.then(ctx, u, in.ID, one.act(ctx, u, in.ID))
			})
	}
}

// RecipeOut is a recipe.
type RecipeOut struct {
	ID        int64             `json:"id"`
	Name      string            `json:"name"`
	Owner     string            `json:"owner"`
	ListID    int64             `json:"listId"`
	List      string            `json:"list"`
	People    int               `json:"people" doc:"That the list holds for the user now"`
	Templates []rounds.NamedOne `json:"templates" doc:"Those that are ready"`
	Said      domain.RecipeSaid `json:"said"`
	Problem   string            `json:"problem" doc:"Why it cannot be run, and what to do"`
	Mine      bool              `json:"mine" doc:"It can be changed"`
	Version   int               `json:"version"`
}

// RecipeIn is a recipe that is kept.
type RecipeIn struct {
	Name    string            `json:"name" maxLength:"120"`
	ListID  int64             `json:"listId" minimum:"1"`
	Said    domain.RecipeSaid `json:"said"`
	Version int               `json:"version" minimum:"0"`
}

// recipeRoutes are rounds that leads keep for others.
func (s *Server) recipeRoutes() {
	handle(s, op("recipes", http.MethodGet, "/api/recipes", "The recipes for rounds"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]RecipeOut], error) {
			list, err := s.app.Rounds.Recipes(ctx, u)
			out := []RecipeOut{}
			for i := range list {
				r := &list[i]
				out = append(out, RecipeOut{r.ID, r.Name, r.Owner, r.ListID, r.ListName, r.People, r.Templates, r.Said, r.Problem, r.Mine, r.Version})
			}
			return ok(out), err
		})
	put := func(ctx context.Context, u domain.User, id int64, in *RecipeIn) (*body[madeRecord], error) {
		id, err := s.app.Rounds.PutRecipe(ctx, u, id, in.Version, domain.Recipe{Name: in.Name, ListID: in.ListID, Said: in.Said})
		return ok(madeRecord{id}), err
	}
	handle(s, web.Making(op("addRecipe", http.MethodPost, "/api/recipes", "Keep a recipe")),
		func(ctx context.Context, u domain.User, in *struct{ Body RecipeIn }) (*body[madeRecord], error) {
			return put(ctx, u, 0, &in.Body)
		})
	handle(s, op("changeRecipe", http.MethodPut, "/api/recipes/{id}", "Change a recipe"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body RecipeIn
		}) (*body[madeRecord], error) {
			return put(ctx, u, in.ID, &in.Body)
		})
	handle(s, op("deleteRecipe", http.MethodDelete, "/api/recipes/{id}", "Delete a recipe; its rounds go on"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Rounds.DeleteRecipe(ctx, u, in.ID, false)
		})
	handle(s, op("putBackRecipe", http.MethodPost, "/api/recipes/{id}/put-back", "Put back a recipe that was deleted"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return nil, s.app.Rounds.DeleteRecipe(ctx, u, in.ID, true)
		})
}

// planWordingRoutes are the words of letters of plans, which are edited as templates are.
func (s *Server) planWordingRoutes() {
	type stepInput struct {
		IDInput
		Key int `path:"step" minimum:"1"`
	}
	const path = "/api/plans/{id}/steps/{step}/wording"
	handle(s, op("planWording", http.MethodGet, path, "What the letter of a step is merged from, as the editor takes it"),
		func(ctx context.Context, u domain.User, in *stepInput) (*body[templateOut], error) {
			sheet, err := s.app.Plans.StepWording(ctx, u, in.ID, in.Key)
			if err != nil {
				return nil, err
			}
			return ok(templateOutOf(sheet)), nil
		})
	handle(s, large(op("setPlanWording", http.MethodPut, path, "Give the letter of a step words of this plan alone; the template stays as it is"), maxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Key  int `path:"step" minimum:"1"`
			Body Input
		}) (*struct{}, error) {
			w := in.Body.wording()
			return nil, s.app.Plans.SetStepWording(ctx, u, in.ID, in.Key, in.Version, &w)
		})
	handle(s, op("dropPlanWording", http.MethodDelete, path, "Take the wording of the template again"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Key int `path:"step" minimum:"1"`
		}) (*struct{}, error) {
			return nil, s.app.Plans.SetStepWording(ctx, u, in.ID, in.Key, in.Version, nil)
		})
}
