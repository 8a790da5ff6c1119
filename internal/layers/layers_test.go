package layers

import (
	"encoding/json"
	"errors"
	"io"
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// may lists, for each package or group, what of this module it may import.
// internal/testbed and tests may import anything.
var may = map[string][]string{
	"core/field":               {},
	"core/document":            {"core/field"},
	"core/markup":              {"core/field", "core/document"},
	"core/safehtml":            {"core/field", "core/document", "core/markup"},
	"core/render":              {"core/field", "core/document", "core/markup", "core/safehtml"},
	"core/template":            {"core/field", "core/document", "core/markup", "core/safehtml", "core/render"},
	"core/sentence":            {"core/field", "core/document", "core/markup", "core/safehtml", "core/render", "core/template"},
	"core/letter":              {"core/field", "core/document", "core/markup", "core/safehtml", "core/render", "core/template", "core/sentence"},
	"core/interchange":         {"core/field", "core/document", "core/markup", "core/safehtml", "core/render", "core/template", "core/letter"},
	"core/access":              {},
	"core/advice":              {"core/document", "core/render", "core/sentence", "core/interchange"},
	"core/plan":                {"core/field"},
	"core/question":            {"core/field"},
	"core/result":              {},
	"core/twin":                {"core/field"},
	"core/filter":              {"core/field"},
	"core/eligibility":         {"core/field"},
	"core/preflight":           {"core/eligibility", "core/field", "core/safehtml", "core/template", "core/sentence"},
	"internal/domain":          {"core/"},
	"internal/app/worker":      {},
	"internal/app/outbound":    {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/compose", "internal/app/worker"},
	"internal/app/team":        {"core/", "internal/domain"},
	"internal/app/records":     {"core/", "internal/domain", "internal/app/team"},
	"internal/app/library":     {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/worker"},
	"internal/app/compose":     {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library"},
	"internal/app/desk":        {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library", "internal/app/compose", "internal/app/outbound"},
	"internal/app/postbox":     {"core/", "internal/domain", "internal/app/team", "internal/app/library"},
	"internal/app/tasks":       {"core/", "internal/domain", "internal/app/compose", "internal/app/outbound", "internal/app/desk", "internal/app/worker"},
	"internal/app/inbox":       {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library", "internal/app/desk", "internal/app/worker"},
	"internal/app/rounds":      {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library", "internal/app/desk", "internal/app/compose", "internal/app/worker", "internal/app/outbound"},
	"internal/app/orders":      {"core/", "internal/domain", "internal/app/records", "internal/app/library", "internal/app/desk", "internal/app/compose", "internal/app/plans", "internal/app/worker", "internal/app/outbound"},
	"internal/app/plans":       {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library", "internal/app/desk", "internal/app/compose", "internal/app/plans/shelf", "internal/app/worker", "internal/app/outbound"},
	"internal/app/plans/shelf": {"core/", "internal/domain", "internal/app/library"},
	"internal/app/transfer":    {"core/", "internal/domain", "internal/app/team", "internal/app/records", "internal/app/library", "internal/app/worker"},
	"internal/app":             {"core/", "internal/domain", "internal/app/"},
	"internal/files":           {"core/", "internal/domain", "internal/app", "internal/app/"},
	"internal/mail":            {"core/", "internal/domain", "internal/app", "internal/app/"},
	"internal/store":           {"core/", "internal/domain", "internal/app/worker", "internal/store/query", "internal/store/rounds", "internal/store/plans", "internal/store/lists", "internal/store/database", "internal/store/seal"},
	"internal/store/seal":      {},
	"internal/store/database":  {},
	"internal/store/lists":     {"core/", "internal/domain", "internal/store/database", "internal/store/query"},
	"internal/store/plans":     {"core/", "internal/domain", "internal/store/database", "internal/store/query"},
	"internal/store/rounds":    {"core/", "internal/domain", "internal/store/database", "internal/store/query"},
	"internal/store/query":     {"core/"},
	"internal/outbox":          {"core/", "internal/domain", "internal/app", "internal/app/"},
	"internal/postoffice":      {"core/", "internal/domain", "internal/app", "internal/app/"},
	"internal/demo":            {"core/", "internal/domain", "internal/app", "internal/app/"},
	"internal/httpapi":         {"core/", "internal/domain", "internal/app", "internal/app/", "internal/files", "internal/httpapi/pages", "internal/httpapi/web", "internal/httpapi/guard", "internal/httpapi/follow", "internal/httpapi/rounds", "internal/httpapi/wire", "docs"},
	"internal/httpapi/web":     {"internal/domain"},
	"internal/httpapi/wire":    {"core/", "internal/domain", "internal/app/"},
	"internal/httpapi/rounds":  {"core/", "internal/domain", "internal/app", "internal/app/", "internal/files", "internal/httpapi/web", "internal/httpapi/wire"},
	"internal/httpapi/guard":   {"internal/httpapi/web"},
	"internal/httpapi/follow":  {"core/", "internal/domain", "internal/app", "internal/app/", "internal/files", "internal/httpapi/web", "internal/httpapi/wire"},
	"internal/httpapi/pages":   {"core/", "internal/domain", "internal/app", "internal/app/", "docs"},
	"internal/layers":          {},
	"internal/walk":            {},
	"docs":                     {},
	"ui":                       {},
}

// pure is what core may import from outside this module besides the standard
// library: libraries that format values and that read, clean and write HTML.
var pure = []string{
	"github.com/go-playground/locales", "github.com/bojanz/currency", "github.com/nyaruka/phonenumbers", "golang.org/x/net/html", "golang.org/x/text",
	"github.com/microcosm-cc/bluemonday", "github.com/rivo/uniseg", "github.com/tdewolff/parse/v2", "github.com/vanng822/go-premailer/premailer", "github.com/yuin/goldmark", "github.com/xrash/smetrics", "github.com/go-json-experiment/json", "github.com/rickar/cal/v2",
}

// impure is what core may not import from the standard library.
var impure = []string{"os", "net", "net/http", "database/sql", "log", "log/slog", "math/rand", "math/rand/v2", "crypto/rand", "context"}

func TestImportsPointInward(t *testing.T) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "lucidletter/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for dec := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p struct {
			ImportPath string
			Imports    []string
		}
		if err := dec.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			t.Fatal(err)
		}
		name := strings.TrimPrefix(p.ImportPath, "lucidletter/")
		if strings.HasPrefix(name, "cmd/") || name == "internal/testbed" || name == "core/lettertest" {
			continue
		}
		allowed, known := may[name]
		if !known {
			t.Errorf("%s is a package that this test does not know; give it its place", name)
			continue
		}
		seen++
		for _, i := range p.Imports {
			if why := wrong(name, i, allowed); why != "" {
				t.Errorf("%s imports %s: %s", name, i, why)
			}
		}
	}
	if seen != len(may) {
		t.Errorf("%d packages looked at, %d known", seen, len(may))
	}
}

func wrong(name, imported string, allowed []string) string {
	own, ok := strings.CutPrefix(imported, "lucidletter/")
	switch {
	case ok && !slices.ContainsFunc(allowed, func(a string) bool { return own == a || strings.HasSuffix(a, "/") && strings.HasPrefix(own, a) }):
		return "the arrow points outward"
	case ok || !strings.HasPrefix(name, "core/"):
		return ""
	case slices.Contains(impure, imported):
		return "core is pure"
	case strings.Contains(imported, ".") && !slices.ContainsFunc(pure, func(p string) bool { return strings.HasPrefix(imported, p) }):
		return "core imports formatting libraries alone"
	}
	return ""
}
