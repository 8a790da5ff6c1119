package interchange

import (
	"testing"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/unicode"
)

// Pages in the encodings that word processors and outside editors write; the encoders are those of
// golang.org/x/text.
func TestDecodePage(t *testing.T) {
	const greeting = "<p>Viele Grüße aus Köln – „bald“ für 12 €</p>"
	encoded := func(e encoding.Encoding, s string) []byte {
		t.Helper()
		out, err := e.NewEncoder().Bytes([]byte(s))
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	meta := func(name string) string {
		return `<html><head><meta http-equiv=Content-Type content="text/html; charset=` + name + `"></head><body>` + greeting + "</body></html>"
	}
	for name, row := range map[string]struct {
		src  []byte
		want string
	}{
		"UTF-8":                                {[]byte(greeting), greeting},
		"UTF-8 with its mark":                  {[]byte("\uFEFF" + greeting), greeting},
		"UTF-8 far behind the first bytes":     {[]byte("<p>" + longASCII + greeting), "<p>" + longASCII + greeting},
		"windows-1252, declared":               {encoded(charmap.Windows1252, meta("windows-1252")), meta("windows-1252")},
		"windows-1252, not declared":           {encoded(charmap.Windows1252, greeting), greeting},
		"windows-1250, declared":               {encoded(charmap.Windows1250, `<meta charset="windows-1250"><p>Děkuji, příště</p>`), `<meta charset="windows-1250"><p>Děkuji, příště</p>`},
		"ISO-8859-1, which means windows-1252": {encoded(charmap.Windows1252, meta("iso-8859-1")), meta("iso-8859-1")},
		"UTF-16 with its mark":                 {encoded(unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), greeting), greeting},
		"UTF-16, big end first":                {encoded(unicode.UTF16(unicode.BigEndian, unicode.UseBOM), greeting), greeting},
		"UTF-16 without a mark":                {encoded(unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), greeting), greeting},
		"UTF-16 that says it is UTF-8":         {encoded(unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), meta("utf-8")), meta("utf-8")},
		"Shift_JIS, declared":                  {encoded(japanese.ShiftJIS, `<meta charset=shift_jis><p>冷蔵室</p>`), `<meta charset=shift_jis><p>冷蔵室</p>`},
		"nothing":                              {nil, ""},
	} {
		t.Run(name, func(t *testing.T) {
			if got := DecodePage(row.src); got != row.want {
				t.Errorf("got  %q\nwant %q", got, row.want)
			}
		})
	}
}

var longASCII = func() string {
	out := make([]byte, 3000)
	for i := range out {
		out[i] = 'x'
	}
	return string(out)
}()
