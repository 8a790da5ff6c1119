package markup

import (
	"strings"
	"testing"
)

func TestRenamed(t *testing.T) {
	d, err := ParseMarkup(`<p>{{deal.own.x as plain|-}} {{#deal.own.x > 5}}<a href="https://x.example/{{deal.own.x}}">a</a>{{/deal.own.x}} {{person.city}}</p>{{^deal.own.x}}<button href="{{deal.own.x}}">b</button>{{/deal.own.x}}`)
	if err != nil {
		t.Fatal(err)
	}
	before := Print(d)
	got := Print(Renamed(d, func(p string) string { return strings.ReplaceAll(p, "own.x", "own.volume") }))
	if want := strings.ReplaceAll(before, "own.x", "own.volume"); got != want || Print(d) != before {
		t.Errorf("%s, want %s", got, want)
	}
	if paths := strings.Join(PathsIn(d, Parse("{{person.email}} {{person.city}}")), " "); paths != "deal.own.x person.city person.email" {
		t.Error(paths)
	}
}
