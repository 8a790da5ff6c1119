package letter

import (
	"regexp"
	"strings"

	"golang.org/x/net/html"
)

// Track rewrites the links of a letter's HTML: to gives the new address of one to the
// web, or "" to leave it. Every other byte stays. Unless its address is "", a picture
// without a size ends the body.
func Track(page string, to func(href string) string, picture string) string {
	if picture != "" {
		picture = TrackPicture(picture)
	}
	var out strings.Builder
	rest := page
	z := html.NewTokenizer(strings.NewReader(page))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		raw := rest[:len(z.Raw())]
		rest = rest[len(raw):]
		switch {
		case kind == html.StartTagToken && (raw[1] == 'a' || raw[1] == 'A'):
			out.WriteString(trackLink(raw, z.Token(), to))
			continue
		case kind == html.EndTagToken && len(raw) >= len("</body>") && strings.EqualFold(raw[:len("</body")], "</body"):
			if z.Token().Data == "body" {
				out.WriteString(picture)
				picture = ""
			}
		}
		out.WriteString(raw)
	}
	return out.String() + rest + picture // the rest is a tag that is not closed
}

// TrackPicture is the picture that Track puts in.
func TrackPicture(address string) string {
	return `<img src="` + html.EscapeString(address) + `" width="1" height="1" alt="" style="border:0;width:1px;height:1px">`
}

// trackLink gives the tag of a link with its new address.
func trackLink(raw string, t html.Token, to func(string) string) string {
	for i, a := range t.Attr {
		href := strings.TrimSpace(a.Val)
		scheme, _, _ := strings.Cut(strings.ToLower(href), ":")
		if t.Data != "a" && t.Data != "area" || a.Key != "href" || scheme != "http" && scheme != "https" {
			continue
		}
		if other := to(href); other != "" {
			t.Attr[i].Val = other
			return t.String()
		}
	}
	return raw
}

// ShowIncoming makes the HTML of somebody else's letter safe to be looked at, without
// what would be fetched by that: pictures from elsewhere tell their sender of it.
func ShowIncoming(page string) string {
	var out strings.Builder
	z := html.NewTokenizer(strings.NewReader(Sanitize(page)))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		raw := string(z.Raw())
		if t := z.Token(); (kind == html.StartTagToken || kind == html.SelfClosingTagToken) && t.Data == "img" {
			for i, a := range t.Attr {
				if a.Key == "src" && !strings.HasPrefix(a.Val, "data:") {
					t.Attr[i].Key = "data-left-out"
				}
			}
			raw = t.String()
		}
		out.WriteString(remoteStyle.ReplaceAllString(raw, ""))
	}
	return out.String()
}

var remoteStyle = regexp.MustCompile(`(?i)url\([^)]*\)`)
