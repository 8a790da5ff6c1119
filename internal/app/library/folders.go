package library

import (
	"context"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/domain"
)

// What folders hold.
const (
	HoldsTemplates = "templates"
	HoldsPassages  = "passages"
)

// Limits of folders.
const maxFolders, maxFolderName, MaxFolderDepth = 500, 80, 8

// FolderSheet is a folder as the library shows it. Count is of what the user may
// see in it, without the folders inside.
type FolderSheet struct {
	ID       int64         `json:"id"`
	ParentID *int64        `json:"parentId,omitempty"`
	Name     string        `json:"name"`
	OwnerID  int64         `json:"ownerId"`
	Count    int           `json:"count"`
	MayEdit  bool          `json:"mayEdit"`
	Own      access.Rights `json:"own" doc:"What is set on the folder itself"`
	Counts   access.Rights `json:"counts" doc:"What counts, with the folders around it"`
}

// FolderList is every folder that the user may see, those inside behind those
// around them in their order, and how many templates stand outside of folders.
type FolderList struct {
	Folders []FolderSheet `json:"folders"`
	Outside int           `json:"outside"`
	Total   int           `json:"total"`
}

// Folders lists the folders of templates or passages. A folder shows itself too
// when something in it may be seen.
func (a *Service) Folders(ctx context.Context, u domain.User, holds string) (FolderList, error) {
	out := FolderList{Folders: []FolderSheet{}}
	rights, folders, err := a.FolderRights(ctx, holds)
	if err != nil {
		return out, err
	}
	counts, err := a.countIn(ctx, u, holds, rights)
	if err != nil {
		return out, err
	}
	out.Outside = counts[0]
	for _, n := range counts {
		out.Total += n
	}
	seen := map[int64]bool{}
	parents := map[int64]*int64{}
	for _, f := range folders {
		parents[f.ID] = f.ParentID
	}
	for _, f := range folders {
		if counts[f.ID] > 0 || access.May(u.As(), access.SeeFolder, rights.Thing(f.OwnerID, false, &f.ID, access.Rights{})) {
			for at, deep := &f.ID, 0; at != nil && deep <= MaxFolderDepth; at, deep = parents[*at], deep+1 {
				seen[*at] = true
			}
		}
	}
	var list func(parent *int64, deep int)
	list = func(parent *int64, deep int) {
		for _, f := range folders {
			if !SameID(f.ParentID, parent) || !seen[f.ID] || deep > MaxFolderDepth {
				continue
			}
			out.Folders = append(out.Folders, FolderSheet{
				ID: f.ID, ParentID: f.ParentID, Name: f.Name, OwnerID: f.OwnerID, Count: counts[f.ID], Own: f.Rights, Counts: rights[f.ID],
				MayEdit: access.May(u.As(), access.EditFolder, rights.Thing(f.OwnerID, false, &f.ID, access.Rights{})),
			})
			list(&f.ID, deep+1)
		}
	}
	list(nil, 0)
	return out, nil
}

// SameID tells whether both are the same id, or neither is one.
func SameID(a, b *int64) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }

// countIn counts what the user may see by folder; 0 is outside of folders.
func (a *Service) countIn(ctx context.Context, u domain.User, _ string, rights folderRights) (map[int64]int, error) {
	out := map[int64]int{}
	keys, err := a.store.FindTemplates(ctx, u.ID, domain.LibraryQuery{})
	for i := range keys {
		if !access.May(u.As(), access.SeeTemplate, rights.Template(&keys[i])) {
			continue
		}
		if id := keys[i].FolderID; id != nil {
			out[*id]++
		} else {
			out[0]++
		}
	}
	return out, err
}

// FolderInput is what is set on a folder.
type FolderInput struct {
	Name     string
	ParentID *int64
}

// folderFor loads a folder that the user may edit. One that they do not see is
// ErrNotFound.
func (a *Service) folderFor(ctx context.Context, u domain.User, holds string, id int64) (domain.Folder, []domain.Folder, error) {
	rights, folders, err := a.FolderRights(ctx, holds)
	if err != nil {
		return domain.Folder{}, nil, err
	}
	for _, f := range folders {
		if f.ID != id {
			continue
		}
		thing := rights.Thing(f.OwnerID, false, &id, access.Rights{})
		switch {
		case access.May(u.As(), access.EditFolder, thing):
			return f, folders, nil
		case access.May(u.As(), access.SeeFolder, thing):
			return f, folders, domain.ErrDenied
		}
	}
	return domain.Folder{}, nil, domain.ErrNotFound
}

