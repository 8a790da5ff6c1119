package letter

import (
	"strings"
	"testing"
)

func TestWithFoot(t *testing.T) {
	f := Foot{Words: "No more <letters>", Address: "https://t.example/out/1?a&b", Sender: "Fernhollow & Co, Mill Lane 3"}
	page, text := WithFoot("<body><p>x</p></BODY></html>", "x\n\n", f)
	if text != "x\n\nNo more <letters>: https://t.example/out/1?a&b\nFernhollow & Co, Mill Lane 3\n" {
		t.Errorf("%q", text)
	}
	for _, want := range []string{`<p>x</p><div`, `href="https://t.example/out/1?a&amp;b"`, "No more &lt;letters&gt;</a><br>Fernhollow &amp; Co, Mill Lane 3</div></BODY></html>"} {
		if !strings.Contains(page, want) {
			t.Errorf("%s lacks %s", page, want)
		}
	}
	if page, text := WithFoot("<p>x</p>", "x\n", Foot{Address: "https://t.example"}); page != "<p>x</p>" || text != "x\n" {
		t.Errorf("nothing: %q %q", page, text)
	}
	if page, text := WithFoot("", "x\n", f); page != "" || !strings.HasSuffix(text, "Lane 3\n") {
		t.Errorf("plain: %q %q", page, text)
	}
}

// Words whose lower case has another length, and an end tag that is none, leave the page whole.
func TestWithFoot_oddLengths(t *testing.T) {
	f := Foot{Words: "Unsubscribe", Address: "https://t.example/out"}
	for name, words := range map[string]string{
		"dotted İ": "İlker", "Ⱥ": strings.Repeat("Ⱥ", 40), "ẞ": "STRAẞE", "Kelvin": strings.Repeat("\u212a", 30),
		"in a comment": "<!-- </body> -->", "in a style": "<style>/* </body> */</style>", "another tag": "x</bodyguard>",
	} {
		t.Run(name, func(t *testing.T) {
			page := "<html><body><p>" + words + "</p></body></html>"
			got, _ := WithFoot(page, "x\n", f)
			if before, block, ok := strings.Cut(got, "<div"); !ok || before != "<html><body><p>"+words+"</p>" || !strings.HasSuffix(block, "</div></body></html>") {
				t.Errorf("foot: %s", got)
			}
			if got, _ := WithQuote(page, "x\n", "Ada wrote:", words); !strings.HasSuffix(got, "</blockquote></div></body></html>") {
				t.Errorf("quote: %s", got)
			}
		})
	}
}

// An address that stands in the letter already does not stand at its foot again; each
// form is looked at by itself. The way out always stands there, since one in the words
// may be another person's.
func TestWithFoot_onlyOnce(t *testing.T) {
	f := Foot{Words: "Unsubscribe", Address: "https://t.example/out/NEW", Sender: "Fernhollow, 7 Ice House Lane, Harrowmere HM2 6FR"}
	house := "<body><p>x</p><p>Fernhollow Cold Rooms,<br>7 Ice House Lane, <b>Harrowmere</b> HM2 6FR</p></body>"
	page, text := WithFoot(house, "x\n", f)
	if strings.Contains(page, "Fernhollow, 7 Ice") || !strings.Contains(page, "/out/NEW") || !strings.Contains(text, "Fernhollow, 7 Ice") {
		t.Errorf("an address in the stationery: %s\n%s", page, text)
	}
	copied := "Yes.\n\nUnsubscribe: https://t.example/out/OLD\nFernhollow, 7 Ice House Lane, Harrowmere HM2 6FR\n"
	if _, text := WithFoot("", copied, f); strings.Count(text, "Ice House") != 1 || !strings.HasSuffix(text, "Unsubscribe: https://t.example/out/NEW\n") {
		t.Errorf("copied from another letter: %s", text)
	}
	if _, text := WithFoot("", "We moved from 7 Ice House Lane.\n", f); !strings.Contains(text, "HM2 6FR") {
		t.Errorf("half of the address: %s", text)
	}
}
