package walk

import (
	"errors"
	"fmt"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/files"
)

// valuesOf are the values of everybody, every company and every deal that is there.
func (w *walker) valuesOf() (map[string]string, error) {
	out := map[string]string{}
	rows, err := w.b.Store.DB().Query(`
		SELECT 'person ' || id, kind || '|' || first_name || '|' || last_name || '|' || email || '|' || city || '|' || language || '|' || coalesce(company_id, 0) || '|' || lead_status FROM people WHERE deleted_at IS NULL
		UNION ALL SELECT 'company ' || id, name || '|' || city FROM companies WHERE deleted_at IS NULL
		UNION ALL SELECT 'deal ' || id, name || '|' || amount_minor || '|' || stage || '|' || coalesce(main_contact_id, 0) || '|' || coalesce(company_id, 0) FROM deals WHERE deleted_at IS NULL`)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var what, values string
		if err := rows.Scan(&what, &values); err != nil {
			return nil, err
		}
		out[what] = values
	}
	return out, rows.Err()
}

// andUndo does something and takes it back at once: everything is as it was before.
func (w *walker) andUndo(do func() (undo func() error, err error)) error {
	before, err := w.valuesOf()
	if err != nil {
		return err
	}
	undo, err := do()
	if err != nil {
		return err
	}
	if undo == nil { // nothing was done
		return nil
	}
	if err := undo(); err != nil {
		return fmt.Errorf("%w: %s", errNotUndone, err)
	}
	after, err := w.valuesOf()
	if err != nil {
		return err
	}
	for what, values := range before {
		if after[what] != values {
			return fmt.Errorf("%w: %s was %s and is %s", errNotUndone, what, values, after[what])
		}
	}
	for what, values := range after {
		if _, was := before[what]; !was {
			return fmt.Errorf("%w: %s came: %s", errNotUndone, what, values)
		}
	}
	return nil
}

var errNotUndone = errors.New("an undo did not restore what was")

func (w *walker) doAndUndo() error {
	u, rec := w.users[2], w.b.App.Records
	switch w.r.IntN(5) {
	case 0:
		return w.andUndo(func() (func() error, error) {
			kept, gone := w.one(w.people), w.one(w.people)
			p, err := w.b.Store.Person(ctx, kept)
			if err != nil {
				return nil, err
			}
			id, err := rec.Merge(ctx, u, kept, gone, p.Version, []string{"person.city", "person.email"}[:w.r.IntN(3)])
			return func() error { _, err := rec.Split(ctx, u, id); return err }, err
		})
	case 1:
		return w.andUndo(func() (func() error, error) {
			kind, id := w.record()
			err := rec.Delete(ctx, u, kind, id)
			return func() error { return rec.PutBack(ctx, u, kind, id) }, err
		})
	case 2:
		return w.andUndo(func() (func() error, error) {
			done, err := rec.ChangeMany(ctx, u, w.some(), "person.city", w.pick("", "York", "Hull"))
			if done.Undo == 0 {
				return nil, err
			}
			return func() error { _, err := rec.UndoMany(ctx, u, done.Undo); return err }, err
		})
	case 3:
		return w.andUndo(func() (func() error, error) {
			p, err := w.b.Store.Person(ctx, w.one(w.people))
			if err != nil {
				return nil, err
			}
			q := records.Qualify{Company: w.pick("", "Quill Dairy", "Rye Mills")}
			if w.r.IntN(2) == 0 {
				q.Deal = &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}
			}
			done, err := rec.MakeContact(ctx, u, p.ID, p.Version, q)
			return func() error { _, err := rec.MakeLead(ctx, u, p.ID, done.Undo); return err }, err
		})
	}
	return w.andUndo(func() (func() error, error) {
		first := w.name()
		table, err := files.OpenCSV(strings.NewReader(fmt.Sprintf("First,Last,Email,City,Company\n%s,Stone,%s@stone.example,York,Quill Dairy\n%s,Stone,other%d@stone.example,Hull,Rye Mills", first, strings.ToLower(first), first, w.r.IntN(40))))
		if err != nil {
			return nil, err
		}
		r, err := w.b.App.Transfer.ImportPeople(ctx, u, table, transfer.ImportOptions{SkipRefused: true})
		if r.ID == 0 {
			return nil, err
		}
		return func() error { _, err := w.b.App.Transfer.TakeBack(ctx, u, r.ID); return err }, err
	})
}

// dealPeople gives a deal other people.
func (w *walker) dealPeople() error {
	main := w.one(w.people)
	return w.b.App.Records.SetDealPeople(ctx, w.user(), w.one(w.deals), &main, w.some()[:1])
}

func (w *walker) changeMany() error {
	_, err := w.b.App.Records.ChangeMany(ctx, w.user(), w.some(), "person.city", w.pick("", "York", "Hull", "n/a"))
	return err
}

func (w *walker) makeContact() error {
	p, err := w.b.Store.Person(ctx, w.one(w.people))
	if err != nil {
		return err
	}
	done, err := w.b.App.Records.MakeContact(ctx, w.user(), p.ID, p.Version, records.Qualify{Company: w.pick("", "Quill Dairy"), Deal: &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}})
	if err == nil && done.DealID != 0 {
		w.deals = append(w.deals, done.DealID)
	}
	return err
}

func (w *walker) note() error {
	kind, id := w.record()
	_, err := w.b.App.Records.AddNote(ctx, w.user(), kind, id, "call", "Spoke with them.")
	return err
}

func (w *walker) setCompany() error {
	kind, id := w.record()
	if kind != field.Person && kind != field.Deal {
		return nil
	}
	return w.b.App.Records.SetCompany(ctx, w.user(), kind, id, nil, w.pick("", "Quill Dairy", "Rye Mills"))
}
