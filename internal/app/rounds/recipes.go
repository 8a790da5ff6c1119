package rounds

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// maxRecipeTemplates is how many templates a recipe allows.
const maxRecipeTemplates = 20

// RecipeLine is a recipe with what is missing of it.
type RecipeLine struct {
	domain.Recipe
	Templates []NamedOne // those that are ready
	People    int        // that the list holds for the user now
	Problem   string     // why it cannot be run
	Mine      bool       // it can be changed
}

// Recipes lists the recipes, for whom the user is.
func (a *Service) Recipes(ctx context.Context, u domain.User) ([]RecipeLine, error) {
	list, err := a.store.Recipes(ctx)
	if err != nil {
		return nil, err
	}
	out := []RecipeLine{}
	for i := range list {
		one, err := a.recipeLine(ctx, u, list[i])
		if err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	return out, nil
}

func (a *Service) recipeLine(ctx context.Context, u domain.User, r domain.Recipe) (RecipeLine, error) {
	out := RecipeLine{Recipe: r, Templates: []NamedOne{}, Mine: domain.May(u, access.EditRecipe, access.Thing{}) == nil}
	usable, err := a.usable(ctx, u, &domain.Round{RecipeID: &r.ID})
	if err != nil {
		return out, err
	}
	for i := range usable {
		out.Templates = append(out.Templates, NamedOne{usable[i].ID, usable[i].Name})
	}
	l, err := a.store.List(ctx, r.ListID)
	if err != nil {
		return out, err
	}
	switch {
	case l.DeletedAt != nil:
		out.Problem = fmt.Sprintf("The list “%s” was deleted. Restore it, or choose another.", l.Name)
	case !l.Shared:
		out.Problem = fmt.Sprintf("The list “%s” is not shared any more. Share it again, or choose another.", l.Name)
	case len(usable) == 0:
		out.Problem = "None of its templates is ready. Make one ready, or choose others."
	default:
		out.People, err = a.records.CountPeople(ctx, u, records.Asked{Where: l.Filter}, domain.PeopleQuery{Most: MaxPeople})
		if why, forPeople := domain.ForPeople(err); forPeople {
			out.Problem, err = fmt.Sprintf("The list “%s” can’t be used any more: %s", l.Name, why), nil
		}
		if err == nil && out.Problem == "" && out.People == 0 {
			out.Problem = fmt.Sprintf("The list “%s” holds nobody at the moment.", l.Name)
		}
	}
	return out, err
}

// PutRecipe stores a recipe: a new one for id 0.
func (a *Service) PutRecipe(ctx context.Context, u domain.User, id int64, version int, in domain.Recipe) (int64, error) {
	if err := domain.May(u, access.EditRecipe, access.Thing{}); err != nil {
		return 0, err
	}
	in.Name = strings.Join(strings.Fields(in.Name), " ")
	in.Said.Look = strings.TrimSpace(in.Said.Look)
	switch {
	case in.Name == "" || len(in.Name) > maxName:
		return 0, domain.Invalid("name", "must have 1 to %d bytes", maxName)
	case len(in.Said.Templates) == 0 || len(in.Said.Templates) > maxRecipeTemplates:
		return 0, domain.Invalid("templates", "must be 1 to %d", maxRecipeTemplates)
	case len(in.Said.Look) > 2000:
		return 0, domain.Invalid("look", "is longer than 2000 bytes; shorten it")
	}
	if err := a.checkAfter(ctx, u, &in.Said.After); err != nil {
		return 0, err
	}
	err := a.store.Within(ctx, func(ctx context.Context) error {
		l, err := a.listOf(ctx, u, in.ListID)
		switch {
		case err != nil:
			return err
		case !l.Shared:
			return domain.Invalid("listId", "“%s” is seen by you alone; share the list first, so that others can run the recipe", l.Name)
		}
		for i, one := range in.Said.Templates {
			t, err := a.library.TemplateFor(ctx, u, access.SeeTemplate, one)
			if err != nil {
				return domain.Invalid("templates", "one of them isn’t there any more; choose others")
			}
			in.Said.Templates[i] = t.First()
		}
		slices.Sort(in.Said.Templates)
		in.Said.Templates = slices.Compact(in.Said.Templates)
		if id != 0 {
			r, err := a.store.Recipe(ctx, id)
			if err != nil {
				return err
			}
			r.Name, r.ListID, r.Said, r.Version = in.Name, in.ListID, in.Said, version
			return a.store.UpdateRecipe(ctx, r)
		}
		in.OwnerID, in.CreatedAt = u.ID, a.now()
		id, err = a.store.AddRecipe(ctx, in)
		return err
	})
	return id, err
}

// DeleteRecipe takes a recipe away; with back it is put back. Rounds that were started from
// it go on.
func (a *Service) DeleteRecipe(ctx context.Context, u domain.User, id int64, back bool) error {
	if err := domain.May(u, access.EditRecipe, access.Thing{}); err != nil {
		return err
	}
	var at *time.Time
	if !back {
		at = new(a.now())
	}
	return a.store.DeleteRecipe(ctx, id, at)
}

// fromRecipe lays down what a recipe does.
func (a *Service) fromRecipe(ctx context.Context, r *domain.Round, in *Start) error {
	recipe, err := a.store.Recipe(ctx, *in.RecipeID)
	if err == nil && recipe.DeletedAt != nil {
		err = domain.ErrNotFound
	}
	if err != nil {
		return err
	}
	if len(in.People) == 0 {
		in.ListID = &recipe.ListID
	}
	if in.Name == "" {
		in.Name = recipe.Name
	}
	if in.TemplateID == nil && len(recipe.Said.Templates) == 1 {
		in.TemplateID = &recipe.Said.Templates[0]
	}
	r.Said.Fills, r.Said.When, r.Said.After = recipe.Said.Fills, recipe.Said.When, recipe.Said.After
	return nil
}
