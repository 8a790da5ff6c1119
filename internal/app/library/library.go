package library

import (
	"context"
	"errors"
	"slices"
	"unicode/utf8"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// LibraryLine is a template as the library shows it to a user.
type LibraryLine struct {
	domain.TemplateLine
	Fits    []field.Record
	Stops   int // red notes
	MayEdit bool
	Found   domain.Found // where the search hit; without a search empty
}

// LibraryPage is a window of the library and how many templates fit in all.
type LibraryPage struct {
	Total int
	Lines []LibraryLine
}

// ReadAhead works out every template of the library, so that the first search
// is as fast as the next.
func (a *Service) ReadAhead(ctx context.Context) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	keys, err := a.store.FindTemplates(ctx, 0, domain.LibraryQuery{})
	for i := 0; err == nil && i < len(keys); i++ {
		_, err = a.DigestOf(ctx, cat, keys[i].ID, keys[i].Version)
	}
	return err
}

// folderRights gives the rights of every folder as they count, by id.
type folderRights map[int64]access.Rights

// FolderRights works out what each folder of a kind says with the folders around it.
func (a *Service) FolderRights(ctx context.Context, holds string) (folderRights, []domain.Folder, error) {
	folders, err := a.store.Folders(ctx, holds)
	return FolderRightsOf(folders), folders, err
}

// FolderRightsOf works out what each folder says with the folders around it.
func FolderRightsOf(folders []domain.Folder) folderRights {
	byID := map[int64]*domain.Folder{}
	for i := range folders {
		byID[folders[i].ID] = &folders[i]
	}
	out := folderRights{}
	for i := range folders {
		var levels []access.Rights
		for f, deep := &folders[i], 0; f != nil && deep <= maxFolders; deep++ {
			levels = append(levels, f.Rights)
			if f.ParentID == nil {
				break
			}
			f = byID[*f.ParentID]
		}
		out[folders[i].ID] = access.Nearest(levels...)
	}
	return out
}

// Thing gives what rights are decided on.
func (r folderRights) Thing(owner int64, draft bool, folder *int64, own access.Rights) access.Thing {
	outer := access.Rights{}
	if folder != nil {
		outer = r[*folder]
	}
	return access.Thing{OwnerID: owner, Draft: draft, Rights: access.Nearest(own, outer)}
}

// Template gives what the rights on a template are decided on.
func (r folderRights) Template(k *domain.TemplateKey) access.Thing {
	return r.Thing(k.OwnerID, k.State != domain.TemplateReady, k.FolderID, k.Rights)
}

// Library finds templates that the user may see.
func (a *Service) Library(ctx context.Context, u domain.User, q domain.LibraryQuery) (LibraryPage, error) {
	var out LibraryPage
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return out, err
	}
	keys, err := a.store.FindTemplates(ctx, u.ID, q)
	if err != nil {
		return out, err
	}
	var ids []int64
	for i := range keys {
		if !access.May(u.As(), access.SeeTemplate, rights.Template(&keys[i])) {
			continue
		}
		if q.Kind != "" {
			d, err := a.DigestOf(ctx, cat, keys[i].ID, keys[i].Version)
			if err != nil {
				return out, err
			}
			if !slices.Contains(d.fits, q.Kind) {
				continue
			}
		}
		ids = append(ids, keys[i].ID)
	}
	out.Total = len(ids)
	ids = ids[min(q.Offset, len(ids)):]
	ids = ids[:min(q.Limit, len(ids))]
	lines, err := a.store.TemplateLines(ctx, u.ID, ids)
	if err != nil {
		return out, err
	}
	found, err := a.store.FoundIn(ctx, q.Search, ids)
	if err != nil {
		return out, err
	}
	for _, l := range lines {
		d, err := a.DigestOf(ctx, cat, l.ID, l.Version)
		if err != nil {
			return out, err
		}
		if len(l.Languages) > 0 && l.Languages[0] == "" {
			l.Languages[0] = d.Language
		}
		out.Lines = append(out.Lines, LibraryLine{
			TemplateLine: l, Fits: d.fits, Stops: d.stops, Found: found[l.ID],
			MayEdit: access.May(u.As(), access.EditTemplate, rights.Template(&l.TemplateKey)),
		})
	}
	return out, nil
}

