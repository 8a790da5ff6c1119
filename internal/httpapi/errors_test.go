package httpapi

import (
	"errors"
	"net/http"
	"testing"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/internal/domain"
)

// What is refused is said in sentences that name the place as the screens do.
func TestProblem_sentences(t *testing.T) {
	for _, row := range []struct{ where, why, want string }{
		{"name", "is missing; give the folder a name", "Name: is missing; give the folder a name."},
		{"replyTo", "is no address", "Reply to: is no address."},
		{"person.first_name", "is empty; type a value", "First name: is empty; type a value."},
		{"body.template.whenToUse", "is longer than 300 bytes", "When to use: is longer than 300 bytes."},
		{"personId", "is missing", "Recipient: is missing."},
		{"body", "The letter is too long.", "The letter is too long."},
		{"", "“Hello” is no number", "“Hello” is no number."},
		{"straße", "fehlt", "Straße: fehlt."},
		{"", "", "."},
	} {
		if got := asSentence(row.where, row.why); got != row.want {
			t.Errorf("%s, %s: %q", row.where, row.why, got)
		}
	}
	two := problem(http.StatusUnprocessableEntity, "x", domain.FieldError{Where: "cc", Why: "is no address"}, domain.FieldError{Where: "name", Why: "is missing"})
	if two.Detail != "Cc: is no address. Name: is missing." || len(two.Errors) != 2 {
		t.Errorf("%+v", two)
	}
	// A request of another form is refused in the same words.
	formed := wrongRequest(http.StatusUnprocessableEntity, "validation failed", &huma.ErrorDetail{Location: "body.jobTitle", Message: "expected length <= 120"}, errors.New("and more"))
	if got := formed.Error(); got != "Job title: expected length <= 120. and more." {
		t.Errorf("%q", got)
	}
}
