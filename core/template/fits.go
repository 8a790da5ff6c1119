package template

import (
	"fmt"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
)

// use is the first place where a path names a record.
type use struct {
	path string
	note document.Note // about this place, without its words
}

func (c *compiler) use(path string, at int, code string) use {
	before := c.notes
	c.notes = nil
	c.note(document.Stops, "kinds", at, len(code), code, "")
	n := c.notes[0]
	c.notes = before
	return use{path, n}
}

// fits works out the kinds of record from the records that the paths name.
func (c *compiler) fits() []field.Record {
	lead, contact, deal := c.uses[field.Lead], c.uses[field.Contact], c.deal()
	switch {
	case lead.path != "" && contact.path != "":
		c.kinds(lead, field.Contact, contact.path)
		return nil
	case lead.path != "" && deal.path != "":
		c.kinds(lead, field.Deal, deal.path)
		return nil
	case lead.path != "":
		return []field.Record{field.Lead}
	case deal.path != "":
		return []field.Record{field.Deal, field.Contact}
	case contact.path != "":
		return []field.Record{field.Contact, field.Deal}
	}
	return []field.Record{field.Lead, field.Contact, field.Deal}
}

// deal gives the first path that needs a deal, or none.
func (c *compiler) deal() use {
	if u := c.uses[field.Deal]; u.path != "" {
		return u
	}
	return c.uses[field.MainContact]
}

// alike are fields of a lead and what comes nearest on another record.
var alike = map[string]map[field.Record]string{
	"status":       {field.Deal: "deal.stage"},
	"created":      {field.Deal: "deal.created", field.Contact: "contact.since"},
	"company_name": {field.Deal: "company.name", field.Contact: "company.name"},
}

// kinds notes a field of a lead in a template that another field makes one for a
// contact or a deal.
func (c *compiler) kinds(lead use, other field.Record, path string) {
	key := strings.TrimPrefix(lead.path, "lead.")
	better := alike[key][other]
	if _, both := c.cat.Find("person." + key); better == "" && both {
		better = "person." + key
	}
	n := lead.note
	n.Message = fmt.Sprintf("No record can fill this template: %s does not exist on a %s, and %s needs one", lead.path, other, path)
	if better == "" {
		n.Message += ". Take one of the two out."
	} else {
		n.Message += fmt.Sprintf("; did you mean %s?", better)
		n.Fixes = []string{strings.ReplaceAll(n.Text, lead.path, better)}
	}
	c.notes = append(c.notes, n)
}
