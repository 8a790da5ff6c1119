// Package files reads the files that people bring. CSV follows RFC 4180:
// section 2 rules 1 to 7 (records by line, header, commas, quotes, doubled
// quotes). Departures: LF alone ends a line too; semicolon or tab may separate,
// found from the header line; a UTF-8 byte order mark is skipped; UTF-16 with its mark and
// Windows-1252 are read, too; an apostrophe before what a spreadsheet would run is left out, as
// this program writes it; every row
// must have as many cells as the header (rule 4), besides empty ones at its end.
//
// Limits: 100 MiB a file, 200 columns, 1 MiB a row.
package files

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"lucidletter/core/field"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
)

// Limits of an import file.
const (
	MaxFile    = 100 << 20
	maxColumns = 200
	maxRow     = 1 << 20
	peek       = 64 << 10
)

// OpenCSV reads the header and gives the rows as they are asked for; the file
// is never held in memory. What is wrong with the file as a whole is an
// *app.InvalidError.
func OpenCSV(r io.Reader) (transfer.Table, error) {
	counted := &counter{r: r}
	limited := &rowLimit{r: inUTF8(bufio.NewReaderSize(counted, peek))}
	in := bufio.NewReaderSize(limited, peek)
	start, err := in.Peek(peek)
	if err != nil && !errors.Is(err, io.EOF) {
		return transfer.Table{}, fmt.Errorf("read the file: %w", err)
	}
	if bytes.HasPrefix(start, []byte("\xEF\xBB\xBF")) {
		if _, err := in.Discard(3); err != nil {
			return transfer.Table{}, fmt.Errorf("read the file: %w", err)
		}
		start = start[3:]
	}
	if err := plausible(start); err != nil {
		return transfer.Table{}, err
	}
	rows := csv.NewReader(in)
	rows.Comma = separator(start)
	rows.FieldsPerRecord = -1
	rows.ReuseRecord = true
	header, err := rows.Read()
	if err != nil {
		return transfer.Table{}, broken(err)
	}
	header = append([]string{}, header...)
	for len(header) > 1 && strings.TrimSpace(header[len(header)-1]) == "" {
		header = header[:len(header)-1] // columns that a table program left at the end
	}
	if len(header) > maxColumns {
		return transfer.Table{}, problem("line 1", fmt.Sprintf("has %d columns; at most %d are read, leave the others out of the file", len(header), maxColumns))
	}
	sample := sampleOf(start, rows.Comma)
	return transfer.Table{Header: header, Sample: sample[min(1, len(sample)):min(len(sample), 200)], Look: field.LookOf(slices.Concat(sample...), rows.Comma == ';'), Rows: func(yield func(transfer.TableRow, error) bool) {
		for {
			limited.n = 0
			row, err := next(rows, len(header))
			switch {
			case errors.Is(err, io.EOF):
				return
			case counted.n > MaxFile:
				err = problem("file", "is larger than 100 MiB; split it")
			}
			if !yield(row, err) || err != nil {
				return
			}
		}
	}}, nil
}

// rowLimit ends a file at a row that is too long, before it is held in memory: a line of separators, or
// a quotation mark that nothing closes.
type rowLimit struct {
	r io.Reader
	n int // bytes read since the row began, with what was read ahead
}

func (l *rowLimit) Read(p []byte) (int, error) {
	if l.n > maxRow+peek {
		return 0, problem("row", "is larger than 1 MiB; check the separators and the quotes before it")
	}
	n, err := l.r.Read(p)
	l.n += n
	return n, err
}

// sampleOf gives the rows of the beginning of a file, by which it is told how it writes
// numbers and dates, and what stands in its columns.
func sampleOf(start []byte, comma rune) [][]string {
	rows := csv.NewReader(bytes.NewReader(start))
	rows.Comma, rows.FieldsPerRecord, rows.LazyQuotes = comma, -1, true
	var out [][]string
	for {
		row, err := rows.Read() // the last one may be cut
		if err != nil {
			return out
		}
		out = append(out, row)
	}
}

