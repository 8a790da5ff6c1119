package query

import (
	"strings"
	"testing"

	"lucidletter/core/plan"
)

// Whatever somebody writes stops a plan that they are on, and nothing that counts as an answer is no writing.
func TestAnswers(t *testing.T) {
	kinds := func(list string) []string {
		return strings.Split(strings.NewReplacer("(", "", ")", "", "'", "", " ", "").Replace(list), ",")
	}
	for _, kind := range kinds(Wrote) {
		if !plan.OnEvent(kind).Stops {
			t.Errorf("%q counts as written, and does not stop a plan", kind)
		}
	}
	for _, kind := range kinds(AnswersLetter) {
		if !strings.Contains(Wrote, "'"+kind+"'") {
			t.Errorf("%q answers a letter, and does not count as written", kind)
		}
	}
}
