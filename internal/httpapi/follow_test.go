package httpapi

import (
	"fmt"
	"log/slog"
	"net/http/httptest"
	"strings"
	"testing"

	"lucidletter/core/plan"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
)

// Several states may be asked for, as the screens do; a colleague sees who is on a plan, and not
// what was answered for them.
func TestServer_runs(t *testing.T) {
	b, cookies := world(t)
	owner, err := b.Store.UserByEmail(t.Context(), "nora@fernhollow.example")
	if err != nil {
		t.Fatal(err)
	}
	p, err := b.App.Plans.AddPlan(t.Context(), owner, plans.Input{Name: "Calls", Steps: []domain.PlanStep{{Kind: plan.Task, When: plan.Timing{Days: 3}, Words: "Call"}}})
	if err == nil {
		p, err = b.App.Plans.SetPlanState(t.Context(), owner, p.ID, p.Version, domain.TemplateReady)
	}
	if err != nil {
		t.Fatal(err)
	}
	bea := b.Person(t, "Bea", "Stone", "bea@stone.example")
	if out, err := b.App.Plans.Start(t.Context(), owner, p.ID, []int64{bea}, plans.With{Said: domain.RunSaid{Fills: domain.Own{"1?why": "A secret"}}}); err != nil || len(out.Runs) != 1 {
		t.Fatal(out, err)
	}
	h := New(b.App, b.Store, nil, slog.New(slog.DiscardHandler))
	asked := func(cookie, query string) string {
		r := httptest.NewRequest("GET", fmt.Sprintf("/api/runs?person=%d&%s", bea, query), nil)
		r.Header.Set("Cookie", cookie)
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w.Body.String()
	}
	for query, want := range map[string]int{"state=waiting&state=going&state=paused": 1, "state=waiting&state=stopped": 0, "": 1, "state=going": 1} {
		answer := asked(cookies[1], query)
		if got := strings.Count(answer, `"planId"`); got != want {
			t.Errorf("%q: %d runs, want %d: %s", query, got, want, answer)
		}
	}
	if answer := asked(cookies[2], ""); strings.Contains(answer, "secret") || !strings.Contains(answer, "Bea Stone") {
		t.Errorf("a colleague sees %s", answer)
	}
}
