package transfer

import (
	"context"
	"fmt"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Archive is a library as one file holds it.
type Archive struct {
	Fields    []library.FieldFile
	Passages  []PassageFile
	Templates []library.TemplateFile
	Pictures  []domain.File
}

// PassageFile is a passage as an archive holds it.
type PassageFile struct {
	Name     string            `json:"name"`
	Shortcut string            `json:"shortcut"`
	Body     document.Document `json:"body"`
}

// ExportLibrary gives what the user may see of the library, or of one folder and
// those in it: templates, the passages and pictures that they use, and their own
// fields.
func (a *Service) ExportLibrary(ctx context.Context, u domain.User, folder int64) (Archive, error) {
	var out Archive
	rights, folders, err := a.library.FolderRights(ctx, library.HoldsTemplates)
	if err != nil {
		return out, err
	}
	inside := map[int64]bool{}
	for _, f := range library.InsideOf(folders, folder) {
		inside[f.ID] = true
	}
	if folder != 0 && len(inside) == 0 {
		return out, domain.ErrNotFound
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return out, err
	}
	var docs []document.Document
	keys, err := a.store.FindTemplates(ctx, u.ID, domain.LibraryQuery{Sort: "order"})
	if err != nil {
		return out, err
	}
	for i := range keys {
		k := &keys[i]
		if folder != 0 && (k.FolderID == nil || !inside[*k.FolderID]) || !access.May(u.As(), access.SeeTemplate, rights.Template(k)) {
			continue
		}
		t, err := a.store.Template(ctx, k.ID)
		if err != nil {
			return out, err
		}
		f, err := a.library.TemplateFile(ctx, &t)
		if err != nil {
			return out, err
		}
		f.Folder = pathTo(folders, t.FolderID)
		out.Templates = append(out.Templates, f)
		list, err := a.store.WordingsOf(ctx, t.ID)
		if err != nil {
			return out, err
		}
		for i := range list {
			docs = append(docs, list[i].Subject, list[i].Body)
			docs = append(docs, out.addPassages(b, &list[i])...)
		}
	}
	if out.Fields, err = a.library.FieldFiles(ctx, docs...); err != nil {
		return out, err
	}
	for _, d := range docs {
		for _, key := range letter.PictureKeys(markup.Print(d)) {
			if slices.ContainsFunc(out.Pictures, func(f domain.File) bool { return f.SHA == key }) {
				continue
			}
			f, err := a.store.File(ctx, key)
			if err != nil {
				return out, fmt.Errorf("picture %s: %w", key, err)
			}
			out.Pictures = append(out.Pictures, f)
		}
	}
	return out, nil
}

// addPassages adds the passages that a template uses, those in them included.
func (out *Archive) addPassages(b *library.Book, t *domain.Template) []document.Document {
	var docs []document.Document
	find := b.Of(t.OwnerID)
	open := template.PassagesIn(t.Subject, t.Body)
	for len(open) > 0 {
		shortcut := open[0]
		open = open[1:]
		if slices.ContainsFunc(out.Passages, func(p PassageFile) bool { return p.Shortcut == shortcut }) {
			continue
		}
		body, ok := find(shortcut)
		if !ok {
			continue
		}
		name := shortcut
		for _, p := range b.All {
			if p.Shortcut == shortcut {
				name = p.Name
			}
		}
		out.Passages = append(out.Passages, PassageFile{name, shortcut, body})
		docs = append(docs, body)
		open = append(open, template.PassagesIn(body)...)
	}
	return docs
}

// pathTo gives the names of the folders around something, the outermost first.
func pathTo(folders []domain.Folder, id *int64) []string {
	var out []string
	for deep := 0; id != nil && deep <= library.MaxFolderDepth; deep++ {
		i := slices.IndexFunc(folders, func(f domain.Folder) bool { return f.ID == *id })
		if i < 0 {
			break
		}
		out = slices.Insert(out, 0, folders[i].Name)
		id = folders[i].ParentID
	}
	return out
}
