package files

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime/quotedprintable"
	"regexp"
	"strings"
	"unicode/utf8"

	"github.com/emersion/go-vcard"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"

	"lucidletter/internal/app/transfer"
)

// MaxCards is the size of a file of vCards, in bytes.
const MaxCards = 20 << 20

// cardColumns are the fields that a card is read into.
var cardColumns = []string{
	"person.honorific", "person.first_name", "person.last_name", "person.email", "person.phone", "person.job_title", "company.name",
	"person.city", "person.country", "person.language", "person.time_zone",
}

// IsVCard tells whether a file holds vCards, by its beginning.
func IsVCard(start []byte) bool {
	start = bytes.TrimLeft(bytes.TrimPrefix(start, []byte("\xEF\xBB\xBF")), "\r\n\t ")
	return len(start) >= len("BEGIN:VCARD") && strings.EqualFold(string(start[:len("BEGIN:VCARD")]), "BEGIN:VCARD")
}

// OpenVCard reads vCards of version 2.1, 3.0 (RFC 2426) and 4.0 (RFC 6350) as a table of
// people; of several addresses or numbers the preferred one. Pictures and what no field is
// for are left out. A card that cannot be read is a row with its reason.
func OpenVCard(r io.Reader) (transfer.Table, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxCards+1))
	if err != nil {
		return transfer.Table{}, fmt.Errorf("read the file: %w", err)
	}
	if len(raw) > MaxCards {
		return transfer.Table{}, problem("file", "is larger than 20 MiB; split it")
	}
	return transfer.Table{Header: cardColumns, Rows: func(yield func(transfer.TableRow, error) bool) {
		line := 1
		for _, card := range cardsOf(raw) {
			row := transfer.TableRow{Line: line}
			row.Cells, row.Err = readCard(card)
			if line += bytes.Count(card, []byte("\n")); !yield(row, nil) {
				return
			}
		}
	}}, nil
}

var cardStart = regexp.MustCompile(`(?im)^BEGIN:VCARD[ \t]*\r?$`)

// cardsOf cuts a file where cards begin.
func cardsOf(raw []byte) [][]byte {
	raw = bytes.TrimPrefix(raw, []byte("\xEF\xBB\xBF"))
	var out [][]byte
	at := cardStart.FindAllIndex(raw, -1)
	for i, from := range at {
		to := len(raw)
		if i+1 < len(at) {
			to = at[i+1][0]
		}
		out = append(out, raw[from[0]:to])
	}
	return out
}

func readCard(raw []byte) ([]string, error) {
	empty := make([]string, len(cardColumns))
	if !utf8.Valid(raw) {
		decoded, err := charmap.Windows1252.NewDecoder().Bytes(raw)
		if err != nil {
			return empty, problem("card", "is in an encoding that cannot be read; save it as UTF-8")
		}
		raw = decoded
	}
	c, err := vcard.NewDecoder(bytes.NewReader(modern(raw))).Decode()
	if err != nil && !errors.Is(err, io.EOF) {
		return empty, problem("card", "is not closed by END:VCARD; it may have been cut off")
	}
	name := parts(c.PreferredValue(vcard.FieldName), 5)
	address := parts(c.PreferredValue(vcard.FieldAddress), 7)
	first, last := name[1], name[0]
	if first == "" && last == "" { // FN alone, as it must stand in every card (RFC 6350 section 6.2.1)
		whole := strings.Fields(c.PreferredValue(vcard.FieldFormattedName))
		if n := len(whole); n > 0 {
			first, last = strings.Join(whole[:n-1], " "), whole[n-1]
		}
	}
	number, _, _ := strings.Cut(strings.TrimPrefix(c.PreferredValue(vcard.FieldTelephone), "tel:"), ";")
	return []string{
		name[3], first, last, oneLine(strings.TrimPrefix(c.PreferredValue(vcard.FieldEmail), "mailto:")), oneLine(number), oneLine(c.PreferredValue(vcard.FieldTitle)),
		parts(c.PreferredValue(vcard.FieldOrganization), 1)[0], address[3], address[6], oneLine(c.PreferredValue(vcard.FieldLanguage)), zone(c.PreferredValue(vcard.FieldTimezone)),
	}, nil
}

// zone is a time zone by its name; those by their distance have no place.
func zone(s string) string {
	if strings.Contains(s, "/") {
		return oneLine(s)
	}
	return ""
}

// parts gives the first n parts of a value of several (RFC 6350 section 3.3).
func parts(value string, n int) []string {
	out := make([]string, n)
	rest := strings.ReplaceAll(value, `\;`, "\x00")
	for i, part := range strings.Split(rest, ";") {
		if i < n {
			out[i] = oneLine(strings.ReplaceAll(part, "\x00", ";"))
		}
	}
	return out
}

