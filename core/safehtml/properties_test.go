package safehtml

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"lucidletter/core/markup"
)

// where tells how a browser's parser takes a sign that stands in a page: in text,
// in an attribute of which name, or otherwise.
func where(t *testing.T, page, sign string) string {
	t.Helper()
	z := html.NewTokenizer(strings.NewReader(page))
	raw := ""
	for {
		switch kind := z.Next(); kind {
		case html.ErrorToken:
			return "otherwise"
		case html.StartTagToken, html.SelfClosingTagToken, html.EndTagToken:
			if kind == html.EndTagToken && strings.Contains(string(z.Raw()), sign) {
				return "not looked at" // whose attributes are not looked at
			}
			twice := strings.Contains(string(z.Raw()), sign)
			tok := z.Token()
			if strings.Contains(tok.Data, sign) {
				return "otherwise"
			}
			for _, a := range tok.Attr {
				if strings.Contains(a.Key, sign) {
					return "otherwise"
				}
				if strings.Contains(a.Val, sign) {
					return "attribute " + a.Key
				}
			}
			if twice {
				return "not looked at" // an attribute that is given again does not count
			}
			raw = ""
			if kind == html.StartTagToken && slices.Contains(markup.RawElements, tok.Data) {
				raw = tok.Data
			}
		case html.TextToken:
			if !strings.Contains(string(z.Text()), sign) {
				continue
			}
			switch raw {
			case "":
				return "text"
			case "title", "textarea":
				return "attribute title" // treated alike
			}
			return "otherwise"
		}
	}
}

// The place that the compiler finds for a value, against the HTML tokenizer of
// golang.org/x/net (HTML standard, section 13.2.5): on random pages, what is taken
// as text or as a quoted attribute is that for the parser, too.
func TestHTMLPlaces_againstTheTokenizer(t *testing.T) {
	const sign = "zqsignqz"
	parts := []string{"<p>", "</p>", "words ", "<a href=\"", "https://x.example/", "?q=", "\">", "<p title='", "'>", "<b class=", " ", ">", "<", "<!--", "-->", "<script>", "</script>", "<style>", "</style>",
		"<title>", "</title>", "\"", "'", "=", "<img src=\"", "\" alt=\"", "/>", "&amp;", "<!DOCTYPE html>", "\n", "a<b", "<textarea>", "</textarea>", "<p onclick=\"", "<!-->", "<?x>", "</", "<br/>", "<a x=y/href=\"", "<a b/href=\"", " href =\"", "<A HREF=\"", "<img/src='"}
	counted := map[string]int{}
	for seed := range uint64(60000) {
		r := rand.New(rand.NewPCG(seed, 5))
		var before strings.Builder
		for range r.IntN(9) {
			before.WriteString(parts[r.IntN(len(parts))])
		}
		after := []string{"", "\">", "'>", "</p>", "-->"}[r.IntN(5)]
		var s Tokenizer
		s.Words(before.String())
		place := s.Place()
		if place == UnsafePlace {
			continue // refused, whatever it is
		}
		// The page is closed in every way, so that the parser does not give up.
		page := before.String() + sign + after + "\"'><!-- --></title></textarea></script></style>"
		got := where(t, page, sign)
		counted[got]++
		attr, isAttr := strings.CutPrefix(got, "attribute ")
		switch {
		case got == "not looked at" && place != InText:
		case place == InText && got != "text",
			place == InAttr && (!isAttr || slices.Contains(urlAttrs, attr) || strings.HasPrefix(attr, "on") || attr == "style"),
			place > InAttr && (!isAttr || !slices.Contains(urlAttrs, attr)):
			t.Fatalf("seed %d: place %d of %q is for the parser: %s", seed, place, page, got)
		}
	}
	if counted["text"] < 1000 || counted["attribute href"] < 500 || counted["attribute title"] < 300 {
		t.Errorf("the pages try too little: %v", counted)
	}
}
