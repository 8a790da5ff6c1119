package follow

import (
	"context"
	"net/http"

	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// wordings are the words of letters of plans, which are edited as templates are.
func (r *routes) wordings() {
	type stepInput struct {
		web.IDInput
		Key int `path:"step" minimum:"1"`
	}
	const path = "/api/plans/{id}/steps/{step}/wording"
	web.Handle(r.api, web.Op("planWording", http.MethodGet, path, "What the letter of a step is merged from, as the editor takes it"),
		func(ctx context.Context, u domain.User, in *stepInput) (*web.Body[wire.TemplateOut], error) {
			sheet, err := r.app.Plans.StepWording(ctx, u, in.ID, in.Key)
			if err != nil {
				return nil, err
			}
			return web.OK(wire.TemplateOf(sheet)), nil
		})
	web.Handle(r.api, web.Large(web.Op("setPlanWording", http.MethodPut, path, "Give the letter of a step words of this plan alone; the template stays as it is"), wire.MaxDocument),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Version int `query:"version" required:"true" minimum:"1" doc:"Of what was looked at"`
			Key     int `path:"step" minimum:"1"`
			Body    wire.Input
		}) (*struct{}, error) {
			w := in.Body.Wording()
			return nil, r.app.Plans.SetStepWording(ctx, u, in.ID, in.Key, in.Version, &w)
		})
	web.Handle(r.api, web.Op("dropPlanWording", http.MethodDelete, path, "Take the wording of the template again"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Version int `query:"version" required:"true" minimum:"1" doc:"Of what was looked at"`
			Key     int `path:"step" minimum:"1"`
		}) (*struct{}, error) {
			return nil, r.app.Plans.SetStepWording(ctx, u, in.ID, in.Key, in.Version, nil)
		})
}
