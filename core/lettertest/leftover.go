package lettertest

import (
	"lucidletter/core/field"
)

// ValuesWith gives the values of a contact with one field.
func ValuesWith(cat *field.Catalogue, path, text string) *field.Values {
	v := cat.NewValues()
	v.Kind = field.Contact
	v.Set(path, field.Of(text))
	return v
}
