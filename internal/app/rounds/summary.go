package rounds

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/core/preflight"
	"lucidletter/internal/domain"
)

// Sheet is a round as its page shows it.
type Sheet struct {
	domain.Round
	Groups       domain.RoundGroups
	Total        int
	Template     string   // its name, "" before one is chosen
	TemplateNews string   // what happened to it since the sender looked
	Languages    []string // of the wordings beside the template's own, such as German
	PartNews     string   // what else of its letters was changed since, as a sentence
	List         string
	Recipe       *domain.Recipe
	Asks         []Ask         // the blanks of the template
	Missing      []Lack        // what fields people lack, the most frequent first
	Reasons      []ReasonGroup // why people are skipped, the most frequent first
	PerDay       int           // how many letters the account sends in a day at most, 0 any number
	Grounds      []string
	Unmailable   bool       // nobody of the round has an address
	HadToday     int        // who of those it goes to have a letter today already
	Working      bool       // people are being checked
	NextAt       *time.Time // when the next letter is to go, while it is sent
}

// Ask is a blank of the template, and how it was answered for everybody; "" not yet.
type Ask struct {
	Path     string
	Label    string
	Kind     string
	Hint     string
	Choices  []string
	Optional bool
	Value    string
}

// Lack is a field that people of a round lack.
type Lack struct {
	Path     string     `json:"path"`
	Label    string     `json:"label"`
	Type     field.Type `json:"type"`
	Choices  []string   `json:"choices"`
	Count    int        `json:"count"`
	Storable bool       `json:"storable" doc:"It is a field of the person, that can be written on the records"`
	Value    string     `json:"value" doc:"What fills it in the letters of this round, canonical; empty nothing"`
}

// ReasonGroup is why people of a round are skipped.
type ReasonGroup struct {
	Code      eligibility.Code `json:"code"`
	Words     string           `json:"words"`
	Count     int              `json:"count"`
	Overruled bool             `json:"overruled" doc:"They may be written to all the same"`
}

// groupWords says a reason for several people alike.
var groupWords = map[eligibility.Code]string{
	eligibility.Deleted: "Deleted or merged records", eligibility.NoAddress: "No email address", eligibility.Malformed: "Not an email address", eligibility.OptedOut: "Unsubscribed",
	eligibility.Bounced: "Letters came back from the address", eligibility.Unfit: "The template doesn’t fit", eligibility.Twin: "One address on two people", eligibility.Answered: "Wrote to you since the round began",
	eligibility.Colleague: "Written to by a colleague", eligibility.OnPlan: "Going through a plan", eligibility.NoBasis: "No basis recorded", eligibility.Again: "Had this template already",
}

// Round gives a round, and has its people checked.
func (a *Service) Round(ctx context.Context, u domain.User, id int64) (Sheet, error) {
	r, err := a.mine(ctx, u, id)
	if err != nil {
		return Sheet{}, err
	}
	s := Sheet{Round: r, Asks: []Ask{}, Missing: []Lack{}, Reasons: []ReasonGroup{}}
	// First: who is counted below may have been checked meanwhile, but not the other way round.
	if s.Working, err = a.stale(ctx, &r); err != nil {
		return s, err
	}
	if s.Groups, err = a.store.Groups(ctx, id); err != nil {
		return s, err
	}
	s.Total = s.Groups.Total()
	for code, n := range s.Groups.Reasons {
		c := eligibility.Code(code)
		s.Reasons = append(s.Reasons, ReasonGroup{c, groupWords[c], n, c.Overruled()})
	}
	slices.SortFunc(s.Reasons, func(x, y ReasonGroup) int {
		if x.Count != y.Count {
			return y.Count - x.Count
		}
		return strings.Compare(string(x.Code), string(y.Code))
	})
	settings, err := a.team.Settings(ctx)
	if err != nil {
		return s, err
	}
	s.Grounds = settings.Grounds
	s.Unmailable = s.Total > 0 && s.Groups.Reasons[string(eligibility.NoAddress)] == s.Total
	if err := a.around(ctx, u, &s); err != nil {
		return s, err
	}
	if r.State == domain.RoundOpen {
		from, to := plan.Today(a.now(), u.TimeZone, u.Country)
		if s.HadToday, err = a.store.HadToday(ctx, id, from, to); err != nil {
			return s, err
		}
	}
	if r.State == domain.RoundSending {
		if _, s.NextAt, err = a.store.ToRelease(ctx, id, a.now(), 1); err != nil {
			return s, err
		}
	}
	return s, nil
}

