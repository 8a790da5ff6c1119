package files

import (
	"bytes"
	"strings"
	"testing"
)

// read gives the cells of a file row by row, a row's problem in place of its
// cells, and what ended it.
func read(src string) (string, error) {
	table, err := OpenCSV(strings.NewReader(src))
	if err != nil {
		return "", err
	}
	out := []string{strings.Join(table.Header, "|")}
	for row, err := range table.Rows {
		switch {
		case err != nil:
			return strings.Join(out, "\n"), err
		case row.Err != nil:
			out = append(out, row.Err.Error())
		default:
			out = append(out, strings.Join(row.Cells, "|"))
		}
	}
	return strings.Join(out, "\n"), nil
}

// RFC 4180 section 2, by the number of its rule; the examples are the RFC's.
func TestOpenCSV_rfc4180(t *testing.T) {
	for _, row := range []struct{ rule, in, want string }{
		{"1 lines by CRLF", "aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", "aaa|bbb|ccc\nzzz|yyy|xxx"},
		{"2 no line end at the end", "aaa,bbb,ccc\r\nzzz,yyy,xxx", "aaa|bbb|ccc\nzzz|yyy|xxx"},
		{"3 a header", "field_name,field_name2,field_name3\r\naaa,bbb,ccc\r\n", "field_name|field_name2|field_name3\naaa|bbb|ccc"},
		{"4 spaces belong to the cell", "a,b\r\n x , y\r\n", "a|b\n x | y"},
		{"5 quotes", "\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx", "aaa|bbb|ccc\nzzz|yyy|xxx"},
		{"6 breaks and commas in quotes", "\"aaa\",\"b \r\nbb\",\"c,c\"\r\nzzz,yyy,xxx", "aaa|b \nbb|c,c\nzzz|yyy|xxx"},
		{"7 doubled quotes", "\"aaa\",\"b\"\"bb\",\"ccc\"\r\n", "aaa|b\"bb|ccc"},
	} {
		if got, err := read(row.in); err != nil || got != row.want {
			t.Errorf("rule %s: %q, %v, want %q", row.rule, got, err, row.want)
		}
	}
}

func TestOpenCSV_fromTheWild(t *testing.T) {
	for _, row := range []struct{ name, in, want, problem string }{
		{"byte order mark", "\uFEFFa,b\n1,2\n", "a|b\n1|2", ""},
		{"semicolons", "a;b\n1,5;2\n", "a|b\n1,5|2", ""},
		{"tabs", "a\tb\n1\t2\n", "a|b\n1|2", ""},
		{"separator in a quoted header", "\"a;x;y\",b\n1,2\n", "a;x;y|b\n1|2", ""},
		{"empty lines", "a,b\n\n1,2\n\n", "a|b\n1|2", ""},
		{"too few cells", "a,b\n1\n3,4\n", "a|b\nrow: has 1 cells and the header has 2; check its separators and quotes\n3|4", ""},
		{"latin 1", "a,b\nJ\xfcrgen,2\n", "a|b\nJürgen|2", ""},
		{"Windows-1252", "Name;Amount\n\x93Ada\x94 O\x92Neil;12 \x80\n", "Name|Amount\n“Ada” O’Neil|12 €", ""},
		{"UTF-16, big end first", "\xfe\xff\x00a\x00,\x00b\x00\n\x00\xfc\x00,\x002\x00\n", "a|b\nü|2", ""},
		{"made safe by us", "a,b\n'=1+1,'tis\n", "a|b\n=1+1|'tis", ""},
		{"open quote", "a,b\n1,2\n\"3,4\n5,6\n", "a|b\n1|2", "lines 3 to 4: column"},
		{"quote inside", "a,b\n1,x\"y\"\n", "a|b", "line 2: column 4: a quote stands inside"},
		{"nothing", " \n ", "", "file: is empty"},
		{"binary", "PK\x03\x04\x00\x00", "", "file: is not a text file"},
		{"UTF-16", "\xff\xfea\x00\n\x001\x00", "a\n1", ""},
		{"both encodings", "a,b\nJürgen,Weiß\nJ\xf6rg,2\n", "a|b\nJürgen|Weiß\nrow: is not UTF-8 text; save the file as UTF-8", ""},
		{"a row of more than 1 MiB", "a,b\n" + strings.Repeat("x", 1<<20) + ",2\n3,4\n", "a|b\nrow: is larger than 1 MiB; shorten its cells, or check the quotes before it\n3|4", ""},
		{"a zero far behind", "a,b\n" + strings.Repeat("1,2\n", 20000) + "x\x00,2\n", "", "-"},
		{"300 columns", strings.Repeat("a,", 299) + "a\n" + strings.Repeat("1,", 299) + "1\n", "", "leave the others out"},
		{"a table program's own form", "PK\x03\x04\x14\x00\x06\x00", "", "save the table as CSV"},
		{"its older form", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\x00\x00", "", "save the table as CSV"},
		{"many columns", strings.Repeat("a,", 200) + "a\n", "", "has 201 columns"},
	} {
		got, err := read(row.in)
		if row.problem == "-" { // the row is read; who takes it refuses its cell
			if err != nil || !strings.HasSuffix(got, "x\x00|2") {
				t.Errorf("%s: %v", row.name, err)
			}
			continue
		}
		if got != row.want {
			t.Errorf("%s: %q, want %q", row.name, got, row.want)
		}
		if (row.problem == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), row.problem) {
			t.Errorf("%s: %v, want %q", row.name, err, row.problem)
		}
	}
}

func FuzzOpenCSV(f *testing.F) {
	f.Add([]byte("a,b\n1,2"))
	f.Add([]byte("\"a;\nb"))
	// The property: whatever comes, every row that is given has the header's
	// number of cells or says why not, and reading ends.
	f.Fuzz(func(t *testing.T, src []byte) {
		table, err := OpenCSV(bytes.NewReader(src))
		if err != nil {
			return
		}
		for row, err := range table.Rows {
			if err == nil && row.Err == nil && len(row.Cells) != len(table.Header) {
				t.Fatalf("%d cells under %d headers", len(row.Cells), len(table.Header))
			}
		}
	})
}

// A row without an end is refused before it is held in memory.
func TestOpenCSV_endlessRows(t *testing.T) {
	for name, body := range map[string]string{"separators": strings.Repeat(",", 30<<20), "a quotation mark that nothing closes": "\"" + strings.Repeat("word\n", 6<<20)} {
		for _, raw := range []string{"Email,City\n" + body, body} {
			table, err := OpenCSV(strings.NewReader(raw))
			rows, last := 0, err
			if err == nil {
				for _, err := range table.Rows {
					rows, last = rows+1, err
				}
			}
			if last == nil || rows > 1 || !strings.Contains(last.Error(), "larger than 1 MiB") && !strings.Contains(last.Error(), "columns") {
				t.Errorf("%s: %d rows, %v", name, rows, last)
			}
		}
	}
	long := "Email,City\nada@quill.example," + strings.Repeat("x", maxRow-100) + "\nbo@rye.example,York\n"
	table, err := OpenCSV(strings.NewReader(long))
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for row, err := range table.Rows {
		if n++; err != nil || row.Err != nil {
			t.Errorf("row %d: %v %v", n, err, row.Err)
		}
	}
	if n != 2 {
		t.Errorf("%d rows", n)
	}
}
