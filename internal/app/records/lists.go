package records

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/domain"
)

// maxListName is in bytes, maxLists how many a user has.
const maxListName, maxLists = 80, 200

// FilterSheet is a filter in both its forms.
type FilterSheet struct {
	Tree filter.Expr `json:"tree"`
	Text string      `json:"text"`
}

// ReadFilter reads the text form of a filter.
func (a *Service) ReadFilter(ctx context.Context, text string) (FilterSheet, error) {
	e, err := filter.Parse(text)
	if err != nil {
		return FilterSheet{}, badFilter(err)
	}
	return a.CheckFilter(ctx, e)
}

// CheckFilter checks a filter and gives both its forms, the values in canonical form.
func (a *Service) CheckFilter(ctx context.Context, e filter.Expr) (FilterSheet, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return FilterSheet{}, err
	}
	if e, err = filter.Check(cat, e); err != nil {
		return FilterSheet{}, badFilter(err)
	}
	return FilterSheet{e, filter.Print(e)}, nil
}

func badFilter(err error) error {
	var bad *filter.Error
	if errors.As(err, &bad) {
		return domain.Invalid("filter", "%s", bad.Why)
	}
	return err
}

// FilterFields gives what a filter can ask about.
func (a *Service) FilterFields(ctx context.Context) ([]filter.Field, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	return filter.Fields(cat), nil
}

// ListSheet is a saved list as it is shown at the left. Problem says why its filter cannot be
// used any more.
type ListSheet struct {
	domain.List
	Mine    bool   `json:"mine" doc:"It can be changed"`
	Problem string `json:"problem" doc:"Why its filter cannot be used any more, such as for a field that was deleted"`
}

// Lists gives the lists of a user and those that are shared.
func (a *Service) Lists(ctx context.Context, u domain.User) ([]ListSheet, error) {
	lists, err := a.store.Lists(ctx, u.ID)
	if err != nil {
		return nil, err
	}
	out := []ListSheet{}
	for _, l := range lists {
		one := ListSheet{List: l, Mine: a.mayEditList(u, &l)}
		_, err = a.ReadFilter(ctx, l.Filter)
		var bad *domain.InvalidError
		if errors.As(err, &bad) {
			one.Problem, err = bad.Fields[0].Why, nil
		}
		if err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	return out, nil
}

func (a *Service) mayEditList(u domain.User, l *domain.List) bool {
	return l.OwnerID == u.ID || l.Shared && domain.May(u, access.EditShared, access.Thing{}) == nil
}

// PutList stores a list: a new one for id 0, else one of the user's own; team leads change
// shared ones too.
func (a *Service) PutList(ctx context.Context, u domain.User, id int64, in domain.List) (int64, error) {
	sheet, err := a.ReadFilter(ctx, in.Filter)
	if err != nil {
		return 0, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return 0, err
	}
	in.Sort, in.Columns = sortOf(cat, field.Person, in.Sort).Path, filter.PrintColumns(field.Person, filter.ReadColumns(cat, field.Person, in.Columns))
	in.Name = strings.Join(strings.Fields(in.Name), " ")
	if in.Name == "" || len(in.Name) > maxListName {
		return 0, domain.Invalid("name", "must have 1 to %d bytes", maxListName)
	}
	if sheet.Text == "" {
		return 0, domain.Invalid("filter", "is empty; everybody is a list already")
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		l := domain.List{OwnerID: u.ID, CreatedAt: a.now()}
		if id != 0 {
			if l, err = a.listFor(ctx, u, id); err != nil {
				return err
			}
		}
		l.Name, l.Filter, l.Sort, l.Down, l.Columns, l.Shared = in.Name, sheet.Text, in.Sort, in.Down, in.Columns, in.Shared
		if id != 0 {
			return a.store.UpdateList(ctx, l)
		}
		there, err := a.store.Lists(ctx, u.ID)
		if err != nil {
			return err
		}
		if len(there) >= maxLists {
			return &domain.StateError{Why: fmt.Sprintf("There are %d lists already; delete one first.", maxLists)}
		}
		id, err = a.store.AddList(ctx, l)
		return err
	})
	return id, err
}