// stale tells whether people of a round are to be checked, and has them checked.
func (a *Service) stale(ctx context.Context, r *domain.Round) (bool, error) {
	if r.State.Over() || r.TemplateID == nil {
		return false, nil
	}
	if err := a.checkAll(ctx, r); err != nil {
		return false, err
	}
	list, err := a.store.ToCheck(ctx, r.ID, 0, r.Version, 0, 1)
	if err != nil || len(list) == 0 {
		return false, err
	}
	a.look(r.ID)
	return true, nil
}

// around names what a round belongs to, and what its template asks for.
func (a *Service) around(ctx context.Context, u domain.User, s *Sheet) error {
	if s.ListID != nil {
		l, err := a.store.List(ctx, *s.ListID)
		if err != nil {
			return err
		}
		s.List = l.Name
	}
	if s.RecipeID != nil {
		r, err := a.store.Recipe(ctx, *s.RecipeID)
		if err != nil {
			return err
		}
		s.Recipe = &r
	}
	acc, err := a.team.AccountFor(ctx, s.OwnerID, fromOf(&s.Round, &u))
	if err != nil {
		return err
	}
	s.PerDay = acc.PerDay
	if s.TemplateID == nil {
		return nil
	}
	t, err := a.store.Template(ctx, *s.TemplateID)
	if err != nil {
		return err
	}
	if s.Template = t.Name; !s.State.Over() {
		if s.TemplateNews = newsOf(&s.Round, &t); s.TemplateNews == "" {
			if s.PartNews, err = a.partNews(ctx, &s.Round); err != nil {
				return err
			}
		}
	}
	k, err := a.maker(ctx, &s.Round)
	if err != nil {
		return err
	}
	s.Languages = k.languages()
	k.asks(s)
	k.lacks(s)
	return nil
}

// languages names those that there are wordings of beside the first.
func (k *maker) languages() []string {
	out := []string{}
	for i := range k.list[1:] {
		out = append(out, field.LanguageName(k.list[1+i].Wording.Body.Attrs.Lang))
	}
	return out
}

func (k *maker) asks(s *Sheet) {
	for _, w := range k.list {
		for _, d := range w.Program.Blanks() {
			path := "?" + d.Name
			if slices.ContainsFunc(s.Asks, func(x Ask) bool { return x.Path == path }) {
				continue
			}
			one := Ask{path, d.Label(), d.Kind, d.Hint, append([]string{}, d.Choices...), d.Optional, s.Said.Fills[path]}
			if d.Kind == document.BlankColleague {
				for i := range k.users {
					one.Choices = append(one.Choices, k.users[i].Name())
				}
			}
			s.Asks = append(s.Asks, one)
		}
	}
}

// lacks lists the fields that people lack, and those that were filled for all alike.
func (k *maker) lacks(s *Sheet) {
	counts := map[string]int{}
	for path, n := range s.Groups.Missing {
		counts[path] = n
	}
	for path := range s.Said.Fills {
		counts[path] += 0
	}
	for path, n := range counts {
		ref, ok := k.cat.Find(path)
		if !ok || path[0] == '?' {
			continue
		}
		record := ref.Def.Record
		s.Missing = append(s.Missing, Lack{
			Path: path, Label: k.cat.Name(path), Type: ref.Def.Type, Choices: append([]string{}, ref.Def.Choices...), Count: n, Value: s.Said.Fills[path],
			Storable: (record == field.Person || record == field.Lead || record == field.Contact) && path != "person.full_name" && path != "person.email" && path != "person.first_name" && path != "person.last_name",
		})
	}
	slices.SortFunc(s.Missing, func(x, y Lack) int {
		if x.Count != y.Count {
			return y.Count - x.Count
		}
		return strings.Compare(x.Path, y.Path)
	})
}

// Line is a round in the list of rounds.
type Line struct {
	domain.Round
	Template string
	Groups   domain.RoundGroups
}

// Rounds lists the rounds of a user, the newest first.
func (a *Service) Rounds(ctx context.Context, u domain.User) ([]Line, error) {
	list, err := a.store.Rounds(ctx, u.ID, 100)
	if err != nil {
		return nil, err
	}
	out := []Line{}
	for i := range list {
		one := Line{Round: list[i]}
		if one.Groups, err = a.store.Groups(ctx, list[i].ID); err != nil {
			return nil, err
		}
		if one.Groups.Unknown > 0 && !list[i].State.Over() {
			a.look(list[i].ID)
		}
		if list[i].TemplateID != nil {
			t, err := a.store.Template(ctx, *list[i].TemplateID)
			if err != nil {
				return nil, err
			}
			one.Template = t.Name
		}
		out = append(out, one)
	}
	return out, nil
}