// checkFolder checks a name and a parent, which must not be the folder itself or
// stand in it.
func (a *Service) checkFolder(ctx context.Context, u domain.User, f *domain.Folder, in FolderInput) error {
	f.Name = strings.TrimSpace(in.Name)
	switch {
	case f.Name == "":
		return domain.Invalid("name", "is missing; give the folder a name")
	case len(f.Name) > maxFolderName:
		return domain.Invalid("name", "is longer than %d bytes", maxFolderName)
	}
	moved := f.ID == 0 || !SameID(f.ParentID, in.ParentID)
	f.ParentID = in.ParentID
	if in.ParentID == nil {
		return nil
	}
	if moved {
		if _, _, err := a.folderFor(ctx, u, f.Holds, *in.ParentID); err != nil {
			return err
		}
	}
	folders, err := a.store.Folders(ctx, f.Holds)
	if err != nil {
		return err
	}
	byID := map[int64]domain.Folder{}
	for _, g := range folders {
		byID[g.ID] = g
	}
	deep := 1
	for at := in.ParentID; at != nil; at = byID[*at].ParentID {
		if *at == f.ID {
			return domain.Invalid("parentId", "is the folder itself or stands in it; choose another")
		}
		if deep++; deep > MaxFolderDepth {
			return domain.Invalid("parentId", "folders stand in each other at most %d deep", MaxFolderDepth)
		}
	}
	return nil
}

// AddFolder makes a folder that belongs to the user.
func (a *Service) AddFolder(ctx context.Context, u domain.User, holds string, in FolderInput) (int64, error) {
	f := domain.Folder{Holds: holds, OwnerID: u.ID, CreatedAt: a.now()}
	if err := a.checkFolder(ctx, u, &f, in); err != nil {
		return 0, err
	}
	folders, err := a.store.Folders(ctx, holds)
	if err != nil {
		return 0, err
	}
	if len(folders) >= maxFolders {
		return 0, domain.Invalid("name", "there are %d folders, which is as many as there can be; delete some", maxFolders)
	}
	return a.store.AddFolder(ctx, f)
}

// ChangeFolder renames or moves a folder: before another one of its parent, or
// for 0 last when it moved.
func (a *Service) ChangeFolder(ctx context.Context, u domain.User, holds string, id int64, in FolderInput, before *int64) error {
	f, _, err := a.folderFor(ctx, u, holds, id)
	if err != nil {
		return err
	}
	if err := a.checkFolder(ctx, u, &f, in); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		if err := a.store.UpdateFolder(ctx, f); err != nil || before == nil {
			return err
		}
		return a.store.OrderFolder(ctx, id, *before)
	})
}

// SetFolderRights says who may use what is in a folder, and who may edit it.
func (a *Service) SetFolderRights(ctx context.Context, u domain.User, holds string, id int64, r access.Rights) error {
	f, _, err := a.folderFor(ctx, u, holds, id)
	if err != nil {
		return err
	}
	if f.Rights, err = a.CheckRights(ctx, r); err != nil {
		return err
	}
	return a.store.UpdateFolder(ctx, f)
}

// CheckRights refuses audiences of nobody, and of users and teams that are none.
func (a *Service) CheckRights(ctx context.Context, r access.Rights) (access.Rights, error) {
	users, err := a.store.Users(ctx)
	if err != nil {
		return r, err
	}
	teams, err := a.store.Teams(ctx)
	if err != nil {
		return r, err
	}
	known, knownTeams := map[int64]bool{}, map[int64]bool{}
	for _, u := range users {
		known[u.ID] = true
	}
	for _, t := range teams {
		knownTeams[t.ID] = true
	}
	for where, x := range map[string]*access.Audience{"audience": &r.Audience, "editors": &r.Editors} {
		switch x.Who {
		case access.Inherit, access.OnlyOwner, access.Everybody:
			*x = access.Audience{Who: x.Who}
			continue
		case access.Some:
		default:
			return r, domain.Invalid(where, "%q is no kind of audience", x.Who)
		}
		if len(x.Users)+len(x.Teams)+len(x.Roles) == 0 {
			return r, domain.Invalid(where, "names nobody; choose people, teams or roles, or only the owner")
		}
		for _, id := range x.Users {
			if !known[id] {
				return r, domain.Invalid(where, "there is no user %d", id)
			}
		}
		for _, id := range x.Teams {
			if !knownTeams[id] {
				return r, domain.Invalid(where, "there is no team %d", id)
			}
		}
		for _, role := range x.Roles {
			if role != access.Representative && role != access.TeamLead && role != access.Administrator {
				return r, domain.Invalid(where, "there is no role %q", role)
			}
		}
	}
	return r, nil
}

// Contents says what happens to what is in a folder that is deleted.
type Contents string

// What can happen to the contents.
const (
	OnlyEmpty   Contents = "empty" // nothing: the folder must be empty
	MoveOut     Contents = "out"   // they move to where the folder stands
	DeleteToo   Contents = "delete"
	folderInUse          = "The folder is not empty. Say whether what is in it moves out or is deleted with it."
)

