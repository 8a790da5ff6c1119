package sentence

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

// maxEmpty is how many fields of a template are left out one by one while it is written.
const maxEmpty = 40

// WhenEmpty tells the writer of a template where a sentence breaks when a value is left out:
// each field that may be empty is left out alone, then all of them together. The notes
// advise, at the places of the template.
func WhenEmpty(p *template.Program, cat *field.Catalogue) []document.Note {
	lacks := p.MayLack()
	var paths []string
	for i := range lacks {
		if !slices.Contains(paths, lacks[i].Path) && len(paths) < maxEmpty {
			paths = append(paths, lacks[i].Path)
		}
	}
	var notes []document.Note
	noted := map[int]bool{}
	for i := range len(paths) + 1 {
		v := samples(cat)
		if i < len(paths) {
			v.Set(paths[i], field.Value{})
		} else {
			for _, path := range paths {
				v.Set(path, field.Value{})
			}
		}
		if kinds := p.Fits(); len(kinds) > 0 {
			v.Kind = kinds[len(kinds)-1]
		}
		for _, b := range brokenIn(p.Merge(v, nil, field.NewReader("en"))) {
			at := lackOf(lacks, &b)
			if at < 0 || noted[at] {
				continue
			}
			noted[at] = true
			n := lacks[at].At
			n.Severity, n.Code = document.Advises, "whenempty"
			n.Message = fmt.Sprintf("When %s is left out, this reads “%s” Put the words around it into an only-when, or write what stands instead.", lacks[at].Label, b.text)
			notes = append(notes, n)
		}
	}
	return notes
}

// lackOf gives which lack left a broken place: the one of its path that is as far down in its
// part, else the last of them; -1 none.
func lackOf(lacks []template.Lack, b *brokenPlace) int {
	found, nth := -1, 0
	for i := range lacks {
		if lacks[i].Path != b.path || lacks[i].At.Part != b.part {
			continue
		}
		if found = i; nth == b.nth {
			break
		}
		nth++
	}
	return found
}

// brokenIn gives the broken places of the subject and the body of a merged letter.
func brokenIn(l template.Letter) []brokenPlace {
	lang := LanguageOf(l.Body, render.RenderText(l.Body))
	var out []brokenPlace
	for _, part := range []struct {
		d    document.Document
		part document.Part
	}{{l.Subject, document.Subject}, {l.Body, document.Body}} {
		for _, b := range brokenPlaces(part.d, lang) {
			b.part = part.part
			out = append(out, b)
		}
	}
	return out
}

// samples gives a value for every field.
func samples(cat *field.Catalogue) *field.Values {
	v := cat.NewValues()
	v.Kind = field.Contact
	for _, d := range cat.Fields() {
		value := field.Of("Quill")
		switch d.Type {
		case field.Number:
			value, _ = field.Parse(d.Type, "12", nil)
		case field.Money:
			value, _ = field.Parse(d.Type, "12500.00 EUR", nil)
		case field.Date:
			value, _ = field.Parse(d.Type, "2026-03-02", nil)
		case field.YesNo:
			value, _ = field.Parse(d.Type, "yes", nil)
		case field.Choice:
			if len(d.Choices) > 0 {
				value, _ = field.Parse(d.Type, d.Choices[0], d.Choices)
			}
		}
		v.Set(d.Path, value)
	}
	return v
}

// AppendBroken appends the paths of what is left out of a letter where the sentence then no
// longer reads: those values are needed after all. Merging is spared where nothing is left out.
func AppendBroken(dst []string, p *template.Program, v *field.Values, b template.Blanks, r *field.Reader) []string {
	if !slices.ContainsFunc(p.MayLack(), func(l template.Lack) bool {
		name, blank := strings.CutPrefix(l.Path, "?")
		return l.Passage || blank && !b[name].Filled() || !blank && !v.Get(l.Path).Filled()
	}) {
		return dst
	}
	for _, one := range brokenIn(p.Merge(v, b, r)) {
		name, blank := strings.CutPrefix(one.path, "?")
		if one.path == "" || slices.Contains(dst, one.path) || blank && b[name].Filled() || !blank && v.Get(one.path).Filled() {
			continue // an only-when about a value that is there
		}
		dst = append(dst, one.path)
	}
	return dst
}
