package files

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image/png"
	"reflect"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
)

var then = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

func TestArchive_roundTrips(t *testing.T) {
	raw := encoded(t, func(b *bytes.Buffer) error { return png.Encode(b, picture(3, 3)) })
	sum := sha256.Sum256(raw)
	a := transfer.Archive{
		Fields:    []library.FieldFile{{Path: "deal.own.x", Label: "X", Type: field.Choice, Choices: []string{"a"}}},
		Passages:  []transfer.PassageFile{{Name: "End", Shortcut: "end", Body: markup.Parse("Bye {{sender.first_name}}")}},
		Templates: []library.TemplateFile{{Format: library.TemplateFormat, Version: 1, Name: "T / ü", State: domain.TemplateReady, Folder: []string{"A", "B"}, Subject: "s", Body: markup.Parse("{{>end}}")}},
		Pictures:  []domain.File{{SHA: hex.EncodeToString(sum[:]), Type: "image/png", Size: len(raw), Bytes: raw, CreatedAt: then}},
	}
	var buf bytes.Buffer
	if err := WriteArchive(&buf, a, then); err != nil {
		t.Fatal(err)
	}
	got, err := ReadArchive(buf.Bytes(), then)
	if err != nil || fmt.Sprintf("%+v", printed(got)) != fmt.Sprintf("%+v", printed(a)) || !reflect.DeepEqual(got.Pictures, a.Pictures) {
		t.Errorf("%+v\n%+v, %v", got, a, err)
	}
}

// printed is an archive with its documents in their text form.
func printed(a transfer.Archive) []string {
	out := []string{fmt.Sprint(a.Fields)}
	for _, p := range a.Passages {
		out = append(out, p.Name, p.Shortcut, markup.Print(p.Body))
	}
	for _, t := range a.Templates {
		out = append(out, t.Name, fmt.Sprint(t.Folder, t.State), markup.Print(t.Body))
	}
	return out
}

func TestReadArchive_refuses(t *testing.T) {
	zipped := func(files ...[2]string) []byte {
		return encoded(t, func(b *bytes.Buffer) error {
			z := zip.NewWriter(b)
			for _, f := range files {
				w, err := z.CreateHeader(&zip.FileHeader{Name: f[0], Method: zip.Deflate})
				if err != nil {
					return err
				}
				if _, err := w.Write([]byte(f[1])); err != nil {
					return err
				}
			}
			return z.Close()
		})
	}
	lib := [2]string{"library.json", `{"format":"lucidletter/library","version":1}`}
	var many [][2]string
	for i := range 10_000 {
		many = append(many, [2]string{fmt.Sprintf("templates/%d.json", i), "{}"})
	}
	for _, row := range []struct {
		name string
		raw  []byte
		want string
	}{
		{"no ZIP file", []byte("PK no"), "no ZIP file"},
		{"10,000 files", zipped(append(many, lib)...), "holds 10001 files"},
		{"a path outside", zipped(lib, [2]string{"../../etc/passwd", "x"}), "leads out of it"},
		{"an absolute path", zipped(lib, [2]string{"/etc/passwd", "x"}), "leads out of it"},
		{"a path of another system", zipped(lib, [2]string{`..\x`, "x"}), "leads out of it"},
		{"a path that goes back", zipped(lib, [2]string{"templates/../../x.json", "x"}), "leads out of it"},
		{"a bomb", zipped(lib, [2]string{"templates/1.json", strings.Repeat("0", 20<<20)}), "too large"},
		{"without its list", zipped([2]string{"templates/1.json", `{"format":"lucidletter/template"}`}), "no library.json"},
		{"another list", zipped([2]string{"library.json", `{"format":"x"}`}), "no library that was exported"},
		{"a later version", zipped([2]string{"library.json", `{"format":"lucidletter/library","version":2}`}), "version 2"},
		{"no template", zipped(lib, [2]string{"templates/1.json", "{"}), "is no template"},
		{"a picture of another name", zipped(lib, [2]string{"pictures/" + strings.Repeat("a", 64), "x"}), "not the picture that it is named for"},
		{"a script as a picture", zipped(lib, [2]string{"pictures/" + shaOf("<svg><script>"), "<svg><script>"}), "is no picture"},
	} {
		var bad *domain.InvalidError
		if _, err := ReadArchive(row.raw, then); !errors.As(err, &bad) || !strings.Contains(err.Error(), row.want) {
			t.Errorf("%s: %v", row.name, err)
		}
	}
	if a, err := ReadArchive(zipped(lib, [2]string{"templates/", ""}, [2]string{"notes.txt", "x"}), then); err != nil || len(a.Templates) != 0 {
		t.Errorf("folders and other files: %+v, %v", a, err)
	}
}

func shaOf(s string) string {
	sum := sha256.Sum256([]byte(s))
	return hex.EncodeToString(sum[:])
}
