package safehtml

import (
	"runtime"
	"strings"
	"testing"
)

// Making a page safe takes work that grows as the page does: what is allocated at twice
// the size is about twice as much (words joined to words gave four times). It is counted,
// since time on a busy machine says little.
func TestSanitize_workGrowsWithThePage(t *testing.T) {
	pages := map[string]func(n int) string{
		"declarations": func(n int) string { return "<style>p{" + strings.Repeat("color:red;", n/10) + "}</style>" },
		"rules":        func(n int) string { return "<style>" + strings.Repeat("p{color:red}", n/12) + "</style>" },
		"sheets":       func(n int) string { return strings.Repeat("<style>p{color:red}</style>", n/27) },
		"sheets in a comment": func(n int) string {
			return "<!--[if mso]>" + strings.Repeat("<style>p{color:red}</style>", n/27) + "<![endif]-->"
		},
		"comments":    func(n int) string { return strings.Repeat("<!--[if mso]><p>x</p><![endif]-->", n/33) },
		"attributes":  func(n int) string { return strings.Repeat(`<p style="color:red">x</p>`, n/26) },
		"open tags":   func(n int) string { return strings.Repeat("<b>", n/3) },
		"plain words": func(n int) string { return strings.Repeat("words & <", n/9) },
	}
	for name, page := range pages {
		work := func(n int) float64 {
			src := page(n)
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			Sanitize(src)
			runtime.ReadMemStats(&after)
			return float64(after.TotalAlloc - before.TotalAlloc)
		}
		work(16 << 10) // what is made once
		if ratio := work(256<<10) / work(128<<10); ratio > 2.8 {
			t.Errorf("%s: twice the page is %.1f times the work", name, ratio)
		}
	}
}
