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

// Limits of what one has to read at once: lines of a file, a function, a package without
// its tests, and methods that an interface lists.
const maxFile, maxFunction, maxPackage, maxMethods = 450, 80, 4500, 25

// No file, function, package or port is longer than one can keep in mind; tests may have
// long tables.
func TestSizes(t *testing.T) {
	files, functions, packages := 0, 0, map[string]int{}
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
			packages[filepath.Dir(path)] += bytes.Count(src, []byte("\n"))
			ast.Inspect(f, func(n ast.Node) bool {
				if i, ok := n.(*ast.InterfaceType); ok && i.Methods.NumFields() > maxMethods {
					t.Errorf("%s: an interface lists %d methods, more than %d", set.Position(i.Pos()), i.Methods.NumFields(), maxMethods)
				}
				return true
			})
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
	for name, n := range packages {
		if n > maxPackage {
			t.Errorf("%s has %d lines, more than %d", name, n, maxPackage)
		}
	}
	if files < 300 || functions < 1500 {
		t.Errorf("only %d files with %d functions were looked at", files, functions)
	}
}
