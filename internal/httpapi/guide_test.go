package httpapi

import (
	"regexp"
	"strings"
	"testing"
)

// The guide is read without signing in; every picture and every place that it leads to
// is there.
func TestServer_guide(t *testing.T) {
	_, c := start(t)
	page := c.must(200, "GET", "/guide", "")
	pictures := regexp.MustCompile(`<img src="(/guide/screenshots/[a-z-]+\.png)"`).FindAllStringSubmatch(page, -1)
	if len(pictures) < 8 {
		t.Errorf("%d pictures", len(pictures))
	}
	for _, p := range pictures {
		if status, _, header := c.do("GET", p[1], ""); status != 200 || header.Get("Content-Type") != "image/png" {
			t.Errorf("%s: %d %s", p[1], status, header.Get("Content-Type"))
		}
	}
	links := regexp.MustCompile(`href="#([^"]+)"`).FindAllStringSubmatch(page, -1)
	if len(links) != 6 {
		t.Errorf("%d jobs", len(links))
	}
	for _, l := range links {
		if !strings.Contains(page, `id="`+l[1]+`"`) {
			t.Errorf("nothing is at #%s", l[1])
		}
	}
	c.must(404, "GET", "/guide/screenshots/none.png", "")
	if body := c.must(200, "GET", "/guide/screenshots/..%2fembed.go", ""); !strings.Contains(body, "the page") {
		t.Errorf("outside of the pictures: %s", body)
	}
}
