package rounds

import (
	"context"
	"net/http"

	"lucidletter/core/eligibility"
	"lucidletter/core/question"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// ChangeRound is what a change of a round is made on.
type ChangeRound struct {
	web.IDInput
	Version int `query:"version" required:"true" minimum:"1" doc:"Of what was looked at"`
}

// then gives the round after a change.
func (r *routes) then(ctx context.Context, u domain.User, id int64, err error) (*web.Body[RoundOut], error) {
	if err != nil {
		return nil, err
	}
	return r.show(ctx, u, &web.IDInput{ID: id})
}

// changes change what a round is made of, and who is in it.
func (r *routes) changes() {
	web.Handle(r.api, web.Op("setRoundTemplate", http.MethodPut, "/api/rounds/{id}/template", "Choose the template of a round, in its newest version"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				TemplateID int64 `json:"templateId" minimum:"1"`
			}
		}) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.SetTemplate(ctx, u, in.ID, in.Version, in.Body.TemplateID))
		})
	web.Handle(r.api, web.Op("keepRoundTemplate", http.MethodPost, "/api/rounds/{id}/template/keep", "Keep the wording that the round has, although its template was changed or withdrawn"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.KeepTemplate(ctx, u, in.ID, in.Version))
		})
	web.Handle(r.api, web.Op("roundWording", http.MethodGet, "/api/rounds/{id}/wording", "The wording of a round, as the editor takes it"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[wire.TemplateOut], error) {
			sheet, err := r.app.Rounds.Wording(ctx, u, in.ID)
			if err != nil {
				return nil, err
			}
			return web.OK(wire.TemplateOf(sheet)), nil
		})
	web.Handle(r.api, web.Large(web.Op("setRoundWording", http.MethodPut, "/api/rounds/{id}/wording", "Give a round words of its own; the template stays as it is"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body wire.Input
		}) (*web.Body[RoundOut], error) {
			w := in.Body.Wording()
			return r.then(ctx, u, in.ID, r.app.Rounds.SetWording(ctx, u, in.ID, in.Version, &w))
		})
	web.Handle(r.api, web.Op("dropRoundWording", http.MethodDelete, "/api/rounds/{id}/wording", "Take the wording of the template again"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.SetWording(ctx, u, in.ID, in.Version, nil))
		})
	r.around()
	r.members()
	r.sending()
}

// around sets what the letters of a round have in common beside their words.
func (r *routes) around() {
	web.Handle(r.api, web.Op("setRoundAsk", http.MethodPut, "/api/rounds/{id}/ask", "Have each letter of a round ask its reader something"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body question.Sheet
		}) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.SetAsk(ctx, u, in.ID, in.Version, &in.Body))
		})
	web.Handle(r.api, web.Op("dropRoundAsk", http.MethodDelete, "/api/rounds/{id}/ask", "Have the letters of a round ask nothing"),
		func(ctx context.Context, u domain.User, in *ChangeRound) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.SetAsk(ctx, u, in.ID, in.Version, nil))
		})
	web.Handle(r.api, web.Op("setRoundEnvelope", http.MethodPut, "/api/rounds/{id}/envelope", "Set the name of a round, its senders, attachments and what happens afterwards"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				Name        string              `json:"name" maxLength:"120"`
				From        string              `json:"from" maxLength:"254" doc:"Empty: the sender's own address"`
				ReplyTo     string              `json:"replyTo" maxLength:"254"`
				Attachments []domain.Attachment `json:"attachments" maxItems:"100"`
				After       domain.RoundAfter   `json:"after"`
			}
		}) (*web.Body[RoundOut], error) {
			e := rounds.Envelope{Name: in.Body.Name, From: in.Body.From, ReplyTo: in.Body.ReplyTo, Attachments: in.Body.Attachments, After: in.Body.After}
			return r.then(ctx, u, in.ID, r.app.Rounds.SetEnvelope(ctx, u, in.ID, in.Version, e))
		})
	web.Handle(r.api, web.Op("fillRound", http.MethodPost, "/api/rounds/{id}/fill", "Answer a blank, or fill a gap, in the letters of everybody who lacks the value"),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body FillIn
		}) (*web.Body[RoundOut], error) {
			return r.then(ctx, u, in.ID, r.app.Rounds.Fill(ctx, u, in.ID, in.Version, in.Body.Path, in.Body.Value))
		})
	web.Handle(r.api, web.Large(web.Op("pasteRound", http.MethodPost, "/api/rounds/{id}/paste", "Fill the letters of single people from a pasted table"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				Table   string            `json:"table" maxLength:"4000000"`
				Columns map[string]string `json:"columns,omitempty" doc:"What columns fill, by header: a blank as ?name, a field by its path, empty nothing"`
				Apply   bool              `json:"apply" doc:"Without it only what would happen is told"`
			}
		}) (*web.Body[rounds.Pasted], error) {
			out, err := r.app.Rounds.Paste(ctx, u, in.ID, in.Body.Table, in.Body.Columns, in.Body.Apply)
			return web.OK(out), err
		})
}

