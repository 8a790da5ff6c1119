package app

import (
	"context"
	"errors"
	"reflect"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
)

// ImportOptions says how to read an import file. Columns maps a header to a
// field path, or to "-" to leave the column out; headers not in it are mapped
// by path, label or a common name. Check only reports. SkipRefused imports the
// good rows; without it one refused row means that nothing is imported.
type ImportOptions struct {
	Columns     map[string]string
	Kind        field.Record // of rows without person.kind; lead by default
	Check       bool
	SkipRefused bool
}

// ImportReport says what an import did, or with Check would do.
type ImportReport struct {
	Columns  []Column     `json:"columns"`
	Rows     int          `json:"rows"`
	Created  int          `json:"created"`
	Updated  int          `json:"updated"`
	Same     int          `json:"same"` // found by email, nothing to change
	Refused  int          `json:"refused"`
	Refusals []RefusedRow `json:"refusals"` // the first thousand
	Done     bool         `json:"done"`     // false: nothing was stored
}

// Column is one column of the file and the field it goes to ("" none). Problem
// says, in a check, why nobody knows where it goes.
type Column struct {
	Header  string `json:"header"`
	Path    string `json:"path"`
	Label   string `json:"label"`
	Problem string `json:"problem"`
}

// RefusedRow is a row that cannot be imported. Line counts from 1 for the
// header.
type RefusedRow struct {
	Line int    `json:"line"`
	Why  string `json:"why"`
}

const maxRefusals = 1000

// ImportPeople reads people from a table in one transaction. Rows are matched
// by email; only filled cells are written. The file is read once, row by row.
// An error ends it with nothing stored; refused rows are in the report.
func (a *App) ImportPeople(ctx context.Context, u User, t Table, o ImportOptions) (ImportReport, error) {
	report := ImportReport{Refusals: []RefusedRow{}}
	if err := may(u, access.ImportPeople, access.Thing{}); err != nil {
		return report, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return report, err
	}
	if report.Columns, err = mapColumns(cat, t.Header, o.Columns, o.Check); err != nil {
		return report, err
	}
	errUndo := errors.New("nothing is to be kept")
	err = a.Store.Within(ctx, func(s Store) error {
		run := importRun{a: a, s: s, cat: cat, u: u, o: o, report: &report, seen: map[string]int{}, companies: map[string]int64{}}
		for row, err := range t.Rows {
			if err != nil {
				return err
			}
			if err := run.row(ctx, row); err != nil {
				return err
			}
		}
		switch {
		case report.Rows == 0:
			return invalid("file", "has a header and no rows; nothing was imported")
		case o.Check, report.Refused > 0 && !o.SkipRefused:
			return errUndo
		}
		return nil
	})
	if errors.Is(err, errUndo) {
		return report, nil
	}
	report.Done = err == nil
	return report, err
}

type importRun struct {
	a         *App
	s         Store
	cat       *field.Catalogue
	u         User
	o         ImportOptions
	report    *ImportReport
	seen      map[string]int // email key to the line it stood on
	companies map[string]int64
}

// row imports one row. Its error is unexpected; a refusal goes to the report.
func (r *importRun) row(ctx context.Context, row TableRow) error {
	r.report.Rows++
	err := row.Err
	if err == nil {
		err = r.take(ctx, row)
	}
	var bad *InvalidError
	if !errors.As(err, &bad) {
		return err
	}
	r.report.Refused++
	if len(r.report.Refusals) < maxRefusals {
		r.report.Refusals = append(r.report.Refusals, RefusedRow{row.Line, bad.Error()})
	}
	return nil
}

func (r *importRun) take(ctx context.Context, row TableRow) error {
	cells := map[string]string{}
	for i, c := range r.report.Columns {
		if s := strings.TrimSpace(row.Cells[i]); s != "" && c.Path != "" {
			cells[c.Path] = s
		}
	}
	if len(cells) == 0 {
		return invalid("row", "is empty")
	}
	splitName(cells)
	p, found, err := r.match(ctx, cells["person.email"], row.Line)
	if err != nil {
		return err
	}
	if !found {
		p.CreatedAt, p.OwnerID = r.a.now(), &r.u.ID
		if p.Kind, err = r.kind(cells); err != nil {
			return err
		}
		if p.Kind == field.Lead {
			p.LeadStatus = field.LeadStatuses()[0]
		}
	} else if kind := cells["person.kind"]; kind != "" && kind != string(p.Kind) {
		return invalid("person.kind", "is %s, but %s is a %s already", kind, p.Email, p.Kind)
	}
	delete(cells, "person.kind")
	before := p // the map of own fields is never changed in place
	company := companyCells(cells)
	if err := r.fill(&p, cells); err != nil {
		return err
	}
	if p.Email == "" && p.FirstName == "" && p.LastName == "" {
		return invalid("row", "has neither a name nor an address")
	}
	if err := r.company(ctx, &p, company); err != nil {
		return err
	}
	return r.store(ctx, p, found, reflect.DeepEqual(before, p))
}

