package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// What was imported on the command line is exported by a filter, as CSV and as vCards.
func TestExportCommand(t *testing.T) {
	dir := t.TempDir()
	run := func(args ...string) (string, error) {
		cmd, out := root(), &bytes.Buffer{}
		cmd.SetArgs(append(args, "--data", filepath.Join(dir, "data")))
		cmd.SetOut(out)
		cmd.SetIn(strings.NewReader("a long password\n"))
		err := cmd.ExecuteContext(t.Context())
		return out.String(), err
	}
	src := filepath.Join(dir, "in.csv")
	if err := os.WriteFile(src, []byte("First name,Last name,Email,City\nAda,=Quill,ada@quill.example,York\nBo,Stone,bo@stone.example,Leeds\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := run("import", src); err == nil || !strings.Contains(err.Error(), "0 users") {
		t.Errorf("imported by nobody: %v", err)
	}
	if _, err := run("user", "add", "greta@fernhollow.example", "--first", "Greta", "--last", "Holm"); err != nil {
		t.Fatal(err)
	}
	if out, err := run("import", src); err != nil {
		t.Fatal(out, err)
	}
	people, cards := filepath.Join(dir, "out.csv"), filepath.Join(dir, "out.vcf")
	said, err := run("export", people, "--where", `person.city is "York"`)
	if err != nil || !strings.Contains(said, "people exported: 1\n") || !strings.Contains(said, "before them: 1\n") {
		t.Error(said, err)
	}
	raw, err := os.ReadFile(people)
	if err != nil || !strings.Contains(string(raw), "ada@quill.example") || !strings.Contains(string(raw), "'=Quill") || strings.Contains(string(raw), "bo@stone.example") {
		t.Errorf("%s, %v", raw, err)
	}
	if _, err := run("export", cards, "--format", "vcard", "--as", "greta@fernhollow.example"); err != nil {
		t.Fatal(err)
	}
	if raw, err := os.ReadFile(cards); err != nil || strings.Count(string(raw), "BEGIN:VCARD") != 2 {
		t.Errorf("%s, %v", raw, err)
	}
	for name, args := range map[string][]string{
		"written over":   {"export", people},
		"another format": {"export", filepath.Join(dir, "x"), "--format", "xml"},
		"another user":   {"export", filepath.Join(dir, "x"), "--as", "nobody@fernhollow.example"},
		"a wrong filter": {"export", filepath.Join(dir, "x"), "--where", "person.shoe is 42"},
	} {
		if said, err := run(args...); err == nil {
			t.Errorf("%s: %s", name, said)
		}
	}
	if _, err := os.Stat(filepath.Join(dir, "x")); err == nil {
		t.Error("a file was made of nothing")
	}
}