// FillIn fills a gap or a blank.
type FillIn struct {
	Path  string `json:"path" maxLength:"120" doc:"Of a field, or of a blank as ?name"`
	Value string `json:"value" maxLength:"100000" doc:"Empty takes it back"`
}

// OnePerson is one person of a round.
type OnePerson struct {
	web.IDInput
	Person int64 `path:"person" minimum:"1"`
}

// members are what is done with people of a round.
func (r *routes) members() {
	web.Handle(r.api, web.Op("doInRound", http.MethodPost, "/api/rounds/{id}/do", "Do something with people of a round: mark letters good, hold people back, overrule a reason"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				PeopleIn
				Act rounds.Act `json:"act" enum:"good,not good,aside,back,allow,newer,take,check,instead"`
				Sum string     `json:"sum,omitempty" maxLength:"64" doc:"Of the words that were proofread"`
			}
		}) (*web.Body[doneOut], error) {
			ids, err := r.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := r.app.Rounds.Do(ctx, u, in.ID, in.Body.Act, ids, eligibility.Code(in.Body.Reason), in.Body.Sum)
			return web.OK(doneOut{n}), err
		})
	web.Handle(r.api, web.Op("fillRecords", http.MethodPost, "/api/rounds/{id}/records", "Write a value that people of a round lack on their records"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				PeopleIn
				FillIn
			}
		}) (*web.Body[doneOut], error) {
			ids, err := r.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := r.app.Rounds.FillRecords(ctx, u, in.ID, ids, in.Body.Path, in.Body.Value)
			return web.OK(doneOut{n}), err
		})
	web.Handle(r.api, web.Op("setBasis", http.MethodPost, "/api/rounds/{id}/basis", "Write on the records of people of a round, who have none, why they may be written to"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				PeopleIn
				rounds.BasisGiven
			}
		}) (*web.Body[doneOut], error) {
			ids, err := r.people(ctx, u, in.ID, &in.Body.PeopleIn)
			if err != nil {
				return nil, err
			}
			n, err := r.app.Rounds.SetBasis(ctx, u, in.ID, ids, in.Body.BasisGiven)
			return web.OK(doneOut{n}), err
		})
	web.Handle(r.api, web.Op("fillInRound", http.MethodPost, "/api/rounds/{id}/people/{person}/fill", "Answer a blank, or fill a gap, in the letter of one person alone"),
		func(ctx context.Context, u domain.User, in *struct {
			OnePerson
			Body FillIn
		}) (*struct{}, error) {
			return nil, r.app.Rounds.FillOne(ctx, u, in.ID, in.Person, in.Body.Path, in.Body.Value)
		})
	web.Handle(r.api, web.Op("templateInRound", http.MethodPut, "/api/rounds/{id}/people/{person}/template", "Give one person another template than the others"),
		func(ctx context.Context, u domain.User, in *struct {
			OnePerson
			Body struct {
				TemplateID int64 `json:"templateId" minimum:"0" doc:"0 the one that the others have"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Rounds.SetTemplateOf(ctx, u, in.ID, in.Person, in.Body.TemplateID)
		})
	web.Handle(r.api, web.Making(web.Op("changeInRound", http.MethodPost, "/api/rounds/{id}/people/{person}/letter", "Give one person a letter of their own, to be changed at the desk")),
		func(ctx context.Context, u domain.User, in *OnePerson) (*web.Body[wire.MadeRecord], error) {
			id, err := r.app.Rounds.ChangeLetter(ctx, u, in.ID, in.Person)
			return web.OK(wire.MadeRecord{ID: id}), err
		})
	web.Handle(r.api, web.Op("dropInRound", http.MethodDelete, "/api/rounds/{id}/people/{person}/letter", "Discard the letter that one person has of their own"),
		func(ctx context.Context, u domain.User, in *OnePerson) (*struct{}, error) {
			return nil, r.app.Rounds.DropLetter(ctx, u, in.ID, in.Person)
		})
}

// sending sends rounds, and stops them.
func (r *routes) sending() {
	web.Handle(r.api, web.Making(web.Op("sendRound", http.MethodPost, "/api/rounds/{id}/send", "Send the letters of a round that were proofread, or all that are ready")),
		func(ctx context.Context, u domain.User, in *struct {
			ChangeRound
			Body struct {
				Count int              `json:"count" minimum:"1" doc:"How many letters the sender was told of"`
				When  domain.RoundWhen `json:"when"`
			}
		}) (*web.Body[RoundOut], error) {
			_, err := r.app.Rounds.Send(ctx, u, in.ID, in.Version, in.Body.Count, in.Body.When)
			return r.then(ctx, u, in.ID, err)
		})
	for _, one := range []struct {
		name, path, says string
		act              func(ctx context.Context, u domain.User, id int64) error
	}{
		{"pauseRound", "pause", "Pause a round that is being sent", r.app.Rounds.Pause},
		{"goOnRound", "go-on", "Go on with a round that is paused", r.app.Rounds.GoOn},
		{"stopRound", "stop", "End a round; what has not gone does not go", r.app.Rounds.Stop},
		{"reopenRound", "reopen", "Take a round that is being sent back to be proofread", r.app.Rounds.Reopen},
	} {
		web.Handle(r.api, web.Op(one.name, http.MethodPost, "/api/rounds/{id}/"+one.path, one.says),
			func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[RoundOut], error) {
				return r.then(ctx, u, in.ID, one.act(ctx, u, in.ID))
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

// recipes are rounds that leads keep for others.
func (r *routes) recipes() {
	web.Handle(r.api, web.Op("recipes", http.MethodGet, "/api/recipes", "The recipes for rounds"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*web.Body[[]RecipeOut], error) {
			list, err := r.app.Rounds.Recipes(ctx, u)
			out := []RecipeOut{}
			for i := range list {
				r := &list[i]
				out = append(out, RecipeOut{r.ID, r.Name, r.Owner, r.ListID, r.ListName, r.People, r.Templates, r.Said, r.Problem, r.Mine, r.Version})
			}
			return web.OK(out), err
		})
	put := func(ctx context.Context, u domain.User, id int64, in *RecipeIn) (*web.Body[wire.MadeRecord], error) {
		id, err := r.app.Rounds.PutRecipe(ctx, u, id, in.Version, domain.Recipe{Name: in.Name, ListID: in.ListID, Said: in.Said})
		return web.OK(wire.MadeRecord{ID: id}), err
	}
	web.Handle(r.api, web.Making(web.Op("addRecipe", http.MethodPost, "/api/recipes", "Keep a recipe")),
		func(ctx context.Context, u domain.User, in *struct{ Body RecipeIn }) (*web.Body[wire.MadeRecord], error) {
			return put(ctx, u, 0, &in.Body)
		})
	web.Handle(r.api, web.Op("changeRecipe", http.MethodPut, "/api/recipes/{id}", "Change a recipe"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body RecipeIn
		}) (*web.Body[wire.MadeRecord], error) {
			return put(ctx, u, in.ID, &in.Body)
		})
	web.Handle(r.api, web.Op("deleteRecipe", http.MethodDelete, "/api/recipes/{id}", "Delete a recipe; its rounds go on"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Rounds.DeleteRecipe(ctx, u, in.ID, false)
		})
	web.Handle(r.api, web.Op("putBackRecipe", http.MethodPost, "/api/recipes/{id}/put-back", "Put back a recipe that was deleted"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Rounds.DeleteRecipe(ctx, u, in.ID, true)
		})
}
