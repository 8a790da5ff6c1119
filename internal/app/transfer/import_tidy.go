package transfer

import (
	"cmp"
	"slices"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// tidier finds untidy values, tells of them, and tidies those that it is to.
type tidier struct {
	report *domain.ImportReport
	on     []field.Tidying
}

// mostExamples is how many untidy values of a kind are shown.
const mostExamples = 5

// cells tidies the cells of a row, column by column.
func (t *tidier) cells(cat *field.Catalogue, line int, cells map[string]string) {
	for i := range t.report.Columns {
		path := t.report.Columns[i].Path
		s, filled := cells[path]
		ref, ok := cat.Find(path)
		if !ok || !filled {
			continue
		}
		from := cmp.Or(cells["person.country"], cells["company.country"])
		if ref.Def.Record == field.Company {
			from = cmp.Or(cells["company.country"], from)
		}
		// Spaces first, and what then is seen.
		for range len(field.Tidyings()) {
			tidy, how := field.Tidied(ref.Def, s, from)
			if how == "" {
				break
			}
			t.tell(how, domain.TidiedValue{Line: line, Label: ref.Def.Label, Was: s, Now: tidy})
			if !slices.Contains(t.on, how) {
				break
			}
			s = tidy
		}
		if cells[path] = s; s == "" {
			delete(cells, path)
		}
	}
}

func (t *tidier) tell(how field.Tidying, v domain.TidiedValue) {
	i := slices.IndexFunc(t.report.Tidyings, func(o domain.ImportTidy) bool { return o.How == how })
	if i < 0 {
		i = len(t.report.Tidyings)
		t.report.Tidyings = append(t.report.Tidyings, domain.ImportTidy{How: how, Examples: []domain.TidiedValue{}, On: slices.Contains(t.on, how)})
	}
	one := &t.report.Tidyings[i]
	if one.Count++; len(one.Examples) < mostExamples {
		one.Examples = append(one.Examples, v)
	}
}
