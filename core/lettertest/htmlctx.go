package lettertest

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"
)

// SchemeForm is the scheme of an address (RFC 3986 section 3.1).
var SchemeForm = regexp.MustCompile(`^([A-Za-z][A-Za-z0-9+.-]*):`)

// CheckAddresses fails for links of schemes that letters may not have.
func CheckAddresses(t testing.TB, value, page string) {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		t.Fatal(err)
	}
	for n := range doc.Descendants() {
		for _, a := range n.Attr {
			if a.Key != "href" {
				continue
			}
			// The scheme as browsers read it: URL Standard, section 4.4 "URL
			// parsing": leading controls and spaces, and all tabs and line
			// breaks, do not count.
			seen := strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(a.Val)
			m := SchemeForm.FindStringSubmatch(strings.TrimLeftFunc(seen, func(r rune) bool { return r <= ' ' }))
			if m != nil && !slices.Contains([]string{"http", "https", "mailto", "tel"}, strings.ToLower(m[1])) {
				t.Errorf("%q became the address %q", value, a.Val)
			}
		}
	}
}

// Shape is a page's elements and names of attributes, without their texts.
func Shape(t testing.TB, page string) string {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for n := range doc.Descendants() {
		if n.Type != html.TextNode {
			fmt.Fprintf(&b, "%d %s", n.Type, n.Data)
			for _, a := range n.Attr {
				b.WriteString(" " + a.Key)
			}
			b.WriteString("\n")
		}
	}
	return b.String()
}