// bare are the parameters of version 2.1 that stand without a name.
var bare = map[string]string{"QUOTED-PRINTABLE": "ENCODING", "BASE64": "ENCODING", "8BIT": "ENCODING", "7BIT": "ENCODING"}

// maxCardLine is how long a line of a card may be, with what it goes on in: longer ones hold
// pictures and keys.
const maxCardLine = 64 << 10

// cardLines gives the lines of a card, each with those that it goes on in (RFC 6350, section
// 3.2), in a time that grows with its length.
type cardLines struct{ rest []byte }

func (c *cardLines) raw() (string, bool) {
	if len(c.rest) == 0 {
		return "", false
	}
	line, rest, _ := bytes.Cut(c.rest, []byte("\n"))
	c.rest = rest
	return strings.TrimRight(string(line), "\r"), true
}

func (c *cardLines) next() (string, bool) {
	line, more := c.raw()
	if !more || len(c.rest) == 0 || c.rest[0] != ' ' && c.rest[0] != '\t' {
		return line, more
	}
	var whole strings.Builder
	whole.WriteString(line)
	for len(c.rest) > 0 && (c.rest[0] == ' ' || c.rest[0] == '\t') {
		next, _ := c.raw()
		whole.WriteString(next[1:])
	}
	return whole.String(), true
}

// softened joins a quoted-printable value over its soft line breaks.
func (c *cardLines) softened(value string) string {
	if !strings.HasSuffix(value, "=") {
		return value
	}
	var whole strings.Builder
	for strings.HasSuffix(value, "=") {
		whole.WriteString(value[:len(value)-1])
		next, more := c.raw()
		if value = strings.TrimLeft(next, " \t"); !more {
			break
		}
	}
	whole.WriteString(value)
	return whole.String()
}

// modern writes the lines of a card of version 2.1 as later ones do: parameters with their
// names, and what is quoted-printable in UTF-8. Lines of later versions stay as they are.
func modern(raw []byte) []byte {
	var out bytes.Buffer
	in := cardLines{rest: raw}
	for line, more := in.next(); more; line, more = in.next() {
		head, value, ok := cutValue(line)
		if len(line) > maxCardLine {
			continue // no value of a person is so long
		}
		if !ok || !strings.Contains(head, ";") {
			out.WriteString(line + "\r\n")
			continue
		}
		names := strings.Split(head, ";")
		charset, quoted := "utf-8", false
		kept := names[:1]
		for _, p := range names[1:] {
			key, v, named := strings.Cut(p, "=")
			if !named {
				v, key = p, "TYPE"
				if of := bare[strings.ToUpper(p)]; of != "" {
					key = of
				}
			}
			switch strings.ToUpper(key) {
			case "CHARSET":
				charset = v
			case "ENCODING":
				quoted = quoted || strings.EqualFold(v, "QUOTED-PRINTABLE")
			default:
				kept = append(kept, key+"="+v)
			}
		}
		if quoted {
			if value = in.softened(value); len(value) > maxCardLine {
				continue
			}
			value = unquote(value, charset)
		}
		out.WriteString(strings.Join(kept, ";") + ":" + value + "\r\n")
	}
	return out.Bytes()
}

// cutValue cuts a line at the colon behind its parameters, which may hold colons in quotes.
func cutValue(line string) (head, value string, ok bool) {
	quoted := false
	for i, r := range line {
		switch {
		case r == '"':
			quoted = !quoted
		case r == ':' && !quoted:
			return line[:i], line[i+1:], true
		}
	}
	return line, "", false
}

func unquote(value, charset string) string {
	raw, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(value)))
	if err != nil {
		return value
	}
	if enc, err := htmlindex.Get(charset); err == nil && !utf8.Valid(raw) {
		if decoded, err := enc.NewDecoder().Bytes(raw); err == nil {
			raw = decoded
		}
	}
	return strings.NewReplacer("\r\n", `\n`, "\n", `\n`).Replace(string(raw))
}

// OpenPeople reads a file of people, whichever kind it is.
func OpenPeople(r io.Reader) (transfer.Table, error) {
	in := bufio.NewReaderSize(r, peek)
	start, err := in.Peek(64)
	if err != nil && !errors.Is(err, io.EOF) {
		return transfer.Table{}, fmt.Errorf("read the file: %w", err)
	}
	if IsVCard(start) {
		return OpenVCard(in)
	}
	return OpenCSV(in)
}
