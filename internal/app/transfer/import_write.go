package transfer

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Up to writeAtOnce rows are written in one transaction; more in steps.
const writeAtOnce = 200

// keepStep is how many rows are put aside in one transaction.
const keepStep = 1000

// keep holds a row that is to be written; when they are many, those are put aside.
func (r *importRun) keep(ctx context.Context, row domain.ImportRow) error {
	if r.o.Check {
		return nil
	}
	r.rows = append(r.rows, row)
	if len(r.rows) < keepStep {
		return nil
	}
	return r.putAside(ctx)
}

func (r *importRun) putAside(ctx context.Context) (err error) {
	if r.report.ID == 0 {
		if r.report.ID, err = r.add(ctx, domain.ImportKeeping); err != nil {
			return err
		}
	}
	if err := r.s.KeepImportRows(ctx, r.report.ID, r.kept, r.rows); err != nil {
		return err
	}
	r.kept += len(r.rows)
	r.rows = r.rows[:0]
	return nil
}

func (r *importRun) add(ctx context.Context, state string) (int64, error) {
	return r.s.AddImport(ctx, domain.Import{UserID: r.u.ID, File: r.o.File, State: state, CreatedAt: r.a.now()}, *r.report)
}

// drop forgets what was put aside of an import that is not to be.
func (r *importRun) drop(ctx context.Context) error {
	id := r.report.ID
	if r.report.ID = 0; id == 0 {
		return nil
	}
	return r.s.DropImport(context.WithoutCancel(ctx), id)
}

// write writes the rows, or has them written when they are many.
func (r *importRun) write(ctx context.Context) (domain.ImportReport, error) {
	report := r.report
	report.ToWrite = r.kept + len(r.rows)
	report.Created, report.Updated, report.Companies, report.Deals = 0, 0, domain.ImportCounts{}, domain.ImportCounts{} // told as they are written
	if report.ToWrite <= writeAtOnce {
		err := r.s.Within(ctx, func(ctx context.Context) (err error) {
			if err = r.remember(ctx); err != nil {
				return err
			}
			if report.ID, err = r.add(ctx, domain.ImportDone); err != nil {
				return err
			}
			if err = r.a.writeStep(ctx, r.u, report.ID, r.rows, report); err != nil {
				return err
			}
			report.Done = true
			return r.s.SetImport(ctx, report.ID, domain.ImportDone, *report)
		})
		if err != nil {
			report.ID, report.Done = 0, false
		}
		return *report, err
	}
	report.Running = true
	err := r.putAside(ctx)
	if err == nil {
		err = r.s.Within(ctx, func(ctx context.Context) error {
			if err := r.remember(ctx); err != nil {
				return err
			}
			return r.s.SetImport(ctx, report.ID, domain.ImportWriting, *report)
		})
	}
	if err != nil {
		return *report, errors.Join(err, r.drop(ctx))
	}
	r.a.wakeImports()
	return *report, nil
}

func (a *Service) wakeImports() {
	select {
	case a.importing <- struct{}{}:
	default: // it was woken already
	}
}

// remember keeps where somebody put the columns, for their next file.
func (r *importRun) remember(ctx context.Context) error {
	for i, c := range r.report.Columns {
		path, chosen := r.o.Columns[c.Header]
		if words := field.PlainWords(r.table.Header[i]); chosen && words != "" {
			if err := r.s.PutImportColumn(ctx, r.u.ID, words, path); err != nil {
				return err
			}
		}
	}
	return nil
}

// writeStep writes rows in the transaction of ctx. What has changed since the file was
// read is looked at again: only filled cells are written, on what is there now.
func (a *Service) writeStep(ctx context.Context, u domain.User, id int64, rows []domain.ImportRow, report *domain.ImportReport) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	keys := []string{}
	for _, row := range rows {
		if email := row.Cells["person.email"]; email != "" && row.PersonID == 0 && !row.Answered {
			keys = append(keys, field.EmailKey(email))
		}
	}
	there, err := byEmail(ctx, a.store, keys)
	if err != nil {
		return err
	}
	w := importWriter{a: a, cat: cat, u: u, id: id, report: report, there: there}
	for _, row := range rows {
		err := w.row(ctx, row)
		var bad *domain.InvalidError
		if errors.As(err, &bad) {
			w.refuse(row.Line, bad)
		} else if err != nil {
			return err
		}
		report.Written++
	}
	return w.flush(ctx)
}

// importWriter writes rows of one import, and what it did with each record. Who is new is
// added together with others, and their deals behind them.
type importWriter struct {
	a      *Service
	cat    *field.Catalogue
	u      domain.User
	id     int64
	report *domain.ImportReport
	there  map[string][]domain.Person // who has the addresses of the rows, by key

	fresh []freshRow
	did   []domain.ImportWrite
}

// freshRow is somebody who is to be added, and what the row says of a deal.
type freshRow struct {
	p    domain.Person
	line int
	deal map[string]string
}

