package domain

import (
	"cmp"
	"database/sql/driver"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/eligibility"
	"lucidletter/core/preflight"
	"lucidletter/core/question"
)

// RoundState is the state of a round.
type RoundState string

// The states of a round.
const (
	RoundOpen    RoundState = "open"
	RoundSending RoundState = "sending"
	RoundPaused  RoundState = "paused"
	RoundDone    RoundState = "done"
	RoundStopped RoundState = "stopped"
)

// Over tells whether nothing of the round goes any more.
func (s RoundState) Over() bool { return s == RoundDone || s == RoundStopped }

// Round is one template to many people, one letter each.
type Round struct {
	ID              int64      `db:"id"`
	OwnerID         int64      `db:"owner_id"`
	Name            string     `db:"name"`
	State           RoundState `db:"state"`
	Reason          string     `db:"reason"` // why it is paused
	ListID          *int64     `db:"list_id"`
	Filter          string     `db:"filter"` // of the list when the round began
	RecipeID        *int64     `db:"recipe_id"`
	TemplateID      *int64     `db:"template_id"`
	TemplateVersion int        `db:"template_version"`
	SeenVersion     int        `db:"seen_version"` // of the template, that the sender knows of
	Said            RoundSaid  `db:"said"`
	Doubles         int        `db:"doubles"` // how many were picked twice; each gets one letter
	Version         int        `db:"version"` // rises with everything that letters are made of
	CreatedAt       time.Time  `db:"created_at"`
	UpdatedAt       time.Time  `db:"updated_at"`
	BeganAt         *time.Time `db:"began_at"` // when it was sent
	EndedAt         *time.Time `db:"ended_at"`
}

// RoundSaid is what the sender said about a round.
type RoundSaid struct {
	Wording     *RoundWording   `json:"wording,omitempty"` // nil the template's
	From        string          `json:"from,omitempty"`    // "" the sender's own address
	ReplyTo     string          `json:"replyTo,omitempty"`
	Attachments []Attachment    `json:"attachments,omitempty"` // beside the template's
	Fills       Own             `json:"fills,omitempty"`       // of gaps by path and of blanks by ?name, for everybody who lacks the value
	Ask         *question.Sheet `json:"ask,omitempty"`         // what each letter asks
	Seen        TemplateState   `json:"seen,omitempty"`        // of the template, that the sender knows of
	Sisters     []PinnedWording `json:"sisters,omitempty"`     // the template in other languages, as it goes
	Parts       []Part          `json:"parts,omitempty"`       // what else letters are made of, that the sender knows of
	When        RoundWhen       `json:"when"`
	After       RoundAfter      `json:"after"`
}

// PinnedWording is a version of a template in another language.
type PinnedWording struct {
	ID      int64 `json:"id" db:"id"`
	Version int   `json:"version" db:"version"`
}

// Part is something that letters are made of beside records: what it is called, a sum of how it
// was, and who made it so, 0 nobody knows. Key tells which part it is, where its name does not.
type Part struct {
	Key  string `json:"key,omitempty"`
	Name string `json:"name"`
	Sum  string `json:"sum"`
	By   int64  `json:"by,omitempty"`
}

// Is reports whether two are the same part, as it is now and as it was.
func (p *Part) Is(q *Part) bool { return cmp.Or(p.Key, p.Name) == cmp.Or(q.Key, q.Name) }

// RoundWording is the wording for one round: the trees of a template.
type RoundWording struct {
	Subject document.Document `json:"subject"`
	Body    document.Document `json:"body"`
}

// RoundWhen says when the letters of a round go. Local is a time in Zone such as
// 2026-11-27T09:00; without it they go now. OverHours spreads them from then on. Morning is
// each recipient's next working morning. All tells that those that were not proofread go too.
type RoundWhen struct {
	Local     string `json:"local,omitempty" maxLength:"16"`
	Zone      string `json:"zone,omitempty" maxLength:"60"`
	OverHours int    `json:"overHours,omitempty" minimum:"0" maximum:"720"`
	Morning   bool   `json:"morning,omitempty"`
	All       bool   `json:"all,omitempty" doc:"Those that were not proofread go too"`
}

// RoundAfter is what happens when a letter of a round went out.
type RoundAfter struct {
	Path  string `json:"path,omitempty" doc:"A field of the person that is set"`
	Value string `json:"value,omitempty"`
	Task  string `json:"task,omitempty" maxLength:"500" doc:"A task for the sender, in these words"`
	Days  int    `json:"days,omitempty" minimum:"0" maximum:"365" doc:"In how many days it is due"`
	Plan  int64  `json:"plan,omitempty" minimum:"0" doc:"A plan that is started with each, in the conversation of the letter"`
}

// Value writes what was said as JSON.
func (s RoundSaid) Value() (driver.Value, error) { return toJSON(s) }

// Scan reads what was said from JSON.
func (s *RoundSaid) Scan(src any) error { return fromJSON(src, s) }

// MemberState is how somebody of a round stands. What comes after Released is in the state
// of the letter.
type MemberState string

// The states of somebody in a round.
const (
	MemberUnknown  MemberState = "unknown" // not checked yet
	MemberReady    MemberState = "ready"
	MemberGap      MemberState = "gap"
	MemberChanged  MemberState = "changed" // a letter of its own at the desk
	MemberAside    MemberState = "aside"
	MemberSkipped  MemberState = "skipped"
	MemberReleased MemberState = "released" // its letter is in the outbox
)

