package letter_test

import (
	_ "embed"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/render"
)

//go:embed testdata/broken.txt
var brokenSentences string

// What an empty value leaves of a sentence is noted, or mended so that it reads, in every
// language of the list: 95 of 100 at least.
func TestCheckLetter_brokenSentences(t *testing.T) {
	cat := lettertest.Catalogue()
	codes := strings.NewReplacer("①", "{{person.city|}}", "②", "{{company.name|}}")
	lang, intro := "", ""
	hits, all, kinds := 0, 0, map[string]bool{}
	for line := range strings.Lines(brokenSentences) {
		cells := strings.Split(strings.TrimSpace(line), " | ")
		switch {
		case strings.HasPrefix(line, "#") || strings.TrimSpace(line) == "":
			continue
		case strings.HasPrefix(line, "=="):
			lang, intro = strings.Fields(cells[0])[1], cells[1]
			continue
		case len(cells) != 5:
			t.Fatalf("%q", line)
		}
		kinds[lang+cells[0]] = true
		p := lettertest.Compiled(t, cat, "s", intro+"\n\n"+codes.Replace(cells[1])+"\n\n"+intro)
		for i, v := range []*field.Values{
			lettertest.ValuesWith(cat, "company.name", "Quill"), lettertest.ValuesWith(cat, "person.city", "York"), cat.NewValues(),
		} {
			v.Kind = field.Contact
			l := p.Merge(v, nil, field.NewReader(lang))
			var noted []string
			for _, n := range letter.CheckLetter(l.Subject, l.Body) {
				noted = append(noted, n.Code)
			}
			left := strings.TrimSuffix(strings.TrimPrefix(strings.TrimSuffix(render.RenderText(l.Body), "\n"), intro+"\n\n"), "\n\n"+intro)
			all++
			if len(noted) > 0 || left == cells[2+i] || left == intro {
				hits++
				continue
			}
			t.Logf("%s %s: %q is left of %q and is not noted (want %q)", lang, cells[0], left, cells[1], cells[2+i])
		}
		// With both values nothing is noted.
		v := lettertest.ValuesWith(cat, "company.name", "Quill")
		v.Set("person.city", field.Of("York"))
		l := p.Merge(v, nil, field.NewReader(lang))
		if notes := letter.CheckLetter(l.Subject, l.Body); len(notes) > 0 && !slices.ContainsFunc(notes, func(n document.Note) bool { return n.Code != "broken" && n.Code != "doubled" }) {
			t.Errorf("%s: %q with both values: %v", lang, cells[1], notes)
		}
	}
	t.Logf("%d of %d noted or mended, %d kinds", hits, all, len(kinds))
	if hits*100 < all*95 || len(kinds) < 80 {
		t.Errorf("%d of %d", hits, all)
	}
}
