package files

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"path"
	"path/filepath"
	"strings"
	"time"

	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
)

// Limits of an archive.
const (
	MaxArchive      = 100 << 20 // bytes of the file
	maxEntries      = 6000
	maxEntry        = 16 << 20
	maxUnpacked     = 300 << 20
	libraryName     = "library.json"
	templatesFolder = "templates/"
	picturesFolder  = "pictures/"
)

// libraryFile is what library.json holds.
type libraryFile struct {
	Format   string                 `json:"format"`
	Version  int                    `json:"version"`
	Fields   []library.FieldFile    `json:"fields"`
	Passages []transfer.PassageFile `json:"passages"`
}

// WriteArchive writes a library as a ZIP file (APPNOTE 6.3.10): library.json,
// templates/*.json, pictures/<sha-256>.
func WriteArchive(w io.Writer, a transfer.Archive, at time.Time) error {
	z := zip.NewWriter(w)
	put := func(name string, content []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: at})
		if err == nil {
			_, err = f.Write(content)
		}
		return err
	}
	putJSON := func(name string, v any) error {
		content, err := json.MarshalIndent(v, "", "  ")
		if err != nil {
			return err
		}
		return put(name, content)
	}
	if err := putJSON(libraryName, libraryFile{library.LibraryFormat, 1, append([]library.FieldFile{}, a.Fields...), append([]transfer.PassageFile{}, a.Passages...)}); err != nil {
		return fmt.Errorf("write archive: %w", err)
	}
	for i, t := range a.Templates {
		if err := putJSON(fmt.Sprintf("%s%04d.json", templatesFolder, i+1), t); err != nil {
			return fmt.Errorf("write archive: %w", err)
		}
	}
	for _, f := range a.Pictures {
		if err := put(picturesFolder+f.SHA, f.Bytes); err != nil {
			return fmt.Errorf("write archive: %w", err)
		}
	}
	if err := z.Close(); err != nil {
		return fmt.Errorf("write archive: %w", err)
	}
	return nil
}

// ReadArchive reads what WriteArchive wrote. A file with too many or too large
// entries, with a path that leads out of it, or with a picture that is none or is
// not the one it is named for, is refused as a whole.
func ReadArchive(raw []byte, at time.Time) (transfer.Archive, error) {
	var out transfer.Archive
	bad := func(why string, args ...any) error {
		return &domain.InvalidError{Fields: []domain.FieldError{{Where: "file", Why: fmt.Sprintf(why, args...)}}}
	}
	if len(raw) > MaxArchive {
		return out, bad("is larger than %d MiB", MaxArchive>>20)
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return out, bad("is no ZIP file that can be read")
	}
	if len(z.File) > maxEntries {
		return out, bad("holds %d files; a library has at most %d", len(z.File), maxEntries)
	}
	var lib *libraryFile
	left := int64(maxUnpacked)
	for _, f := range z.File {
		name := f.Name
		if !filepath.IsLocal(name) || strings.Contains(name, `\`) || path.Clean(name) != strings.TrimSuffix(name, "/") {
			return out, bad("holds %.60q, which leads out of it; nothing was read", name)
		}
		if f.FileInfo().IsDir() {
			continue
		}
		content, err := entry(f, min(maxEntry, left))
		if err != nil {
			return out, bad("%.60s: %v", name, err)
		}
		left -= int64(len(content))
		switch {
		case name == libraryName:
			lib = &libraryFile{}
			if json.Unmarshal(content, lib) != nil || lib.Format != library.LibraryFormat {
				return out, bad("is no library that was exported")
			}
			if lib.Version > 1 {
				return out, bad("is of version %d; this program reads version 1", lib.Version)
			}
			out.Fields, out.Passages = lib.Fields, lib.Passages
		case strings.HasPrefix(name, templatesFolder) && strings.HasSuffix(name, ".json"):
			var t library.TemplateFile
			if json.Unmarshal(content, &t) != nil || t.Format != library.TemplateFormat {
				return out, bad("%s is no template", name)
			}
			out.Templates = append(out.Templates, t)
		case strings.HasPrefix(name, picturesFolder):
			picture, err := pictureOf(path.Base(name), content)
			if err != nil {
				return out, bad("%.60s %v", name, err)
			}
			picture.CreatedAt = at
			out.Pictures = append(out.Pictures, picture)
		}
	}
	if lib == nil {
		return out, bad("holds no %s; it is no library that was exported", libraryName)
	}
	return out, nil
}

func entry(f *zip.File, most int64) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("cannot be unpacked")
	}
	defer func() { _ = r.Close() }() // it was only read
	content, err := io.ReadAll(io.LimitReader(r, most+1))
	switch {
	case err != nil:
		return nil, fmt.Errorf("cannot be unpacked")
	case int64(len(content)) > most:
		return nil, fmt.Errorf("is too large")
	}
	return content, nil
}

// pictureOf checks a picture of an archive, which was made ready when it was
// uploaded there.
func pictureOf(name string, content []byte) (domain.File, error) {
	sum := sha256.Sum256(content)
	kind := http.DetectContentType(content)
	switch {
	case hex.EncodeToString(sum[:]) != name:
		return domain.File{}, fmt.Errorf("is not the picture that it is named for")
	case kind != "image/png" && kind != "image/jpeg" && kind != "image/gif":
		return domain.File{}, fmt.Errorf("is no picture")
	}
	if _, _, err := ReadPicture(content); err != nil {
		return domain.File{}, fmt.Errorf("is no picture")
	}
	return domain.File{SHA: name, Type: kind, Size: len(content), Bytes: content}, nil
}