// listFor gives a list that the user may change, also a deleted one.
func (a *Service) listFor(ctx context.Context, u domain.User, id int64) (domain.List, error) {
	l, err := a.store.List(ctx, id)
	switch {
	case err != nil:
		return l, err
	case a.mayEditList(u, &l):
		return l, nil
	case l.Shared && l.DeletedAt == nil:
		return l, domain.ErrDenied
	}
	return l, domain.ErrNotFound
}

// DeleteList takes a list away; with back it is put back.
func (a *Service) DeleteList(ctx context.Context, u domain.User, id int64, back bool) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		if _, err := a.listFor(ctx, u, id); err != nil {
			return err
		}
		var at *time.Time
		if !back {
			at = new(a.now())
		}
		return a.store.DeleteList(ctx, id, at)
	})
}

// maxChanged is how many people are changed at once.
const maxChanged = 5000

// Changed is what a change of many people did, with what undoes it.
type Changed struct {
	People int       `json:"people" doc:"Whose value was changed"`
	Same   int       `json:"same" doc:"Who had it already"`
	Undo   int64     `json:"undo" doc:"By this number its user takes it back; 0 when nothing was changed"`
	Left   []LeftOne `json:"left" doc:"Whose value could not be changed"`
}

// manyWere is what takes a change of several people back.
type manyWere struct {
	Path string
	Were []OneWas
}

// OneWas is the value that somebody had.
type OneWas struct {
	ID  int64  `json:"id"`
	Was string `json:"was"`
	Now string `json:"now"`
}

// LeftOne is somebody whose value could not be changed, and why.
type LeftOne struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Why  string `json:"why"`
}

// ChangeMany gives a field of several people one value, in steps that others save between; those
// of another kind of record, and who was deleted meanwhile, are left and named.
func (a *Service) ChangeMany(ctx context.Context, u domain.User, ids []int64, path, value string) (Changed, error) {
	out := Changed{Left: []LeftOne{}}
	if ids = domain.Once(ids); len(ids) == 0 || len(ids) > maxChanged {
		return out, domain.Invalid("ids", "must be 1 to %d people", maxChanged)
	}
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return out, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	ref, ok := cat.Find(path)
	if !ok {
		return out, domain.Invalid(path, "is not a field")
	}
	if ref.Def.Type == field.Email || path == "person.first_name" || path == "person.last_name" {
		return out, domain.Invalid(path, "is each person’s own; change it on their record")
	}
	if err := a.changeable(ctx, cat, ids, ref.Def.Record, path, value); err != nil {
		return out, err
	}
	// In steps, between which others save. What has begun is gone through with, whoever goes.
	steps := context.WithoutCancel(ctx)
	var undo []OneWas
	for some := range slices.Chunk(ids, changedAtOnce) {
		next, were := out, undo
		err = a.store.Within(steps, func(ctx context.Context) error {
			step := manyStep{of: ref.Def.Record, path: path, value: value}
			if err := a.changeStep(ctx, cat, u, some, &step); err != nil {
				return err
			}
			next = Changed{out.People + step.People, out.Same + step.Same, out.Undo, append(slices.Clone(out.Left), step.Left...)}
			if were = append(slices.Clone(undo), step.undo...); len(step.undo) == 0 {
				return nil
			}
			// What takes all of it back so far is kept with it.
			if out.Undo != 0 {
				if err := a.takeUndo(ctx, u, undoChange, out.Undo, &manyWere{}); err != nil {
					return err
				}
			}
			var err error
			next.Undo, err = a.keepUndo(ctx, u, undoChange, manyWere{path, were})
			return err
		})
		if err != nil {
			break
		}
		out, undo = next, were
	}
	if err != nil && out.People > 0 {
		return out, fmt.Errorf("%w: %w", &domain.StateError{Why: fmt.Sprintf("Something went wrong after %d people were changed; the others were not. Do it again for them.", out.People)}, err)
	}
	return out, err
}

// changedAtOnce is how many people are changed in one transaction.
const changedAtOnce = 200

