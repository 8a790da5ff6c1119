package safehtml

import (
	"fmt"
	"strings"

	"lucidletter/core/markup"
)

// WrongAddress says why an address as it stands cannot be followed, or "".
func WrongAddress(s string) string {
	switch {
	case strings.HasPrefix(s, "https://") && !hasSpace(s), markup.PictureKey(s) != "":
		return ""
	case !safeScheme(strings.TrimSpace(s)):
		return fmt.Sprintf("%q is not an address that may be followed; begin it with https, http, mailto or tel.", markup.Clip(s, 60))
	case hasSpace(s):
		return fmt.Sprintf("%q has a space in it; write it as %%20.", markup.Clip(s, 60))
	}
	return ""
}

// UnfinishedAddress says what an address that may be followed lacks to lead
// somewhere, or "".
func UnfinishedAddress(s string) string {
	switch scheme, rest, ok := strings.Cut(s, ":"); {
	case WrongAddress(s) != "":
		return ""
	case !ok:
		return fmt.Sprintf("%q is not a whole address; begin it with https://, mailto: or tel:.", markup.Clip(s, 60))
	case strings.Trim(rest, "/") == "":
		return fmt.Sprintf("A link or picture leads nowhere yet; write its address behind %s:.", scheme)
	}
	return ""
}

func hasSpace(s string) bool {
	for i := range len(s) {
		if s[i] <= ' ' {
			return true
		}
	}
	return false
}

// MayFollow looks at an address again before it goes out: a letter may have come
// back from a browser changed.
func MayFollow(href string) bool { return WrongAddress(href) == "" && href != "" }
