package demo

import (
	"fmt"

	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
)

// rounds makes a recipe, and a round of it that the first user has begun.
func (m *maker) rounds() error {
	const invitation = "Invitation to the open workshop"
	lead := m.byUser[m.ids[4]]
	ready, err := m.s.AllTemplates(m.ctx, domain.TemplateReady)
	if err != nil {
		return err
	}
	template := int64(0)
	for i := range ready {
		if ready[i].Name == invitation && ready[i].SisterOf == nil {
			template = ready[i].ID
		}
	}
	if template == 0 {
		return fmt.Errorf("there is no template %q", invitation)
	}
	list, err := m.s.AddList(m.ctx, domain.List{
		Name: "Leads of mine in touch", Filter: `kind is "lead" and lead.status is "in touch" and owner is "me"`, OwnerID: lead.ID, Shared: true, CreatedAt: m.today.AddDate(0, 0, -40),
	})
	if err != nil {
		return err
	}
	recipe, err := m.a.Rounds.PutRecipe(m.ctx, lead, 0, 0, domain.Recipe{
		Name: invitation, ListID: list,
		Said: domain.RecipeSaid{
			Templates: []int64{template}, Look: "Is the date of the next event still right? You’ll find it under Team and fields.",
			After: domain.RoundAfter{Task: "Call if they have not answered the invitation", Days: 7},
		},
	})
	if err != nil {
		return err
	}
	_, err = m.a.Rounds.StartRound(m.ctx, m.byUser[m.ids[0]], rounds.Start{RecipeID: &recipe})
	return err
}
