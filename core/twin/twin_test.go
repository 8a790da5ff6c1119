package twin

import (
	"math"
	"testing"
)

// The measure gives what its author printed: W. E. Winkler, Overview of Record Linkage and
// Current Research Directions (2006), table of string comparators; the figures from memory.
func TestJaroWinkler(t *testing.T) {
	for _, row := range []struct {
		a, b string
		want float64
	}{
		{"dwayne", "duane", 0.840}, {"martha", "marhta", 0.961}, {"dixon", "dicksonx", 0.813},
	} {
		if got := jaroWinkler(row.a, row.b); math.Abs(got-row.want) > 0.001 {
			t.Errorf("%s, %s: %.3f, want %.3f", row.a, row.b, got, row.want)
		}
	}
}

func TestPeople(t *testing.T) {
	for name, row := range map[string]struct {
		a, b Person
		want Reason
	}{
		"one address":               {Person{"Ada", "Quill", "Ada@Quill.example ", ""}, Person{"A.", "Someone", "ada@quill.example", "X"}, SameEmail},
		"one name":                  {Person{"Ada", "Quill", "", ""}, Person{"ada", "QUILL", "a@b.example", "Quill Ltd"}, SameName},
		"one name, accents":         {Person{"Zoë", "Müller", "", "Foo"}, Person{"Zoe", "Muller", "", "Foo"}, SameName},
		"one name, two companies":   {Person{"Ada", "Quill", "", "Foo"}, Person{"Ada", "Quill", "", "Bar"}, ""},
		"a slip":                    {Person{"Katherine", "Johnson", "", "Foo Ltd"}, Person{"Katherine", "Jonson", "", "Foo"}, CloseName},
		"a slip, no company":        {Person{"Katherine", "Johnson", "", ""}, Person{"Katherine", "Jonson", "", ""}, ""},
		"an initial":                {Person{"K.", "Johnson", "", "Foo"}, Person{"Katherine", "Johnson", "", "foo"}, CloseName},
		"another initial":           {Person{"L.", "Johnson", "", "Foo"}, Person{"Katherine", "Johnson", "", "foo"}, ""},
		"names the other way round": {Person{"Quill", "Ada", "", "Foo"}, Person{"Ada", "Quill", "", "Foo"}, CloseName},
		"brothers":                  {Person{"Peter", "Stone", "", "Stone & Sons"}, Person{"Walter", "Stone", "", "Stone & Sons"}, ""},
		"nobody":                    {Person{"", "", "", "Foo"}, Person{"", "", "", "Foo"}, ""},
		"a first name alone":        {Person{"Ada", "", "", ""}, Person{"Ada", "", "", ""}, ""},
		"no address":                {Person{"Ada", "Quill", "", "A"}, Person{"Bo", "Stone", "", "B"}, ""},
	} {
		if got := People(row.a, row.b); got != row.want {
			t.Errorf("%s: %q, want %q", name, got, row.want)
		}
		if got := People(row.b, row.a); got != row.want {
			t.Errorf("%s, turned: %q, want %q", name, got, row.want)
		}
	}
}

func TestCompanies(t *testing.T) {
	for _, row := range []struct {
		a, b string
		want bool
	}{
		{"Harrow Bakery Ltd.", "harrow bakery", true}, {"Müller GmbH & Co. KG", "Muller", true}, {"Fernhollow", "Fernhollow Cold Rooms", false},
		{"Harrow Bakery", "Harow Bakery", true}, {"A.B.C. Limited", "ABC", true}, {"ABC", "ABD", false}, {"Ltd", "Limited", false}, {"", "", false}, {"North Dairy", "South Dairy", false},
	} {
		if got := Companies(row.a, row.b); got != row.want {
			t.Errorf("%q, %q: %t", row.a, row.b, got)
		}
	}
}
