package rounds

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Limits of a table that is pasted.
const maxPasted, maxPastedColumns = 20_000, 40

// Pasted is what a pasted table would fill, or filled: its first row names the columns, one
// of which tells who each row is about.
type Pasted struct {
	Columns []PastedColumn `json:"columns"`
	Who     string         `json:"who" doc:"The column that tells who it is: an address, or a name"`
	Rows    int            `json:"rows"`
	Matched int            `json:"matched" doc:"Rows about somebody of this round who can still be changed"`
	Filled  int            `json:"filled" doc:"Values that were, or would be, filled in"`
	Others  []string       `json:"others" doc:"Rows that are about nobody of this round, or about several people, and why; the first fifty"`
	Left    int            `json:"left" doc:"How many those are"`
	Wrong   []string       `json:"wrong" doc:"Values that do not fit, and why; the first fifty"`
	Known   int            `json:"known" doc:"Values that stay as they are: the record has one, or the letter has this one already"`
	Lacking int            `json:"lacking" doc:"People of the round about whom there is no row"`
}

// PastedColumn is a column and what it fills: a blank as ?name, a field by its path, "" nothing.
type PastedColumn struct {
	Header string `json:"header"`
	Path   string `json:"path"`
	Unused bool   `json:"unused" doc:"No letter of the round has this value in it, so that nothing is filled from the column"`
}

// Paste fills the letters of single people from a table: of each row those of the person that
// it is about. Columns are given by their headers, others are guessed. Without apply it only
// tells what would happen.
func (a *Service) Paste(ctx context.Context, u domain.User, id int64, text string, columns map[string]string, apply bool) (Pasted, error) {
	if _, err := a.mineOpen(ctx, u, id); err != nil {
		return Pasted{}, err
	}
	rows, semicolons, err := readPasted(text)
	if err != nil {
		return Pasted{}, err
	}
	var out Pasted
	err = a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mineOpen(ctx, u, id)
		if err != nil {
			return err
		}
		k, err := a.maker(ctx, &r)
		if err != nil {
			return err
		}
		p := &pasting{k: k, semicolons: semicolons, out: Pasted{Columns: []PastedColumn{}, Others: []string{}, Wrong: []string{}}, fills: map[int64]domain.Own{}}
		if err := p.head(rows, columns); err != nil {
			return err
		}
		if err := p.members(ctx); err != nil {
			return err
		}
		for i, row := range rows[1:] {
			p.row(i+2, row)
		}
		if err := p.already(ctx); err != nil {
			return err
		}
		p.out.Lacking = len(p.named) - len(p.fills)
		if out = p.out; !apply {
			return nil
		}
		return p.store(ctx)
	})
	if apply {
		a.look(id)
	}
	return out, err
}

type pasting struct {
	k          *maker
	out        Pasted
	looks      []field.Look // how each column writes numbers and dates
	semicolons bool
	who        int                  // the column that tells who it is; -1 none
	byName     bool                 // and by what
	had        map[int64]domain.Own // what was filled in for somebody before
	named      map[string][]int64
	fills      map[int64]domain.Own
}

// head finds out what the columns are.
func (p *pasting) head(rows [][]string, given map[string]string) error {
	p.who = -1
	taken := map[string]string{}
	for i, h := range headersOf(rows[0]) {
		path, said := given[h]
		if !said {
			if path = p.guess(strings.TrimSpace(rows[0][i])); taken[path] != "" {
				path = "" // of two columns for one value the first counts, until somebody says otherwise
			}
		}
		if path == whoColumn {
			p.who, path = i, ""
		}
		if had := taken[path]; path != "" && had != "" {
			return domain.Invalid("columns", "“%s” and “%s” both fill %s; choose one of them", had, h, p.nameOf(path))
		}
		taken[path] = h
		p.out.Columns = append(p.out.Columns, PastedColumn{h, path, path != "" && !p.used(path)})
		p.looks = append(p.looks, field.LookOf(cellsOf(rows[1:], i), p.semicolons))
	}
	p.findWho(rows[1:])
	if p.who >= 0 {
		p.out.Who, p.out.Columns[p.who].Path, p.out.Columns[p.who].Unused = p.out.Columns[p.who].Header, "", false
	}
	return nil
}

// whoColumn is what a column fills that tells who it is.
const whoColumn = "who"

// findWho finds the column that tells who a row is about, unless it was given.
func (p *pasting) findWho(rows [][]string) {
	addresses := func(i int) bool {
		cells, at := cellsOf(rows[:min(len(rows), 50)], i), 0
		for _, c := range cells {
			if field.CheckEmail(c) == nil {
				at++
			}
		}
		return 2*at > len(cells)
	}
	if p.who >= 0 {
		p.byName = !addresses(p.who)
		return
	}
	for i := range p.out.Columns {
		if addresses(i) {
			p.who = i
			return
		}
	}
	for i, c := range p.out.Columns {
		if c.Path == "person.full_name" || strings.EqualFold(c.Header, "name") {
			p.who, p.byName = i, true
			return
		}
	}
}

// used tells whether a value stands in any wording of the round.
func (p *pasting) used(path string) bool {
	for _, w := range p.k.list {
		for _, d := range []document.Document{w.Wording.Subject, w.Wording.Body} {
			if path[0] == '?' || slices.Contains(markup.PathsIn(template.Expand(d, w.Wording.Passages)), path) {
				return true
			}
		}
	}
	return false
}

