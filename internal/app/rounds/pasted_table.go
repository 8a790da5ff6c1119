package rounds

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"lucidletter/internal/domain"
)

// readPasted reads a table as it is copied out of a table program, or as CSV; its columns are
// parted by tabs, semicolons or commas, as its first line shows. Quotation marks that part
// no cells are words: a cell that begins with one swallows no rows.
func readPasted(text string) (rows [][]string, semicolons bool, err error) {
	text = strings.TrimPrefix(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), "\uFEFF")
	first, _, _ := strings.Cut(text, "\n")
	comma := ','
	switch {
	case strings.Contains(first, "\t"):
		comma = '\t'
	case strings.Count(first, ";") > strings.Count(first, ","):
		comma = ';'
	}
	rows, regular := byLines(text, comma)
	if !regular {
		r := csv.NewReader(strings.NewReader(text))
		r.FieldsPerRecord, r.Comma = -1, comma
		if quoted, err := r.ReadAll(); err == nil {
			rows = quoted
		}
	}
	rows = slices.DeleteFunc(rows, func(row []string) bool { return strings.TrimSpace(strings.Join(row, "")) == "" })
	if len(rows) < 2 {
		return nil, false, domain.Invalid("table", "needs a first row with the names of the columns, and a row for each person")
	}
	for _, row := range rows {
		if len(rows) > maxPasted || len(row) > maxPastedColumns {
			return nil, false, domain.Invalid("table", "has more than %d rows or %d columns; paste a part of it", maxPasted, maxPastedColumns)
		}
	}
	return rows, comma == ';', nil
}

// byLines reads a line as a row, and tells whether all have as many cells as the first.
func byLines(text string, comma rune) (rows [][]string, regular bool) {
	regular = true
	for line := range strings.SplitSeq(text, "\n") {
		row := strings.Split(line, string(comma))
		for i, cell := range row {
			row[i] = unquoted(cell)
		}
		if rows = append(rows, row); line != "" && len(row) != len(rows[0]) {
			regular = false
		}
	}
	return rows, regular
}

// unquoted takes the quotation marks around a whole cell away.
func unquoted(cell string) string {
	inner, ok := strings.CutPrefix(strings.TrimSpace(cell), `"`)
	if !ok {
		return cell
	}
	if inner, ok = strings.CutSuffix(inner, `"`); !ok || strings.Contains(strings.ReplaceAll(inner, `""`, ""), `"`) {
		return cell
	}
	return strings.ReplaceAll(inner, `""`, `"`)
}

// headersOf gives the names of the columns, each once: of two that are alike the second is
// called "City (2)".
func headersOf(row []string) []string {
	var out []string
	for _, h := range row {
		h = strings.TrimSpace(h)
		name := h
		for n := 2; slices.ContainsFunc(out, func(had string) bool { return strings.EqualFold(had, name) }); n++ {
			name = fmt.Sprintf("%s (%d)", h, n)
		}
		out = append(out, name)
	}
	return out
}

// cellsOf gives what stands in a column.
func cellsOf(rows [][]string, i int) []string {
	var out []string
	for _, row := range rows {
		if i < len(row) && strings.TrimSpace(row[i]) != "" {
			out = append(out, strings.TrimSpace(row[i]))
		}
	}
	return out
}