func next(rows *csv.Reader, columns int) (transfer.TableRow, error) {
	cells, err := rows.Read()
	if err != nil {
		if errors.Is(err, io.EOF) {
			return transfer.TableRow{}, io.EOF
		}
		return transfer.TableRow{}, broken(err)
	}
	line, _ := rows.FieldPos(0)
	row := transfer.TableRow{Line: line, Cells: cells}
	size := 0
	for i, c := range cells {
		size += len(c)
		cells[i] = withoutSign(c)
		if !utf8.ValidString(c) {
			row.Err = problem("row", "is not UTF-8 text; save the file as UTF-8")
		}
	}
	for len(row.Cells) > columns && strings.TrimSpace(row.Cells[len(row.Cells)-1]) == "" {
		row.Cells = row.Cells[:len(row.Cells)-1]
	}
	switch cells = row.Cells; {
	case len(cells) != columns && strings.TrimSpace(strings.Join(cells, "")) == "":
		row.Cells = make([]string, columns)
	case len(cells) != columns:
		row.Err = problem("row", fmt.Sprintf("has %d cells and the header has %d; check its separators and quotes", len(cells), columns))
	case size > maxRow:
		row.Err = problem("row", "is larger than 1 MiB; shorten its cells, or check the quotes before it")
	}
	return row, nil
}

// inUTF8 gives a text as UTF-8: UTF-16 is known by its byte order mark; what is not UTF-8 in
// its beginning and holds no zero is taken for Windows-1252, as table programs save it. A file
// that was put together from both stays UTF-8: its other rows are refused, and not misread.
func inUTF8(in *bufio.Reader) io.Reader {
	start, _ := in.Peek(peek) // what cannot be read is found out later
	switch {
	case bytes.HasPrefix(start, []byte("\xFF\xFE")) || bytes.HasPrefix(start, []byte("\xFE\xFF")):
		return transform.NewReader(in, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder())
	case bytes.IndexByte(start, 0) < 0 && !utf8.Valid(whole(start)) && !moreUTF8(start):
		return transform.NewReader(in, charmap.Windows1252.NewDecoder())
	}
	return in
}

// moreUTF8 tells whether more characters of a text are UTF-8 than bytes are not, besides ASCII.
func moreUTF8(b []byte) bool {
	good, bad := 0, 0
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		switch {
		case r == utf8.RuneError && n == 1:
			bad++
		case n > 1:
			good++
		}
		b = b[n:]
	}
	return good > bad
}

// whole leaves out a character that was cut at the end.
func whole(b []byte) []byte {
	for i := 1; i <= utf8.UTFMax && i <= len(b); i++ {
		if utf8.RuneStart(b[len(b)-i]) {
			if !utf8.FullRune(b[len(b)-i:]) {
				return b[:len(b)-i]
			}
			break
		}
	}
	return b
}

// plausible refuses what is not a text file before anything else is tried.
func plausible(start []byte) error {
	switch {
	case len(bytes.TrimSpace(start)) == 0:
		return problem("file", "is empty; it needs a header line and rows")
	case bytes.IndexByte(start, 0) >= 0:
		return problem("file", "is not a text file; save the table as CSV")
	}
	return nil
}

// separator is the sign that stands most often in the header line outside
// quotes; the comma when none does.
func separator(start []byte) rune {
	count := map[byte]int{}
	quoted := false
	for _, c := range start {
		if c == '"' {
			quoted = !quoted
		}
		if !quoted && (c == '\n' || c == '\r') {
			break
		}
		if !quoted {
			count[c]++
		}
	}
	best := ','
	for _, c := range ";\t" {
		if count[byte(c)] > count[byte(best)] {
			best = c
		}
	}
	return best
}

func broken(err error) error {
	var bad *csv.ParseError
	if !errors.As(err, &bad) {
		return fmt.Errorf("read the file: %w", err)
	}
	why := "cannot be read"
	switch {
	case errors.Is(bad.Err, csv.ErrQuote):
		why = fmt.Sprintf("column %d: a quote is not closed or stands alone; put the cell in quotes and double the quotes inside it", bad.Column)
	case errors.Is(bad.Err, csv.ErrBareQuote):
		why = fmt.Sprintf("column %d: a quote stands inside a cell without quotes; put the cell in quotes and double the quotes inside it", bad.Column)
	}
	where := fmt.Sprintf("line %d", bad.Line)
	if bad.StartLine != bad.Line {
		where = fmt.Sprintf("lines %d to %d", bad.StartLine, bad.Line)
	}
	return problem(where, why)
}

func problem(where, why string) error {
	return &domain.InvalidError{Fields: []domain.FieldError{{Where: where, Why: strings.TrimSuffix(why, ".")}}}
}

type counter struct {
	r io.Reader
	n int
}

func (c *counter) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.n += n
	return n, err
}
