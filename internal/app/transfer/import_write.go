package transfer

import (
	"context"
	"errors"
	"reflect"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Up to writeAtOnce rows are written in one transaction. A step of more has importStep
// rows: some 30 ms, for which a save may have to wait.
const writeAtOnce, importStep = 200, 100

// keepStep is how many rows are put aside in one transaction.
const keepStep = 1000

// writeRows writes the rows of an import, or has them written when they are many.
func (a *Service) writeRows(ctx context.Context, u domain.User, report domain.ImportReport, rows []domain.ImportRow) (domain.ImportReport, error) {
	report.ToWrite = len(rows)
	if len(rows) <= writeAtOnce {
		err := a.store.Within(ctx, func(ctx context.Context) error {
			return a.writeStep(ctx, u, rows, &report)
		})
		if err == nil {
			report.Done = true
		}
		return report, err
	}
	report.Running = true
	id, err := a.store.AddImport(ctx, domain.Import{UserID: u.ID, State: domain.ImportKeeping, CreatedAt: a.now()}, report)
	if err != nil {
		return report, err
	}
	report.ID = id
	for from := 0; from < len(rows); from += keepStep {
		if err := a.store.KeepImportRows(ctx, id, from, rows[from:min(from+keepStep, len(rows))]); err != nil {
			return report, errors.Join(err, a.store.DropImport(context.WithoutCancel(ctx), id))
		}
	}
	if err := a.store.SetImport(ctx, id, domain.ImportWriting, report); err != nil {
		return report, err
	}
	select {
	case a.importing <- struct{}{}:
	default: // it was woken already
	}
	return report, nil
}

// writeStep writes rows in the transaction of s. What has changed since the file was
// read is looked at again: only filled cells are written, on what is there now.
func (a *Service) writeStep(ctx context.Context, u domain.User, rows []domain.ImportRow, report *domain.ImportReport) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	for _, row := range rows {
		err := a.writeRow(ctx, cat, u, row, report)
		var bad *domain.InvalidError
		if errors.As(err, &bad) {
			report.Refused++
			if len(report.Refusals) < maxRefusals {
				report.Refusals = append(report.Refusals, domain.RefusedRow{Line: row.Line, Why: bad.Error()})
			}
		} else if err != nil {
			return err
		}
		report.Written++
	}
	return nil
}

func (a *Service) writeRow(ctx context.Context, cat *field.Catalogue, u domain.User, row domain.ImportRow, report *domain.ImportReport) error {
	p := domain.Person{Kind: row.Kind, CreatedAt: a.now(), OwnerID: &u.ID}
	if p.Kind == field.Lead {
		p.LeadStatus = field.LeadStatuses()[0]
	}
	there, err := a.personOfRow(ctx, row)
	if err != nil {
		return err
	}
	if there != nil {
		p = *there
	}
	before := p
	for path, v := range row.Cells {
		if err := records.SetPersonField(cat, &p, path, v); err != nil {
			return err
		}
	}
	if p.Kind == field.Lead && row.CompanyName != "" {
		p.CompanyName = row.CompanyName
	}
	if row.Company != nil && p.Kind == field.Contact {
		id, err := a.companyOfRow(ctx, u, *row.Company)
		if err != nil {
			return err
		}
		p.CompanyID = &id
	}
	if there != nil && reflect.DeepEqual(before, p) {
		report.Same++
		return nil
	}
	p.UpdatedAt = a.now()
	text := "added from a file"
	if there != nil {
		report.Updated++
		text = "updated from a file"
		err = a.store.UpdatePerson(ctx, p)
	} else {
		report.Created++
		p.ID, err = a.store.AddPerson(ctx, p)
	}
	if err != nil {
		return err
	}
	return a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &u.ID, Kind: domain.EntryImported, Text: text, At: p.UpdatedAt})
}

