package library

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"mime"
	"net/http"
	"path"
	"slices"
	"strings"
	"unicode"

	"lucidletter/core/access"
	"lucidletter/core/letter"
	"lucidletter/internal/domain"
)

// Limits of files.
const (
	MaxAttachment = 15 << 20
	MaxLetter     = 25 << 20
)

// addFile stores bytes by their content.
func (a *Service) addFile(ctx context.Context, kind string, bytes []byte) (domain.File, error) {
	sum := sha256.Sum256(bytes)
	f := domain.File{SHA: hex.EncodeToString(sum[:]), Type: kind, Size: len(bytes), Bytes: bytes, CreatedAt: a.now()}
	return f, a.store.AddFile(ctx, f)
}

// AddPicture stores a picture that was made ready for letters, and gives the
// address that letters show it by.
func (a *Service) AddPicture(ctx context.Context, kind string, bytes []byte) (string, error) {
	f, err := a.addFile(ctx, kind, bytes)
	return "cid:" + f.SHA, err
}

// FileOf gives a file by its key, without its bytes (HoldFile gives those): a picture of letters, which everybody may see, or that
// of a document to those who may use it; else ErrNotFound.
func (a *Service) FileOf(ctx context.Context, u domain.User, sha string) (domain.File, error) {
	f, err := a.store.FileHead(ctx, sha)
	if err != nil {
		return f, err
	}
	list, err := a.store.Documents(ctx)
	if err != nil {
		return domain.File{}, err
	}
	kept := false
	for _, d := range list {
		if d.SHA != sha {
			continue
		}
		if _, err := a.DocumentFor(ctx, u, d.ID); err == nil {
			return f, nil
		}
		kept = true
	}
	if kept || !strings.HasPrefix(f.Type, "image/") {
		return domain.File{}, domain.ErrNotFound
	}
	return f, nil
}

// DocumentInput is what is set on an approved document. A zero audience is
// everybody.
type DocumentInput struct {
	Name    string
	Purpose string
	Rights  access.Rights
}

// DocumentSheet is an approved document as the shelf shows it.
type DocumentSheet struct {
	domain.SharedDocument
	MayEdit bool
}

func documentThing(d *domain.SharedDocument) access.Thing {
	return access.Thing{OwnerID: d.OwnerID, Rights: access.Nearest(d.Rights)}
}

// Documents lists the approved documents that the user may use.
func (a *Service) Documents(ctx context.Context, u domain.User) ([]DocumentSheet, error) {
	list, err := a.store.Documents(ctx)
	out := []DocumentSheet{}
	for i := range list {
		if access.May(u.As(), access.UseTemplate, documentThing(&list[i])) {
			out = append(out, DocumentSheet{list[i], access.May(u.As(), access.EditShared, access.Thing{})})
		}
	}
	return out, err
}

// DocumentFor loads a document that the user may use.
func (a *Service) DocumentFor(ctx context.Context, u domain.User, id int64) (domain.SharedDocument, error) {
	d, err := a.store.SharedDocument(ctx, id)
	if err == nil && !access.May(u.As(), access.UseTemplate, documentThing(&d)) {
		err = domain.ErrNotFound
	}
	return d, err
}

func (a *Service) intoDocument(ctx context.Context, d *domain.SharedDocument, in DocumentInput) error {
	d.Name, d.Purpose = strings.TrimSpace(in.Name), strings.TrimSpace(in.Purpose)
	switch {
	case d.Name == "":
		return domain.Invalid("name", "is missing; say what the document is")
	case len(d.Name) > MaxName:
		return domain.Invalid("name", "is longer than %d bytes", MaxName)
	case len(d.Purpose) > maxWhen:
		return domain.Invalid("purpose", "is longer than %d bytes", maxWhen)
	}
	var err error
	d.Rights, err = a.CheckRights(ctx, in.Rights)
	return err
}

