package markup

import (
	"reflect"
	"strings"
	"testing"
)

// Every condition is written so that it is read again the same.
func FuzzReadCondition(f *testing.F) {
	for _, s := range []string{"deal.amount", "deal.amount >= 10000 EUR", "deal.stage in (quoted, \"a, b\")", "a=b", "a != \"x\\\"y\"", "a < today-3", "a in ( )", "a <", "a >= = b", "a in (b,,c)", `a = "\\"`} {
		f.Add(s, false)
		f.Add(s, true)
	}
	f.Fuzz(func(t *testing.T, s string, not bool) {
		n, err := ReadCondition(s, not)
		if err != nil || strings.ContainsAny(s, "\n\r\x00") {
			return
		}
		text := PrintCondition(n.Attrs)
		again, err := ReadCondition(text, not)
		if err != nil || !reflect.DeepEqual(n, again) {
			t.Fatalf("%q is %+v, written %q: %+v, %v", s, n.Attrs, text, again.Attrs, err)
		}
	})
}
