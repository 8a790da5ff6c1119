package document

import (
	"strings"

	"lucidletter/core/field"
)

// BlankDef is one blank that the writer fills, however often it stands.
type BlankDef struct {
	Name     string
	Kind     string
	Optional bool
	Hint     string
	Default  string
	Choices  []string
}

// Type is the type of field that checks the blank's values.
func (d *BlankDef) Type() field.Type {
	switch d.Kind {
	case BlankLong:
		return field.Long
	case BlankChoice:
		return field.Choice
	case BlankDate:
		return field.Date
	case BlankNumber:
		return field.Number
	}
	return field.Text
}

// Label is the name in words.
func (d *BlankDef) Label() string {
	s := strings.NewReplacer("_", " ", "-", " ").Replace(d.Name)
	return strings.ToUpper(s[:1]) + s[1:]
}

// The kinds of blanks, in the words of the text form.
const (
	BlankText      = "text"
	BlankLong      = "long"
	BlankChoice    = "choice"
	BlankDate      = "date"
	BlankNumber    = "number"
	BlankFile      = "file"
	BlankColleague = "colleague"
)
