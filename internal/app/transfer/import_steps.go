package transfer

import (
	"context"
	"fmt"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// Import tells how far an import is that a user may see, or ErrNotFound.
func (a *Service) Import(ctx context.Context, u domain.User, id int64) (domain.ImportReport, error) {
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return domain.ImportReport{}, err
	}
	_, report, err := a.importFor(ctx, u, id)
	return report, err
}

// abandoned is the age after which an import whose rows were not all kept is dropped:
// whoever read the file has ended.
const abandoned = 24 * time.Hour

// RunImports writes imports, and takes some back, until ctx ends, those first that the
// program was ended in. Failures are told to failed; the import goes on with the next start.
func (a *Service) RunImports(ctx context.Context, failed func(error)) {
	// Once a minute also what another program has kept.
	work := func(ctx context.Context) (*time.Time, error) { return nil, a.WriteImports(ctx) }
	(&worker.Loop{Work: work, Now: a.now, Woken: a.importing, Idle: time.Minute, Again: time.Minute, Failed: failed}).Run(ctx)
}

// WriteImports writes what imports have kept, and takes back what is to be, step by step; each
// is one transaction, and between them others write.
func (a *Service) WriteImports(ctx context.Context) error {
	if err := a.store.DropImports(ctx, a.now().Add(-abandoned)); err != nil {
		return err
	}
	list, err := a.store.ImportsToWrite(ctx)
	if err != nil {
		return err
	}
	for _, id := range list {
		err := worker.Guard(func() error { return a.writeImport(ctx, id) })
		if err != nil && !worker.Panicked(err) && !domain.Lasting(err) {
			return err
		}
		if err != nil {
			a.failed(fmt.Errorf("import %d: %w", id, err))
			if err := a.giveUp(ctx, id); err != nil {
				return err
			}
		}
	}
	return nil
}

func (a *Service) writeImport(ctx context.Context, id int64) error {
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
		a.store.Yield(ctx, time.Since(began))
	}
	return nil
}

// giveUp ends an import that something went wrong with, and says so in its report: what it wrote
// stays, and can be undone as a whole.
func (a *Service) giveUp(ctx context.Context, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		i, report, err := a.store.Import(ctx, id)
		if err != nil {
			return err
		}
		why := domain.RefusedRow{Why: fmt.Sprintf("The import ended here, after %d of %d rows: something unexpected happened, and it was noted for the administrator. Undo the import, or import the remaining rows again", report.Written, report.ToWrite)}
		if i.State == domain.ImportTakingBack {
			why.Why = "Undoing ended here: something unexpected happened, and it was noted for the administrator"
			report.Kept = append(report.Kept, why)
			report.KeptAll++
		} else {
			report.Refusals = append(report.Refusals, why)
			report.Refused++
		}
		report.Running, report.Done = false, true
		return a.store.SetImport(ctx, id, domain.ImportDone, report)
	})
}

// importStep writes the next rows of an import, or takes the last ones back, and tells whether
// there may be more.
func (a *Service) importStep(ctx context.Context, id int64) (bool, error) {
	i, report, err := a.store.Import(ctx, id)
	if err != nil || i.State != domain.ImportWriting && i.State != domain.ImportTakingBack {
		return false, err
	}
	u, err := a.store.User(ctx, i.UserID)
	if err != nil {
		return false, err
	}
	if i.State == domain.ImportTakingBack {
		if u, err = a.store.User(ctx, report.TakenBackBy); err != nil {
			return false, err
		}
		return a.takeBackStep(ctx, u, id, &report)
	}
	rows, err := a.store.TakeImportRows(ctx, id)
	if err != nil {
		return false, err
	}
	if len(rows) == 0 {
		report.Running, report.Done = false, true
		return false, a.store.SetImport(ctx, id, domain.ImportDone, report)
	}
	if err := a.writeStep(ctx, u, id, rows, &report); err != nil {
		return false, err
	}
	return true, a.store.SetImport(ctx, id, domain.ImportWriting, report)
}
