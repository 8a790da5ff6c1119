package rounds

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"maps"
	"strings"

	"lucidletter/core/field"
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
	Lacking int            `json:"lacking" doc:"People of the round about whom there is no row"`
}

// PastedColumn is a column and what it fills: a blank as ?name, a field by its path, "" nothing.
type PastedColumn struct {
	Header string `json:"header"`
	Path   string `json:"path"`
}

// Paste fills the letters of single people from a table: of each row those of the person that
// it is about. Columns are given by their headers, others are guessed. Without apply it only
// tells what would happen.
func (a *Service) Paste(ctx context.Context, u domain.User, id int64, text string, columns map[string]string, apply bool) (Pasted, error) {
	if _, err := a.mineOpen(ctx, u, id); err != nil {
		return Pasted{}, err
	}
	rows, err := readPasted(text)
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
		p := &pasting{k: k, out: Pasted{Columns: []PastedColumn{}, Others: []string{}, Wrong: []string{}}, fills: map[int64]domain.Own{}}
		if err := p.head(rows, columns); err != nil {
			return err
		}
		if err := p.people(ctx); err != nil {
			return err
		}
		for i, row := range rows[1:] {
			p.row(i+2, row)
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

func readPasted(text string) ([][]string, error) {
	text = strings.TrimPrefix(strings.ReplaceAll(text, "\r\n", "\n"), "\uFEFF")
	first, _, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord, r.LazyQuotes = -1, true
	switch {
	case strings.Contains(first, "\t"):
		r.Comma = '\t'
	case strings.Count(first, ";") > strings.Count(first, ","):
		r.Comma = ';'
	}
	var rows [][]string
	for {
		row, err := r.Read()
		switch {
		case errors.Is(err, io.EOF):
			if len(rows) < 2 {
				return nil, domain.Invalid("table", "needs a first row with the names of the columns, and a row for each person")
			}
			return rows, nil
		case err != nil:
			return nil, domain.Invalid("table", "cannot be read: %v", err)
		case strings.TrimSpace(strings.Join(row, "")) == "":
			continue
		case len(rows) >= maxPasted || len(row) > maxPastedColumns:
			return nil, domain.Invalid("table", "has more than %d rows or %d columns; paste a part of it", maxPasted, maxPastedColumns)
		}
		rows = append(rows, row)
	}
}

type pasting struct {
	k      *maker
	out    Pasted
	who    int  // the column that tells who it is
	byName bool // and by what
	named  map[string][]int64
	fills  map[int64]domain.Own
}

// head finds out what the columns are.
func (p *pasting) head(rows [][]string, given map[string]string) error {
	p.who = -1
	for i, h := range rows[0] {
		h = strings.TrimSpace(h)
		path, said := given[h]
		if !said {
			path = p.guess(h)
		}
		p.out.Columns = append(p.out.Columns, PastedColumn{h, path})
		at := 0
		for _, row := range rows[1:min(len(rows), 50)] {
			if i < len(row) && field.CheckEmail(strings.TrimSpace(row[i])) == nil {
				at++
			}
		}
		if p.who < 0 && 2*at > min(len(rows)-1, 49) {
			p.who = i
		}
	}
	if p.who < 0 {
		for i, c := range p.out.Columns {
			if c.Path == "person.full_name" || strings.EqualFold(c.Header, "name") {
				p.who, p.byName = i, true
			}
		}
	}
	if p.who < 0 {
		return domain.Invalid("table", "has no column that tells who a row is about; add one with their email addresses, or one called “Name”")
	}
	p.out.Who, p.out.Columns[p.who].Path = p.out.Columns[p.who].Header, ""
	for _, c := range p.out.Columns {
		if c.Path != "" {
			return nil
		}
	}
	if len(given) > 0 {
		return nil
	}
	return domain.Invalid("table", "has no column that is called like a blank or a field of this template: %s", strings.Join(p.names(), ", "))
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

func (p *pasting) names() []string {
	var out []string
	for _, w := range p.k.list {
		for _, d := range w.Program.Blanks() {
			out = append(out, d.Label())
		}
	}
	return out
}

// people finds out who of the round may be meant.
func (p *pasting) people(ctx context.Context) error {
	p.named = map[string][]int64{}
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
	if p.who < len(row) {
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
		if c.Path == "" || i >= len(row) || strings.TrimSpace(row[i]) == "" {
			continue
		}
		value, err := p.value(c.Path, strings.TrimSpace(row[i]))
		if why, _ := reasonOf(err); err != nil {
			if len(p.out.Wrong) < mostTold {
				p.out.Wrong = append(p.out.Wrong, fmt.Sprintf("Row %d (%s), %s: %s", line, who, c.Header, why))
			}
			continue
		}
		fills[c.Path] = value
		p.out.Filled++
	}
	p.fills[people[0]] = fills
}

func (p *pasting) value(path, value string) (string, error) {
	if name, blank := strings.CutPrefix(path, "?"); blank {
		for _, w := range p.k.list {
			for _, d := range w.Program.Blanks() {
				if d.Name == name {
					return p.k.checkBlank(&d, value)
				}
			}
		}
		return "", domain.Invalid(path, "is no blank of this template")
	}
	ref, ok := p.k.cat.Find(path)
	if !ok {
		return "", domain.Invalid(path, "is not a field")
	}
	v, err := field.Given(ref.Def, value, "")
	if err != nil {
		return "", domain.Invalid(path, "%v", err)
	}
	return v.String(), nil
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
