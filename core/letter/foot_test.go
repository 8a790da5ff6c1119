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
