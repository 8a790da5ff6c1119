package letter

import (
	"strings"
	"testing"
)

func TestNewWords(t *testing.T) {
	for in, want := range map[string]string{
		"Yes, please.\n": "Yes, please.",
		"Yes.\r\n\r\nOn 2 March 2026, Imre Falk wrote:\r\n> Dear Ada\r\n> bye\r\n":                            "Yes.",
		"Yes.\n\nOn Mon, 2 March 2026 at 10:00 Imre Falk <imre@fernhollow.example>\nwrote:\n\n> Dear Ada\n\n": "Yes.",
		"Ja.\n\nAm 2.3.2026 schrieb Imre Falk:\n> x":                                                          "Ja.",
		"Yes.\n-- \nAda Quill\n+44 20 7946 0000":                                                              "Yes.",
		"Yes.\n\n----- Original Message -----\nFrom: Imre\n\nDear Ada":                                        "Yes.",
		"> Shall we come?\nYes.\n> When?\nOn Friday.":                                                         "> Shall we come?\nYes.\n> When?\nOn Friday.",
		"> only a quote":  "> only a quote",
		"":                "",
		"My list:\n- one": "My list:\n- one",
	} {
		if got := NewWords(in); got != want {
			t.Errorf("%q: %q, want %q", in, got, want)
		}
	}
}

func TestWithQuote(t *testing.T) {
	page, text := WithQuote("<body><p>x</p></body>", "x\n", "Ada <ada@quill.example>, 2 March 2026:", "Yes & no.\n\n> older\n")
	if text != "x\n\nAda <ada@quill.example>, 2 March 2026:\n> Yes & no.\n>\n>> older\n" {
		t.Errorf("%q", text)
	}
	if !strings.Contains(page, "Ada &lt;ada@quill.example&gt;") || !strings.Contains(page, "Yes &amp; no.<br><br>&gt; older</blockquote></div></body>") {
		t.Error(page)
	}
	if page, text := WithQuote("<p>x</p>", "x\n", "who", " \n"); page != "<p>x</p>" || text != "x\n" {
		t.Errorf("nothing: %q %q", page, text)
	}
}
