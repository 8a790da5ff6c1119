package template_test

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/cbroglie/mustache"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// The Mustache part of the text form: mustache(5) and the Mustache
// specification (interpolation.yml, sections.yml, inverted.yml, comments.yml),
// with github.com/cbroglie/mustache here and npm mustache in e2e/tests as
// references. On purpose different, and therefore not generated here: whole
// paths without a context stack, policies for missing values, refused tags,
// and a section that begins or ends within a line, whose line breaks stay as
// they stand.
func generated(seed uint64) (template string, data map[string]any) {
	r := rand.New(rand.NewPCG(seed, 7))
	names := []string{"first_name", "last_name", "city", "job_title", "country"}
	values := []string{"Ada", "Quill & Daughters", "<b>", "\"x\" 'y'", ""}
	person := map[string]any{}
	for i, n := range names {
		person[n] = values[(i+r.IntN(len(values)))%len(values)]
	}
	pick := func() string { return "person." + names[r.IntN(len(names))] }
	words := []string{"Dear ", "a", " ", "\n", "\n\n", "word, ", "é🌷", "{ ", " }", ". "}
	var b strings.Builder
	var write func(depth int)
	write = func(depth int) {
		for range 1 + r.IntN(6) {
			switch k := r.IntN(10); {
			case k < 5 || depth > 4:
				b.WriteString(words[r.IntN(len(words))])
			case k < 7:
				b.WriteString("{{" + pick() + "}}")
			case k == 7:
				// References differ on a line that holds two tags and nothing else.
				if strings.HasSuffix(b.String(), "\n") {
					b.WriteString(" {{! alone }}\n")
				} else {
					b.WriteString("word{{! within }}")
				}
			case k == 8:
				path, sign := pick(), []string{"#", "^"}[r.IntN(2)]
				b.WriteString("{{" + sign + path + "}}inside {{" + pick() + "}}{{/" + path + "}}")
			default:
				path, sign := pick(), []string{"#", "^"}[r.IntN(2)]
				if !strings.HasSuffix(b.String(), "\n") {
					b.WriteString("\n")
				}
				b.WriteString("  {{" + sign + path + "}} \nlines ")
				write(depth + 1)
				b.WriteString("\n{{/" + path + "}}\n")
			}
		}
	}
	write(0)
	// References differ on space behind a tag at the very end of a text.
	b.WriteString("\nend")
	return b.String(), map[string]any{"person": person}
}

// ours merges with every missing value as nothing, as Mustache does.
func ours(t *testing.T, cat *field.Catalogue, tmpl string, data map[string]any) string {
	t.Helper()
	values := cat.NewValues()
	values.Kind = field.Lead
	for name, v := range data["person"].(map[string]any) {
		values.Set("person."+name, field.Of(v.(string)))
	}
	p, notes := template.Compile(template.Template{Body: markup.Parse(tmpl)}, cat)
	if document.Stopping(notes) {
		t.Fatalf("%q: %v", tmpl, notes)
	}
	out, _ := p.AppendBody(nil, values, nil, field.NewReader("en"), safehtml.AsHTML)
	return string(out)
}

// squeezed makes one space of several and of a space before a mark none: on purpose, an
// only-when that does not hold leaves neither.
func squeezed(s string) string {
	return spaceBeforeMark.ReplaceAllString(spaces.ReplaceAllString(s, " "), "$1")
}

var (
	spaces          = regexp.MustCompile(`[ \t]{2,}`)
	spaceBeforeMark = regexp.MustCompile(`[ \t]+([,.;:!?])`)
)

func TestMustache_cbroglie(t *testing.T) {
	cat := lettertest.Catalogue()
	var samples []struct {
		Template string
		Data     map[string]any
		Ours     string
	}
	for seed := range uint64(3000) {
		template, data := generated(seed)
		want, err := mustache.Render(template, data)
		if err != nil {
			t.Fatalf("%q: %v", template, err)
		}
		got := ours(t, cat, template, data)
		if squeezed(got) != squeezed(want) {
			t.Fatalf("seed %d: %q with %v:\n got %q\nwant %q", seed, template, data, got, want)
		}
		samples = append(samples, struct {
			Template string
			Data     map[string]any
			Ours     string
		}{template, data, got})
	}
	// The same templates are given to npm mustache by e2e/tests.
	if dir := os.Getenv("LUCID_MUSTACHE"); dir != "" {
		raw, err := json.Marshal(samples)
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, "samples.json"), raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
}
