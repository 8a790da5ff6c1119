package field

import "strings"

// AppendRelative writes a date as a distance from today: "in 3 days", "yesterday".
func (r *Reader) AppendRelative(dst []byte, v, today Value) []byte {
	if v.Type != Date || today.Type != Date {
		return r.Append(dst, v, "")
	}
	n := v.Units - today.Units
	words := &r.words.Relative
	if near, ok := words.Near[n]; ok {
		return append(dst, near...)
	}
	patterns := words.Future
	if n < 0 {
		patterns, n = words.Past, -n
	}
	// The plural category of a number of days follows from its last two digits.
	at := n
	if n >= int64(len(words.Kinds)) {
		at = 100 + n%100
	}
	pattern, ok := patterns[words.Kinds[at:at+1]]
	if !ok {
		pattern = patterns["o"]
	}
	return append(dst, strings.Replace(pattern, "{0}", string(r.words.appendNumber(nil, n, 0)), 1)...)
}