// Member is one person of a round.
type Member struct {
	ID              int64       `db:"id"`
	RoundID         int64       `db:"round_id"`
	Position        int         `db:"position"`
	PersonID        int64       `db:"person_id"`
	State           MemberState `db:"state"`
	Reasons         Reasons     `db:"reasons"`
	Missing         Stretches   `db:"missing"` // paths of gaps
	Allowed         Stretches   `db:"allowed"` // codes of reasons that were overruled
	Hard            int         `db:"hard"`
	Sum             string      `db:"sum"`
	Good            string      `db:"good"` // the sum that was proofread; "" none
	TemplateID      *int64      `db:"template_id"`
	TemplateVersion int         `db:"template_version"`
	Fills           Own         `db:"fills"`
	LetterID        *int64      `db:"letter_id"`
	EmailKey        string      `db:"email_key"`
	Checked         int         `db:"checked"`
	PersonVersion   int         `db:"person_version"`
	GoAt            *time.Time  `db:"go_at"`
	Told            string      `db:"told"`
	AfterDone       bool        `db:"after_done"`
}

// Proofread tells whether the words that were proofread are those that it has.
func (m *Member) Proofread() bool { return m.Good != "" && m.Good == m.Sum }

// RoundStop is what keeps a letter of a round from going: that the round was stopped, that
// another letter of it went to the address, or when its reader wrote since it was sent.
type RoundStop struct {
	Stopped bool
	Twice   bool
	Wrote   *time.Time
}

// Zone is a time zone and a country, as people of a round have them on record.
type Zone struct {
	Zone    string `db:"time_zone"`
	Country string `db:"country"`
}

// Reasons are why somebody is skipped, stored as JSON.
type Reasons []eligibility.Reason

// Value writes reasons as JSON.
func (r Reasons) Value() (driver.Value, error) {
	if len(r) == 0 {
		return "[]", nil
	}
	return toJSON([]eligibility.Reason(r))
}

// Scan reads reasons from JSON.
func (r *Reasons) Scan(src any) error { return fromJSON(src, (*[]eligibility.Reason)(r)) }

// MemberRow is one line of the list of a round.
type MemberRow struct {
	Member
	FirstName   string      `db:"first_name"`
	LastName    string      `db:"last_name"`
	Email       string      `db:"email"`
	Company     string      `db:"company"`
	LetterState LetterState `db:"letter_state"` // "" without a letter
	Why         string      `db:"letter_reason"`
	SentAt      *time.Time  `db:"sent_at"`
	Outcome     string      `db:"outcome"` // what came back: replied, opted out, bounced, clicked, opened; the weightiest
}

// Name is who it is.
func (r *MemberRow) Name() string {
	if name := JoinName(r.FirstName, r.LastName); name != "" {
		return name
	}
	return r.Email
}

// MembersQuery selects some of a round: of a group, with a reason or a missing field, or of whom words
// begin with a search.
type MembersQuery struct {
	RoundID       int64
	Group         string // ready, gap, aside, skipped, waiting, sent, refused, unsure, left, unknown; good, open (to proofread); an outcome; "" all
	Reason        eligibility.Code
	Missing       string
	EmailKey      string
	Person        int64 // only this one
	Search        string
	Hardest       bool
	Offset, Limit int
}

// MemberFacts are what else is known of people of a round, by person.
type MemberFacts struct {
	Twins     map[int64]string    // who else of the round has the address
	Again     map[int64]time.Time // when a letter of the template went; zero while it is on its way
	Colleague map[int64]ByColleague
	Answered  map[int64]time.Time
	OnPlan    map[int64]string // the name of the plan that somebody is going through
	Merged    map[int64]string // the name of the record that took the place
}

// ByColleague is who wrote, and when; zero while it is on its way.
type ByColleague struct {
	Who string
	At  time.Time
}

// RoundGroups are how many of a round stand where, and what could be mended for all alike.
type RoundGroups struct {
	preflight.Counts
	Changed   int            `json:"changed" doc:"Of the ready ones, those with a letter of their own at the desk"`
	Proofread int            `json:"proofread" doc:"Of the ready ones"`
	Going     int            `json:"going" doc:"Of the ready ones, those that are to be sent"`
	Told      int            `json:"told" doc:"Those that did not go although they were to"`
	Reasons   map[string]int `json:"reasons"`
	Missing   map[string]int `json:"missing"`
	Outcomes  map[string]int `json:"outcomes"`
}

// Recipe is a round that a lead keeps for others to run.
type Recipe struct {
	ID        int64      `db:"id"`
	Name      string     `db:"name"`
	OwnerID   int64      `db:"owner_id"`
	Owner     string     `db:"owner"`
	ListID    int64      `db:"list_id"`
	ListName  string     `db:"list_name"`
	Said      RecipeSaid `db:"said"`
	Version   int        `db:"version"`
	CreatedAt time.Time  `db:"created_at"`
	DeletedAt *time.Time `db:"deleted_at"`
}

// RecipeSaid is what a recipe lays down.
type RecipeSaid struct {
	Templates []int64    `json:"templates" doc:"Which may be chosen"`
	Look      string     `json:"look" doc:"What to look at before it is sent"`
	Fills     Own        `json:"fills,omitempty" doc:"Blanks that are answered already; the others are asked"`
	When      RoundWhen  `json:"when"`
	After     RoundAfter `json:"after"`
}

// Value writes what was said as JSON.
func (s RecipeSaid) Value() (driver.Value, error) { return toJSON(s) }

// Scan reads what was said from JSON.
func (s *RecipeSaid) Scan(src any) error { return fromJSON(src, s) }