// fileOf puts an uploaded file into a document.
func (a *Service) fileOf(ctx context.Context, d *domain.SharedDocument, name string, bytes []byte) error {
	f, err := a.keepFile(ctx, name, bytes)
	d.FileName, d.SHA = f.Name, f.SHA
	return err
}

// CleanFileName is a name without a folder and without what headers cannot carry,
// or "".
func CleanFileName(name string) string {
	name = strings.TrimFunc(path.Base(strings.ReplaceAll(name, `\`, "/")), unicode.IsSpace)
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || unicode.Is(unicode.Bidi_Control, r) || strings.ContainsRune(`"<>:|?*`, r) {
			return -1
		}
		return r
	}, name)
	if strings.Trim(name, "./ ") == "" {
		return ""
	}
	return name
}

// Upload checks a file that its user can attach to letters and stores it.
func (a *Service) Upload(ctx context.Context, u domain.User, name string, bytes []byte) (at domain.Attachment, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		if at, err = a.keepFile(ctx, name, bytes); err != nil {
			return err
		}
		return a.store.NoteUpload(ctx, at.SHA, u.ID, a.now())
	})
	return at, err
}

// keepFile checks a file that letters can carry and stores it.
func (a *Service) keepFile(ctx context.Context, name string, bytes []byte) (domain.Attachment, error) {
	name = CleanFileName(name)
	switch {
	case name == "":
		return domain.Attachment{}, domain.Invalid("file", "has no name")
	case len(name) > MaxName:
		return domain.Attachment{}, domain.Invalid("file", "has a name longer than %d bytes", MaxName)
	case len(bytes) == 0:
		return domain.Attachment{}, domain.Invalid("file", "is empty")
	case len(bytes) > MaxAttachment:
		return domain.Attachment{}, domain.Invalid("file", "is larger than %d MiB; letters could not carry it", MaxAttachment>>20)
	}
	kind, _, err := mime.ParseMediaType(mime.TypeByExtension(path.Ext(name)))
	if err != nil {
		kind, _, _ = mime.ParseMediaType(http.DetectContentType(bytes))
	}
	f, err := a.addFile(ctx, kind, bytes)
	return domain.Attachment{Name: name, SHA: f.SHA, Type: kind, Size: len(bytes)}, err
}

// AddDocument puts a file on the shelf of approved documents.
func (a *Service) AddDocument(ctx context.Context, u domain.User, in DocumentInput, name string, bytes []byte) (domain.SharedDocument, error) {
	d := domain.SharedDocument{OwnerID: u.ID, Version: 1, UpdatedAt: a.now(), UpdatedBy: u.ID}
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return d, err
	}
	if err := a.intoDocument(ctx, &d, in); err != nil {
		return d, err
	}
	if err := a.store.Within(ctx, func(ctx context.Context) (err error) {
		if err = a.fileOf(ctx, &d, name, bytes); err == nil {
			d.ID, err = a.store.AddDocument(ctx, d)
		}
		return err
	}); err != nil {
		return d, err
	}
	return a.store.SharedDocument(ctx, d.ID)
}

// ChangeDocument changes what is said of a document, and replaces its file when
// bytes are given: templates follow, letters that were sent keep what they had.
func (a *Service) ChangeDocument(ctx context.Context, u domain.User, id int64, in *DocumentInput, name string, bytes []byte) (domain.SharedDocument, error) {
	d, err := a.sharedFor(ctx, u, id)
	if err != nil {
		return d, err
	}
	if in != nil {
		if err := a.intoDocument(ctx, &d, *in); err != nil {
			return d, err
		}
	}
	if err := a.store.Within(ctx, func(ctx context.Context) error {
		if bytes != nil {
			if err := a.fileOf(ctx, &d, name, bytes); err != nil {
				return err
			}
			d.Version++
		}
		return a.store.UpdateDocument(ctx, d)
	}); err != nil {
		return d, err
	}
	return a.store.SharedDocument(ctx, id)
}

