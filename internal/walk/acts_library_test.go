package walk

import (
	"fmt"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/question"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
)

// foldersAct makes, moves, fills and deletes folders of templates.
func (w *walker) foldersAct() error {
	u, lib := w.users[2], w.b.App.Library
	id := w.one(w.folders)
	var in *int64
	if id != 0 && w.r.IntN(3) > 0 {
		in = &id
	}
	switch w.r.IntN(6) {
	case 0, 1:
		id, err := lib.AddFolder(ctx, u, library.HoldsTemplates, library.FolderInput{Name: fmt.Sprint("Folder ", w.r.IntN(1000)), ParentID: in})
		if err == nil {
			w.folders = append(w.folders, id)
		}
		return err
	case 2:
		return lib.ChangeFolder(ctx, u, library.HoldsTemplates, w.one(w.folders), library.FolderInput{Name: fmt.Sprint("Folder ", w.r.IntN(1000)), ParentID: in}, nil)
	case 3:
		_, err := lib.DeleteFolder(ctx, u, library.HoldsTemplates, id, library.Contents(w.pick("empty", "out", "delete")))
		return err
	case 4:
		return w.b.App.Desk.PutBackFolder(ctx, u, library.HoldsTemplates, id)
	}
	return lib.MoveTemplate(ctx, u, w.one(w.templates), in, 0)
}

func (w *walker) passage() error {
	u, lib := w.users[2], w.b.App.Library
	in := library.PassageInput{Name: fmt.Sprint("Passage ", w.r.IntN(1000)), Shortcut: "thanks", Body: w.pick("Thank you for your time.", "Thank you, {{person.first_name}}.", "We were glad to see you in {{person.city}}.")}
	if w.passageID == 0 {
		p, err := lib.AddPassage(ctx, u, in)
		if err == nil {
			w.passageID = p.ID
		}
		return err
	}
	switch w.r.IntN(4) {
	case 0:
		return lib.DeletePassage(ctx, u, w.passageID)
	case 1:
		return lib.PutBackPassage(ctx, u, w.passageID)
	}
	p, err := lib.Passage(ctx, u, w.passageID)
	if err == nil {
		_, err = lib.ChangePassage(ctx, u, p.ID, p.Version, in)
	}
	return err
}

func (w *walker) stationery() error {
	u, lib := w.users[2], w.b.App.Library
	doc := func(words string) document.Document {
		d := document.NewPlain(words)
		d.Attrs.Body = document.BodyFormatted
		return d
	}
	in := library.StationeryInput{Name: "House", Header: doc(w.pick("Fernhollow Cold Rooms", "Fernhollow")), Footer: doc("Mill Lane 4"), Ready: true, Default: true}
	all, err := lib.AllStationery(ctx)
	switch {
	case err != nil:
		return err
	case len(all) == 0:
		_, err = lib.AddStationery(ctx, u, in)
	case w.r.IntN(4) == 0:
		_, err = lib.DeleteStationery(ctx, u, all[0].ID, all[0].Version, all[0].DeletedAt != nil)
	default:
		_, err = lib.ChangeStationery(ctx, u, all[0].ID, all[0].Version, in)
	}
	return err
}

// documentAct puts documents on the shelf, makes them anew, takes them away, and attaches them.
func (w *walker) documentAct() error {
	lib := w.b.App.Library
	bytes := []byte(strings.Repeat("Prices ", 1+w.r.IntN(50)))
	id := w.one(w.documents)
	switch w.r.IntN(5) {
	case 0:
		d, err := lib.AddDocument(ctx, w.users[2], library.DocumentInput{Name: fmt.Sprint("Prices ", w.r.IntN(1000))}, "prices.txt", bytes)
		if err == nil {
			w.documents = append(w.documents, d.ID)
		}
		return err
	case 1:
		_, err := lib.ChangeDocument(ctx, w.users[2], id, nil, "prices.txt", bytes)
		return err
	case 2:
		return lib.DeleteDocument(ctx, w.users[2], id, w.r.IntN(2) == 0)
	}
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	list := []domain.Attachment{{DocumentID: id}}
	if w.r.IntN(3) == 0 {
		at, err := lib.Upload(ctx, u, "note.txt", bytes)
		if err != nil {
			return err
		}
		list = append(list, at)
	}
	_, err = w.b.App.Desk.SetAttachments(ctx, u, l.ID, wording(&l), list)
	return err
}

// ask puts questions into a letter, or answers some that went out.
func (w *walker) ask() error {
	if w.r.IntN(2) == 0 {
		var token string
		if err := w.b.Store.DB().QueryRow(`SELECT coalesce((SELECT token FROM questions ORDER BY id LIMIT 1 OFFSET ?), '')`, w.r.IntN(12)).Scan(&token); err != nil || token == "" {
			return err
		}
		return w.b.App.Desk.Answer(ctx, token, []string{w.pick("Yes", "No", "n/a", "")})
	}
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	words, err := w.b.App.Desk.Ask(ctx, u, l.ID, question.Sheet{Questions: []question.Question{{Text: "Shall we come?", Answers: []string{"Yes", "No"}}}})
	if err != nil {
		return err
	}
	in := wording(&l)
	in.Body.Content = append(document.Clone(in.Body.Content), words.Content...)
	_, err = w.b.App.Desk.SaveDraft(ctx, u, l.ID, in)
	return err
}

func (w *walker) list() error {
	u := w.users[2]
	id := w.one(w.lists)
	if id != 0 && w.r.IntN(4) == 0 {
		return w.b.App.Records.DeleteList(ctx, u, id, w.r.IntN(2) == 0)
	}
	id, err := w.b.App.Records.PutList(ctx, u, id, domain.List{Name: fmt.Sprint("List ", w.r.IntN(1000)), Filter: w.pick(`person.city is "York"`, `person.email is filled`, `person.language is "de"`), Shared: w.r.IntN(3) > 0})
	if err == nil {
		w.lists = append(w.lists, id)
	}
	return err
}

// recipe keeps a round for others, or runs one.
func (w *walker) recipe() error {
	id := w.one(w.recipes)
	switch {
	case id != 0 && w.r.IntN(6) == 0:
		return w.b.App.Rounds.DeleteRecipe(ctx, w.users[2], id, w.r.IntN(2) == 0)
	case id != 0 && w.r.IntN(2) == 0:
		template := w.one(w.templates)
		round, err := w.b.App.Rounds.StartRound(ctx, w.user(), rounds.Start{RecipeID: &id, TemplateID: &template})
		if err == nil {
			w.rounds = append(w.rounds, round)
		}
		return err
	}
	id, err := w.b.App.Rounds.PutRecipe(ctx, w.users[2], 0, 0, domain.Recipe{Name: fmt.Sprint("Recipe ", w.r.IntN(1000)), ListID: w.one(w.lists), Said: domain.RecipeSaid{Templates: []int64{w.one(w.templates), w.one(w.templates)}}})
	if err == nil {
		w.recipes = append(w.recipes, id)
	}
	return err
}