func (w *importWriter) refuse(line int, bad *domain.InvalidError) {
	w.report.Refused++
	if len(w.report.Refusals) < maxRefusals {
		w.report.Refusals = append(w.report.Refusals, domain.RefusedRow{Line: line, Why: bad.Error()})
	}
}

// row writes a row. It is refused before anything of it is written.
func (w *importWriter) row(ctx context.Context, row domain.ImportRow) error {
	if row.Company != nil && row.Firm == nil { // as an earlier version kept it
		row.Firm = map[string]string{"company.name": row.Company.Name}
	}
	p := domain.Person{Kind: row.Kind, CreatedAt: w.a.now(), OwnerID: &w.u.ID, Version: 1}
	var there *domain.Person
	if row.Cells != nil {
		var err error
		if there, err = w.personOf(ctx, row); err != nil {
			return err
		}
		switch {
		case there != nil:
			p = *there
		case p.Kind == field.Lead:
			p.LeadStatus = field.LeadStatuses()[0]
		}
	}
	before := p
	for path, v := range row.Cells {
		if err := records.SetPersonField(w.cat, &p, path, v); err != nil {
			return err
		}
	}
	if p.Kind == field.Lead && row.CompanyName != "" {
		p.CompanyName = row.CompanyName
	}
	if row.Firm != nil && p.Kind != field.Lead {
		firm, err := w.company(ctx, row.Firm)
		if err != nil {
			return err
		}
		p.CompanyID = &firm
	}
	if row.Cells != nil && there == nil {
		p.UpdatedAt = w.a.now()
		w.fresh = append(w.fresh, freshRow{p, row.Line, row.Deal})
		return nil
	}
	if row.Cells != nil {
		if err := w.update(ctx, &p, &before, row); err != nil {
			return err
		}
	}
	if row.Deal == nil {
		return nil
	}
	return w.deal(ctx, &p, row.Deal)
}

// update writes what a row says of somebody who is there.
func (w *importWriter) update(ctx context.Context, p, before *domain.Person, row domain.ImportRow) error {
	if reflect.DeepEqual(*before, *p) {
		if !row.Same { // it was decided so, and told
			w.report.Same++
		}
		return nil
	}
	if w.report.Updated++; row.Same {
		w.report.Same--
	}
	p.UpdatedAt = w.a.now()
	if err := w.a.store.UpdatePerson(ctx, *p); err != nil {
		return err
	}
	did := domain.ImportWrite{Kind: field.Person, RecordID: p.ID}
	did.Was, did.Now = personChanges(before, p, row)
	w.did = append(w.did, did)
	return w.a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &w.u.ID, Kind: domain.EntryImported, Text: w.changedText(&did), At: p.UpdatedAt})
}

// changedText names what a file changed on a record, with what it was and is.
func (w *importWriter) changedText(did *domain.ImportWrite) string {
	var parts []string
	for _, path := range slices.Sorted(maps.Keys(did.Now)) {
		if did.Was[path] == did.Now[path] || path == companyOfPerson {
			continue
		}
		label := path
		if ref, ok := w.cat.Find(path); ok {
			label = ref.Def.Label
		}
		parts = append(parts, fmt.Sprintf("%s: %s → %s", label, cmp.Or(did.Was[path], "nothing"), cmp.Or(did.Now[path], "nothing")))
	}
	if len(parts) == 0 {
		return "updated from a file"
	}
	return "updated from a file: " + strings.Join(parts, "; ")
}

// flush adds who is new, and stores what was done.
func (w *importWriter) flush(ctx context.Context) error {
	people := make([]domain.Person, len(w.fresh))
	for i := range w.fresh {
		people[i] = w.fresh[i].p
	}
	ids, err := w.a.store.AddPeople(ctx, people)
	if err != nil {
		return err
	}
	entries := make([]domain.Entry, len(people))
	for i := range people {
		people[i].ID = ids[i]
		entries[i] = domain.Entry{PersonID: &ids[i], UserID: &w.u.ID, Kind: domain.EntryImported, Text: "added from a file", At: people[i].UpdatedAt}
		w.did = append(w.did, domain.ImportWrite{Kind: field.Person, RecordID: ids[i], Made: true, Sum: people[i].Sum()})
	}
	w.report.Created += len(people)
	if err := w.a.store.AddEntries(ctx, entries); err != nil {
		return err
	}
	for i := range w.fresh {
		if w.fresh[i].deal == nil {
			continue
		}
		err := w.deal(ctx, &people[i], w.fresh[i].deal)
		var bad *domain.InvalidError
		if errors.As(err, &bad) {
			w.refuse(w.fresh[i].line, bad)
		} else if err != nil {
			return err
		}
	}
	return w.a.store.AddImportWrites(ctx, w.id, w.did)
}

// companyOfPerson stands for the company of a person among the values that an import changed.
const companyOfPerson = "company"

func personChanges(before, after *domain.Person, row domain.ImportRow) (was, now domain.Own) {
	was, now = domain.Own{}, domain.Own{}
	note := func(path, a, b string) {
		if a != b {
			was[path], now[path] = a, b
		}
	}
	for path := range row.Cells {
		note(path, records.PersonField(before, path), records.PersonField(after, path))
	}
	note("lead.company_name", before.CompanyName, after.CompanyName)
	note(companyOfPerson, strconv.FormatInt(domain.IDOf(before.CompanyID), 10), strconv.FormatInt(domain.IDOf(after.CompanyID), 10))
	return was, now
}