// Standing says in words where somebody of a round stands, and more about it.
func Standing(r *domain.MemberRow) (state, more string) {
	if r.LetterState != "" && (r.State == domain.MemberReleased || r.LetterState != domain.Draft) {
		switch r.LetterState {
		case domain.Draft:
			return "taken back", "Taken back out of the outbox; a draft of yours now"
		case domain.Sending:
			return "waiting", "Being handed over"
		}
		return string(r.LetterState), cmp.Or(r.Told, r.Why)
	}
	var words []string
	for _, one := range r.Reasons {
		words = append(words, one.Label())
	}
	if state, more = string(r.State), strings.Join(words, "; "); r.State != domain.MemberSkipped {
		more = ""
	}
	switch {
	case r.State == domain.MemberUnknown:
		state = "not checked"
	case r.State == domain.MemberAside:
		state = "set aside"
	}
	if r.Told != "" {
		more = r.Told
	}
	return state, more
}

// Row is one line of the summary as a table: name, email, company, state, why, when it went,
// what came back.
func Row(r *domain.MemberRow) []string {
	state, more := Standing(r)
	at := ""
	if r.SentAt != nil {
		at = r.SentAt.UTC().Format(time.RFC3339)
	}
	return []string{r.Name(), r.Email, r.Company, state, more, at, r.Outcome}
}

// Columns are the headers of Row.
func Columns() []string {
	return []string{"name", "person.email", "company.name", "state", "why", "sent", "outcome"}
}

// Summary gives everybody of a group of a round, part by part.
func (a *Service) Summary(ctx context.Context, u domain.User, q domain.MembersQuery, each func([]domain.MemberRow) error) error {
	if _, err := a.mine(ctx, u, q.RoundID); err != nil {
		return err
	}
	for q.Limit = 500; ; q.Offset += q.Limit {
		rows, _, err := a.store.Members(ctx, q)
		if err != nil {
			return err
		}
		if err := each(rows); err != nil || len(rows) < q.Limit {
			return err
		}
	}
}

// Preflight is the preflight of a round as a program reads it.
type Preflight struct {
	Round    int64             `json:"round"`
	Template string            `json:"template"`
	List     string            `json:"list,omitempty"`
	State    string            `json:"state"`
	Total    int               `json:"total"`
	Counts   preflight.Counts  `json:"counts"`
	Missing  []Lack            `json:"missing"`
	Reasons  []ReasonGroup     `json:"reasons"`
	People   []PreflightPerson `json:"people"`
}

// PreflightPerson is one person of a Preflight.
type PreflightPerson struct {
	ID      int64    `json:"id"`
	Name    string   `json:"name"`
	Email   string   `json:"email"`
	State   string   `json:"state"`
	Why     string   `json:"why,omitempty"`
	Missing []string `json:"missing,omitempty"`
}

// Preflight gives the preflight of a round, after everybody was checked.
func (a *Service) Preflight(ctx context.Context, u domain.User, id int64) (Preflight, error) {
	if err := a.Check(ctx, id); err != nil {
		return Preflight{}, err
	}
	s, err := a.Round(ctx, u, id)
	if err != nil {
		return Preflight{}, err
	}
	out := Preflight{Round: id, Template: s.Template, List: s.List, State: string(s.State), Total: s.Total, Counts: s.Groups.Counts, Missing: s.Missing, Reasons: s.Reasons, People: []PreflightPerson{}}
	err = a.Summary(ctx, u, domain.MembersQuery{RoundID: id}, func(rows []domain.MemberRow) error {
		for i := range rows {
			r := &rows[i]
			state, more := Standing(r)
			one := PreflightPerson{ID: r.PersonID, Name: r.Name(), Email: r.Email, State: state, Why: more}
			if r.State == domain.MemberGap {
				one.Missing = r.Missing
			}
			out.People = append(out.People, one)
		}
		return nil
	})
	if n := out.Counts.Total(); err == nil && n != len(out.People) {
		err = fmt.Errorf("the counts of round %d add up to %d, not %d", id, n, len(out.People))
	}
	return out, err
}