// personOfRow gives the person whom a row is about as they are now, nil for somebody
// new. Who was added with the address while the file was read is the one.
func (a *Service) personOfRow(ctx context.Context, row domain.ImportRow) (*domain.Person, error) {
	email := row.Cells["person.email"]
	if row.PersonID > 0 {
		p, err := a.store.Person(ctx, row.PersonID)
		if errors.Is(err, domain.ErrNotFound) || err == nil && p.DeletedAt != nil {
			return nil, domain.Invalid("row", "is about somebody who was deleted meanwhile; import the file again to add them")
		}
		return &p, err
	}
	if email == "" || row.Answered {
		return nil, nil
	}
	found, err := a.store.PeopleByEmail(ctx, field.EmailKey(email))
	switch {
	case err != nil || len(found) == 0:
		return nil, err
	case len(found) > 1:
		return nil, domain.Invalid("person.email", "%s was given to %d people meanwhile; import the file again to choose", email, len(found))
	case found[0].Kind != row.Kind:
		return nil, domain.Invalid("person.kind", "is %s, but %s is a %s already", row.Kind, email, found[0].Kind)
	}
	return &found[0], nil
}

func (a *Service) companyOfRow(ctx context.Context, u domain.User, c domain.Company) (int64, error) {
	there, err := a.store.CompanyByName(ctx, c.Name)
	if errors.Is(err, domain.ErrNotFound) {
		c.OwnerID, c.CreatedAt = &u.ID, a.now()
		return a.store.AddCompany(ctx, c)
	}
	return there.ID, err
}

// Import tells how far an import of a user's is, or ErrNotFound.
func (a *Service) Import(ctx context.Context, u domain.User, id int64) (domain.ImportReport, error) {
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return domain.ImportReport{}, err
	}
	i, report, err := a.store.Import(ctx, id)
	if err == nil && i.UserID != u.ID {
		err = domain.ErrNotFound
	}
	return report, err
}

// abandoned is the age after which an import whose rows were not all kept is dropped:
// whoever read the file has ended.
const abandoned = 24 * time.Hour

// RunImports writes imports until ctx ends, those first that the program was ended in.
// Failures are told to failed; the import goes on with the next start.
func (a *Service) RunImports(ctx context.Context, failed func(error)) {
	for {
		if err := a.WriteImports(ctx); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
			return
		case <-a.importing:
		case <-time.After(time.Minute): // also what another program has kept
		}
	}
}

// WriteImports writes what imports have kept, step by step; each is one transaction,
// and between them others write.
func (a *Service) WriteImports(ctx context.Context) error {
	if err := a.store.DropImports(ctx, a.now().Add(-abandoned)); err != nil {
		return err
	}
	list, err := a.store.ImportsToWrite(ctx)
	if err != nil {
		return err
	}
	for _, id := range list {
		for more := true; more; {
			if err := ctx.Err(); err != nil {
				return err
			}
			began := time.Now()
			err := a.store.Within(ctx, func(ctx context.Context) (err error) {
				more, err = a.importStep(ctx, id)
				return err
			})
			if err != nil {
				return err
			}
			// Another program that waits for the database asks only now and then.
			time.Sleep(time.Since(began) / 2)
		}
	}
	return nil
}

// importStep writes the next rows of an import and tells whether there may be more.
func (a *Service) importStep(ctx context.Context, id int64) (bool, error) {
	i, report, err := a.store.Import(ctx, id)
	if err != nil || i.State != domain.ImportWriting {
		return false, err
	}
	u, err := a.store.User(ctx, i.UserID)
	if err != nil {
		return false, err
	}
	rows, err := a.store.TakeImportRows(ctx, id, importStep)
	if err != nil {
		return false, err
	}
	if len(rows) == 0 {
		report.Running, report.Done = false, true
		return false, a.store.SetImport(ctx, id, domain.ImportDone, report)
	}
	if err := a.writeStep(ctx, u, rows, &report); err != nil {
		return false, err
	}
	return true, a.store.SetImport(ctx, id, domain.ImportWriting, report)
}