func (p *pasting) nameOf(path string) string {
	if name, blank := strings.CutPrefix(path, "?"); blank {
		for _, w := range p.k.list {
			for _, d := range w.Program.Blanks() {
				if d.Name == name {
					return d.Label()
				}
			}
		}
	}
	return p.k.cat.Name(path)
}

// guess finds the blank or the field that a header names.
func (p *pasting) guess(header string) string {
	for _, w := range p.k.list {
		for _, d := range w.Program.Blanks() {
			if strings.EqualFold(header, d.Name) || strings.EqualFold(header, d.Label()) || strings.EqualFold(header, "?"+d.Name) {
				return "?" + d.Name
			}
		}
	}
	for _, d := range p.k.cat.Fields() {
		if strings.EqualFold(header, d.Path) || strings.EqualFold(header, p.k.cat.Name(d.Path)) {
			return d.Path
		}
	}
	return ""
}

// members finds out who of the round may be meant.
func (p *pasting) members(ctx context.Context) error {
	p.named, p.had = map[string][]int64{}, map[int64]domain.Own{}
	q := domain.MembersQuery{RoundID: p.k.r.ID, Limit: 1000}
	for {
		rows, _, err := p.k.a.store.Members(ctx, q)
		if err != nil {
			return err
		}
		for i := range rows {
			key := field.EmailKey(rows[i].Email)
			if p.byName {
				key = strings.ToLower(domain.JoinName(rows[i].FirstName, rows[i].LastName))
			}
			if key != "" && rows[i].State != domain.MemberReleased && rows[i].LetterID == nil {
				p.named[key] = append(p.named[key], rows[i].PersonID)
				p.had[rows[i].PersonID] = rows[i].Fills
			}
		}
		if len(rows) < q.Limit {
			return nil
		}
		q.Offset += q.Limit
	}
}

const mostTold = 50

func (p *pasting) row(line int, row []string) {
	p.out.Rows++
	who := ""
	if p.who >= 0 && p.who < len(row) {
		who = strings.Join(strings.Fields(row[p.who]), " ")
	}
	key := field.EmailKey(who)
	if p.byName {
		key = strings.ToLower(who)
	}
	left := func(why string) {
		if p.out.Left++; len(p.out.Others) < mostTold {
			p.out.Others = append(p.out.Others, fmt.Sprintf("Row %d (%s): %s", line, who, why))
		}
	}
	people := p.named[key]
	switch {
	case key == "":
		left("says nobody")
		return
	case len(people) == 0:
		left("nobody of this round whose letter can still be filled in here")
		return
	case len(people) > 1:
		left(fmt.Sprintf("%d people of this round", len(people)))
		return
	case p.fills[people[0]] != nil:
		left("there was a row about them before")
		return
	}
	p.out.Matched++
	fills := domain.Own{}
	for i, c := range p.out.Columns {
		if c.Path == "" || c.Unused || i >= len(row) || strings.TrimSpace(row[i]) == "" {
			continue
		}
		value, err := p.value(c.Path, strings.TrimSpace(row[i]), p.looks[i])
		if why, _ := domain.ForPeople(err); err != nil {
			if len(p.out.Wrong) < mostTold {
				p.out.Wrong = append(p.out.Wrong, fmt.Sprintf("Row %d (%s), %s: %s", line, who, c.Header, why))
			}
			continue
		}
		if p.had[people[0]][c.Path] == value {
			p.out.Known++
			continue
		}
		fills[c.Path] = value
		p.out.Filled++
	}
	p.fills[people[0]] = fills
}

func (p *pasting) value(path, value string, look field.Look) (string, error) {
	if name, blank := strings.CutPrefix(path, "?"); blank {
		for _, w := range p.k.list {
			for _, d := range w.Program.Blanks() {
				if d.Name == name {
					return p.k.checkBlank(&d, value, look)
				}
			}
		}
		return "", domain.Invalid(path, "is no blank of this template")
	}
	ref, ok := p.k.cat.Find(path)
	if !ok {
		return "", domain.Invalid(path, "is not a field")
	}
	v, err := look.Given(ref.Def, value)
	if err != nil {
		return "", domain.Invalid(path, "%v", err)
	}
	return v.String(), nil
}

// already leaves out what the records know: a gap is filled where they say nothing.
func (p *pasting) already(ctx context.Context) error {
	if !slices.ContainsFunc(p.out.Columns, func(c PastedColumn) bool { return c.Path != "" && c.Path[0] != '?' && !c.Unused }) {
		return nil
	}
	ids := slices.Sorted(maps.Keys(p.fills))
	return p.k.a.library.EachSetting(ctx, p.k.cat, p.k.u, ids, func(s *library.Setting) error {
		fills := p.fills[s.Person.ID]
		for path := range fills {
			if path[0] != '?' && s.Values.Get(path).Filled() {
				delete(fills, path)
				p.out.Filled--
				p.out.Known++
			}
		}
		return nil
	})
}

func (p *pasting) store(ctx context.Context) error {
	for person, fills := range p.fills {
		if len(fills) == 0 {
			continue
		}
		m, err := p.k.a.store.Member(ctx, p.k.r.ID, person)
		if err != nil {
			return err
		}
		all := maps.Clone(m.Fills)
		if all == nil {
			all = domain.Own{}
		}
		maps.Copy(all, fills)
		m.Fills, m.Checked = all, 0
		if err := p.k.a.store.UpdateMember(ctx, m); err != nil {
			return err
		}
	}
	return nil
}