// changeable refuses what cannot be changed before anything is.
func (a *Service) changeable(ctx context.Context, cat *field.Catalogue, ids []int64, of field.Record, path, value string) error {
	people, err := a.store.PeopleOf(ctx, ids)
	if err != nil {
		return err
	}
	if len(people) < len(ids) {
		return domain.ErrNotFound
	}
	for i := range people {
		if p := &people[i]; p.DeletedAt == nil && fitsKind(of, p.Kind) {
			return SetPersonField(cat, new(*p), path, value)
		}
	}
	return nil
}

// fitsKind tells whether a field of a record is one of somebody of a kind: of people, all have it.
func fitsKind(of, kind field.Record) bool {
	return of != field.Lead && of != field.Contact || of == kind
}

// manyStep is a part of a change of many people.
type manyStep struct {
	of          field.Record
	path, value string
	Changed
	undo []OneWas
}

func (a *Service) changeStep(ctx context.Context, cat *field.Catalogue, u domain.User, ids []int64, out *manyStep) error {
	for _, id := range ids {
		p, err := a.store.Person(ctx, id)
		switch {
		case err != nil:
			return err
		case p.DeletedAt != nil:
			out.Left = append(out.Left, LeftOne{p.ID, p.Name(), "was deleted"})
			continue
		case !fitsKind(out.of, p.Kind):
			out.Left = append(out.Left, LeftOne{p.ID, p.Name(), fmt.Sprintf("is a %s; only a %s has this field", p.Kind, out.of)})
			continue
		}
		was := valueNow(&p, out.path)
		next := p
		if err := SetPersonField(cat, &next, out.path, out.value); err != nil {
			return err
		}
		if valueNow(&next, out.path) == was {
			out.Same++
			continue
		}
		if _, err := a.changePerson(ctx, cat, u, p, map[string]string{out.path: out.value}); err != nil {
			return fmt.Errorf("%s: %w", p.Name(), err)
		}
		out.People++
		out.undo = append(out.undo, OneWas{p.ID, was, valueNow(&next, out.path)})
	}
	return nil
}

// UndoMany gives people back the values that ChangeMany changed; who was changed or deleted
// since keeps what they have, and is named.
func (a *Service) UndoMany(ctx context.Context, u domain.User, id int64) ([]LeftOne, error) {
	left := []LeftOne{}
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return left, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return left, err
	}
	var kept manyWere
	steps := context.WithoutCancel(ctx)
	if err := a.store.Within(ctx, func(ctx context.Context) error { return a.takeUndo(ctx, u, undoChange, id, &kept) }); err != nil {
		return left, err
	}
	for done := 0; done < len(kept.Were); done += changedAtOnce {
		some := kept.Were[done:min(len(kept.Were), done+changedAtOnce)]
		var stay []LeftOne
		err := a.store.Within(steps, func(ctx context.Context) (err error) {
			stay, err = a.undoStep(ctx, cat, u, kept.Path, some)
			return err
		})
		if err != nil { // those that are left can still be taken back
			_, again := a.keepUndo(steps, u, undoChange, manyWere{kept.Path, kept.Were[done:]})
			return left, errors.Join(err, again)
		}
		left = append(left, stay...)
	}
	return left, nil
}

func (a *Service) undoStep(ctx context.Context, cat *field.Catalogue, u domain.User, path string, were []OneWas) ([]LeftOne, error) {
	var left []LeftOne
	for _, one := range were {
		p, err := a.store.Person(ctx, one.ID)
		if err != nil {
			return nil, err
		}
		if p.DeletedAt != nil {
			left = append(left, LeftOne{p.ID, p.Name(), "was deleted since"})
			continue
		}
		if valueNow(&p, path) != one.Now {
			left = append(left, LeftOne{p.ID, p.Name(), "was changed since"})
			continue
		}
		if _, err := a.changePerson(ctx, cat, u, p, map[string]string{path: one.Was}); err != nil {
			return nil, err
		}
	}
	return left, nil
}

// valueNow gives a value of a person in canonical form.
func valueNow(p *domain.Person, path string) string {
	if at := p.Column(path); at != nil && !strings.Contains(path, ".own.") {
		return *at
	}
	return p.Own[path]
}
