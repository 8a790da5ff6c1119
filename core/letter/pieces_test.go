package letter

import (
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestTakeOut(t *testing.T) {
	gap := document.NewPlain("We come at ")
	gap.Content[0].Content = append(gap.Content[0].Content, document.Node{Type: document.GapNode, Attrs: &document.Attrs{Path: "?time", Label: "Time", Kind: "text"}}, document.Node{Type: document.Text, Text: "."})
	for _, c := range []struct {
		name               string
		letter, piece, put string
		gap                bool
		want               string
		out, left          int
	}{
		{"whole", "Dear Ada,\nOne.\n\nTwo.\nBye", "One.\n\nTwo.", "", false, "Dear Ada,\nBye", 2, 0},
		{"what was written in between stays", "One.\nMine.\nTwo.", "One.\nTwo.", "", false, "Mine.", 2, 0},
		{"what was changed stays", "One.\nTwo, really.", "One.\nTwo.", "", false, "Two, really.", 1, 1},
		{"within a line", "Dear Ada, you can park here. Bye", "you can park here.", "", false, "Dear Ada,  Bye", 1, 0},
		{"not there", "Dear Ada", "One.", "", false, "Dear Ada", 0, 1},
		{"all", "One.", "One.", "", false, "", 1, 0},
		{"a gap that was filled", "Dear Ada\nWe come at nine.\nBye", "", "", true, "Dear Ada\nBye", 1, 0},
		{"something else", "a\nOne.\n\nTwo.\nb", "One.\n\nTwo.", "Three.\nFour.", false, "a\nThree.\nFour.\nb", 2, 0},
		{"something else for what is gone", "a", "One.", "Two.", false, "a\nTwo.", 0, 1},
		{"twice: once", "One.\nOne.", "One.", "", false, "One.", 1, 0},
	} {
		piece, put := document.NewPlain(c.piece), document.Document{}
		if c.gap {
			piece = gap
		}
		if c.put != "" {
			put = document.NewPlain(c.put)
		}
		before := document.NewPlain(c.letter)
		after, out, left := TakeOut(before, piece, put)
		if got := render.RenderText(after); got != c.want || out != c.out || left != c.left {
			t.Errorf("%s: %q out %d left %d, want %q %d %d", c.name, got, out, left, c.want, c.out, c.left)
		}
		if render.RenderText(before) != c.letter {
			t.Errorf("%s: the letter was changed: %q", c.name, render.RenderText(before))
		}
		if err := document.CheckLetterForm(after); err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
	}
}

func TestTakeOut_formatted(t *testing.T) {
	parse := func(text string) document.Document {
		d, err := markup.ParseMarkup(text)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	piece := parse(`<h2>Parking</h2><ul><li><p>The <b>yard</b></p></li></ul><img src="https://a.example/yard.png">`)
	d := parse(`<p>Dear Ada</p><h2>Parking</h2><p>See:</p><ul><li><p>The <i>yard</i></p></li></ul><img src="https://a.example/yard.png"><p>Parking</p>`)
	after, out, left := TakeOut(d, piece, document.Document{})
	if got := markup.Print(after); out != 3 || left != 0 || got != markup.Print(parse(`<p>Dear Ada</p><p>See:</p><p>Parking</p>`)) {
		t.Errorf("%d %d %s", out, left, got)
	}
}
