package markup_test

import (
	"errors"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
)

// Each row is printed as it stands, but for the line end behind it.
func TestParseMarkup_printedAsWritten(t *testing.T) {
	for _, src := range []string{
		"<p>Dear {{person.first_name|there}},</p>",
		"<p></p>",
		`<p align="center">Mid</p>`,
		"<h1>One</h1>\n<h2>Two</h2>\n<h3 align=\"right\">Three</h3>",
		"<p>a <b>b <i>c</i></b><i> d</i> e</p>",
		"<p><u>u</u><s>s</s><mark>m</mark><mark color=\"#ffee00\">n</mark></p>",
		`<p><span color="#112233" font="Georgia" size="18">styled</span></p>`,
		`<p><a href="https://x.example/?q={{person.city}}&amp;r=1">see <b>this</b></a></p>`,
		`<p><a href="{{sender.booking_link}}">book</a></p>`,
		"<p>one<br>two</p>",
		"<ul>\n  <li>\n    <p>a</p>\n  </li>\n  <li>\n    <p>b</p>\n    <ol start=\"3\">\n      <li>\n        <p>c</p>\n      </li>\n    </ol>\n  </li>\n</ul>",
		"<blockquote>\n  <p>said</p>\n</blockquote>",
		`<img href="https://x.example/" src="https://x.example/a.png" alt="A &#34;cold&#34; room" align="center" width="300">`,
		`<button href="https://x.example/{{person.last_name}}" align="center" color="#1f4d3a">Book {{person.first_name}}</button>`,
		"<table>\n  <tr>\n    <th>\n      <p>a</p>\n    </th>\n    <td align=\"right\" colspan=\"2\" rowspan=\"3\" colwidth=\"100 0\">\n      <p>{{deal.amount}}</p>\n    </td>\n  </tr>\n</table>",
		"<columns>\n  <column width=\"40\">\n    <p>a</p>\n  </column>\n  <column>\n    <p>b</p>\n  </column>\n</columns>",
		"<hr>\n<spacer height=\"24\">\n<spacer>",
		"{{fixed}}\n<p>Ours</p>\n{{/fixed}}",
		"{{#deal.amount >= 100 EUR}}\n<p>a</p>\n{{^person.city}}\n<p>b</p>\n{{/person.city}}\n{{/deal.amount}}",
		"<p>{{#person.city}}in <b>{{person.city}}</b>{{/person.city}}, {{fixed}}ours{{/fixed}} {{?why: text}}{{! note}}{{>ps}}</p>",
		`<p>\{\{not a mark}} a &lt; b &amp; c &gt; d { e</p>`,
		"<p>{{nothing to close</p>",
		"<p>a  b</p>",
	} {
		d := lettertest.Markup(t, src)
		got := strings.TrimSuffix(markup.Print(d), "\n")
		if got != src {
			t.Errorf("printed\n%s\nwritten\n%s", got, src)
		}
		back, err := document.ParseJSON([]byte(lettertest.JSONOf(t, d)))
		if err != nil || lettertest.JSONOf(t, back) != lettertest.JSONOf(t, d) {
			t.Errorf("%s: as JSON %v", src, err)
		}
	}
}

func TestParseMarkup_refuses(t *testing.T) {
	for _, row := range []struct{ in, want string }{
		{"words", `1:1: "words" stands outside`},
		{"<p>a</p>\nwords", `2:1: "words" stands`},
		{"<p>a", "1:1: <p> is not closed"},
		{"<p>a</b></p>", "1:5: </b> closes nothing"},
		{"</p>", "1:1: </p> closes nothing"},
		{"<p><b>a</p></b>", "1:8: </p> closes nothing"},
		{"<video></video>", "1:1: <video> is no block"},
		{"<p><script>x</script></p>", "1:4: <script> cannot stand in a line"},
		{"<p onclick=\"x\">a</p>", "1:1: <p> has no onclick"},
		{"<p><a onclick=\"x\">a</a></p>", "1:4: <a> has no onclick"},
		{"<p>a<p>b</p></p>", "1:5: <p> cannot stand in a line"},
		{"<ul><p>a</p></ul>", "1:5: <p> cannot stand here"},
		{"<ul></ul>", "is empty"},
		{"<table><tr><td><table><tr><td><p>a</p></td></tr></table></td></tr></table>", "1:16: <table> cannot stand here"},
		{"<columns><column><columns></columns></column></columns>", "<columns> cannot stand here"},
		{"<columns><column><p>1</p></column><column><p>2</p></column><column><p>3</p></column><column><p>4</p></column></columns>", "more than 3"},
		{"<!-- note -->", "1:1: <!-- note --> has no place"},
		{"<!DOCTYPE html>", "has no place"},
		{"<p/>", "<p/> is not closed in HTML"},
		{`<spacer height="tall">`, `height="tall" of <spacer> is not a whole number`},
		{`<spacer height="900">`, "height is 900 and must be from 1 to 200"},
		{`<img alt="a">`, "needs src"},
		{`<button>a</button>`, "needs href"},
		{`<p><a>x</a></p>`, "link needs href"},
		{`<p align="middle">a</p>`, `align "middle" is not left`},
		{`<p align="{{person.city}}">a</p>`, "align of <p> cannot hold marks"},
		{`<p><span color="red">a</span></p>`, `color "red" is not a colour`},
		{`<p><span size="200">a</span></p>`, `fontSize "200px" is not from`},
		{`<p><span font="Comic">a</span></p>`, `fontFamily "Comic" is not a font`},
		{"<p>{{#person.city}}a<b>{{/person.city}}b</b></p>", "1:21: <b> is not closed before"},
		{"{{#person.city}}<p>a{{/person.city}}</p>", "1:17: <p> is not closed before"},
		{strings.Repeat("<blockquote>", document.MaxTree+1), "nested deeper than 64"},
	} {
		_, err := markup.ParseMarkup(row.in)
		var bad *markup.MarkupError
		if !errors.As(err, &bad) || !strings.Contains(err.Error(), row.want) {
			t.Errorf("%.70s: %v, want %q", row.in, err, row.want)
		}
	}
}
