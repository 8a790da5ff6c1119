package httpapi

import (
	"context"
	"net/http"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
	"lucidletter/internal/httpapi/wire"
)

// piece is a stretch of a line, which the search hit or not.
type piece struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit"`
}

// pieces reads the marks of app.Found.
func pieces(marked string) []piece {
	out := []piece{}
	for i, part := range strings.Split(marked, "\x02") {
		hit, rest, ended := strings.Cut(part, "\x03")
		if i == 0 || !ended {
			hit, rest = "", part
		}
		if hit != "" {
			out = append(out, piece{hit, true})
		}
		if rest != "" {
			out = append(out, piece{rest, false})
		}
	}
	return out
}

type foundOut struct {
	Name      []piece `json:"name"`
	WhenToUse []piece `json:"whenToUse"`
	Subject   []piece `json:"subject"`
	Body      []piece `json:"body" doc:"The words around the first hits"`
}

type libraryLine struct {
	ID        int64                `json:"id"`
	Name      string               `json:"name"`
	WhenToUse string               `json:"whenToUse"`
	State     domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
	Owner     string               `json:"owner"`
	FolderID  *int64               `json:"folderId,omitempty"`
	Tags      []string             `json:"tags"`
	Version   int                  `json:"version"`
	UpdatedAt time.Time            `json:"updatedAt"`
	Used      int                  `json:"used"`
	LastUsed  *time.Time           `json:"lastUsed,omitempty"`
	Starred   bool                 `json:"starred"`
	Fits      []field.Record       `json:"fits"`
	Stops     int                  `json:"stops" doc:"Red notes"`
	MayEdit   bool                 `json:"mayEdit"`
	Languages []string             `json:"languages" doc:"Of its wordings, by English names, where there are several"`
	Found     *foundOut            `json:"found,omitempty" doc:"Where the search hit"`
}

func libraryLineOf(l library.LibraryLine) libraryLine {
	out := libraryLine{
		l.ID, l.Name, l.WhenToUse, l.State, l.OwnerName, l.FolderID, append([]string{}, l.Tags...), l.Version, l.UpdatedAt, l.Used, l.LastUsed, l.Starred,
		append([]field.Record{}, l.Fits...), l.Stops, l.MayEdit, languageNames(l.Languages), nil,
	}
	if f := l.Found; f != (domain.Found{}) {
		out.Found = &foundOut{pieces(f.Name), pieces(f.WhenToUse), pieces(f.Subject), pieces(f.Body)}
	}
	return out
}

func languageNames(codes []string) []string {
	out := []string{}
	for _, code := range codes {
		if len(codes) > 1 && code != "" {
			out = append(out, field.LanguageName(code))
		}
	}
	return out
}

type libraryPage struct {
	Total     int           `json:"total"`
	Templates []libraryLine `json:"templates"`
}

type colleague struct {
	ID     int64       `json:"id"`
	Name   string      `json:"name"`
	Email  string      `json:"email"`
	Role   access.Role `json:"role"`
	TeamID *int64      `json:"teamId,omitempty"`
}

type teamName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type colleagues struct {
	Users []colleague `json:"users"`
	Teams []teamName  `json:"teams"`
}

type made struct {
	ID int64 `json:"id"`
}

type FolderIn struct {
	Name     string `json:"name"`
	ParentID *int64 `json:"parentId,omitempty" doc:"The folder it stands in; none: at the top"`
}

type HoldsInput struct {
	Holds string `query:"holds" enum:"templates,passages" default:"templates"`
}

type FolderInput struct {
	IDInput
	HoldsInput
}

func (s *Server) libraryRoutes() {
	handle(s, op("templates", http.MethodGet, "/api/templates", "A window of the library"),
		func(ctx context.Context, u domain.User, in *struct {
			Search  string `query:"q" maxLength:"200"`
			State   string `query:"state" enum:"draft,ready,withdrawn,"`
			Kind    string `query:"kind" enum:"lead,contact,deal," doc:"What it must fit"`
			Mine    bool   `query:"mine"`
			Owner   int64  `query:"owner" minimum:"0"`
			Starred bool   `query:"starred"`
			Recent  bool   `query:"recent" doc:"Sent by me, the latest first"`
			Folder  int64  `query:"folder" minimum:"-1" doc:"This folder; -1 outside of folders"`
			Tag     string `query:"tag" maxLength:"40"`
			Sort    string `query:"sort" enum:"name,last,used,changed,order," doc:"Without one how well the search fits, else the name"`
			Down    bool   `query:"down"`
			Offset  int    `query:"offset" minimum:"0"`
			Limit   int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (*body[libraryPage], error) {
			q := domain.LibraryQuery{
				Search: in.Search, State: domain.TemplateState(in.State), Kind: field.Record(in.Kind), Owner: in.Owner, Starred: in.Starred, Recent: in.Recent,
				Folder: in.Folder, Tag: in.Tag, Sort: in.Sort, Down: in.Down, Offset: in.Offset, Limit: in.Limit,
			}
			if in.Mine {
				q.Owner = u.ID
			}
			page, err := s.app.Library.Library(ctx, u, q)
			out := libraryPage{Total: page.Total, Templates: make([]libraryLine, 0, len(page.Lines))}
			for _, l := range page.Lines {
				out.Templates = append(out.Templates, libraryLineOf(l))
			}
			return ok(out), err
		})
	handle(s, op("tags", http.MethodGet, "/api/tags", "The tags of the templates that I may see"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]string], error) {
			tags, err := s.app.Library.Tags(ctx, u)
			return ok(tags), err
		})
	handle(s, op("colleagues", http.MethodGet, "/api/colleagues", "The users and the teams by name"),
		func(ctx context.Context, _ domain.User, _ *struct{}) (*body[colleagues], error) {
			out := colleagues{Users: []colleague{}, Teams: []teamName{}}
			users, teams, err := s.app.Team.Colleagues(ctx)
			for _, u := range users {
				out.Users = append(out.Users, colleague{u.ID, u.Name(), u.Email, u.Role, u.TeamID})
			}
			for _, t := range teams {
				out.Teams = append(out.Teams, teamName{t.ID, t.Name})
			}
			return ok(out), err
		})
	s.placeRoutes()
	s.folderRoutes()
}

