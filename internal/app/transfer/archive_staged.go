package transfer

import (
	"cmp"
	"context"
	"errors"
	"reflect"
	"slices"

	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// staged is a store that keeps to itself what an archive brings, so that use cases check
// it as if it stood there while nobody waits. What it adds has ids below 0 until write
// stores all of it.
type staged struct {
	Store
	seen      libraryState
	fields    []field.Def
	passages  []domain.Passage
	folders   []domain.Folder
	templates map[int64]domain.Template // added or changed
	added     []int64                   // of templates, in their order
	writes    []func(ctx context.Context) error
	ids       map[int64]int64 // given by the store for those below 0
	last      int64
}

// libraryState is what an import is decided on.
type libraryState struct {
	fields    []field.Def
	passages  []domain.Passage
	folders   [2][]domain.Folder
	templates []domain.TemplateKey
}

// errMoved says that the library was changed since it was looked at.
var errMoved = errors.New("the library was changed meanwhile")

func lookAtLibrary(ctx context.Context, s Store) (out libraryState, err error) {
	fields, err1 := s.OwnFields(ctx)
	passages, err2 := s.Passages(ctx)
	templates, err3 := s.FindTemplates(ctx, 0, domain.LibraryQuery{})
	slices.SortFunc(templates, func(a, b domain.TemplateKey) int { return cmp.Compare(a.ID, b.ID) })
	out = libraryState{fields: fields, passages: passages, templates: templates}
	err = errors.Join(err1, err2, err3)
	for i, holds := range []string{library.HoldsTemplates, library.HoldsPassages} {
		var wrong error
		out.folders[i], wrong = s.Folders(ctx, holds)
		err = errors.Join(err, wrong)
	}
	return out, err
}

func stage(ctx context.Context, s Store) (*staged, error) {
	seen, err := lookAtLibrary(ctx, s)
	return &staged{Store: s, seen: seen, templates: map[int64]domain.Template{}, ids: map[int64]int64{}}, err
}

// write stores everything in one transaction, or gives errMoved. Pictures go before it:
// they are found by their content alone, and nobody sees one that no template shows.
func (s *staged) write(ctx context.Context, pictures []domain.File) error {
	for _, f := range pictures {
		if err := s.Store.AddFile(ctx, f); err != nil {
			return err
		}
	}
	return s.Store.Within(ctx, func(ctx context.Context) error {
		now, err := lookAtLibrary(ctx, s.Store)
		if err != nil {
			return err
		}
		if !reflect.DeepEqual(now, s.seen) {
			return errMoved
		}
		for _, put := range s.writes {
			if err := put(ctx); err != nil {
				return err
			}
		}
		return nil
	})
}

// Within begins nothing: all of it is one act.
func (s *staged) Within(ctx context.Context, f func(context.Context) error) error { return f(ctx) }

func (s *staged) next() int64 {
	s.last--
	return s.last
}

// real gives the id that the store gave.
func (s *staged) real(id *int64) *int64 {
	if id == nil || *id >= 0 {
		return id
	}
	return new(s.ids[*id])
}

func (s *staged) OwnFields(context.Context) ([]field.Def, error) {
	return slices.Concat(s.seen.fields, s.fields), nil
}

func (s *staged) AddOwnField(_ context.Context, d field.Def) error {
	s.fields = append(s.fields, d)
	s.writes = append(s.writes, func(ctx context.Context) error { return s.Store.AddOwnField(ctx, d) })
	return nil
}

func (s *staged) Passages(context.Context) ([]domain.Passage, error) {
	return slices.Concat(s.seen.passages, s.passages), nil
}

func (s *staged) Passage(ctx context.Context, id int64) (domain.Passage, error) {
	for _, p := range s.passages {
		if p.ID == id {
			return p, nil
		}
	}
	return s.Store.Passage(ctx, id)
}

func (s *staged) AddPassage(_ context.Context, p domain.Passage) (int64, error) {
	p.ID = s.next()
	s.passages = append(s.passages, p)
	s.writes = append(s.writes, func(ctx context.Context) error {
		_, err := s.Store.AddPassage(ctx, p)
		return err
	})
	return p.ID, nil
}

func (s *staged) Folders(_ context.Context, holds string) ([]domain.Folder, error) {
	if holds == library.HoldsPassages {
		return s.seen.folders[1], nil
	}
	return slices.Concat(s.seen.folders[0], s.folders), nil
}

func (s *staged) AddFolder(_ context.Context, f domain.Folder) (int64, error) {
	f.ID = s.next()
	s.folders = append(s.folders, f)
	s.writes = append(s.writes, func(ctx context.Context) error {
		f.ParentID = s.real(f.ParentID)
		id, err := s.Store.AddFolder(ctx, f)
		s.ids[f.ID] = id
		return err
	})
	return f.ID, nil
}

func (s *staged) Template(ctx context.Context, id int64) (domain.Template, error) {
	if t, ok := s.templates[id]; ok {
		return t, nil
	}
	return s.Store.Template(ctx, id)
}

func (s *staged) WordingsOf(ctx context.Context, id int64) ([]domain.Template, error) {
	var out []domain.Template
	if id > 0 {
		var err error
		if out, err = s.Store.WordingsOf(ctx, id); err != nil {
			return nil, err
		}
	}
	for i := range out {
		if t, changed := s.templates[out[i].ID]; changed {
			out[i] = t
		}
	}
	for _, added := range s.added {
		if t := s.templates[added]; t.First() == id {
			out = append(out, t)
		}
	}
	return out, nil
}

func (s *staged) AddTemplate(_ context.Context, t domain.Template) (int64, error) {
	id := s.next()
	t.ID = id
	s.templates[id] = t
	s.added = append(s.added, id)
	s.writes = append(s.writes, func(ctx context.Context) (err error) {
		t := s.templates[id]
		t.FolderID, t.SisterOf = s.real(t.FolderID), s.real(t.SisterOf)
		s.ids[id], err = s.Store.AddTemplate(ctx, t)
		return err
	})
	return id, nil
}

// UpdateTemplate changes what is to be added, or stores a version of what is there.
func (s *staged) UpdateTemplate(ctx context.Context, t domain.Template) error {
	now, err := s.Template(ctx, t.ID)
	if err != nil {
		return err
	}
	if now.Version != t.Version {
		return domain.ErrStale
	}
	if t.ID < 0 {
		s.templates[t.ID] = t
		return nil
	}
	next := t
	next.Version++
	s.templates[t.ID] = next
	s.writes = append(s.writes, func(ctx context.Context) error { return s.Store.UpdateTemplate(ctx, t) })
	return nil
}