// DeleteDocument takes a document from the shelf or puts it back; templates go on
// without it.
func (a *Service) DeleteDocument(ctx context.Context, u domain.User, id int64, back bool) error {
	d, err := a.sharedFor(ctx, u, id)
	if err != nil {
		return err
	}
	d.DeletedAt = new(a.now())
	if back {
		d.DeletedAt = nil
	}
	return a.store.UpdateDocument(ctx, d)
}

func (a *Service) sharedFor(ctx context.Context, u domain.User, id int64) (domain.SharedDocument, error) {
	d, err := a.DocumentFor(ctx, u, id)
	if err != nil {
		return d, err
	}
	d.UpdatedAt, d.UpdatedBy = a.now(), u.ID
	return d, domain.May(u, access.EditShared, access.Thing{})
}

// UsersOfDocument names the templates that attach a document.
func (a *Service) UsersOfDocument(ctx context.Context, u domain.User, id int64) (names []string, others int, err error) {
	if _, err := a.sharedFor(ctx, u, id); err != nil {
		return nil, 0, err
	}
	return a.templatesWith(ctx, u, func(t *domain.Template) bool { return slices.Contains(t.Extras.Documents, id) })
}

// AttachmentsOf gives the approved documents of a template as they are now.
func (a *Service) AttachmentsOf(ctx context.Context, ids []int64) ([]domain.Attachment, error) {
	var out []domain.Attachment
	for _, id := range ids {
		d, err := a.store.SharedDocument(ctx, id)
		if err != nil {
			return nil, err
		}
		if d.DeletedAt == nil {
			out = append(out, domain.Attachment{Name: d.FileName, SHA: d.SHA, Type: d.Type, Size: d.Size, DocumentID: d.ID, Version: d.Version})
		}
	}
	return out, nil
}

// Refresh brings the attachments of a draft up to date with the shelf. One whose
// document was taken away goes.
func (a *Service) Refresh(ctx context.Context, l *domain.Letter) error {
	var out []domain.Attachment
	for _, f := range l.Extras.Attachments {
		if f.DocumentID == 0 {
			out = append(out, f)
			continue
		}
		now, err := a.AttachmentsOf(ctx, []int64{f.DocumentID})
		if err != nil {
			return err
		}
		out = append(out, now...)
	}
	l.Extras.Attachments = out
	return nil
}

// Pack adds the pictures that the HTML shows and the attachments to a mail.
func (a *Service) Pack(ctx context.Context, m *domain.Mail, l *domain.Letter) error {
	for _, key := range letter.PictureKeys(m.HTML) {
		f, err := a.store.File(ctx, key)
		if err != nil {
			return fmt.Errorf("picture %s: %w", key, err)
		}
		id := key + "@" + domain.EmailDomain(m.FromEmail)
		m.HTML = strings.ReplaceAll(m.HTML, "cid:"+key, "cid:"+id)
		m.Pictures = append(m.Pictures, domain.MailFile{Name: "picture-" + key[:8] + extensionOf(f.Type), Type: f.Type, ContentID: id, Bytes: f.Bytes})
	}
	for _, at := range l.Extras.Attachments {
		f, err := a.store.File(ctx, at.SHA)
		if err != nil {
			return fmt.Errorf("attachment %s: %w", at.Name, err)
		}
		m.Attachments = append(m.Attachments, domain.MailFile{Name: at.Name, Type: at.Type, Bytes: f.Bytes})
	}
	return nil
}

func extensionOf(kind string) string {
	switch kind {
	case "image/png":
		return ".png"
	case "image/gif":
		return ".gif"
	}
	return ".jpg"
}

// DocumentFile gives a document that the user may use, with its file but not the bytes of that.
func (a *Service) DocumentFile(ctx context.Context, u domain.User, id int64) (domain.SharedDocument, domain.File, error) {
	d, err := a.DocumentFor(ctx, u, id)
	if err != nil {
		return d, domain.File{}, err
	}
	f, err := a.store.FileHead(ctx, d.SHA)
	return d, f, err
}
