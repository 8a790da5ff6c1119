package transfer

import (
	"context"
	"errors"
	"hash/maphash"
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
// by path, as the user mapped them before, by label, a common name, or by what stands
// in them. Check only reports. SkipRefused imports the good rows; without it one refused
// row, or one that asks something, means that nothing is imported. Answers are to what rows
// ask, by their key: the id of the person that is meant, AsNew or LeaveOut. Tidy are the ways
// in which untidy values are tidied.
type ImportOptions struct {
	File        string // its name
	Columns     map[string]string
	Answers     map[string]string
	Kind        field.Record // of rows without person.kind; lead by default
	Tidy        []field.Tidying
	Check       bool
	SkipRefused bool
}

const maxRefusals = 1000

// ImportPeople reads people, and what is known of their companies and deals, from a table.
// People are matched by email, companies by name, deals by name and whose they are; only
// filled cells are written. The file is read once, row by row, and everything is decided
// before the first row is written, so that nobody waits for the reading: an error
// then ends it with nothing stored; refused rows are in the report. A short file is
// written at once. A long one is kept and written in short steps by WriteImports: the
// report is Running, and Import tells how far it is. What was done can be taken back.
func (a *Service) ImportPeople(ctx context.Context, u domain.User, t Table, o ImportOptions) (domain.ImportReport, error) {
	report := domain.ImportReport{Refusals: []domain.RefusedRow{}, Asks: []domain.ImportAsk{}, Tidyings: []domain.ImportTidy{}, Kept: []domain.RefusedRow{}}
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return report, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return report, err
	}
	before, err := a.store.ImportColumns(ctx, u.ID)
	if err != nil {
		return report, err
	}
	if report.Columns, err = (&mapping{cat: cat, table: &t, given: o.Columns, before: before, check: o.Check}).columns(); err != nil {
		return report, err
	}
	run := newImportRun(a, u, cat, &t, o, &report)
	err = run.read(ctx, &t)
	if err == nil && report.Rows == 0 {
		err = domain.Invalid("file", "has a header and no rows; nothing was imported")
	}
	if err != nil || o.Check || report.Refused+report.Asked > 0 && !o.SkipRefused {
		return report, errors.Join(err, run.drop(ctx))
	}
	return run.write(ctx)
}

type importRun struct {
	a      *Service
	s      Store
	cat    *field.Catalogue
	u      domain.User
	o      ImportOptions
	table  *Table
	report *domain.ImportReport
	tidy   tidier

	// What rows before this one were about, by hashes: a file of a million rows is not
	// held in memory.
	seed  maphash.Seed
	seen  map[uint64]seenRow   // by email key; the first of them
	again map[uint64][]seenRow // the others
	firms map[string]*firmSeen // by name
	deals map[uint64]bool      // by name and whose it is

	there map[string][]domain.Person // who has the addresses of the rows at hand, by key

	rows []domain.ImportRow // not kept yet
	kept int                // how many are
}

func newImportRun(a *Service, u domain.User, cat *field.Catalogue, t *Table, o ImportOptions, report *domain.ImportReport) *importRun {
	return &importRun{a: a, s: a.store, cat: cat, u: u, o: o, table: t, report: report, tidy: tidier{report: report, on: o.Tidy}, seed: maphash.MakeSeed(),
		seen: map[uint64]seenRow{}, again: map[uint64][]seenRow{}, firms: map[string]*firmSeen{}, deals: map[uint64]bool{}}
}

func (r *importRun) hash(parts ...string) uint64 {
	return maphash.String(r.seed, strings.Join(parts, "\x00"))
}

// readStep is how many rows are looked up at once.
const readStep = 500

// read decides about every row.
func (r *importRun) read(ctx context.Context, t *Table) error {
	block := make([]TableRow, 0, readStep)
	for row, err := range t.Rows {
		if err != nil {
			return err
		}
		row.Cells = slices.Clone(row.Cells) // the reader uses them again
		if block = append(block, row); len(block) == readStep {
			if err := r.rowsOf(ctx, block); err != nil {
				return err
			}
			block = block[:0]
		}
	}
	return r.rowsOf(ctx, block)
}

// rowsOf decides about a block of rows: who has their addresses is looked up once.
func (r *importRun) rowsOf(ctx context.Context, block []TableRow) error {
	if err := ctx.Err(); err != nil { // who asked may have gone away
		return err
	}
	at := slices.IndexFunc(r.report.Columns, func(c domain.Column) bool { return c.Path == "person.email" })
	keys := []string{}
	for i := range block {
		if at >= 0 && at < len(block[i].Cells) && strings.TrimSpace(block[i].Cells[at]) != "" {
			keys = append(keys, field.EmailKey(block[i].Cells[at]))
		}
	}
	there, err := byEmail(ctx, r.s, keys)
	if err != nil {
		return err
	}
	r.there = there
	for i := range block {
		if err := r.row(ctx, block[i]); err != nil {
			return err
		}
	}
	return nil
}

// byEmail gives who has some addresses, by their keys.
func byEmail(ctx context.Context, s Store, keys []string) (map[string][]domain.Person, error) {
	out := map[string][]domain.Person{}
	if len(keys) == 0 {
		return out, nil
	}
	for _, key := range keys {
		out[key] = nil // it was looked for
	}
	list, err := s.PeopleByEmails(ctx, keys)
	for i := range list {
		key := field.EmailKey(list[i].Email)
		out[key] = append(out[key], list[i])
	}
	return out, err
}

// row decides about one row. Its error is unexpected; a refusal goes to the report.
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
		r.report.Refusals = append(r.report.Refusals, domain.RefusedRow{Line: row.Line, Why: r.byColumn(bad).Error()})
	}
	return nil
}

