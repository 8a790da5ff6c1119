package query

import (
	"strings"
	"unicode"
)

// NotWord tells of a sign that parts words.
func NotWord(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }

// Match turns typed words into a full-text query: every word must begin a word
// of the record. Nothing of what was typed is read as an operator.
func Match(search string) string {
	var terms []string
	for _, w := range strings.FieldsFunc(search, NotWord) {
		terms = append(terms, `"`+w+`"*`)
	}
	return strings.Join(terms, " AND ")
}

// Wordless tells of a search that holds no word: it finds nobody.
func Wordless(search string) bool {
	return strings.TrimSpace(search) != "" && strings.IndexFunc(search, func(r rune) bool { return !NotWord(r) }) < 0
}
