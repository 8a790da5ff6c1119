package template

import (
	"lucidletter/core/safehtml"
)

// htmlPlaces works out the place of every value of an HTML template, and parts
// its words into tags and what stands between them.
func (c *compiler) htmlPlaces(steps []step, s *safehtml.Tokenizer, notes func(step, string)) []step {
	out := make([]step, 0, len(steps))
	for i := range steps {
		st := steps[i]
		switch st.kind {
		case wordsStep:
			for _, w := range s.Parts(st.words) {
				part := st
				part.words, part.markup, part.wall = w.Words, w.Markup, w.Wall
				out = append(out, part)
			}
			continue
		case breakStep:
			s.Words("\n")
		case whenStep:
			inside := s.Clone()
			st.in = c.htmlPlaces(st.in, &inside, notes)
			if !inside.Same(s) {
				notes(st, "begins and ends at different places of the page; put it around whole elements")
			}
		default:
			if st.place = s.Place(); st.place == safehtml.UnsafePlace {
				notes(st, "stands where it cannot be made safe; put it into text, or into an attribute with quotes")
			}
		}
		out = append(out, st)
	}
	return out
}
