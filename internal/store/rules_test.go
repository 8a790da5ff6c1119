package store

import (
	"context"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

// The conditions of questions to the database say what the rules of the domain say.
func TestRules_asInTheDomain(t *testing.T) {
	s := openEmpty(t)
	stage, ok := field.New(nil).Find("deal.stage")
	if !ok || len(stage.Def.Choices) == 0 {
		t.Fatal("deals have no stages")
	}
	for _, name := range stage.Def.Choices {
		open := 0
		if err := s.Ask(context.Background(), &open, `SELECT `+query.OpenDeal+` FROM (SELECT ? AS stage) d`, name); err != nil {
			t.Fatal(err)
		}
		if (open == 1) != (domain.Deal{Stage: name}).Open() {
			t.Errorf("a deal that is %q is open for one of them", name)
		}
	}
	for _, state := range []domain.RunState{domain.RunGoing, domain.RunWaiting, domain.RunPaused, domain.RunFinished, domain.RunStopped} {
		if strings.Contains(query.RunsNotOver, "'"+string(state)+"'") == state.Over() {
			t.Errorf("a run that is %q is over for one of them", state)
		}
	}
}
