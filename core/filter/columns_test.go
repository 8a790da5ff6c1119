package filter

import (
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
)

func TestReadColumns(t *testing.T) {
	for _, row := range []struct {
		of         field.Record
		text, want string
	}{
		{field.Person, "", ""},
		{field.Person, " person.city:90 , person.own.volume,created", "person.city:90,person.own.volume,created"},
		{field.Person, "person.city,person.city:200,person.own.gone,deal.name,person.first_name", "person.city"},
		{field.Person, "person.city:9,person.phone:99999,person.email:wide,company.city:-4", "person.city:40,person.phone:800,person.email,company.city"},
		{field.Company, "people,company.website,person.city,company.name", "people,company.website"},
		{field.Deal, "deal.amount,deal.name,contact,owner", "deal.amount,contact,owner"},
		{field.Deal, "nothing", "nothing at all"},
	} {
		list := ReadColumns(cat, row.of, row.text)
		got := PrintColumns(row.of, list)
		if len(list) == 0 {
			got = "nothing at all"
		}
		if got != row.want {
			t.Errorf("%s %q: %q, want %q", row.of, row.text, got, row.want)
		}
		if again := ReadColumns(cat, row.of, got); row.want != "nothing at all" && PrintColumns(row.of, again) != got {
			t.Errorf("%q is read back as %q", got, PrintColumns(row.of, again))
		}
	}
	paths := []string{}
	for _, f := range Columns(cat, field.Person) {
		paths = append(paths, f.Path)
	}
	if got := ReadColumns(cat, field.Person, strings.Join(paths, ",")); len(got) != MaxColumns {
		t.Errorf("%d columns of %d", len(got), len(paths))
	}
	slices.Sort(paths)
	if len(slices.Compact(slices.Clone(paths))) != len(paths) {
		t.Errorf("a column stands twice: %v", paths)
	}
	for of := range standard {
		for _, c := range ReadColumns(cat, of, "") {
			if f, ok := FindColumn(cat, of, c.Path); !ok || f.Label == "" {
				t.Errorf("%s has no column %s", of, c.Path)
			}
		}
	}
}
