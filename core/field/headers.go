package field

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

//go:embed headers.txt
var headersText string

// PlainWords gives the words of a text in small letters with one space between them,
// without signs and accents: how names of columns and companies are compared.
func PlainWords(s string) string {
	plain, _, err := transform.String(transform.Chain(norm.NFKD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), strings.ToLower(s))
	if err != nil {
		plain = strings.ToLower(s)
	}
	return strings.Join(strings.FieldsFunc(plain, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }), " ")
}

// columnPaths are the paths of the names in headers.txt; the first of two counts.
var columnPaths = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(headersText) {
		path, names, ok := strings.Cut(strings.TrimSpace(line), ": ")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		for name := range strings.SplitSeq(names, ",") {
			words := PlainWords(name)
			if _, taken := out[words]; !taken && words != "" {
				out[words] = path
			}
		}
	}
	return out
})

// partNames are names of columns that stand for a part of a name where the other part
// has a column too, and for the whole name where it has none.
var partNames = map[string]bool{
	"nom": true, "nombre": true, "nome": true, "nume": true, "ime": true, "ad": true, "adi": true, "име": true, "имя": true, "іmʼя": true, "isim": true,
	"nev": true, "nama": true, "vards": true, "vardas": true, "имʼя": true, "meno": true, "jmeno": true, "名": true, "姓": true, "tên": true,
}

// beside are words that people put before or behind the name of a field.
var beside = map[string]bool{
	"contact": true, "contacts": true, "lead": true, "person": true, "persons": true, "people": true, "primary": true, "main": true, "work": true, "business": true, "your": true,
	"customer": true, "client": true, "prospect": true, "kunde": true, "kontakt": true, "1": true, "value": true, "required": true, "optional": true,
}

// ColumnPath gives the field that a column of a file is named for, "" when nobody
// knows. Part tells that the name stands for the whole name of a person when the file
// has no column for the other part of it.
func ColumnPath(header string) (path string, part bool) {
	words := PlainWords(header)
	if path, ok := columnPaths()[words]; ok {
		return path, partNames[words]
	}
	list := strings.Fields(words)
	for len(list) > 1 && beside[list[0]] {
		list = list[1:]
	}
	for len(list) > 1 && beside[list[len(list)-1]] {
		list = list[:len(list)-1]
	}
	return columnPaths()[strings.Join(list, " ")], partNames[strings.Join(list, " ")]
}
