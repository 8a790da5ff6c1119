// Package question holds what a letter asks on a page: one question that is
// answered by following a link, or a short list of questions.
package question

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"lucidletter/core/field"
)

// Limits: answers of a question that is answered by one click, questions of a list,
// and characters of a question, of an answer to choose and of one that is typed.
const (
	MinAnswers   = 2
	MaxAnswers   = 5
	MaxQuestions = 8
	MaxAsked     = 300
	MaxAnswer    = 80
	MaxTyped     = 2000
)

// Question asks one thing. Answers are those to choose from; without them the
// answer is typed. Field is the path of an own field of the person or the deal that
// the answer goes into, "" none.
type Question struct {
	Text    string   `json:"text"`
	Answers []string `json:"answers"`
	Field   string   `json:"field,omitempty"`
}

// Sheet is what one letter asks at one place. With a title it is a list of questions
// on a page; without one, one question whose answers are links.
type Sheet struct {
	Title     string     `json:"title,omitempty"`
	Questions []Question `json:"questions"`
}

// Clicked tells whether a sheet is answered by following a link.
func (s *Sheet) Clicked() bool { return s.Title == "" }

// FieldError says what is wrong with a part of a sheet or an answer. Where is
// "title", "questions" or the number of a question from 1.
type FieldError struct {
	Where string
	Why   string
}

func (e *FieldError) Error() string { return e.Where + " " + e.Why }

// Tidied gives a sheet without spaces around its words, without empty answers, and
// what is wrong with it.
func Tidied(s Sheet, cat *field.Catalogue) (Sheet, error) {
	out := Sheet{Title: oneLine(s.Title)}
	switch n := len(s.Questions); {
	case n == 0:
		return out, &FieldError{"questions", "are missing; ask something"}
	case out.Clicked() && n > 1:
		return out, &FieldError{"title", "is missing; a list of questions needs one, which is the link to its page"}
	case n > MaxQuestions:
		return out, &FieldError{"questions", fmt.Sprintf("are more than %d; ask fewer", MaxQuestions)}
	case utf8.RuneCountInString(out.Title) > MaxAnswer:
		return out, &FieldError{"title", fmt.Sprintf("is longer than %d characters; shorten it", MaxAnswer)}
	}
	for i, q := range s.Questions {
		where := fmt.Sprint(i + 1)
		one := Question{Text: oneLine(q.Text), Field: q.Field, Answers: []string{}}
		for _, a := range q.Answers {
			if a = oneLine(a); a != "" {
				one.Answers = append(one.Answers, a)
			}
		}
		if err := one.check(out.Clicked(), cat); err != "" {
			return out, &FieldError{where, err}
		}
		out.Questions = append(out.Questions, one)
	}
	return out, nil
}

func (q *Question) check(clicked bool, cat *field.Catalogue) string {
	for i, a := range q.Answers {
		switch {
		case utf8.RuneCountInString(a) > MaxAnswer:
			return fmt.Sprintf("has an answer of more than %d characters; shorten it", MaxAnswer)
		case slices.Contains(q.Answers[:i], a):
			return fmt.Sprintf("has the answer “%s” twice; take one out", a)
		}
	}
	switch n := len(q.Answers); {
	case q.Text == "":
		return "has no words; write the question"
	case utf8.RuneCountInString(q.Text) > MaxAsked:
		return fmt.Sprintf("is longer than %d characters; shorten it", MaxAsked)
	case (clicked || n > 0) && (n < MinAnswers || n > MaxAnswers):
		return fmt.Sprintf("needs %d to %d answers to choose from", MinAnswers, MaxAnswers)
	case q.Field == "":
		return ""
	}
	ref, ok := cat.Find(q.Field)
	if !ok || !ref.Def.Own || !slices.Contains([]field.Record{field.Person, field.Lead, field.Contact, field.Deal}, ref.Def.Record) {
		return "can only go into an own field of the person or the deal; choose another"
	}
	for _, a := range q.Answers {
		if _, err := field.Parse(ref.Def.Type, a, ref.Def.Choices); err != nil {
			return fmt.Sprintf("has the answer “%s”, which the field %s cannot hold: %v", a, ref.Def.Label, err)
		}
	}
	return ""
}

// Answer is what was answered to one question.
type Answer struct {
	Question string `json:"question"`
	Answer   string `json:"answer"`
}

// Read takes the answers to a sheet, in the order of its questions, "" where one was
// left out; something must be answered.
func Read(s Sheet, given []string) ([]string, error) {
	out := make([]string, len(s.Questions))
	said := false
	for i, q := range s.Questions {
		if i >= len(given) {
			break
		}
		a := strings.TrimSpace(cleaned(given[i]))
		switch {
		case a == "":
			continue
		case len(q.Answers) > 0 && !slices.Contains(q.Answers, a):
			return nil, &FieldError{fmt.Sprint(i + 1), "has another answer than those to choose from"}
		case utf8.RuneCountInString(a) > MaxTyped:
			return nil, &FieldError{fmt.Sprint(i + 1), fmt.Sprintf("is answered with more than %d characters; shorten it", MaxTyped)}
		}
		out[i], said = a, true
	}
	if !said {
		return nil, &FieldError{"questions", "have no answer yet; answer at least one"}
	}
	return out, nil
}

// cleaned takes away what a person does not type and what would change the words around an
// answer where it is shown: control characters, and marks that turn the direction of text
// (Unicode Standard Annex 9, section 2).
func cleaned(s string) string {
	s = strings.ReplaceAll(strings.ToValidUTF8(s, "\uFFFD"), "\r\n", "\n")
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' && r != '\t' || r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, s)
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
