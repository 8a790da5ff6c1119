package document

import "encoding/json"

// Equal reports whether two documents are the same, looks and all.
func Equal(x, y Document) bool {
	a, err := json.Marshal(x)
	b, other := json.Marshal(y)
	return err == nil && other == nil && string(a) == string(b)
}
