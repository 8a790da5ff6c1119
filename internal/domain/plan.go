package domain

import (
	"database/sql/driver"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/core/render"
)

// Plan is a timed series of letters and tasks. Its states and rights are as those of a
// template.
type Plan struct {
	ID        int64         `db:"id"`
	OwnerID   int64         `db:"owner_id"`
	Name      string        `db:"name"`
	WhenToUse string        `db:"when_to_use"`
	State     TemplateState `db:"state"`
	Rights    access.Rights `db:"-"`
	Said      PlanSaid      `db:"said"`
	Version   int           `db:"version"`
	CreatedAt time.Time     `db:"created_at"`
	UpdatedAt time.Time     `db:"updated_at"`
	UpdatedBy int64         `db:"updated_by"`
	DeletedAt *time.Time    `db:"deleted_at"`
}

// Thing is what rights are decided on.
func (p *Plan) Thing() access.Thing {
	return access.Thing{OwnerID: p.OwnerID, Draft: p.State == TemplateDraft, Rights: p.Rights}
}

// PlanSaid is what a plan is made of. LastKey is that of the step that was added last: keys
// are never used again.
type PlanSaid struct {
	Steps   []PlanStep `json:"steps"`
	LastKey int        `json:"lastKey"`
	Beside  bool       `json:"beside,omitempty"` // somebody may be on it who is on another plan too
}

// Value writes what was said as JSON.
func (s PlanSaid) Value() (driver.Value, error) { return toJSON(s) }

// Scan reads what was said from JSON.
func (s *PlanSaid) Scan(src any) error { return fromJSON(src, s) }

// Keys are those of the steps, in their order.
func (s *PlanSaid) Keys() []int {
	out := make([]int, len(s.Steps))
	for i := range s.Steps {
		out[i] = s.Steps[i].Key
	}
	return out
}

// Step gives a step by its key, or nil.
func (s *PlanSaid) Step(key int) *PlanStep {
	for i := range s.Steps {
		if s.Steps[i].Key == key {
			return &s.Steps[i]
		}
	}
	return nil
}

// Templates are the templates of the letters, each once.
func (s *PlanSaid) Templates() []int64 {
	var out []int64
	for i := range s.Steps {
		if id := s.Steps[i].TemplateID; id != nil && !slices.Contains(out, *id) {
			out = append(out, *id)
		}
	}
	return out
}

// PlanStep is one step of a plan: a letter of a template, or in words of this plan alone; a
// task; or a text message.
type PlanStep struct {
	Key        int           `json:"key"`
	Kind       plan.Kind     `json:"kind"`
	When       plan.Timing   `json:"when"`
	Same       bool          `json:"same,omitempty"` // it goes on in the conversation
	TemplateID *int64        `json:"template,omitempty"`
	Wording    *RoundWording `json:"wording,omitempty"` // of this plan alone, instead of the template's
	Task       TaskKind      `json:"task,omitempty"`
	Words      string        `json:"words,omitempty"` // of a task or a text message, in the text form
}

// TaskKind is what a task is about.
type TaskKind string

// The kinds of tasks; "" is any other.
const (
	TaskCall  TaskKind = "call"
	TaskVisit TaskKind = "visit"
	TaskNote  TaskKind = "note"
	TaskText  TaskKind = "text" // a text message, while none is sent from here
)

// RunState is the state of a run.
type RunState string

// The states of a run.
const (
	RunGoing    RunState = "going"
	RunWaiting  RunState = "waiting" // for its owner
	RunPaused   RunState = "paused"
	RunFinished RunState = "finished"
	RunStopped  RunState = "stopped"
)

// Over tells whether nothing comes any more.
func (s RunState) Over() bool { return s == RunFinished || s == RunStopped }

// Run is one person going through a plan.
type Run struct {
	ID        int64      `db:"id"`
	PlanID    int64      `db:"plan_id"`
	PersonID  int64      `db:"person_id"`
	DealID    *int64     `db:"deal_id"`
	OwnerID   int64      `db:"owner_id"`
	State     RunState   `db:"state"`
	Reason    string     `db:"reason"`
	Said      RunSaid    `db:"said"`
	StepKey   int        `db:"step_key"`
	StepAt    *time.Time `db:"step_at"`
	FromAt    time.Time  `db:"from_at"`
	NotBefore *time.Time `db:"not_before"`
	LetterID  *int64     `db:"letter_id"`
	LastID    *int64     `db:"last_id"`
	ThreadID  *int64     `db:"thread_id"`
	Version   int        `db:"version"`
	StartedAt time.Time  `db:"started_at"`
	EndedAt   *time.Time `db:"ended_at"`
}

// RunSaid is what was said when a run was started. Zone and At stand for the clock and the
// hour of every step; Fills are answers to blanks, by the key of the step and the name, such as
// 3?reason. Key are the values that a letter must not go wrong about, as they were.
type RunSaid struct {
	Zone  string `json:"zone,omitempty"`
	At    string `json:"at,omitempty"`
	Fills Own    `json:"fills,omitempty"`
	Key   Own    `json:"key,omitempty"`
	Now   int    `json:"now,omitempty"`   // the key of a step that its owner wants at once
	Draft int    `json:"draft,omitempty"` // the key of the step that the letter to be proofread is of
	News  bool   `json:"news,omitempty"`  // it waits since its words are others than its owner knows of
	Parts []Part `json:"parts,omitempty"` // what the letter to be proofread was made of
}

// Value writes what was said as JSON.
func (s RunSaid) Value() (driver.Value, error) { return toJSON(s) }

// Scan reads what was said from JSON.
func (s *RunSaid) Scan(src any) error { return fromJSON(src, s) }

