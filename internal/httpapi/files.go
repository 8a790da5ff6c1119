package httpapi

import (
	"context"
	"io"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/core/access"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/httpapi/web"
)

type documentOut struct {
	ID        int64         `json:"id"`
	Name      string        `json:"name"`
	Purpose   string        `json:"purpose"`
	FileName  string        `json:"fileName"`
	SHA       string        `json:"sha"`
	Size      int           `json:"size"`
	Version   int           `json:"version"`
	UpdatedAt time.Time     `json:"updatedAt"`
	Own       access.Rights `json:"own"`
	MayEdit   bool          `json:"mayEdit"`
}

func documentOutOf(d domain.SharedDocument, mayEdit bool) documentOut {
	return documentOut{d.ID, d.Name, d.Purpose, d.FileName, d.SHA, d.Size, d.Version, d.UpdatedAt, d.Rights, mayEdit}
}

// Upload is a form with one file.
type Upload = huma.MultipartFormFiles[struct {
	File huma.FormFile `form:"file" required:"true"`
}]

func readUpload(form Upload, most int) (name string, bytes []byte, err error) {
	file := form.Data().File
	defer func() { _ = file.Close() }()
	bytes, err = io.ReadAll(io.LimitReader(file, int64(most)+1))
	return file.Filename, bytes, err
}

type DocumentIn struct {
	Name    string        `json:"name"`
	Purpose string        `json:"purpose"`
	Own     access.Rights `json:"own"`
}

type fileOut struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	CacheControl       string `header:"Cache-Control"`
	Policy             string `header:"Content-Security-Policy"`
	Body               []byte
}

// shown answers with a file of which the head was found.
func (s *Server) shown(ctx context.Context, head domain.File, disposition string, err error) (*web.File, error) {
	if err != nil {
		return nil, err
	}
	f, release, err := s.app.Library.HoldFile(ctx, head)
	if err != nil {
		return nil, err
	}
	return web.Shown(f, disposition, release), nil
}

func (s *Server) fileRoutes() {
	handle(s, web.Large(op("addPicture", http.MethodPost, "/api/pictures", "Store a picture for letters; the answer is the address that they show it by"), files.MaxPicture+1<<20),
		func(ctx context.Context, _ domain.User, in *struct{ RawBody Upload }) (*body[string], error) {
			_, raw, err := readUpload(in.RawBody, files.MaxPicture)
			if err != nil {
				return nil, err
			}
			kind, bytes, err := files.ReadPicture(raw)
			if err != nil {
				return nil, err
			}
			src, err := s.app.Library.AddPicture(ctx, kind, bytes)
			return ok(src), err
		})
	handle(s, op("file", http.MethodGet, "/api/files/{sha}", "A picture of a letter, or a file of the shelf"),
		func(ctx context.Context, u domain.User, in *struct {
			SHA string `path:"sha" pattern:"^[0-9a-f]{64}$"`
		}) (*web.File, error) {
			f, err := s.app.Library.FileOf(ctx, u, in.SHA)
			disposition := "attachment"
			if strings.HasPrefix(f.Type, "image/") && f.Type != "image/svg+xml" {
				disposition = "inline"
			}
			return s.shown(ctx, f, disposition, err)
		})
	s.documentRoutes()
}

func (s *Server) documentRoutes() {
	answer := func(d domain.SharedDocument, err error) (*body[documentOut], error) {
		return ok(documentOutOf(d, true)), err
	}
	handle(s, op("documents", http.MethodGet, "/api/documents", "The approved documents that I may use"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*body[[]documentOut], error) {
			list, err := s.app.Library.Documents(ctx, u)
			out := make([]documentOut, 0, len(list))
			for _, d := range list {
				out = append(out, documentOutOf(d.SharedDocument, d.MayEdit))
			}
			return ok(out), err
		})
	handle(s, web.Large(web.Making(op("addDocument", http.MethodPost, "/api/documents", "Put a file on the shelf")), library.MaxAttachment+1<<20),
		func(ctx context.Context, u domain.User, in *struct {
			Name    string `query:"name" required:"true"`
			Purpose string `query:"purpose"`
			RawBody Upload
		}) (*body[documentOut], error) {
			name, bytes, err := readUpload(in.RawBody, library.MaxAttachment)
			if err != nil {
				return nil, err
			}
			return answer(s.app.Library.AddDocument(ctx, u, library.DocumentInput{Name: in.Name, Purpose: in.Purpose}, name, bytes))
		})
	handle(s, op("changeDocument", http.MethodPut, "/api/documents/{id}", "Change what is said of a document, and who may use it"),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			Body DocumentIn
		}) (*body[documentOut], error) {
			return answer(s.app.Library.ChangeDocument(ctx, u, in.ID, &library.DocumentInput{Name: in.Body.Name, Purpose: in.Body.Purpose, Rights: in.Body.Own}, "", nil))
		})
	handle(s, web.Large(web.Making(op("replaceDocument", http.MethodPost, "/api/documents/{id}/file", "Replace the file of a document; templates follow")), library.MaxAttachment+1<<20),
		func(ctx context.Context, u domain.User, in *struct {
			IDInput
			RawBody Upload
		}) (*body[documentOut], error) {
			name, bytes, err := readUpload(in.RawBody, library.MaxAttachment)
			if err != nil {
				return nil, err
			}
			return answer(s.app.Library.ChangeDocument(ctx, u, in.ID, nil, name, append([]byte{}, bytes...)))
		})
	handle(s, op("documentUsers", http.MethodGet, "/api/documents/{id}/dependants", "The templates that attach a document"),
		func(ctx context.Context, u domain.User, in *IDInput) (*body[usedBy], error) {
			return usedByOf(s.app.Library.UsersOfDocument(ctx, u, in.ID))
		})
	for _, way := range []struct {
		id, method, path, summary string
		back                      bool
	}{
		{"deleteDocument", http.MethodDelete, "/api/documents/{id}", "Take a document from the shelf; templates go on without", false},
		{"putBackDocument", http.MethodPost, "/api/documents/{id}/put-back", "Undo that", true},
	} {
		handle(s, op(way.id, way.method, way.path, way.summary),
			func(ctx context.Context, u domain.User, in *IDInput) (*struct{}, error) {
				return nil, s.app.Library.DeleteDocument(ctx, u, in.ID, way.back)
			})
	}
	handle(s, op("documentFile", http.MethodGet, "/api/documents/{id}/file", "The file of a document"),
		func(ctx context.Context, u domain.User, in *IDInput) (*web.File, error) {
			d, f, err := s.app.Library.DocumentFile(ctx, u, in.ID)
			return s.shown(ctx, f, mime.FormatMediaType("attachment", map[string]string{"filename": d.FileName}), err)
		})
}
