package transfer

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// ArchiveChoices answers what an import asks.
type ArchiveChoices struct {
	Existing string            // of a template whose name is there: skip, beside (a second one), version (of that one)
	Fields   map[string]string // own fields that are not here: create, or the path of one that is
}

// ArchiveItem is one template or passage of an archive and what happens to it.
type ArchiveItem struct {
	Name   string   `json:"name"`
	Folder []string `json:"folder"`
	What   string   `json:"what" enum:"new,there,same" doc:"new; one of this name is there; it is there with the same wording"`
	Does   string   `json:"does" enum:"add,skip,beside,version"`
	Notes  []string `json:"notes"`
}

// ArchiveField is an own field that the archive uses and this workspace lacks.
type ArchiveField struct {
	library.FieldFile
	Like []string `json:"like" doc:"Fields here that it could be"`
	Does string   `json:"does" doc:"create, the path of a field, or empty: templates get a red note"`
}

// ArchivePlan is what an import would do, or did.
type ArchivePlan struct {
	Templates []ArchiveItem  `json:"templates"`
	Passages  []ArchiveItem  `json:"passages"`
	Fields    []ArchiveField `json:"fields"`
	Pictures  int            `json:"pictures"`
	Done      bool           `json:"done"`
}

// ImportLibrary brings an archive in, all of it or nothing; with check it only says
// what it would do. Nothing that is there is changed unless Existing says so. All of it
// is made ready while others go on; when somebody changes the library meanwhile, it
// begins anew.
func (a *Service) ImportLibrary(ctx context.Context, u domain.User, in Archive, choices ArchiveChoices, check bool) (ArchivePlan, error) {
	if choices.Existing == "" {
		choices.Existing = "skip"
	}
	if !slices.Contains([]string{"skip", "beside", "version"}, choices.Existing) {
		return ArchivePlan{}, domain.Invalid("existing", "%q is no choice; use skip, beside or version", choices.Existing)
	}
	for range 5 {
		plan, s, err := a.planImport(ctx, u, &in, choices)
		if err != nil || check {
			return plan, err
		}
		switch err := s.write(ctx, in.Pictures); {
		case errors.Is(err, errMoved), errors.Is(err, domain.ErrStale):
		default:
			plan.Done = err == nil
			a.records.ForgetCatalogue()
			return plan, err
		}
	}
	return ArchivePlan{}, &domain.StateError{Why: "Other people keep changing the library. Try again in a moment."}
}

// planImport goes through an archive and keeps what it adds staged.
func (a *Service) planImport(ctx context.Context, u domain.User, in *Archive, choices ArchiveChoices) (ArchivePlan, *staged, error) {
	plan := ArchivePlan{Templates: []ArchiveItem{}, Passages: []ArchiveItem{}, Fields: []ArchiveField{}, Pictures: len(in.Pictures)}
	s, err := stage(ctx, a.store)
	if err != nil {
		return plan, nil, err
	}
	i := importing{app: a.on(s), u: u, choices: choices, plan: &plan, rename: map[string]string{}, folders: map[string]*int64{}}
	if err := i.fields(ctx, in.Fields); err != nil {
		return plan, nil, err
	}
	for n := range in.Passages {
		if err := i.passage(ctx, &in.Passages[n]); err != nil {
			return plan, nil, err
		}
	}
	if err := i.names(ctx); err != nil {
		return plan, nil, err
	}
	for n := range in.Templates {
		if err := i.template(ctx, &in.Templates[n]); err != nil {
			return plan, nil, err
		}
	}
	return plan, s, nil
}

type importing struct {
	app     *Service
	u       domain.User
	choices ArchiveChoices
	plan    *ArchivePlan
	rename  map[string]string
	folders map[string]*int64
	there   map[string]int64 // the templates that the user sees, by name
}

