package compose

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/question"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// CheckAsked brings what letters of a template are to ask into its form, or says why they
// cannot.
func (a *Service) CheckAsked(ctx context.Context, t *domain.Template, s question.Sheet) (question.Sheet, error) {
	switch {
	case t.Body.Attrs.Body == document.BodyHTML:
		return s, &domain.StateError{Why: "The template is an HTML page, whose layout can’t be changed. Ask with another template."}
	case slices.Contains(t.Extras.MayNot, domain.AddLinks):
		return s, &domain.StateError{Why: "This template doesn’t allow writers to add links, and answers are links. Ask with another template."}
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return s, err
	}
	s, err = question.Tidied(s, cat)
	return s, AskError(err)
}

// answerPath is where the pages of questions are.
const answerPath = "/a/"

// AnswerURL is where the page of a question is.
func (a *Service) AnswerURL(token string) string {
	return strings.TrimSuffix(a.publicURL, "/") + answerPath + token
}

// AskError says of an error of a question which field it is about.
func AskError(err error) error {
	var bad *question.FieldError
	if errors.As(err, &bad) {
		return domain.Invalid("question "+bad.Where, "%s", bad.Why)
	}
	return err
}

// AskingWords are the words of a letter that ask.
func (a *Service) AskingWords(asked *domain.Asked, kind string) document.Document {
	address := a.AnswerURL(asked.Token)
	var lines [][2]string // words and their address
	first := asked.Sheet.Title
	if asked.Sheet.Clicked() {
		first = asked.Sheet.Questions[0].Text
		for i, answer := range asked.Sheet.Questions[0].Answers {
			lines = append(lines, [2]string{answer, fmt.Sprintf("%s/%d", address, i+1)})
		}
	} else {
		lines = append(lines, [2]string{first, address})
	}
	if kind != document.BodyFormatted {
		var b strings.Builder
		if asked.Sheet.Clicked() {
			b.WriteString(first + "\n")
		}
		for _, line := range lines {
			b.WriteString(line[0] + ": " + line[1] + "\n")
		}
		return document.NewPlain(strings.TrimSuffix(b.String(), "\n"))
	}
	p := document.Node{Type: document.Paragraph}
	if asked.Sheet.Clicked() {
		p.Content = append(p.Content, document.Node{Type: document.Text, Text: first, Marks: []document.Mark{{Type: document.Bold}}})
	}
	for _, line := range lines {
		if len(p.Content) > 0 {
			p.Content = append(p.Content, document.Node{Type: document.Break})
		}
		p.Content = append(p.Content, document.Node{Type: document.Text, Text: line[0], Marks: []document.Mark{{Type: document.Link, Attrs: &document.MarkAttrs{Href: line[1]}}}})
	}
	d := render.Formatted(document.NewPlain(""))
	d.Content = []document.Node{p}
	return markup.Canonical(d)
}

// AskedIn gives the questions whose links stand in the words of a letter. What is taken
// out comes back with its words.
func (a *Service) AskedIn(ctx context.Context, l *domain.Letter) ([]domain.Asked, error) {
	list, err := a.store.AskedIn(ctx, l.ID)
	words := ""
	if len(list) > 0 {
		words = markup.Print(l.Body)
	}
	return slices.DeleteFunc(list, func(q domain.Asked) bool { return !strings.Contains(words, a.AnswerURL(q.Token)) }), err
}

// askBlocker says that a letter holds the question of another one, whose answers would
// be filed there, or "".
func (a *Service) askBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	words := markup.Print(l.Body)
	if !strings.Contains(words, a.AnswerURL("")) {
		return "", nil
	}
	list, err := a.store.AskedIn(ctx, l.ID)
	if err != nil {
		return "", err
	}
	link := regexp.MustCompile(regexp.QuoteMeta(a.AnswerURL("")) + `([0-9A-Za-z]+)`)
	for _, hit := range link.FindAllStringSubmatch(words, -1) {
		if !slices.ContainsFunc(list, func(q domain.Asked) bool { return q.Token == hit[1] }) {
			return "A question in the letter was copied from another one, whose recipient it would count for; take it out and ask it here.", nil
		}
	}
	return "", nil
}
