package lettertest

import (
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// CompileMarkup compiles markup and fails when it cannot be read.
func CompileMarkup(t testing.TB, cat *field.Catalogue, src string) *template.Program {
	t.Helper()
	p, notes := template.Compile(template.Template{Subject: markup.Parse("For {{person.first_name}}"), Body: Markup(t, src)}, cat)
	if document.Stopping(notes) {
		t.Fatalf("%s: %v", src, notes)
	}
	return p
}

// Everything holds every block and mark once.
const Everything = `<h1>A cold room for {{company.name}}</h1>
<p>Dear {{person.first_name}},</p>
<p>this is <b>bold</b>, <i>italic</i>, <u>underlined</u>, <s>struck</s>, <mark>marked</mark>, <span color="#9c3b2c" font="Georgia" size="20">large</span>,<br>and <a href="https://fernhollow.example/?for={{person.last_name}}">a <b>link</b></a>.</p>
<ul><li><p>three degrees</p></li><li><p>quiet</p><ol start="2"><li><p>very</p></li></ol></li></ul>
<blockquote><p>It holds. – {{person.first_name}}</p></blockquote>
<img src="https://fernhollow.example/room.png" alt="A room" width="300" align="center" href="https://fernhollow.example">
<button href="https://fernhollow.example/book" align="center" color="#f0d060">Book a visit</button>
<table><tr><th><p>What</p></th><th align="right"><p>Amount</p></th></tr><tr><td><p>Room</p></td><td align="right"><p>{{deal.amount}}</p></td></tr></table>
<columns><column width="60"><p>left</p></column><column><h3>right</h3></column></columns>
<hr><spacer height="24">
{{fixed}}<p align="right">Fixed words</p>{{/fixed}}
<p></p>
<p>{{sender.signature}}</p>`
