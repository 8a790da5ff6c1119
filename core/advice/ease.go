package advice

import (
	"strings"
	"unicode"

	"github.com/rivo/uniseg"
)

// Measures are the counts that a readability formula is made of.
type Measures struct{ Words, Sentences, Syllables int }

// Ease is the Flesch Reading Ease: about 0 (hardest) to 100 (easiest), English
// only. Source: R. Flesch, "A new readability yardstick", Journal of Applied
// Psychology 32 (1948), 221–233.
func (m Measures) Ease() float64 {
	if m.Words == 0 || m.Sentences == 0 {
		return 0
	}
	return 206.835 - 1.015*float64(m.Words)/float64(m.Sentences) - 84.6*float64(m.Syllables)/float64(m.Words)
}

// EaseWords names a reading ease as Flesch's table does (the same article; R.
// Flesch, "How to Write Plain English", chapter 2, from memory).
func EaseWords(ease float64) string {
	switch {
	case ease >= 90:
		return "very easy"
	case ease >= 80:
		return "easy"
	case ease >= 70:
		return "fairly easy"
	case ease >= 60:
		return "plain English"
	case ease >= 50:
		return "fairly difficult"
	case ease >= 30:
		return "difficult"
	}
	return "very difficult"
}

// Measure counts words, sentences and syllables. Words and sentences are those of
// Unicode Standard Annex 29; a line end ends a sentence too.
func Measure(text string) Measures {
	var m Measures
	for _, s := range sentences(text) {
		words := wordsOf(s)
		if len(words) == 0 {
			continue
		}
		m.Sentences++
		m.Words += len(words)
		for _, w := range words {
			m.Syllables += Syllables(w)
		}
	}
	return m
}

// sentences cuts a text at its sentences and line ends. A web address is one word.
func sentences(text string) []string {
	var out []string
	text = address.ReplaceAllString(text, "link")
	for l := range strings.Lines(text) {
		for state := -1; l != ""; {
			var s string
			s, l, state = uniseg.FirstSentenceInString(l, state)
			out = append(out, strings.TrimSpace(s))
		}
	}
	return out
}

// wordsOf gives what of a text has a letter or a digit in it.
func wordsOf(text string) []string {
	var out []string
	for state := -1; text != ""; {
		var w string
		w, text, state = uniseg.FirstWordInString(text, state)
		if strings.IndexFunc(w, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) >= 0 {
			out = append(out, w)
		}
	}
	return out
}

func isVowel(b byte) bool { return strings.IndexByte("aeiouy", b) >= 0 }

// Syllables counts the syllables of an English word by Flesch's short rule: each
// group of vowels is one; -es, -ed and -e at the end are none, but -le is; words of
// up to three letters have one ("How to Write Plain English", chapter 2, from
// memory). Besides, -ing behind a vowel, and -ed behind d or t, are heard.
func Syllables(word string) int {
	w := strings.Map(func(r rune) rune {
		if r = unicode.ToLower(r); r < 'a' || r > 'z' {
			return -1
		}
		return r
	}, word)
	if len(w) <= 3 {
		return 1
	}
	n := 0
	stem := w
	switch {
	case strings.HasSuffix(w, "ing") && isVowel(w[len(w)-4]):
		stem, n = w[:len(w)-3], 1
	case strings.HasSuffix(w, "ted"), strings.HasSuffix(w, "ded"), strings.HasSuffix(w, "le") && !isVowel(w[len(w)-3]):
	case strings.HasSuffix(w, "es"), strings.HasSuffix(w, "ed"):
		stem = w[:len(w)-2]
	case strings.HasSuffix(w, "e"):
		stem = w[:len(w)-1]
	}
	for i := range len(stem) {
		if isVowel(stem[i]) && (i == 0 || !isVowel(stem[i-1])) {
			n++
		}
	}
	return max(n, 1)
}
