package letter

import (
	"fmt"

	"lucidletter/core/field"
)

// fits works out the kinds of record from the records that the paths name.
func (c *compiler) fits() []field.Record {
	lead, contact, deal := c.uses[field.Lead], c.uses[field.Contact], c.deal()
	switch {
	case lead != "" && contact != "":
		c.kinds(lead, contact)
		return nil
	case lead != "" && deal != "":
		c.kinds(lead, deal)
		return nil
	case lead != "":
		return []field.Record{field.Lead}
	case deal != "":
		return []field.Record{field.Deal, field.Contact}
	case contact != "":
		return []field.Record{field.Contact, field.Deal}
	}
	return []field.Record{field.Lead, field.Contact, field.Deal}
}

// deal gives the first path that needs a deal, or "".
func (c *compiler) deal() string {
	if path := c.uses[field.Deal]; path != "" {
		return path
	}
	return c.uses[field.MainContact]
}

func (c *compiler) kinds(a, b string) {
	c.notes = append(c.notes, Note{
		Severity: Stops, Code: "kinds", Part: Body, Line: 1, Column: 1, Text: b,
		Message: fmt.Sprintf("No record can fill this template: %s needs a lead, %s does not exist on one. Use person.… for fields that both have.", a, b),
	})
}
