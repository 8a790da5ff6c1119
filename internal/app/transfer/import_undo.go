package transfer

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// mostImports is how many imports are listed.
const mostImports = 50

// Imports lists the imports of a user, of team leads those of everybody, the newest first.
func (a *Service) Imports(ctx context.Context, u domain.User) ([]domain.ImportLine, error) {
	out := []domain.ImportLine{}
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return out, err
	}
	whose := u.ID
	if domain.May(u, access.EditShared, access.Thing{}) == nil {
		whose = 0
	}
	list, err := a.store.Imports(ctx, whose, mostImports)
	if err != nil {
		return out, err
	}
	for _, i := range list {
		_, report, err := a.store.Import(ctx, i.ID)
		if err != nil {
			return out, err
		}
		report.Asks, report.Refusals = []domain.ImportAsk{}, report.Refusals[:min(len(report.Refusals), 20)]
		out = append(out, domain.ImportLine{ID: i.ID, File: i.File, By: i.User, Mine: i.UserID == u.ID, At: i.CreatedAt, State: i.State, Report: report, MayUndo: i.State == domain.ImportDone && i.Undoable})
	}
	return out, nil
}

// importFor gives an import that a user may see: one of theirs, of a team lead any.
func (a *Service) importFor(ctx context.Context, u domain.User, id int64) (domain.Import, domain.ImportReport, error) {
	i, report, err := a.store.Import(ctx, id)
	if err == nil && i.UserID != u.ID && domain.May(u, access.EditShared, access.Thing{}) != nil {
		err = domain.ErrNotFound
	}
	return i, report, err
}

// TakeBack undoes an import as a whole: who was added goes, values that were changed are as
// before. What was changed since, or has got letters or deals, stays and is named. A long
// one is taken back in steps: the report is Running, and Import tells how far it is.
func (a *Service) TakeBack(ctx context.Context, u domain.User, id int64) (domain.ImportReport, error) {
	if err := domain.May(u, access.ImportPeople, access.Thing{}); err != nil {
		return domain.ImportReport{}, err
	}
	var report domain.ImportReport
	err := a.store.Within(ctx, func(ctx context.Context) error {
		i, r, err := a.importFor(ctx, u, id)
		if err != nil {
			return err
		}
		switch i.State {
		case domain.ImportTakenBack, domain.ImportTakingBack:
			return &domain.StateError{Why: "This import was undone already."}
		case domain.ImportDone:
			if !i.Undoable {
				return &domain.StateError{Why: "It is not known any more what this import did, or it did nothing. There is nothing to undo."}
			}
		default:
			return &domain.StateError{Why: "This import is still being written. Wait until it is done, then undo it."}
		}
		r.Running, r.Done, r.Written, r.Kept, r.TakenBackBy = true, false, 0, []domain.RefusedRow{}, u.ID
		r.ToWrite = r.Created + r.Updated + r.Companies.Created + r.Companies.Updated + r.Deals.Created + r.Deals.Updated
		report = r
		if r.ToWrite <= writeAtOnce {
			for more := true; more; {
				if more, err = a.takeBackStep(ctx, u, id, &report); err != nil {
					return err
				}
			}
			return nil
		}
		return a.store.SetImport(ctx, id, domain.ImportTakingBack, r)
	})
	if err == nil && report.Running {
		a.wakeImports()
	}
	return report, err
}

func (a *Service) takeBackStep(ctx context.Context, u domain.User, id int64, report *domain.ImportReport) (bool, error) {
	list, err := a.store.TakeImportWrites(ctx, id, domain.ImportBlock/2)
	if err != nil {
		return false, err
	}
	if len(list) == 0 {
		report.Running, report.Done = false, true
		return false, a.store.SetImport(ctx, id, domain.ImportTakenBack, *report)
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return false, err
	}
	w := importWriter{a: a, cat: cat, u: u, id: id, report: report}
	for _, did := range list {
		why, err := w.undo(ctx, did)
		if err != nil {
			return false, err
		}
		if report.Written++; why == "" {
			report.TakenBack++
			continue
		}
		if report.KeptAll++; len(report.Kept) < maxRefusals {
			report.Kept = append(report.Kept, domain.RefusedRow{Why: why})
		}
	}
	return true, a.store.SetImport(ctx, id, domain.ImportTakingBack, *report)
}

