package transfer

import (
	"context"
	"errors"
	"reflect"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// ImportOptions says how to read an import file. Columns maps a header to a
// field path, or to "-" to leave the column out; headers not in it are mapped
// by path, label or a common name. Check only reports. SkipRefused imports the
// good rows; without it one refused row, or one that asks something, means that
// nothing is imported. Answers are to what rows ask, by their key: the id of the
// person that is meant, AsNew or LeaveOut.
type ImportOptions struct {
	Columns     map[string]string
	Answers     map[string]string
	Kind        field.Record // of rows without person.kind; lead by default
	Check       bool
	SkipRefused bool
}

const maxRefusals = 1000

// ImportPeople reads people from a table. Rows are matched by email; only filled
// cells are written. The file is read once, row by row, and everything is decided
// before the first row is written, so that nobody waits for the reading: an error
// then ends it with nothing stored; refused rows are in the report. A short file is
// written at once. A long one is kept and written in short steps by WriteImports: the
// report has an ID and is Running, and Import tells how far it is.
func (a *Service) ImportPeople(ctx context.Context, u domain.User, t Table, o ImportOptions) (domain.ImportReport, error) {
	report := domain.ImportReport{Refusals: []domain.RefusedRow{}, Asks: []domain.ImportAsk{}}
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return report, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return report, err
	}
	if report.Columns, err = mapColumns(cat, t.Header, o.Columns, o.Check); err != nil {
		return report, err
	}
	run := importRun{a: a, s: a.store, cat: cat, u: u, o: o, look: t.Look, report: &report, seen: map[string][]seenRow{}, companies: map[string]*int64{}}
	for row, err := range t.Rows {
		if err == nil {
			err = ctx.Err() // who asked may have gone away
		}
		if err == nil {
			err = run.row(ctx, row)
		}
		if err != nil {
			return report, err
		}
	}
	switch {
	case report.Rows == 0:
		return report, domain.Invalid("file", "has a header and no rows; nothing was imported")
	case o.Check, report.Refused+report.Asked > 0 && !o.SkipRefused:
		return report, nil
	}
	report.Created, report.Updated = 0, 0 // told as they are written
	return a.writeRows(ctx, u, report, run.rows)
}

type importRun struct {
	a         *Service
	s         Store
	cat       *field.Catalogue
	u         domain.User
	o         ImportOptions
	look      field.Look
	report    *domain.ImportReport
	seen      map[string][]seenRow // by email key
	companies map[string]*int64    // by name; nil: there is none yet
	rows      []domain.ImportRow
}