func splitName(cells map[string]string) {
	full := cells["person.full_name"]
	delete(cells, "person.full_name")
	if full == "" || cells["person.first_name"] != "" || cells["person.last_name"] != "" {
		return
	}
	first, last := "", full
	if at := strings.LastIndexByte(full, ' '); at > 0 {
		first, last = full[:at], full[at+1:]
	}
	if first != "" {
		cells["person.first_name"] = strings.TrimSpace(first)
	}
	cells["person.last_name"] = last
}

func (r *importRun) kind(cells map[string]string) (field.Record, error) {
	switch strings.ToLower(cells["person.kind"]) {
	case "":
		if r.o.Kind != "" {
			return r.o.Kind, nil
		}
		return field.Lead, nil
	case "lead":
		return field.Lead, nil
	case "contact":
		return field.Contact, nil
	}
	return "", invalid("person.kind", "%q is neither lead nor contact", cells["person.kind"])
}

// match finds the person that a row is about.
func (r *importRun) match(ctx context.Context, email string, line int) (Person, bool, error) {
	if email == "" {
		return Person{}, false, nil
	}
	if err := field.CheckEmail(email); err != nil {
		return Person{}, false, invalid("person.email", "%v", err)
	}
	key := field.EmailKey(email)
	if first, twice := r.seen[key]; twice {
		return Person{}, false, invalid("person.email", "%s stands in line %d already; keep one of the two rows", email, first)
	}
	r.seen[key] = line
	found, err := r.s.PeopleByEmail(ctx, key)
	switch {
	case err != nil || len(found) == 0:
		return Person{}, false, err
	case len(found) > 1:
		return Person{}, false, invalid("person.email", "%s belongs to %d people, %s and %s; give one of them another address first",
			email, len(found), found[0].Name(), found[1].Name())
	}
	return found[0], true, nil
}

// companyCells takes the cells of the company out of a row.
func companyCells(cells map[string]string) map[string]string {
	out := map[string]string{}
	for path, s := range cells {
		if strings.HasPrefix(path, "company.") {
			out[path] = s
			delete(cells, path)
		}
	}
	return out
}

func (r *importRun) fill(p *Person, cells map[string]string) error {
	var bad InvalidError
	for path, s := range cells {
		if err := SetPersonField(r.cat, p, path, s); err != nil {
			var one *InvalidError
			errors.As(err, &one)
			bad.Fields = append(bad.Fields, one.Fields...)
		}
	}
	if len(bad.Fields) == 0 {
		return nil
	}
	slices.SortFunc(bad.Fields, func(a, b FieldError) int { return strings.Compare(a.Where, b.Where) })
	return &bad
}

// company links a contact to its company, made new when there is none of the
// name; a lead keeps the name as it was given.
func (r *importRun) company(ctx context.Context, p *Person, cells map[string]string) error {
	name := cells["company.name"]
	if p.Kind == field.Lead {
		if name != "" {
			p.CompanyName = name
		}
		delete(cells, "company.name")
		for path := range cells {
			return invalid(path, "belongs to a company; a lead has only company.name")
		}
		return nil
	}
	if name == "" {
		for path := range cells {
			return invalid(path, "cannot be stored without company.name")
		}
		return nil
	}
	c := Company{Name: name, OwnerID: &r.u.ID, CreatedAt: r.a.now()}
	for path, s := range cells {
		ref, _ := r.cat.Find(path)
		v, err := field.Parse(ref.Def.Type, s, ref.Def.Choices)
		if err != nil {
			return invalid(path, "%v", err)
		}
		if at := c.column(path); at != nil {
			*at = v.String()
		} else {
			c.Own = setOwn(c.Own, path, v)
		}
	}
	id, err := r.companyID(ctx, c)
	p.CompanyID = &id
	return err
}

func (r *importRun) companyID(ctx context.Context, c Company) (int64, error) {
	key := plainWords(c.Name)
	if id, ok := r.companies[key]; ok {
		return id, nil
	}
	there, err := r.s.CompanyByName(ctx, c.Name)
	switch {
	case errors.Is(err, ErrNotFound):
		if there.ID, err = r.s.AddCompany(ctx, c); err != nil {
			return 0, err
		}
	case err != nil:
		return 0, err
	}
	r.companies[key] = there.ID
	return there.ID, nil
}

func (r *importRun) store(ctx context.Context, p Person, found, same bool) error {
	if found && same {
		r.report.Same++
		return nil
	}
	kind, text := EntryImported, "updated from a file"
	p.UpdatedAt = r.a.now()
	if found {
		r.report.Updated++
		if err := r.s.UpdatePerson(ctx, p); err != nil {
			return err
		}
	} else {
		r.report.Created++
		text = "added from a file"
		id, err := r.s.AddPerson(ctx, p)
		if err != nil {
			return err
		}
		p.ID = id
	}
	return r.s.AddEntry(ctx, Entry{PersonID: &p.ID, UserID: &r.u.ID, Kind: kind, Text: text, At: p.UpdatedAt})
}
