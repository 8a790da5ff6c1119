// Package preflight tells before anything is written how a template would fare:
// how many records it can be sent to without a gap, which values are missing
// how often, and which record is the hardest case.
package preflight

import (
	"slices"

	"lucidletter/core/field"
	"lucidletter/core/safehtml"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
)

// MaxListed is how many records with gaps a Reach names.
const MaxListed = 200

// Reach counts records for a template. The zero value, with Program set, is
// ready; its memory does not grow with the records.
type Reach struct {
	Program *template.Program

	Records  int // that were looked at
	Complete int // of these, without a gap
	Unfit    int // of a kind that the template cannot serve, or without a deal
	NoDeal   int // of the unfit, those that a deal would make fit
	listed   []Record
	missing  []Missing
	gaps     []string // of the record being looked at
}

// Record is one that has gaps, and which.
type Record struct {
	ID      int64
	Missing []string
}

// Missing counts the records that lack a field.
type Missing struct {
	Path  string
	Count int
}

// english writes values where only their being there counts.
var english = field.NewReader("en")

// Add looks at one record. HasDeal tells whether a deal was chosen for it.
// Blanks count as filled: the writer fills them for each letter.
func (r *Reach) Add(id int64, v *field.Values, hasDeal bool) {
	r.Records++
	if !Serves(r.Program, v.Kind, hasDeal) {
		r.Unfit++
		if !hasDeal && Serves(r.Program, v.Kind, true) {
			r.NoDeal++
		}
		return
	}
	r.gaps = slices.DeleteFunc(sentence.AppendBroken(r.Program.AppendMissing(r.gaps[:0], v, nil), r.Program, v, nil, english), func(path string) bool { return path[0] == '?' })
	gaps := r.gaps
	if len(gaps) == 0 {
		r.Complete++
		return
	}
	for _, path := range gaps {
		k := slices.IndexFunc(r.missing, func(m Missing) bool { return m.Path == path })
		if k < 0 {
			r.missing = append(r.missing, Missing{path, 0})
			k = len(r.missing) - 1
		}
		r.missing[k].Count++
	}
	if len(r.listed) < MaxListed {
		r.listed = append(r.listed, Record{id, slices.Clone(gaps)})
	}
}

// MissingFields gives the fields that are missing, the most frequent first.
func (r *Reach) MissingFields() []Missing {
	out := slices.Clone(r.missing)
	slices.SortStableFunc(out, func(a, b Missing) int { return b.Count - a.Count })
	return out
}

// WithGaps gives the first MaxListed records that have gaps, in the order in
// which they came.
func (r *Reach) WithGaps() []Record { return r.listed }

// Serves tells whether a program can be merged for a kind of person.
func Serves(p *template.Program, kind field.Record, hasDeal bool) bool {
	if p.NeedsDeal() {
		return hasDeal && len(p.Fits()) > 0
	}
	return slices.Contains(p.Fits(), kind)
}

// Hardest keeps the record that tries a template most: the most gaps, then the
// longest letter. The zero value is ready.
type Hardest struct {
	ID    int64
	gaps  int
	size  int
	found bool
	buf   []byte
}

// Add looks at one record that the program serves.
func (h *Hardest) Add(id int64, p *template.Program, v *field.Values, r *field.Reader) {
	var gaps int
	h.buf, gaps = p.AppendBody(h.buf[:0], v, nil, r, safehtml.AsText)
	if h.found && (gaps < h.gaps || gaps == h.gaps && len(h.buf) <= h.size) {
		return
	}
	h.ID, h.gaps, h.size, h.found = id, gaps, len(h.buf), true
}

// Found tells whether there was any record.
func (h *Hardest) Found() bool { return h.found }