// DeleteFolder deletes a folder. It gives the templates that were deleted with it;
// nothing is deleted that the user may not edit. PutBackFolder undoes it.
func (a *Service) DeleteFolder(ctx context.Context, u domain.User, holds string, id int64, contents Contents) ([]int64, error) {
	f, folders, err := a.folderFor(ctx, u, holds, id)
	if err != nil {
		return nil, err
	}
	inside := InsideOf(folders, id)
	deleted := []int64{}
	var held domain.Held
	err = a.store.Within(ctx, func(ctx context.Context) error {
		items, err := a.itemsIn(ctx, u, holds, inside)
		if err != nil {
			return err
		}
		if contents == OnlyEmpty && len(items)+len(inside) > 1 {
			return &domain.StateError{Why: folderInUse}
		}
		for _, item := range items {
			switch {
			case contents == DeleteToo && !item.mayEdit:
				return &domain.StateError{Why: "You don’t have permission to delete everything in this folder. Move its contents out instead."}
			case contents == DeleteToo:
				deleted = append(deleted, item.id)
				held.Items = append(held.Items, domain.HeldItem{ID: item.id, Folder: item.folder, Deleted: true})
				err = item.remove(a.now())
			case item.folder == id:
				held.Items = append(held.Items, domain.HeldItem{ID: item.id, Folder: id, Deleted: false})
				err = item.move(f.ParentID)
			}
			if err != nil {
				return err
			}
		}
		for i := len(inside) - 1; i >= 0; i-- {
			g := inside[i]
			if contents == MoveOut && g.ID != id {
				if SameID(g.ParentID, &id) {
					held.Folders = append(held.Folders, domain.HeldItem{ID: g.ID, Folder: id})
					g.ParentID = f.ParentID
					if err := a.store.UpdateFolder(ctx, g); err != nil {
						return err
					}
				}
				continue
			}
			if g.ID != id {
				held.Inside = append(held.Inside, g.ID)
			}
			if err := a.store.DeleteFolder(ctx, g.ID, a.now(), held); err != nil {
				return err
			}
		}
		return nil
	})
	return deleted, err
}

// InsideOf gives a folder and all that stand in it, those around first.
func InsideOf(folders []domain.Folder, id int64) []domain.Folder {
	var out []domain.Folder
	for _, f := range folders {
		if f.ID == id {
			out = append(out, f)
		}
	}
	for i := 0; i < len(out); i++ {
		for _, f := range folders {
			if SameID(f.ParentID, &out[i].ID) {
				out = append(out, f)
			}
		}
	}
	return out
}

// folderItem is a template or a passage in a folder.
type folderItem struct {
	id, folder int64
	mayEdit    bool
	move       func(to *int64) error
	remove     func(at time.Time) error
}

// itemsIn gives what stands in some folders, whether the user sees it or not.
func (a *Service) itemsIn(ctx context.Context, u domain.User, holds string, inside []domain.Folder) ([]folderItem, error) {
	in := map[int64]bool{}
	for _, f := range inside {
		in[f.ID] = true
	}
	folders, err := a.store.Folders(ctx, holds)
	if err != nil {
		return nil, err
	}
	rights := FolderRightsOf(folders)
	if holds == HoldsPassages {
		return a.passagesIn(ctx, u, rights, in)
	}
	keys, err := a.store.FindTemplates(ctx, u.ID, domain.LibraryQuery{Sort: "order"})
	if err != nil {
		return nil, err
	}
	var out []folderItem
	for i := range keys {
		k := &keys[i]
		if k.FolderID == nil || !in[*k.FolderID] {
			continue
		}
		out = append(out, folderItem{
			id: k.ID, folder: *k.FolderID, mayEdit: access.May(u.As(), access.EditTemplate, rights.Template(k)),
			move:   func(to *int64) error { return a.store.PlaceTemplate(ctx, domain.Template{ID: k.ID, FolderID: to}, 0) },
			remove: func(at time.Time) error { return a.store.DeleteTemplate(ctx, k.ID, &at) },
		})
	}
	return out, nil
}

// passagesIn gives the passages that stand in some folders.
func (a *Service) passagesIn(ctx context.Context, u domain.User, rights folderRights, in map[int64]bool) ([]folderItem, error) {
	list, err := a.store.Passages(ctx)
	if err != nil {
		return nil, err
	}
	var out []folderItem
	for _, p := range list {
		if p.FolderID == nil || !in[*p.FolderID] {
			continue
		}
		thing := rights.Thing(p.OwnerID, false, p.FolderID, p.Rights)
		out = append(out, folderItem{
			id: p.ID, folder: *p.FolderID, mayEdit: access.May(u.As(), access.EditTemplate, thing),
			move:   func(to *int64) error { p.FolderID = to; return a.store.UpdatePassage(ctx, p) },
			remove: func(at time.Time) error { return a.store.DeletePassage(ctx, p.ID, &at) },
		})
	}
	return out, nil
}