// RunStep is a step that came.
type RunStep struct {
	ID       int64     `json:"-" db:"id"`
	RunID    int64     `json:"-" db:"run_id"`
	StepKey  int       `json:"key" db:"step_key"`
	What     string    `json:"what" db:"what" enum:"letter,task,text,skipped"`
	Name     string    `json:"name" db:"name"`
	LetterID *int64    `json:"letterId,omitempty" db:"letter_id"`
	TaskID   *int64    `json:"taskId,omitempty" db:"task_id"`
	At       time.Time `json:"at" db:"at"`
}

// RunRow is a run as lists show it.
type RunRow struct {
	Run
	Plan      string      `db:"plan"`
	FirstName string      `db:"first_name"`
	LastName  string      `db:"last_name"`
	Email     string      `db:"email"`
	Company   string      `db:"company"`
	Zone      string      `db:"time_zone"`
	Country   string      `db:"country"`
	Owner     string      `db:"owner"`
	Letter    LetterState `db:"letter_state"` // of the letter that waits to be proofread
	Done      int         `db:"done"`         // how many steps came
}

// Name is who it is.
func (r *RunRow) Name() string {
	if name := JoinName(r.FirstName, r.LastName); name != "" {
		return name
	}
	return r.Email
}

// ComingStep is a step of a run that is still to come, as things are.
type ComingStep struct {
	RunID    int64
	Key      int
	PersonID int64
	Person   string
	Plan     string
	Name     string
	Kind     plan.Kind
	At       time.Time
}

// RunsQuery selects runs: of a plan, a person, an owner; in some states, or all.
type RunsQuery struct {
	PlanID, PersonID, OwnerID int64
	States                    []RunState
	Search                    string
	Offset, Limit             int
}

// RunEvent is something that happened to somebody who is on a plan.
type RunEvent struct {
	ID         int64     `db:"id"`
	PersonID   int64     `db:"person_id"`
	RunID      int64     `db:"run_id"`
	Kind       string    `db:"kind"`
	Text       string    `db:"text"`
	IncomingID *int64    `db:"incoming_id"`
	BackOn     string    `db:"back_on"`
	At         time.Time `db:"at"`
}

// RecordEvent is something that changed on a record.
type RecordEvent struct {
	ID       int64     `db:"id"`
	Kind     string    `db:"kind"` // created, changed, deleted
	PersonID *int64    `db:"person_id"`
	DealID   *int64    `db:"deal_id"`
	Path     string    `db:"path"`
	Was      string    `db:"was"`
	Value    string    `db:"value"`
	At       time.Time `db:"at"`
}

// Check says what is wrong with the form of a step, or "". It tidies what does not belong
// to its kind.
func (s *PlanStep) Check() string {
	switch s.Kind {
	case plan.Letter:
		s.Task, s.Words = "", ""
	case plan.Task:
		s.TemplateID, s.Wording, s.Same = nil, nil, false
		if !slices.Contains([]TaskKind{"", TaskCall, TaskVisit, TaskNote}, s.Task) {
			return fmt.Sprintf("is a task of the kind %q; choose call, visit or note", s.Task)
		}
	case plan.Text:
		s.TemplateID, s.Wording, s.Same, s.Task = nil, nil, false, ""
	default:
		return fmt.Sprintf("is %q; choose a letter, a task or a text message", s.Kind)
	}
	if len(s.Words) > MaxPlanWords {
		return fmt.Sprintf("has words of more than %d bytes; shorten them", MaxPlanWords)
	}
	if w := s.Wording; w != nil {
		if err := w.Subject.Check(); err != nil || w.Subject.Attrs.Body != document.BodyPlain {
			return "has a subject that cannot be read; write it again"
		}
		if err := w.Body.Check(); err != nil {
			return "has words that cannot be read; write them again"
		}
		if len(render.RenderText(w.Body)) > document.MaxBody {
			return "has words of more than 1 MiB; shorten them"
		}
	}
	return s.When.Check()
}

// MaxPlanWords is the bytes of a task or a text message of a plan.
const MaxPlanWords = 4000

// Days is about how long a plan takes; of working days seven make five.
func (p *Plan) Days() (n int) {
	for i := range p.Said.Steps {
		t := &p.Said.Steps[i].When
		if n += t.Days; t.Working {
			n += t.Days * 2 / 5
		}
	}
	return n
}

// FillPath is where the answer to a blank of a step is kept, such as 3?reason.
func FillPath(key int, name string) string { return strconv.Itoa(key) + "?" + name }

// FillsOf gives the answers that are for one step, as its template names the blanks.
func FillsOf(key int, fills Own) map[string]string {
	out := map[string]string{}
	for path, words := range fills {
		if name, ok := strings.CutPrefix(path, strconv.Itoa(key)); ok && strings.HasPrefix(name, "?") {
			out[name] = words
		}
	}
	return out
}

// Timing is when a step comes in a run.
func (s *PlanStep) Timing(said *RunSaid) plan.Timing {
	t := s.When
	if said.At != "" && t.At != plan.AtOnce {
		t.At = said.At
	}
	return t
}

// Check checks what is said of one run.
func (said *RunSaid) Check() error {
	if said.Zone != "" && plan.Zone(said.Zone, "") == nil {
		return Invalid("zone", "%q is no time zone; choose one such as Europe/London", said.Zone)
	}
	if _, ok := plan.Minutes(said.At); !ok && said.At != "" {
		return Invalid("at", "%q is no time; write it like 14:30", said.At)
	}
	for path, words := range said.Fills {
		if len(words) > MaxPlanWords {
			return Invalid(path, "is longer than %d bytes; shorten it", MaxPlanWords)
		}
	}
	said.Key = nil
	return nil
}