// row imports one row. Its error is unexpected; a refusal goes to the report.
func (r *importRun) row(ctx context.Context, row TableRow) error {
	if strings.TrimSpace(strings.Join(row.Cells, "")) == "" && row.Err == nil {
		return nil // rows that a table program left empty
	}
	r.report.Rows++
	err := row.Err
	if err == nil {
		err = r.take(ctx, row)
	}
	var bad *domain.InvalidError
	if !errors.As(err, &bad) {
		return err
	}
	r.report.Refused++
	if len(r.report.Refusals) < maxRefusals {
		r.report.Refusals = append(r.report.Refusals, domain.RefusedRow{Line: row.Line, Why: bad.Error()})
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
	splitName(cells)
	p, found, err := r.match(ctx, cells, row.Line)
	if err != nil || found == skipped {
		return err
	}
	out := domain.ImportRow{Line: row.Line, PersonID: p.ID, Answered: found == isOther}
	if found == isThere {
		if kind := cells["person.kind"]; kind != "" && kind != string(p.Kind) {
			return domain.Invalid("person.kind", "is %s, but %s is a %s already", kind, p.Email, p.Kind)
		}
	} else if p.Kind, err = r.kind(cells); err != nil {
		return err
	}
	out.Kind = p.Kind
	delete(cells, "person.kind")
	before := p // the map of own fields is never changed in place
	company := companyCells(cells)
	if p.Kind == field.Lead {
		r.leaveOut(company)
	}
	if err := r.fill(&p, cells); err != nil {
		return err
	}
	if p.Email == "" && p.FirstName == "" && p.LastName == "" {
		return domain.Invalid("row", "has neither a name nor an address")
	}
	if err := r.company(ctx, &p, company, &out); err != nil {
		return err
	}
	if p.Email != "" {
		key := field.EmailKey(p.Email)
		r.seen[key] = append(r.seen[key], seenRow{row.Line, domain.JoinName(p.FirstName, p.LastName)})
	}
	switch {
	case found != isThere:
		r.report.Created++
	case out.Company == nil && reflect.DeepEqual(before, p):
		r.report.Same++
		return nil
	default:
		r.report.Updated++
	}
	out.Cells = cells
	r.rows = append(r.rows, out)
	return nil
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
	return "", domain.Invalid("person.kind", "%q is neither lead nor contact", cells["person.kind"])
}

// leaveOut takes the values of a company from the row of a lead, who has only its
// name, where the column was not put there by somebody.
func (r *importRun) leaveOut(cells map[string]string) {
	for i := range r.report.Columns {
		c := &r.report.Columns[i]
		if _, there := cells[c.Path]; there && c.Guessed && c.Path != "company.name" {
			c.Left++
			delete(cells, c.Path)
		}
	}
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

func (r *importRun) fill(p *domain.Person, cells map[string]string) error {
	var bad domain.InvalidError
	for path, s := range cells {
		if err := r.canonical(cells, path); err != nil {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: err.Error()})
			continue
		}
		s = cells[path]
		if err := records.SetPersonField(r.cat, p, path, s); err != nil {
			var one *domain.InvalidError
			errors.As(err, &one)
			bad.Fields = append(bad.Fields, one.Fields...)
		}
	}
	if len(bad.Fields) == 0 {
		return nil
	}
	slices.SortFunc(bad.Fields, func(a, b domain.FieldError) int { return strings.Compare(a.Where, b.Where) })
	return &bad
}

// canonical brings a cell into canonical form, as the file writes numbers and dates.
func (r *importRun) canonical(cells map[string]string, path string) error {
	ref, ok := r.cat.Find(path)
	if !ok || !slices.Contains([]field.Type{field.Number, field.Money, field.Date, field.YesNo}, ref.Def.Type) {
		return nil
	}
	v, err := r.look.Parse(ref.Def, cells[path])
	if err == nil {
		cells[path] = v.String()
	}
	return err
}

// company finds the company of a contact, or has it made when there is none of the
// name; a lead keeps the name as it was given.
func (r *importRun) company(ctx context.Context, p *domain.Person, cells map[string]string, out *domain.ImportRow) error {
	name := cells["company.name"]
	if p.Kind == field.Lead {
		if name != "" {
			p.CompanyName, out.CompanyName = name, name
		}
		delete(cells, "company.name")
		for path := range cells {
			return domain.Invalid(path, "belongs to a company; a lead has only company.name")
		}
		return nil
	}
	if name == "" {
		for path := range cells {
			return domain.Invalid(path, "cannot be stored without company.name")
		}
		return nil
	}
	c := domain.Company{Name: name}
	for path, s := range cells {
		ref, _ := r.cat.Find(path)
		v, err := r.look.Parse(ref.Def, s)
		if err != nil {
			return domain.Invalid(path, "%v", err)
		}
		if at := c.Column(path); at != nil {
			*at = v.String()
		} else {
			c.Own = records.SetOwn(c.Own, path, v)
		}
	}
	key := companyKey(name)
	id, asked := r.companies[key]
	if !asked {
		there, err := r.s.CompanyByName(ctx, name)
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return err
		}
		if err == nil {
			id = &there.ID
		}
		r.companies[key] = id
	}
	if id == nil || p.CompanyID == nil || *p.CompanyID != *id {
		out.Company = &c
	}
	if id != nil {
		p.CompanyID = id
	}
	return nil
}

func companyKey(name string) string { return strings.ToLower(strings.Join(strings.Fields(name), " ")) }