// company writes what a row says of a company, and gives its number.
func (w *importWriter) company(ctx context.Context, values map[string]string) (int64, error) {
	c, err := w.a.store.CompanyByName(ctx, values["company.name"])
	made := errors.Is(err, domain.ErrNotFound)
	if made {
		c, err = domain.Company{OwnerID: &w.u.ID, CreatedAt: w.a.now()}, nil
	}
	if err != nil {
		return 0, err
	}
	did := domain.ImportWrite{Kind: field.Company, Made: made, Was: domain.Own{}, Now: domain.Own{}}
	for path, v := range values {
		if !made && path == "company.name" {
			continue
		}
		was := records.CompanyField(w.cat, &c, path)
		if err := records.SetCompanyField(w.cat, &c, path, v); err != nil {
			return 0, err
		}
		if now := records.CompanyField(w.cat, &c, path); now != was {
			did.Was[path], did.Now[path] = was, now
		}
	}
	text := "updated from a file"
	switch {
	case made:
		text = "added from a file"
		w.report.Companies.Created++
		c.ID, err = w.a.store.AddCompany(ctx, c)
	case len(did.Now) == 0:
		return c.ID, nil
	default:
		w.report.Companies.Updated++
		err = w.a.store.UpdateCompany(ctx, c)
	}
	if err != nil {
		return 0, err
	}
	did.RecordID = c.ID
	if err := w.a.store.AddEntry(ctx, domain.Entry{CompanyID: &c.ID, UserID: &w.u.ID, Kind: domain.EntryImported, Text: text, At: w.a.now()}); err != nil {
		return 0, err
	}
	w.did = append(w.did, did)
	return c.ID, nil
}

// deal writes what a row says of a deal of the person and the company that it is about.
func (w *importWriter) deal(ctx context.Context, p *domain.Person, values map[string]string) error {
	there, err := w.a.dealOf(ctx, values["deal.name"], p)
	if err != nil {
		return err
	}
	d := domain.Deal{OwnerID: &w.u.ID, Currency: records.DealCurrency, CreatedAt: w.a.now(), CompanyID: p.CompanyID}
	if p.ID != 0 {
		d.MainContactID = &p.ID
	}
	if stage, ok := w.cat.Find("deal.stage"); ok && len(stage.Def.Choices) > 0 {
		d.Stage = stage.Def.Choices[0]
	}
	if there != nil {
		d = *there
	}
	did := domain.ImportWrite{Kind: field.Deal, Made: there == nil, Was: domain.Own{}, Now: domain.Own{}}
	before := maps.Clone(values)
	for path, v := range values {
		before[path] = records.DealField(w.cat, &d, path)
		if err := records.SetDealField(w.cat, &d, path, v); err != nil {
			return err
		}
	}
	for path, was := range before {
		if now := records.DealField(w.cat, &d, path); now != was {
			did.Was[path], did.Now[path] = was, now
		}
	}
	text := "updated from a file"
	switch {
	case there == nil:
		text = "added from a file"
		w.report.Deals.Created++
		d.ID, err = w.a.store.AddDeal(ctx, d, nil)
	case len(did.Now) == 0:
		return nil
	default:
		w.report.Deals.Updated++
		err = w.a.store.UpdateDeal(ctx, d)
	}
	if err != nil {
		return err
	}
	did.RecordID = d.ID
	if err := w.a.store.AddEntry(ctx, domain.Entry{DealID: &d.ID, CompanyID: d.CompanyID, PersonID: d.MainContactID, UserID: &w.u.ID, Kind: domain.EntryImported, Text: text, At: w.a.now()}); err != nil {
		return err
	}
	w.did = append(w.did, did)
	return nil
}

// personOf gives the person whom a row is about as they are now, nil for somebody
// new. Who was added with the address while the file was read is the one.
func (w *importWriter) personOf(ctx context.Context, row domain.ImportRow) (*domain.Person, error) {
	email := row.Cells["person.email"]
	if row.PersonID > 0 {
		p, err := w.a.store.Person(ctx, row.PersonID)
		if errors.Is(err, domain.ErrNotFound) || err == nil && p.DeletedAt != nil {
			return nil, domain.Invalid("row", "is about somebody who was deleted meanwhile; import the file again to add them")
		}
		return &p, err
	}
	if email == "" || row.Answered {
		return nil, nil
	}
	found := w.there[field.EmailKey(email)]
	switch {
	case len(found) == 0:
		return nil, nil
	case len(found) > 1:
		return nil, domain.Invalid("person.email", "%s was given to %d people meanwhile; import the file again to choose", email, len(found))
	case found[0].Kind != row.Kind:
		return nil, domain.Invalid("person.kind", "is %s, but %s is a %s already", row.Kind, email, found[0].Kind)
	}
	return &found[0], nil
}