// byColumn names what is wrong by the columns of the file.
func (r *importRun) byColumn(bad *domain.InvalidError) *domain.InvalidError {
	out := &domain.InvalidError{Fields: slices.Clone(bad.Fields)}
	for i := range out.Fields {
		where := out.Fields[i].Where
		at := slices.IndexFunc(r.report.Columns, func(c domain.Column) bool { return c.Path == where })
		if at < 0 && (where == "person.first_name" || where == "person.last_name") {
			at = slices.IndexFunc(r.report.Columns, func(c domain.Column) bool { return c.Path == "person.full_name" })
		}
		if at >= 0 {
			out.Fields[i].Where = r.report.Columns[at].Header
		}
	}
	return out
}

func (r *importRun) take(ctx context.Context, row TableRow) error {
	cells := r.cells(row)
	splitName(cells)
	firm, deal := cut(cells, "company."), cut(cells, "deal.")
	if cells["person.email"] == "" && cells["person.first_name"] == "" && cells["person.last_name"] == "" {
		return r.takeWithoutPerson(ctx, row.Line, cells, firm, deal)
	}
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
	if p.Kind == field.Lead {
		r.leaveOut(firm)
	}
	if err := r.fill(&p, cells); err != nil {
		return err
	}
	settled, err := r.company(ctx, &p, firm, &out)
	if err != nil {
		return err
	}
	if err := r.deal(ctx, &p, deal, &out); err != nil {
		return err
	}
	settled()
	if p.Email != "" {
		r.sees(field.EmailKey(p.Email), row.Line, domain.JoinName(p.FirstName, p.LastName))
	}
	switch {
	case found != isThere:
		r.report.Created++
	case reflect.DeepEqual(before, p) && (out.Firm == nil || p.CompanyID != nil && r.firms[companyKey(out.Firm["company.name"])].c.ID == *p.CompanyID):
		r.report.Same++
		if out.Same = true; out.Firm == nil && out.Deal == nil {
			return nil
		}
	default:
		r.report.Updated++
	}
	out.Cells = cells
	return r.keep(ctx, out)
}

// takeWithoutPerson decides about a row with a company or a deal and nobody.
func (r *importRun) takeWithoutPerson(ctx context.Context, line int, cells, firm, deal map[string]string) error {
	delete(cells, "person.kind")
	switch {
	case len(cells) > 0, len(firm)+len(deal) == 0:
		return domain.Invalid("row", "has neither a name nor an address")
	case firm["company.name"] == "" && deal["deal.name"] == "":
		return domain.Invalid("row", "has no name of anybody, of a company or of a deal")
	}
	out := domain.ImportRow{Line: line}
	var p domain.Person
	settled := func() {}
	if len(firm) > 0 {
		p.Kind = field.Contact // a company of its own
		var err error
		if settled, err = r.company(ctx, &p, firm, &out); err != nil {
			return err
		}
		if p.CompanyID != nil && len(out.Firm) == 1 && deal["deal.name"] == "" {
			out.Firm = nil // it is there as it is
		}
	}
	if err := r.deal(ctx, &p, deal, &out); err != nil {
		return err
	}
	settled()
	if out.Firm == nil && out.Deal == nil {
		r.report.Same++
		return nil
	}
	return r.keep(ctx, out)
}

// cells gives the filled cells of a row by path, tidied as was asked for.
func (r *importRun) cells(row TableRow) map[string]string {
	cells := make(map[string]string, len(row.Cells))
	for i := range r.report.Columns {
		c := &r.report.Columns[i]
		if s := strings.TrimSpace(row.Cells[i]); s != "" && c.Path != "" {
			cells[c.Path] = s
		}
	}
	r.tidy.cells(r.cat, row.Line, cells)
	return cells
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

// cut takes the cells of another record out of a row.
func cut(cells map[string]string, prefix string) map[string]string {
	out := map[string]string{}
	for path, s := range cells {
		if strings.HasPrefix(path, prefix) {
			out[path] = s
			delete(cells, path)
		}
	}
	return out
}

func (r *importRun) fill(p *domain.Person, cells map[string]string) error {
	var bad domain.InvalidError
	for path := range cells {
		if err := r.canonical(cells, path); err != nil {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: err.Error()})
			continue
		}
		bad.Add(records.SetPersonField(r.cat, p, path, cells[path]))
	}
	return r.told(&bad)
}

// told gives what is wrong with a row in a steady order, nil for nothing.
func (r *importRun) told(bad *domain.InvalidError) error {
	if len(bad.Fields) == 0 {
		return nil
	}
	slices.SortFunc(bad.Fields, func(a, b domain.FieldError) int { return strings.Compare(a.Where, b.Where) })
	return bad
}

// canonical brings a cell into canonical form, as the file writes numbers and dates.
func (r *importRun) canonical(cells map[string]string, path string) error {
	ref, ok := r.cat.Find(path)
	if !ok || !slices.Contains([]field.Type{field.Number, field.Money, field.Date, field.YesNo}, ref.Def.Type) {
		return nil
	}
	v, err := r.table.Look.Parse(ref.Def, cells[path])
	if err != nil && path == "deal.amount" {
		// A figure without its currency is in that of new deals.
		if n, bad := r.table.Look.Parse(field.Def{Path: path, Type: field.Number}, cells[path]); bad == nil {
			v, err = field.Parse(field.Money, n.String()+" "+records.DealCurrency, nil)
		}
	}
	if err == nil {
		cells[path] = v.String()
	}
	return err
}