// TemplateFor loads a template for what a user wants to do with it. What they may
// not see, and what was deleted, is ErrNotFound.
func (a *Service) TemplateFor(ctx context.Context, u domain.User, what access.Action, id int64) (domain.Template, error) {
	t, err := a.store.Template(ctx, id)
	if err != nil {
		return t, err
	}
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return t, err
	}
	thing := rights.Template(t.Key())
	switch {
	case t.DeletedAt != nil, !access.May(u.As(), access.SeeTemplate, thing):
		return t, domain.ErrNotFound
	case !access.May(u.As(), what, thing):
		return t, domain.ErrDenied
	}
	return t, nil
}

// NameFor gives the name of a template as it stands in a sentence to a user: one that they may not
// see has none for them.
func (a *Service) NameFor(ctx context.Context, u domain.User, id int64) (string, error) {
	t, err := a.TemplateFor(ctx, u, access.SeeTemplate, id)
	switch {
	case err == nil:
		return "“" + t.Name + "”", nil
	case !errors.Is(err, domain.ErrNotFound):
		return "", err
	case t.ID == 0 || t.DeletedAt != nil:
		return "a template that is gone", nil
	}
	return "a template you can’t see", nil
}

// UsableWhenReady tells whether a user may use a template whenever it is ready.
func (a *Service) UsableWhenReady(ctx context.Context, u domain.User, t *domain.Template) (bool, error) {
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return false, err
	}
	thing := rights.Template(t.Key())
	thing.Draft = false
	return access.May(u.As(), access.UseTemplate, thing), nil
}

// StarTemplate puts a template among those that the user likes, or takes it out.
func (a *Service) StarTemplate(ctx context.Context, u domain.User, id int64, on bool) error {
	t, err := a.TemplateFor(ctx, u, access.SeeTemplate, id)
	if err != nil {
		return err
	}
	return a.store.Star(ctx, u.ID, t.First(), on)
}

// Tags lists the tags of the templates that the user may see.
func (a *Service) Tags(ctx context.Context, u domain.User) ([]string, error) {
	page, err := a.Library(ctx, u, domain.LibraryQuery{Limit: maxTagged})
	seen := map[string]bool{}
	out := []string{}
	for _, l := range page.Lines {
		for _, tag := range l.Tags {
			if !seen[tag] {
				seen[tag] = true
				out = append(out, tag)
			}
		}
	}
	slices.Sort(out)
	return out, err
}

// maxTagged is how many templates are looked at for their tags.
const maxTagged = 10_000

// MoveTemplate puts a template into a folder that the user may edit, before
// another template of it, or last for 0. Nil takes it out of folders.
func (a *Service) MoveTemplate(ctx context.Context, u domain.User, id int64, folder *int64, before int64) error {
	t, err := a.TemplateFor(ctx, u, access.EditTemplate, id)
	if err != nil {
		return err
	}
	if folder != nil && !SameID(folder, t.FolderID) {
		if _, _, err := a.folderFor(ctx, u, HoldsTemplates, *folder); err != nil {
			return err
		}
	}
	t.ID, t.FolderID = t.First(), folder
	return a.store.PlaceTemplate(ctx, t, before)
}

// SetTemplateRights says who may use and who may edit a template.
func (a *Service) SetTemplateRights(ctx context.Context, u domain.User, id int64, r access.Rights) error {
	t, err := a.TemplateFor(ctx, u, access.EditTemplate, id)
	if err != nil {
		return err
	}
	r, err = a.CheckRights(ctx, r)
	if err != nil {
		return err
	}
	return a.store.SetTemplateRights(ctx, t.First(), r)
}

// Dependants is what goes on without a template that is deleted.
type Dependants struct {
	Drafts int `json:"drafts" doc:"Letters being written from it; they stay as they are"`
	Sent   int `json:"sent" doc:"Letters that were sent of it; they stay as they were sent"`
	Copies int `json:"copies" doc:"Copies that follow it; they stay and follow nothing"`

	Wordings []WordingLine `json:"wordings" doc:"In other languages, which go with it"`
	Plans    []string      `json:"plans" doc:"Plans with letters of it; their letters wait to be proofread then"`
}

