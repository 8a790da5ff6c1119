package store

import (
	"context"
	"reflect"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// What keeps letters from addresses: the list, a record, letters that came back.
func TestSuppressions(t *testing.T) {
	ctx := context.Background()
	s, _, _ := desk(t)
	id := must[int64](t)
	person := func(email string, out *time.Time) {
		id(s.AddPerson(ctx, domain.Person{Kind: field.Lead, FirstName: "A", Email: email, OptedOutAt: out, CreatedAt: day, UpdatedAt: day}))
	}
	earlier := day.Add(-time.Hour)
	person("free@quill.example", nil)
	person("Said@quill.example", nil)
	person("said@Quill.example", &day) // the same address on two records
	person("both@quill.example", &day)
	for _, err := range []error{
		s.AddOptOut(ctx, domain.OptOut{Key: "both@quill.example", Email: "both@quill.example", At: earlier}),
		s.AddOptOut(ctx, domain.OptOut{Key: "listed@quill.example", Email: "listed@quill.example", At: day}),
		s.PutBadAddress(ctx, domain.BadAddress{Key: "gone@quill.example", Reason: "550", At: day}),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	keys := []string{"free@quill.example", "said@quill.example", "both@quill.example", "listed@quill.example", "gone@quill.example", "nobody@quill.example"}
	got, err := s.Suppressions(ctx, keys...)
	want := map[string]domain.Suppression{
		"free@quill.example": {}, "said@quill.example": {OptedOutAt: &day}, "both@quill.example": {OptedOutAt: &earlier}, "listed@quill.example": {OptedOutAt: &day},
		"gone@quill.example": {Bad: &domain.BadAddress{Key: "gone@quill.example", Reason: "550", At: day}}, "nobody@quill.example": {},
	}
	if err != nil || jsonOf(t, got) != jsonOf(t, want) {
		t.Errorf("got  %s\nwant %s\n%v", jsonOf(t, got), jsonOf(t, want), err)
	}
	if none, err := s.Suppressions(ctx); err != nil || len(none) != 0 {
		t.Errorf("%v %v", none, err)
	}
}

// jsonOf writes a value so that equal times are equal.
func jsonOf(t *testing.T, v any) string {
	t.Helper()
	text, err := writeJSON(v)
	if err != nil {
		t.Fatal(err)
	}
	return text
}

// Letters and people are read together as they are read one by one; what cannot be read
// keeps nothing else from it.
func TestLettersOf(t *testing.T) {
	ctx := context.Background()
	s, user, person := desk(t)
	id := must[int64](t)
	var ids []int64
	for range 3 {
		ids = append(ids, id(s.AddLetter(ctx, domain.Letter{PersonID: person, SenderID: user, State: domain.Waiting, Subject: document.NewPlain("s"), Body: document.NewPlain("b"), ToEmail: "a@quill.example", Version: 1, CreatedAt: day, UpdatedAt: day, DueAt: &day})))
	}
	if _, err := s.DB().Exec(`UPDATE letters SET body = '{' WHERE id = ?`, ids[1]); err != nil {
		t.Fatal(err)
	}
	list, err := s.LettersOf(ctx, append(ids, 999))
	if err != nil || len(list) != 2 {
		t.Fatalf("%d letters, %v", len(list), err)
	}
	for i, one := range []int64{ids[0], ids[2]} {
		alone, err := s.Letter(ctx, one)
		if err != nil || !reflect.DeepEqual(list[i], alone) {
			t.Errorf("got  %+v\nwant %+v\n%v", list[i], alone, err)
		}
	}
	people, err := s.PeopleOf(ctx, []int64{person, person, 999})
	if err != nil || len(people) != 1 {
		t.Fatalf("%+v %v", people, err)
	}
	if alone, err := s.Person(ctx, person); err != nil || !reflect.DeepEqual(people[0], alone) {
		t.Errorf("got  %+v\nwant %+v\n%v", people[0], alone, err)
	}
}
