package markup

import (
	"regexp"
)

// KeyForm is the address of a picture that travels with a letter (RFC 2392).
var KeyForm = regexp.MustCompile(`\bcid:[0-9a-f]{64}\b`)

// PictureKey gives the key of an address cid:… of a picture, or "".
func PictureKey(address string) string {
	if len(address) == len("cid:")+64 && KeyForm.MatchString(address) {
		return address[len("cid:"):]
	}
	return ""
}
