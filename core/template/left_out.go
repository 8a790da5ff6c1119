package template

import (
	"slices"
	"strings"

	"lucidletter/core/document"
)

// marked puts the mark LeftOut on the word before each place where something was left out,
// or on the word behind it at the start of a line, so that the letter can be asked whether
// what stands around still reads. Merged words and gaps get none.
func (t *tidier) marked() []Piece {
	out := t.out
	for i := len(t.places) - 1; i >= 0; i-- {
		out = markPlace(out, t.places[i])
	}
	return out
}

func markPlace(out []Piece, at leftPlace) []Piece {
	offset := 0
	before := -1 // the piece with the last word before the place
	end := 0     // of that word, within its piece
	for i := range out {
		p := &out[i]
		if p.raw {
			continue
		}
		if offset >= at.at {
			break
		}
		words := p.Text[:min(len(p.Text), at.at-offset)]
		if p.Gap != nil || p.Path != "" || strings.TrimSpace(words) != "" {
			before, end = i, len(strings.TrimRight(words, " \t\n"))
		}
		offset += len(p.Text)
	}
	place := document.BehindWord
	if at.what.passage {
		place = document.BehindPassage
	}
	if before >= 0 {
		p := out[before]
		if p.Gap != nil || p.Path != "" {
			return out
		}
		return splitMarked(out, before, strings.LastIndexAny(p.Text[:end], " \t\n")+1, end, at.what.gone, place)
	}
	return markBehind(out, at)
}

// markBehind marks the first word behind a place at the start of a line.
func markBehind(out []Piece, at leftPlace) []Piece {
	offset := 0
	for i := range out {
		p := &out[i]
		if p.raw {
			continue
		}
		from := max(0, at.at-offset)
		offset += len(p.Text)
		if p.Gap != nil || p.Path != "" {
			return out
		}
		if from >= len(p.Text) || strings.TrimSpace(p.Text[from:]) == "" {
			continue
		}
		from = len(p.Text) - len(strings.TrimLeft(p.Text[from:], " \t\n"))
		to := strings.IndexAny(p.Text[from:], " \t\n")
		if to < 0 {
			to = len(p.Text) - from
		}
		return splitMarked(out, i, from, from+to, at.what.gone, document.BeforeWord)
	}
	return out
}

func splitMarked(out []Piece, i, from, to int, path, place string) []Piece {
	p := out[i]
	if from >= to || slices.ContainsFunc(p.Marks, func(m document.Mark) bool { return m.Type == document.LeftOut && from == 0 && to == len(p.Text) }) {
		return out
	}
	var parts []Piece
	part := func(text string, marks []document.Mark) {
		if text != "" {
			one := p
			one.Text, one.Marks = text, marks
			parts = append(parts, one)
		}
	}
	part(p.Text[:from], p.Marks)
	part(p.Text[from:to], append(p.Marks[:len(p.Marks):len(p.Marks)], document.Mark{Type: document.LeftOut, Attrs: &document.MarkAttrs{Path: path, Place: place}}))
	part(p.Text[to:], p.Marks)
	return slices.Replace(out, i, i+1, parts...)
}
