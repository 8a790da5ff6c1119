package letter

// appendPlace writes words within an address; nothing where they are not safe.
func appendPlace(dst []byte, words string, place htmlPlace) []byte {
	if place == unsafePlace {
		return dst
	}
	return appendURL(dst, words, place, "&amp;")
}

// appendEscaped escapes the five signs, copying what is between them whole.
func appendEscaped(dst []byte, s string) []byte {
	last := 0
	for i := range len(s) {
		var with string
		switch s[i] {
		case '&':
			with = "&amp;"
		case '<':
			with = "&lt;"
		case '>':
			with = "&gt;"
		case '"':
			with = "&#34;"
		case '\'':
			with = "&#39;"
		default:
			continue
		}
		dst = append(append(dst, s[last:i]...), with...)
		last = i + 1
	}
	return append(dst, s[last:]...)
}