// DependantsOf tells what depends on a template.
func (a *Service) DependantsOf(ctx context.Context, u domain.User, id int64) (Dependants, error) {
	d := Dependants{Wordings: []WordingLine{}, Plans: []string{}}
	t, err := a.TemplateFor(ctx, u, access.EditTemplate, id)
	if err != nil {
		return d, err
	}
	if t.SisterOf == nil {
		list, err := a.store.WordingsOf(ctx, id)
		if err != nil {
			return d, err
		}
		d.Wordings = WordingLines(list[1:])
	}
	lines, err := a.store.TemplateLines(ctx, u.ID, []int64{id})
	if err != nil {
		return d, err
	}
	for _, l := range lines {
		d.Sent = l.Used
	}
	plans, err := a.store.PlansWith(ctx, id)
	if err != nil {
		return d, err
	}
	for i := range plans {
		if domain.May(u, access.SeePlan, plans[i].Thing()) == nil {
			d.Plans = append(d.Plans, plans[i].Name)
		}
	}
	if d.Copies, err = a.store.CopiesOf(ctx, id); err != nil {
		return d, err
	}
	d.Drafts, err = a.store.DraftsOf(ctx, id)
	return d, err
}

// DeleteTemplate takes a template out of the library. Letters keep what they have.
func (a *Service) DeleteTemplate(ctx context.Context, u domain.User, id int64) error {
	if _, err := a.TemplateFor(ctx, u, access.EditTemplate, id); err != nil {
		return err
	}
	return a.store.DeleteTemplate(ctx, id, new(a.now()))
}

// PutBackTemplate undoes DeleteTemplate.
func (a *Service) PutBackTemplate(ctx context.Context, u domain.User, id int64) error {
	t, err := a.store.Template(ctx, id)
	if err != nil {
		return err
	}
	rights, _, err := a.FolderRights(ctx, HoldsTemplates)
	if err != nil {
		return err
	}
	if !access.May(u.As(), access.EditTemplate, rights.Template(t.Key())) {
		return domain.ErrNotFound
	}
	return a.store.DeleteTemplate(ctx, id, nil)
}

// CopyTemplate makes a draft of the user's own with the wording of a template. A
// copy that follows remembers where it came from, and says when that changes.
func (a *Service) CopyTemplate(ctx context.Context, u domain.User, id int64, follow bool) (TemplateSheet, error) {
	t, err := a.TemplateFor(ctx, u, access.SeeTemplate, id)
	if err != nil {
		return TemplateSheet{}, err
	}
	if t.SisterOf != nil {
		return a.CopyTemplate(ctx, u, *t.SisterOf, follow)
	}
	list, err := a.store.WordingsOf(ctx, id)
	if err != nil {
		return TemplateSheet{}, err
	}
	now := a.now()
	t.OriginID, t.OriginVer = nil, 0
	if follow {
		t.Name = Shorten("My "+t.Name, MaxName)
		t.OriginID, t.OriginVer = &id, t.Version
	} else {
		t.Name = Shorten("Copy of "+t.Name, MaxName)
	}
	t.State, t.OwnerID, t.Version, t.Rights = domain.TemplateDraft, u.ID, 1, access.Rights{}
	t.CreatedAt, t.UpdatedAt, t.UpdatedBy = now, now, u.ID
	if t.FolderID != nil {
		if _, _, err := a.folderFor(ctx, u, HoldsTemplates, *t.FolderID); err != nil {
			t.FolderID = nil
		}
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		if t.ID, err = a.store.AddTemplate(ctx, t); err != nil {
			return err
		}
		for _, w := range list[1:] {
			copied := t
			copied.Subject, copied.Body, copied.Extras, copied.State = w.Subject, w.Body, w.Extras, w.State
			copied.SisterOf = &t.ID
			if follow {
				copied.OriginID, copied.OriginVer = &w.ID, w.Version
			}
			if _, err := a.store.AddTemplate(ctx, copied); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return TemplateSheet{}, err
	}
	return a.Template(ctx, u, t.ID)
}

// Shorten cuts a text to n bytes at a whole sign.
func Shorten(s string, n int) string {
	for len(s) > n {
		_, size := utf8.DecodeLastRuneInString(s)
		s = s[:len(s)-size]
	}
	return s
}
