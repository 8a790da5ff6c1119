package compose

import (
	"fmt"

	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// keyPaths are the values that a letter must not go wrong about: name, address and company.
var keyPaths = []string{"person.first_name", "person.last_name", "person.email", "company.name"}

// KeyValues gives them as they are.
func KeyValues(set *library.Setting) domain.Own {
	out := domain.Own{}
	for _, path := range keyPaths {
		if v := set.Values.Get(path); v.Filled() {
			out[path] = v.String()
		}
	}
	return out
}

// KeyNews says what of them is another one than it was when a plan began, or "".
func KeyNews(cat *field.Catalogue, was domain.Own, set *library.Setting) string {
	now := KeyValues(set)
	for _, path := range keyPaths {
		if was[path] != now[path] {
			return fmt.Sprintf("%s was “%s” when the plan began and is “%s” now", cat.Name(path), was[path], now[path])
		}
	}
	return ""
}
