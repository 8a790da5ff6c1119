package question

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
)

func catalogue() *field.Catalogue {
	return field.New([]field.Def{
		{Path: "deal.own.visit", Record: field.Deal, Label: "Visit wanted", Type: field.YesNo, Own: true},
		{Path: "lead.own.volume", Record: field.Lead, Label: "Volume", Type: field.Number, Own: true},
		{Path: "team.own.event", Record: field.Team, Label: "Event", Type: field.Text, Own: true},
	})
}

func TestTidied(t *testing.T) {
	got, err := Tidied(Sheet{Questions: []Question{{Text: " Shall we\ncome? ", Answers: []string{" Yes ", "", "No"}, Field: "deal.own.visit"}}}, catalogue())
	if err != nil || !got.Clicked() || got.Questions[0].Text != "Shall we come?" || !slices.Equal(got.Questions[0].Answers, []string{"Yes", "No"}) {
		t.Fatalf("%+v %v", got, err)
	}
	list, err := Tidied(Sheet{Title: "Three questions", Questions: []Question{{Text: "How large?", Field: "lead.own.volume"}, {Text: "When?"}}}, catalogue())
	if err != nil || list.Clicked() || len(list.Questions) != 2 {
		t.Fatalf("%+v %v", list, err)
	}
	yes := []string{"Yes", "No"}
	for name, c := range map[string]struct {
		sheet Sheet
		where string
	}{
		"nothing asked":                 {Sheet{}, "questions"},
		"two without a title":           {Sheet{Questions: []Question{{Text: "A", Answers: yes}, {Text: "B", Answers: yes}}}, "title"},
		"no words":                      {Sheet{Questions: []Question{{Text: " ", Answers: yes}}}, "1"},
		"one answer":                    {Sheet{Questions: []Question{{Text: "A", Answers: []string{"Yes"}}}}, "1"},
		"six answers":                   {Sheet{Questions: []Question{{Text: "A", Answers: strings.Fields("a b c d e f")}}}, "1"},
		"one answer to choose, listed":  {Sheet{Title: "T", Questions: []Question{{Text: "A"}, {Text: "B", Answers: []string{"x"}}}}, "2"},
		"an answer twice":               {Sheet{Questions: []Question{{Text: "A", Answers: []string{"Yes", "Yes "}}}}, "1"},
		"a field that is not there":     {Sheet{Questions: []Question{{Text: "A", Answers: yes, Field: "deal.own.gone"}}}, "1"},
		"a standard field":              {Sheet{Questions: []Question{{Text: "A", Answers: yes, Field: "person.email"}}}, "1"},
		"a field of the team":           {Sheet{Questions: []Question{{Text: "A", Answers: yes, Field: "team.own.event"}}}, "1"},
		"answers the field cannot hold": {Sheet{Questions: []Question{{Text: "A", Answers: []string{"small", "large"}, Field: "lead.own.volume"}}}, "1"},
		"too many questions":            {Sheet{Title: "T", Questions: make([]Question, MaxQuestions+1)}, "questions"},
		"a long answer":                 {Sheet{Questions: []Question{{Text: "A", Answers: []string{"Yes", strings.Repeat("é", MaxAnswer+1)}}}}, "1"},
	} {
		var bad *FieldError
		if _, err := Tidied(c.sheet, catalogue()); !errors.As(err, &bad) || bad.Where != c.where {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestRead(t *testing.T) {
	s := Sheet{Title: "T", Questions: []Question{{Text: "Come?", Answers: []string{"Yes", "No"}}, {Text: "Why?"}}}
	got, err := Read(s, []string{"", " Because\r\nof heat "})
	if err != nil || !slices.Equal(got, []string{"", "Because\nof heat"}) {
		t.Errorf("%q %v", got, err)
	}
	// What would change the words around it where it is shown is taken away (Trojan Source, CVE-2021-42574).
	if got, err := Read(s, []string{"", "a\x00b\u202Etxt.exe\u2066c\u2069\x1b[31m"}); err != nil || got[1] != "abtxt.exec[31m" {
		t.Errorf("%q %v", got, err)
	}
	if got, err := Read(s, []string{"No"}); err != nil || !slices.Equal(got, []string{"No", ""}) {
		t.Errorf("%q %v", got, err)
	}
	for name, given := range map[string][]string{
		"nothing": {" ", ""}, "none at all": nil, "an answer that was not offered": {"Perhaps"}, "a book": {"", strings.Repeat("x", MaxTyped+1)},
	} {
		if got, err := Read(s, given); err == nil {
			t.Errorf("%s: %q", name, got)
		}
	}
}
