package interchange

import (
	"bytes"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/html/charset"
	"golang.org/x/text/encoding/unicode"
)

// DecodePage reads the bytes of a page, or of a text, as the HTML Standard says (section 13.2.3.2,
// "Determining the character encoding"): by its byte order mark, then by what its first 1024 bytes
// declare, else UTF-8 where that is what they are, and windows-1252 where they are not. Word
// processors also write UTF-16 without a mark, which is told by its zeros. What cannot be read
// becomes U+FFFD.
func DecodePage(src []byte) string {
	if order, ok := unmarkedUTF16(src); ok {
		if out, err := unicode.UTF16(order, unicode.IgnoreBOM).NewDecoder().Bytes(src); err == nil {
			return string(out)
		}
	}
	enc, _, certain := charset.DetermineEncoding(src, "")
	if !certain && utf8.Valid(src) { // it looks no further than its first bytes
		return strings.TrimPrefix(string(src), "\uFEFF")
	}
	out, err := enc.NewDecoder().Bytes(src)
	if err != nil {
		out = src
	}
	return strings.TrimPrefix(strings.ToValidUTF8(string(out), "\uFFFD"), "\uFEFF")
}

// unmarkedUTF16 tells UTF-16 by its zeros: of the markup of a page every other byte is one.
func unmarkedUTF16(src []byte) (unicode.Endianness, bool) {
	head := src[:min(len(src), 256)&^1]
	if len(head) < 8 || bytes.HasPrefix(head, []byte{0xFF, 0xFE}) || bytes.HasPrefix(head, []byte{0xFE, 0xFF}) {
		return unicode.LittleEndian, false
	}
	var even, odd int
	for i, b := range head {
		if b != 0 {
			continue
		}
		if i%2 == 0 {
			even++
		} else {
			odd++
		}
	}
	switch half := len(head) / 2; {
	case odd > half*3/4 && even == 0:
		return unicode.LittleEndian, true
	case even > half*3/4 && odd == 0:
		return unicode.BigEndian, true
	}
	return unicode.LittleEndian, false
}
