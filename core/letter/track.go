package letter

import (
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
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
		case kind == html.EndTagToken && isBodyEnd([]byte(raw)):
			out.WriteString(picture)
			picture = ""
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

// CleanedBy is the edition of the rules of CleanIncoming; it rises when they change.
const CleanedBy = 1

// CleanIncoming makes the HTML of somebody else's letter safe to be looked at. It is done
// once, when the letter comes in. "" is given for a page larger than MaxBody, whose words
// are shown instead.
func CleanIncoming(page string) string {
	if len(page) > document.MaxBody {
		return ""
	}
	return safehtml.Sanitize(page)
}

// ShowIncoming gives a page of CleanIncoming without what would be fetched by looking at
// it, and how many pictures were left out: those from elsewhere tell their sender of it.
func ShowIncoming(cleaned string) (page string, leftOut int) {
	var out strings.Builder
	z := html.NewTokenizer(strings.NewReader(cleaned))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		raw := string(z.Raw())
		if t := z.Token(); kind == html.StartTagToken || kind == html.SelfClosingTagToken {
			changed := false
			for i, a := range t.Attr {
				if slices.Contains(fetched, a.Key) && !strings.HasPrefix(a.Val, "data:") {
					t.Attr[i].Key, changed = "data-left-out", true
					leftOut++
				}
			}
			if changed {
				raw = t.String()
			}
		}
		bare := remoteStyle.ReplaceAllString(raw, "")
		if bare != raw {
			leftOut++
		}
		out.WriteString(bare)
	}
	return out.String(), leftOut
}

// fetched are the attributes whose addresses a program fetches to show a page; href
// only of what a reader presses.
var fetched = []string{"src", "srcset", "background", "poster", "data", "lowsrc", "dynsrc"}

var remoteStyle = regexp.MustCompile(`(?i)url\([^)]*\)`)
