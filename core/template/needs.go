package template

import (
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
)

// need is a field that must be there or a blank that must be filled, or such ones
// under a condition.
type need struct {
	path  string
	slot  int
	names field.Record
	blank *step
	when  *condition
	in    []need
}

// Missing gives the paths of what must be there and is not, in the order of the
// eye, without merging.
func (p *Program) Missing(v *field.Values, b Blanks) []string { return p.AppendMissing(nil, v, b) }

// AppendMissing does the same into the caller's list, which is empty before.
func (p *Program) AppendMissing(dst []string, v *field.Values, b Blanks) []string {
	return appendMissing(dst, p.needs, v, b)
}

func appendMissing(dst []string, needs []need, v *field.Values, b Blanks) []string {
	for i := range needs {
		n := &needs[i]
		switch {
		case n.when != nil:
			if n.when.undecided(v) != "" {
				if !slices.Contains(dst, n.when.path) {
					dst = append(dst, n.when.path)
				}
			} else if n.when.holds(v) {
				dst = appendMissing(dst, n.in, v, b)
			}
			continue
		case n.blank != nil:
			if _, filled := n.blank.blankValue(b); filled {
				continue
			}
		case n.slot >= 0 && v.Serves(n.names):
			if words, _ := v.Ready(n.slot); words != "" {
				continue
			}
			if value := v.At(n.slot); value.Filled() || value.Type == field.YesNo {
				continue
			}
		}
		if !slices.Contains(dst, n.path) {
			dst = append(dst, n.path)
		}
	}
	return dst
}

// needs collects what a template needs. What is needed in any case is there once.
type needs struct {
	list   []need
	always []string
	under  int // conditions
}

func needsOf(p *Program) []need {
	var n needs
	n.blocks(p.subject)
	n.blocks(p.body)
	n.tree(p.tree)
	n.blocks(p.text)
	return n.list
}

func (n *needs) add(one need) {
	if slices.Contains(n.always, one.path) {
		return
	}
	if n.under == 0 {
		n.always = append(n.always, one.path)
	}
	n.list = append(n.list, one)
}

// only collects what is needed under a condition.
func (n *needs) only(when *condition, collect func()) {
	outer := n.list
	n.list = nil
	n.under++
	collect()
	n.under--
	// One that compares amounts may turn out not to be decided.
	if len(n.list) > 0 || strings.ContainsAny(when.op, "<>") {
		outer = append(outer, need{when: when, in: n.list})
	}
	n.list = outer
}

func (n *needs) blocks(blocks []block) {
	for i := range blocks {
		if b := &blocks[i]; b.when != nil {
			n.only(b.when, func() { n.blocks(b.in) })
		} else {
			n.steps(b.row.steps)
		}
	}
}

func (n *needs) tree(blocks []treeBlock) {
	for i := range blocks {
		b := &blocks[i]
		inside := func() {
			n.address(b.href)
			n.address(b.src)
			n.steps(b.row.steps)
			n.tree(b.in)
		}
		if b.when != nil {
			n.only(b.when, inside)
		} else {
			inside()
		}
	}
}

func (n *needs) address(a *address) {
	if a != nil {
		n.steps(a.steps)
	}
}

func (n *needs) steps(steps []step) {
	for i := range steps {
		s := &steps[i]
		n.address(s.link)
		switch {
		case s.kind == whenStep:
			n.only(s.when, func() { n.steps(s.in) })
		case s.kind == fieldStep && s.missing == document.MustBe:
			n.add(need{path: s.path, slot: s.slot, names: s.names})
		case s.kind == blankStep && !s.blank.Optional:
			n.add(need{path: s.path, blank: s})
		}
	}
}
