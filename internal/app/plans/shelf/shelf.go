// Package shelf holds the starter plans: ready-made series to copy from.
package shelf

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"sync"

	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

//go:embed starter/plans.txt
var starter string

// Plan is one of the ready-made plans to copy from.
type Plan struct {
	Key       string
	Moment    string // of the sale
	Name      string
	WhenToUse string
	Steps     []domain.PlanStep // their letters in words of their own
}

// Lines say in a few words what comes when.
func (p *Plan) Lines() []string {
	out := []string{}
	for i := range p.Steps {
		s := &p.Steps[i]
		what := map[plan.Kind]string{plan.Letter: "Letter", plan.Text: "Text message", plan.Task: "Task"}[s.Kind]
		switch s.Task {
		case domain.TaskCall:
			what = "Call"
		case domain.TaskVisit:
			what = "Visit"
		}
		out = append(out, what+", "+s.When.Words(i == 0))
	}
	return out
}

// Plans gives the starter plans, which are read once: a plan begins with "== " and its name, a step with "~ ",
// its kind and its timing.
var Plans = sync.OnceValues(func() ([]Plan, error) {
	var out []Plan
	for _, part := range strings.Split("\n"+starter, "\n== ")[1:] {
		steps := strings.Split(part, "\n~ ")
		lines := strings.Split(strings.TrimSpace(steps[0]), "\n")
		p := Plan{Name: lines[0], Key: library.KeyOf(lines[0])}
		for _, line := range lines[1:] {
			switch key, value, _ := strings.Cut(line, ": "); key {
			case "moment":
				p.Moment = value
			case "when":
				p.WhenToUse = value
			default:
				return nil, fmt.Errorf("starter/plans.txt: %q is not a setting", line)
			}
		}
		for _, text := range steps[1:] {
			s, err := readStep(text)
			if err != nil {
				return nil, fmt.Errorf("starter/plans.txt: %s: %w", p.Name, err)
			}
			p.Steps = append(p.Steps, s)
		}
		out = append(out, p)
	}
	return out, nil
})

// readStep reads a line such as “letter: 3 working days, same” and what stands below it.
func readStep(text string) (s domain.PlanStep, err error) {
	head, words, _ := strings.Cut(text, "\n")
	kind, timing, _ := strings.Cut(head, ": ")
	s.Kind = plan.Kind(kind)
	for i, part := range strings.Split(timing, ", ") {
		n, unit, _ := strings.Cut(part, " ")
		switch {
		case i == 0:
			if s.When.Days, err = strconv.Atoi(n); err != nil {
				return s, fmt.Errorf("%q is no timing", timing)
			}
			s.When.Working = strings.HasPrefix(unit, "working")
		case part == "same":
			s.Same = true
		case part == "at once":
			s.When.At = plan.AtOnce
		case part == "call", part == "visit", part == "note":
			s.Task = domain.TaskKind(part)
		case part == "at morning":
		default:
			return s, fmt.Errorf("%q is not known", part)
		}
	}
	if s.Kind != plan.Letter {
		s.Words = strings.TrimSpace(words)
		return s, nil
	}
	subject, body, ok := strings.Cut(words, "\n---\n")
	if !ok {
		return s, fmt.Errorf("a letter needs a subject and --- in %q", words)
	}
	t, _, wrong, err := library.Input{Subject: strings.TrimPrefix(subject, "subject: "), Body: strings.TrimSpace(body) + "\n", Kind: document.BodyPlain}.Read()
	if err == nil && len(wrong) > 0 {
		err = fmt.Errorf("%s", wrong[0].Message)
	}
	s.Wording = &domain.RoundWording{Subject: t.Subject, Body: t.Body}
	return s, err
}