// undo undoes what an import did with one record, or says why it stays.
func (w *importWriter) undo(ctx context.Context, did domain.ImportWrite) (kept string, err error) {
	r, err := w.load(ctx, did)
	if errors.Is(err, domain.ErrNotFound) || err == nil && r.gone {
		return "", nil // it is gone already
	}
	if err != nil {
		return "", err
	}
	if did.Made {
		return w.unmake(ctx, did, r)
	}
	var left, back []string
	for path, now := range did.Now {
		if r.get(path) != now {
			left = append(left, r.label(w.cat, path))
			continue
		}
		if err := r.set(path, did.Was[path]); err != nil {
			var bad *domain.InvalidError
			if !errors.As(err, &bad) {
				return "", err
			}
			left = append(left, r.label(w.cat, path))
			continue
		}
		back = append(back, r.label(w.cat, path))
	}
	slices.Sort(left)
	slices.Sort(back)
	if len(back) > 0 {
		if err := r.store(); err != nil {
			return "", err
		}
		if err := w.says(ctx, did, domain.EntryImported, "as before the import: "+strings.Join(back, ", ")); err != nil {
			return "", err
		}
	}
	if len(left) > 0 {
		return fmt.Sprintf("%s: %s was changed since and stays", r.name, strings.Join(left, ", ")), nil
	}
	return "", nil
}

// unmake deletes what an import made, unless it was changed or used since.
func (w *importWriter) unmake(ctx context.Context, did domain.ImportWrite, r *imported) (kept string, err error) {
	if r.sum != did.Sum {
		return r.name + " was changed since and stays", nil
	}
	for path, now := range did.Now {
		if r.get(path) != now {
			return r.name + " was changed since and stays", nil
		}
	}
	h, err := w.a.store.HangsOn(ctx, did.Kind, did.RecordID)
	if err != nil {
		return "", err
	}
	if h != (domain.Hangs{}) {
		return r.name + " " + h.Words() + " and stays", nil
	}
	at := w.a.now()
	switch did.Kind {
	case field.Person:
		err = w.a.store.DeletePerson(ctx, did.RecordID, &at)
	case field.Company:
		err = w.a.store.DeleteCompany(ctx, did.RecordID, &at)
	default:
		err = w.a.store.DeleteDeal(ctx, did.RecordID, &at)
	}
	if err != nil {
		return "", err
	}
	return "", w.says(ctx, did, domain.EntryDeleted, "the import was undone")
}

func (w *importWriter) says(ctx context.Context, did domain.ImportWrite, kind domain.EntryKind, text string) error {
	e := domain.Entry{UserID: &w.u.ID, Kind: kind, Text: text, At: w.a.now()}
	switch did.Kind {
	case field.Person:
		e.PersonID = &did.RecordID
	case field.Company:
		e.CompanyID = &did.RecordID
	default:
		e.DealID = &did.RecordID
	}
	return w.a.store.AddEntry(ctx, e)
}

// imported is a record that an import wrote, as it is now.
type imported struct {
	name  string
	gone  bool
	sum   string // of a person who was made
	get   func(path string) string
	set   func(path, value string) error
	store func() error
}

func (r *imported) label(cat *field.Catalogue, path string) string {
	if ref, ok := cat.Find(path); ok {
		return ref.Def.Label
	}
	return "Company"
}

func (w *importWriter) load(ctx context.Context, did domain.ImportWrite) (*imported, error) {
	switch did.Kind {
	case field.Person:
		p, err := w.a.store.Person(ctx, did.RecordID)
		if err != nil {
			return nil, err
		}
		sum := ""
		if did.Made {
			sum = p.Sum()
		}
		return &imported{p.Name(), p.DeletedAt != nil, sum, func(path string) string {
			if path == companyOfPerson {
				return strconv.FormatInt(domain.IDOf(p.CompanyID), 10)
			}
			return records.PersonField(&p, path)
		}, func(path, value string) error { return w.setPerson(ctx, &p, path, value) }, func() error {
			p.UpdatedAt = w.a.now()
			return w.a.store.UpdatePerson(ctx, p)
		}}, nil
	case field.Company:
		c, err := w.a.store.Company(ctx, did.RecordID)
		return &imported{c.Name, c.DeletedAt != nil, "", func(path string) string { return records.CompanyField(w.cat, &c, path) },
			func(path, value string) error { return records.SetCompanyField(w.cat, &c, path, value) }, func() error { return w.a.store.UpdateCompany(ctx, c) }}, err
	}
	d, err := w.a.store.Deal(ctx, did.RecordID)
	return &imported{d.Name, d.DeletedAt != nil, "", func(path string) string { return records.DealField(w.cat, &d, path) },
		func(path, value string) error { return records.SetDealField(w.cat, &d, path, value) }, func() error { return w.a.store.UpdateDeal(ctx, d) }}, err
}

func (w *importWriter) setPerson(ctx context.Context, p *domain.Person, path, value string) error {
	switch path {
	case "lead.company_name":
		p.CompanyName = value
	case companyOfPerson:
		id, err := strconv.ParseInt(value, 10, 64)
		if p.CompanyID = nil; err != nil || id == 0 {
			return nil
		}
		if c, err := w.a.store.Company(ctx, id); err != nil || c.DeletedAt != nil {
			return domain.Invalid(path, "was deleted")
		}
		p.CompanyID = &id
	default:
		return records.SetPersonField(w.cat, p, path, value)
	}
	return nil
}