// placeRoutes are about where a template stands and who may use it.
func (s *Server) placeRoutes() {
	none := func(err error) (*struct{}, error) { return nil, err }
	handle(s, op("moveTemplate", http.MethodPut, "/api/templates/{id}/place", "Put a template into a folder, before another template or last"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body struct {
				FolderID *int64 `json:"folderId,omitempty"`
				Before   int64  `json:"before,omitempty"`
			}
		}) (*struct{}, error) {
			return none(s.app.Library.MoveTemplate(ctx, u, in.ID, in.Body.FolderID, in.Body.Before))
		})
	handle(s, op("templateRights", http.MethodPut, "/api/templates/{id}/rights", "Say who may use and who may edit a template"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body access.Rights
		}) (*struct{}, error) {
			return none(s.app.Library.SetTemplateRights(ctx, u, in.ID, in.Body))
		})
	handle(s, op("star", http.MethodPut, "/api/templates/{id}/star", "Put a template among those that I like"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return none(s.app.Library.StarTemplate(ctx, u, in.ID, true))
		})
	handle(s, op("unstar", http.MethodDelete, "/api/templates/{id}/star", "Take it out of them"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return none(s.app.Library.StarTemplate(ctx, u, in.ID, false))
		})
	handle(s, web.Making(op("copyTemplate", http.MethodPost, "/api/templates/{id}/copy", "Make a draft of my own with the same wording")),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Follow bool `query:"follow" doc:"Remember where it came from, and say when that changes"`
		}) (*body[wire.TemplateOut], error) {
			t, err := s.app.Library.CopyTemplate(ctx, u, in.ID, in.Follow)
			return ok(wire.TemplateOf(t)), err
		})
	handle(s, op("dependants", http.MethodGet, "/api/templates/{id}/dependants", "What depends on a template"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[library.Dependants], error) {
			d, err := s.app.Library.DependantsOf(ctx, u, in.ID)
			return ok(d), err
		})
	handle(s, op("deleteTemplate", http.MethodDelete, "/api/templates/{id}", "Take a template out of the library; letters keep what they have"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return none(s.app.Library.DeleteTemplate(ctx, u, in.ID))
		})
	handle(s, op("putBackTemplate", http.MethodPost, "/api/templates/{id}/put-back", "Undo the deletion of a template"),
		func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
			return none(s.app.Library.PutBackTemplate(ctx, u, in.ID))
		})
}

func (s *Server) folderRoutes() {
	handle(s, op("folders", http.MethodGet, "/api/folders", "The folders that I may see, with how many I may see in each"),
		func(ctx context.Context, u domain.User, in *HoldsInput) (*body[library.FolderList], error) {
			list, err := s.app.Library.Folders(ctx, u, in.Holds)
			return ok(list), err
		})
	handle(s, web.Making(op("addFolder", http.MethodPost, "/api/folders", "Make a folder")),
		func(ctx context.Context, u domain.User, in *struct {
			HoldsInput
			Body FolderIn
		}) (*body[made], error) {
			id, err := s.app.Library.AddFolder(ctx, u, in.Holds, library.FolderInput(in.Body))
			return ok(made{id}), err
		})
	handle(s, op("changeFolder", http.MethodPut, "/api/folders/{id}", "Rename or move a folder"),
		func(ctx context.Context, u domain.User, in *struct {
			FolderInput
			Body struct {
				FolderIn
				Before *int64 `json:"before,omitempty" doc:"The folder it goes before; 0 last; without it the order stays"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Library.ChangeFolder(ctx, u, in.Holds, in.ID, library.FolderInput(in.Body.FolderIn), in.Body.Before)
		})
	handle(s, op("folderRights", http.MethodPut, "/api/folders/{id}/rights", "Say who may use and who may edit what is in a folder"),
		func(ctx context.Context, u domain.User, in *struct {
			FolderInput
			Body access.Rights
		}) (*struct{}, error) {
			return nil, s.app.Library.SetFolderRights(ctx, u, in.Holds, in.ID, in.Body)
		})
	handle(s, op("deleteFolder", http.MethodDelete, "/api/folders/{id}", "Delete a folder"),
		func(ctx context.Context, u domain.User, in *struct {
			FolderInput
			Contents library.Contents `query:"contents" enum:"empty,out,delete" default:"empty" doc:"What happens to what is in it"`
		}) (*body[[]int64], error) {
			gone, err := s.app.Library.DeleteFolder(ctx, u, in.Holds, in.ID, in.Contents)
			return ok(gone), err
		})
	handle(s, op("putBackFolder", http.MethodPost, "/api/folders/{id}/put-back", "Undo the deletion of a folder, with what was in it"),
		func(ctx context.Context, u domain.User, in *FolderInput) (*struct{}, error) {
			return nil, s.app.Desk.PutBackFolder(ctx, u, in.Holds, in.ID)
		})
}
