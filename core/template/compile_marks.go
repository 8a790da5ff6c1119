package template

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
)

// lost is a step for what could not be understood: always a gap.
func lost(code string) step {
	return step{kind: fieldStep, slot: unknown, path: code, missing: document.MustBe}
}

func (c *compiler) field(n document.Node) step {
	a := n.Attrs
	s := step{kind: fieldStep, slot: unknown, path: a.Path, missing: a.Missing, fallback: a.Fallback, as: field.Form(a.As)}
	code := markup.CodeOf(n)
	if c.count++; c.count == document.MaxFields+1 {
		c.note(document.Stops, "toomany", n.At, len(code), code, fmt.Sprintf("The template has more than %d fields; split it.", document.MaxFields))
	}
	ref, ok := c.find(a.Path, n.At, code, a.Missing == document.Leave || a.Missing == document.Instead)
	if !ok {
		return s
	}
	s.slot, s.def, s.names = ref.Slot, ref.Def, ref.Names
	if !s.as.Takes(ref.Def.Type) {
		c.wrongForm(n.At, code, a.As, ref.Def)
		s.as = ""
	}
	return s
}

func (c *compiler) wrongForm(at int, code, as string, d field.Def) {
	allowed := field.FormsOf(d.Type)
	message := fmt.Sprintf("%s cannot be written as %q; leave that out.", d.Label, as)
	fixes := []string{strings.Replace(code, " as "+as, "", 1)}
	if len(allowed) > 0 {
		message = fmt.Sprintf("%s cannot be written as %q; use %s.", d.Label, as, forms(allowed))
		fixes = nil
		for _, f := range allowed {
			fixes = append(fixes, strings.Replace(code, " as "+as, " as "+string(f), 1))
		}
	}
	c.note(document.Stops, "form", at, len(code), code, message, fixes...)
}

// find looks a path up and notes the record it names; an unknown one gets a
// note with the likely fixes. A deal that the wording can do without is not needed.
func (c *compiler) find(path string, at int, code string, without bool) (field.Ref, bool) {
	ref, ok := c.cat.Find(path)
	if ok {
		without = without && (ref.Names == field.Deal || ref.Names == field.MainContact)
		if c.uses[ref.Names].path == "" && !without {
			c.uses[ref.Names] = c.use(path, at, code)
		}
		return ref, true
	}
	near := c.cat.Suggest(path, 3)
	message := fmt.Sprintf("There is no field %s; pick one from the list.", path)
	if len(near) > 0 {
		message = fmt.Sprintf("There is no field %s; did you mean %s?", path, strings.Join(near, " or "))
	}
	if record, key, dotted := strings.Cut(path, "."); dotted && c.cat.Has(field.Record(record)) {
		if others := c.cat.WithKey(key); len(others) > 0 {
			near = others
			message = fmt.Sprintf("%s does not exist on a %s; did you mean %s?", path, record, strings.Join(others, " or "))
		}
	}
	var fixes []string
	for _, p := range near {
		fixes = append(fixes, strings.ReplaceAll(code, path, p))
	}
	c.note(document.Stops, "unknown", at, len(code), code, message, fixes...)
	return ref, false
}

func (c *compiler) blank(n document.Node) step {
	a := n.Attrs
	d := c.blanks[a.Name]
	s := step{kind: blankStep, path: "?" + a.Name, blank: d}
	code := markup.CodeOf(n)
	switch {
	case a.Kind != "" && d.Kind != a.Kind:
		c.note(document.Stops, "blank", n.At, len(code), code, fmt.Sprintf("The blank %s is a %s elsewhere; give it one kind.", a.Name, d.Kind))
	case a.Path != "" && d.Kind != document.BlankColleague:
		c.note(document.Stops, "blank", n.At, len(code), code, fmt.Sprintf("The blank %s is not a colleague and has no %s.", a.Name, a.Path))
	case a.Path != "":
		s.path += "." + a.Path
		if _, ok := c.cat.Find("sender." + a.Path); !ok {
			c.note(document.Stops, "blank", n.At, len(code), code, fmt.Sprintf("A colleague has no %s; use full_name, first_name, email, phone or job_title.", a.Path))
		}
	case a.Default != "":
		if _, err := field.Parse(d.Type(), a.Default, d.Choices); err != nil {
			c.note(document.Stops, "blank", n.At, len(code), code, fmt.Sprintf("The default of %s %v.", a.Name, err))
		}
	}
	if !slices.ContainsFunc(c.p.blanks, func(b document.BlankDef) bool { return b.Name == d.Name }) {
		if d.Kind == "" {
			d.Kind = document.BlankText
		}
		c.p.blanks = append(c.p.blanks, *d)
	}
	return s
}

func (c *compiler) condition(n document.Node) *condition {
	a := n.Attrs
	open, _ := markup.PrintPair(n)
	out := &condition{slot: unknown, not: a.Not, op: a.Op, impossib: true, path: a.Path}
	ref, ok := c.find(a.Path, n.At, open, true)
	if !ok {
		return out
	}
	out.slot, out.names, out.label = ref.Slot, ref.Names, ref.Def.Label
	if strings.ContainsAny(a.Op, "<>") && !ordered(ref.Def.Type) {
		c.note(document.Stops, "condition", n.At, len(open), open, fmt.Sprintf("%s is neither a number nor an amount nor a date; compare it with =, != or in.", ref.Def.Label))
		return out
	}
	for _, l := range a.Literals {
		v, fromDay, err := compileLiteral(ref.Def, l)
		if err != nil {
			c.note(document.Stops, "condition", n.At, len(open), open, fmt.Sprintf("%s is compared with something else: %v.", ref.Def.Label, err))
			return out
		}
		out.values, out.fromDay = append(out.values, v), append(out.fromDay, fromDay)
	}
	out.impossib = false
	return out
}
