package httpapi

import (
	"context"
	"encoding/json"
	"io"
	"mime"
	"net/http"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
)

// readOut is the wording of a file, which nothing was stored of.
type readOut struct {
	Name       string                `json:"name"`
	WhenToUse  string                `json:"whenToUse"`
	Subject    string                `json:"subject"`
	SubjectDoc document.Document     `json:"subjectDoc"`
	Body       string                `json:"body"`
	Kind       string                `json:"kind" enum:"plain,formatted,html"`
	Language   string                `json:"language"`
	Doc        *document.Document    `json:"doc,omitempty"`
	Tags       []string              `json:"tags"`
	Removed    []interchange.Removed `json:"removed" doc:"What was taken out, since letters cannot hold it"`
	Notes      []string              `json:"notes" doc:"What is not as it was in the file"`
}

func readOutOf(r library.ReadFile) readOut {
	t := r.Template
	kind := t.Kind
	if kind == "" {
		kind = document.BodyPlain
	}
	return readOut{t.Name, t.WhenToUse, t.Subject, markup.Parse(t.Subject), t.Body, kind, t.Language, t.Doc, append([]string{}, t.Tags...), append([]interchange.Removed{}, r.Removed...), append([]string{}, r.Notes...)}
}

func download(name, kind string, content []byte) *fileOut {
	return &fileOut{
		ContentType: kind, ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name}),
		CacheControl: "private, no-store", Policy: "default-src 'none'; sandbox", Body: content,
	}
}

// FieldPath names a field.
type FieldPath struct {
	Path string `path:"path" json:"path" maxLength:"80"`
}

func (s *Server) inOutRoutes() {
	handle(s, web.Large(op("readTemplateFile", http.MethodPost, "/api/templates/read-file", "The wording of a file (html, eml, md, txt, json); nothing is stored"), 7<<20),
		func(ctx context.Context, _ domain.User, in *struct{ RawBody Upload }) (*body[readOut], error) {
			name, raw, err := readUpload(in.RawBody, 6<<20)
			if err != nil {
				return nil, err
			}
			r, err := s.app.Library.ReadTemplateFile(ctx, name, raw)
			return ok(readOutOf(r)), err
		})
	handle(s, op("exportTemplate", http.MethodGet, "/api/templates/{id}/export", "A template as a file"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			As string `query:"as" enum:"html,md,txt,json,eml" required:"true"`
		}) (*fileOut, error) {
			f, err := s.app.Library.ExportTemplate(ctx, u, in.ID, in.As)
			return download(f.Name, f.Type, f.Bytes), err
		})
	handle(s, web.Patient(op("exportLibrary", http.MethodGet, "/api/library/export", "The library, or a folder of it, as one archive")),
		func(ctx context.Context, u domain.User, in *struct {
			Folder int64 `query:"folder" minimum:"0"`
		}) (*web.Spooled, error) {
			a, err := s.app.Transfer.ExportLibrary(ctx, u, in.Folder)
			if err != nil {
				return nil, err
			}
			return web.Spool("library.zip", "application/zip", func(w io.Writer) (int, error) { return 0, files.WriteArchive(w, a, s.app.Now()) })
		})
	handle(s, web.Large(web.Making(op("importLibrary", http.MethodPost, "/api/library/import", "Bring an archive in, or only say what that would do")), files.MaxArchive+1<<20),
		func(ctx context.Context, u domain.User, in *struct {
			Check    bool   `query:"check" doc:"Only say what it would do"`
			Existing string `query:"existing" enum:"skip,beside,version" default:"skip" doc:"Of a template whose name is there"`
			Fields   string `query:"fields" doc:"A JSON object: own fields that are not here, and create or the path of one that is"`
			RawBody  Upload
		}) (*body[transfer.ArchivePlan], error) {
			choices := transfer.ArchiveChoices{Existing: in.Existing}
			if in.Fields != "" && json.Unmarshal([]byte(in.Fields), &choices.Fields) != nil {
				return nil, &domain.InvalidError{Fields: []domain.FieldError{{Where: "fields", Why: "is not a JSON object of field paths"}}}
			}
			_, raw, err := readUpload(in.RawBody, files.MaxArchive)
			if err != nil {
				return nil, err
			}
			a, err := files.ReadArchive(raw, s.app.Now().UTC().Truncate(time.Millisecond))
			if err != nil {
				return nil, err
			}
			plan, err := s.app.Transfer.ImportLibrary(ctx, u, a, choices, in.Check)
			return ok(plan), err
		})
	s.ownFieldRoutes()
}

func (s *Server) ownFieldRoutes() {
	handle(s, web.Making(op("addField", http.MethodPost, "/api/fields", "Add an own field")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Path    string     `json:"path,omitempty" doc:"Such as deal.own.volume; made of record and label when it is left out"`
				Record  string     `json:"record,omitempty" enum:"person,lead,company,deal,sender,team"`
				Label   string     `json:"label"`
				Type    field.Type `json:"type" enum:"text,long,number,money,date,yesno,choice,email,phone,url"`
				Choices []string   `json:"choices,omitempty"`
			}
		}) (*body[FieldPath], error) {
			path := in.Body.Path
			if path == "" {
				var err error
				if path, err = s.app.Records.OwnFieldPath(ctx, field.Record(in.Body.Record), in.Body.Label); err != nil {
					return nil, err
				}
			}
			return ok(FieldPath{path}), s.app.Records.NewOwnField(ctx, u, field.Def{Path: path, Label: in.Body.Label, Type: in.Body.Type, Choices: in.Body.Choices})
		})
	handle(s, op("changeField", http.MethodPatch, "/api/fields/{path}", "Rename an own field, and say what can be chosen"),
		func(ctx context.Context, u domain.User, in *struct {
			FieldPath
			Body struct {
				Label   string   `json:"label"`
				Choices []string `json:"choices,omitempty"`
				Anyway  bool     `json:"anyway,omitempty" doc:"Choices go also when templates name them"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Records.ChangeOwnField(ctx, u, in.Path, in.Body.Label, in.Body.Choices, in.Body.Anyway)
		})
	handle(s, op("moveField", http.MethodPost, "/api/fields/{path}/move", "Put an own field before another one"),
		func(ctx context.Context, u domain.User, in *struct {
			FieldPath
			Body struct {
				Before string `json:"before,omitempty" doc:"Last when it is left out"`
			}
		}) (*struct{}, error) {
			return nil, s.app.Records.MoveOwnField(ctx, u, in.Path, in.Body.Before)
		})
	handle(s, op("fieldUsers", http.MethodGet, "/api/fields/{path}/dependants", "The templates that use a field"),
		func(ctx context.Context, u domain.User, in *FieldPath) (*body[usedBy], error) {
			return usedByOf(s.app.Library.UsersOfOwnField(ctx, u, in.Path))
		})
	handle(s, op("deleteField", http.MethodDelete, "/api/fields/{path}", "Take an own field away; templates that use it get a note"),
		func(ctx context.Context, u domain.User, in *FieldPath) (*struct{}, error) {
			return nil, s.app.Records.DeleteOwnField(ctx, u, in.Path)
		})
	handle(s, op("putBackField", http.MethodPost, "/api/fields/{path}/put-back", "Undo the deletion of an own field"),
		func(ctx context.Context, u domain.User, in *FieldPath) (*struct{}, error) {
			return nil, s.app.Records.PutBackOwnField(ctx, u, in.Path)
		})
}