func (i *importing) fields(ctx context.Context, list []library.FieldFile) error {
	cat, err := i.app.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	for _, f := range list {
		if _, known := cat.Find(f.Path); known {
			continue
		}
		af := ArchiveField{FieldFile: f, Like: []string{}, Does: i.choices.Fields[f.Path]}
		record, _, _ := strings.Cut(f.Path, ".")
		for _, d := range cat.Fields() {
			if d.Own && string(d.Record) == record && d.Type == f.Type {
				af.Like = append(af.Like, d.Path)
			}
		}
		switch af.Does {
		case "":
		case "create":
			if err := i.app.records.NewOwnField(ctx, i.u, field.Def{Path: f.Path, Label: f.Label, Type: f.Type, Choices: f.Choices}); err != nil {
				return err
			}
		default:
			if _, known := cat.Find(af.Does); !known {
				return domain.Invalid("fields", "there is no field %s for %s; choose another", af.Does, f.Path)
			}
			i.rename[f.Path] = af.Does
		}
		i.plan.Fields = append(i.plan.Fields, af)
	}
	return nil
}

func (i *importing) renamed(d document.Document) document.Document {
	return markup.Renamed(d, func(path string) string {
		if to, ok := i.rename[path]; ok {
			return to
		}
		return path
	})
}

func (i *importing) passage(ctx context.Context, p *PassageFile) error {
	if err := p.Body.Check(); err != nil {
		return domain.Invalid("passage "+p.Name, "cannot be read: %v", err)
	}
	body := i.renamed(p.Body)
	item := ArchiveItem{Name: p.Name, Folder: []string{}, What: "new", Does: "add", Notes: []string{}}
	b, err := i.app.library.Book(ctx)
	if err != nil {
		return err
	}
	if now, ok := b.Of(i.u.ID)(p.Shortcut); ok {
		item.What, item.Does = "there", "skip"
		if markup.Print(now) == markup.Print(body) {
			item.What = "same"
		}
	} else {
		in := library.PassageInput{Name: p.Name, Shortcut: p.Shortcut, Body: markup.Print(body), Kind: body.Attrs.Body}
		if _, err := i.app.library.AddPassage(ctx, i.u, in); err != nil {
			item.Does = "skip"
			item.Notes = append(item.Notes, "It was left out: "+err.Error())
		}
	}
	i.plan.Passages = append(i.plan.Passages, item)
	return nil
}

func (i *importing) template(ctx context.Context, f *library.TemplateFile) error {
	if f.Format != library.TemplateFormat || f.Version > library.FilesVersion {
		return domain.Invalid("template "+f.Name, "is of a format that this program does not read")
	}
	i.renameIn(f)
	in, notes, err := i.app.library.InputOf(ctx, f)
	if err != nil {
		return err
	}
	item := ArchiveItem{Name: f.Name, Folder: append([]string{}, f.Folder...), What: "new", Does: "add", Notes: notes}
	var there library.TemplateSheet
	if id, known := i.there[f.Name]; known {
		if there, err = i.app.library.Template(ctx, i.u, id); err != nil {
			return err
		}
		item.What, item.Does = "there", i.choices.Existing
		same, err := i.same(ctx, there.ID, f)
		if err != nil {
			return err
		}
		if same {
			item.What, item.Does = "same", "skip"
		}
	}
	var stored library.TemplateSheet
	switch item.Does {
	case "version":
		in.TemplateID = there.ID
		stored, err = i.store(ctx, in, &item, func(in library.TemplateInput) (library.TemplateSheet, error) {
			return i.app.library.ChangeTemplate(ctx, i.u, there.ID, there.Version, in)
		})
	case "add", "beside":
		if item.Does == "beside" {
			in.Name = library.Shorten(in.Name, library.MaxName-10) + " (brought in)"
		}
		if in.FolderID, err = i.folder(ctx, f.Folder); err != nil {
			return err
		}
		stored, err = i.store(ctx, in, &item, func(in library.TemplateInput) (library.TemplateSheet, error) {
			return i.app.library.AddTemplate(ctx, i.u, in)
		})
	}
	for n := 0; err == nil && stored.ID != 0 && n < len(f.Wordings); n++ {
		err = i.wording(ctx, stored.ID, &f.Wordings[n], &item)
	}
	if _, known := i.there[stored.Name]; stored.ID != 0 && !known {
		i.there[stored.Name] = stored.ID
	}
	i.plan.Templates = append(i.plan.Templates, item)
	return err
}

// renameIn gives the own fields in a file the names that they have here.
func (i *importing) renameIn(f *library.TemplateFile) {
	f.Body = i.renamed(f.Body)
	f.Subject = markup.Print(i.renamed(markup.Parse(f.Subject)))
	if f.TextPart != nil {
		f.TextPart = new(markup.Print(i.renamed(markup.Parse(*f.TextPart))))
	}
	for n := range f.Wordings {
		i.renameIn(&f.Wordings[n])
	}
}

