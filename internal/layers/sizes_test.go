package layers

import (
	"bytes"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Limits of what one has to read at once, in lines.
const maxFile, maxFunction = 450, 80

// No file and no function is longer than one can keep in mind; tests may have long
// tables.
func TestSizes(t *testing.T) {
	files, functions := 0, 0
	for _, folder := range []string{"core", "internal", "cmd"} {
		err := filepath.WalkDir(filepath.Join("..", "..", folder), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
				return err
			}
			src, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			if n := bytes.Count(src, []byte("\n")); n > maxFile {
				t.Errorf("%s has %d lines, more than %d", path, n, maxFile)
			}
			files++
			if strings.HasSuffix(path, "_test.go") {
				return nil
			}
			set := token.NewFileSet()
			f, err := parser.ParseFile(set, path, src, parser.SkipObjectResolution)
			if err != nil {
				return err
			}
			for _, decl := range f.Decls {
				if fn, ok := decl.(*ast.FuncDecl); ok {
					functions++
					if n := set.Position(fn.End()).Line - set.Position(fn.Pos()).Line + 1; n > maxFunction {
						t.Errorf("%s: %s has %d lines, more than %d", path, fn.Name.Name, n, maxFunction)
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if files < 300 || functions < 1500 {
		t.Errorf("only %d files with %d functions were looked at", files, functions)
	}
}
