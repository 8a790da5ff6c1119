package safehtml

// AppendPlace writes words within an address; nothing where they are not safe.
func AppendPlace(dst []byte, words string, place Place) []byte {
	if place == UnsafePlace {
		return dst
	}
	return AppendURL(dst, words, place, "&amp;")
}

// AppendEscaped escapes the five signs, copying what is between them whole.
func AppendEscaped(dst []byte, s string) []byte {
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

// Escape says what values are made safe for.
type Escape uint8

// AsText writes values as they are; AsHTML escapes & < > " ' in them, which is
// safe in the text of an element and in a quoted attribute that is not an
// address (HTML standard, section 13.3 "Serializing HTML fragments",
// "escaping a string", and ' besides).
const (
	AsText Escape = iota
	AsHTML
)