// same tells whether a template has the words of a file in every language of it.
func (i *importing) same(ctx context.Context, there int64, f *library.TemplateFile) (bool, error) {
	list, err := i.app.store.WordingsOf(ctx, there)
	if err != nil {
		return false, err
	}
	for _, in := range append([]library.TemplateFile{*f}, f.Wordings...) {
		if !slices.ContainsFunc(list, func(t domain.Template) bool {
			return markup.Print(t.Subject) == in.Subject && markup.Print(t.Body) == markup.Print(in.Body)
		}) {
			return false, nil
		}
	}
	return true, nil
}

// wording stores the wording of a template in another language: as a version of the
// one that is there, else beside it.
func (i *importing) wording(ctx context.Context, id int64, f *library.TemplateFile, item *ArchiveItem) error {
	in, notes, err := i.app.library.InputOf(ctx, f)
	if err != nil {
		return err
	}
	item.Notes = append(item.Notes, notes...)
	list, err := i.app.store.WordingsOf(ctx, id)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(list, func(t domain.Template) bool {
		return field.SameLanguage(library.LanguageOf(t.Subject, t.Body), f.Body.Attrs.Lang)
	})
	var to domain.Template
	if at >= 0 {
		to = list[at]
	} else {
		s, err := i.app.library.AddWording(ctx, i.u, id, f.Body.Attrs.Lang)
		if err != nil {
			return err
		}
		to = s.Template
	}
	in.TemplateID = to.ID
	_, err = i.store(ctx, in, item, func(in library.TemplateInput) (library.TemplateSheet, error) {
		return i.app.library.ChangeTemplate(ctx, i.u, to.ID, to.Version, in)
	})
	return err
}

// store stores a template; one that cannot be ready here becomes a draft.
func (i *importing) store(_ context.Context, in library.TemplateInput, item *ArchiveItem, put func(library.TemplateInput) (library.TemplateSheet, error)) (library.TemplateSheet, error) {
	if in.State == "" {
		in.State = domain.TemplateDraft
	}
	s, err := put(in)
	if err != nil && in.State == domain.TemplateReady {
		item.Notes = append(item.Notes, "It is a draft here: "+err.Error())
		in.State = domain.TemplateDraft
		return put(in)
	}
	return s, err
}

// names notes the templates that the user may see by their names.
func (i *importing) names(ctx context.Context) error {
	rights, _, err := i.app.library.FolderRights(ctx, library.HoldsTemplates)
	if err != nil {
		return err
	}
	keys, err := i.app.store.FindTemplates(ctx, i.u.ID, domain.LibraryQuery{})
	if err != nil {
		return err
	}
	var ids []int64
	for n := range keys {
		if access.May(i.u.As(), access.SeeTemplate, rights.Template(&keys[n])) {
			ids = append(ids, keys[n].ID)
		}
	}
	lines, err := i.app.store.TemplateLines(ctx, i.u.ID, ids)
	i.there = make(map[string]int64, len(lines))
	for n := range lines {
		if _, twice := i.there[lines[n].Name]; !twice {
			i.there[lines[n].Name] = lines[n].ID
		}
	}
	return err
}

// folder finds the folder of a path, or makes what of it is not there.
func (i *importing) folder(ctx context.Context, names []string) (*int64, error) {
	if len(names) == 0 {
		return nil, nil
	}
	key := strings.Join(names, "\x00")
	if id, known := i.folders[key]; known {
		return id, nil
	}
	parent, err := i.folder(ctx, names[:len(names)-1])
	if err != nil {
		return nil, err
	}
	name := names[len(names)-1]
	list, err := i.app.library.Folders(ctx, i.u, library.HoldsTemplates)
	if err != nil {
		return nil, err
	}
	for _, f := range list.Folders {
		if f.Name == name && library.SameID(f.ParentID, parent) {
			if !f.MayEdit { // what is brought in stands outside of what others keep
				i.folders[key] = nil
				return nil, nil
			}
			i.folders[key] = &f.ID
			return &f.ID, nil
		}
	}
	id, err := i.app.library.AddFolder(ctx, i.u, library.HoldsTemplates, library.FolderInput{Name: name, ParentID: parent})
	i.folders[key] = &id
	return &id, err
}
