package filter

import (
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/field"
)

// Limits of the columns of a table: how many, and how wide one is in pixels.
const (
	MaxColumns = 24
	MinWidth   = 40
	MaxWidth   = 800
)

// TableColumn is one column of a table of people, companies or deals; Width in pixels, 0 is as
// wide as there is room.
type TableColumn struct {
	Field
	Width int `json:"width"`
}

// What stands only in tables: a person's standing and last letter, whom a company has.
var only = map[field.Record][]Field{
	field.Person:  {{Path: "status", Label: "Status", Kind: Words}, {Path: "letter", Label: "Last letter", Kind: Words}, {Path: "written", Label: "Sent", Kind: Moment}},
	field.Company: {{Path: "people", Label: "Contacts", Kind: Number}, {Path: "deals", Label: "Open deals", Kind: Number}, {Path: "owner", Label: "Owner", Kind: Owner}, {Path: "created", Label: "Added", Kind: Moment}},
	field.Deal:    {{Path: "company", Label: "Company", Kind: Words}, {Path: "contact", Label: "Main contact", Kind: Words}, {Path: "owner", Label: "Owner", Kind: Owner}, {Path: "created", Label: "Added", Kind: Moment}},
}

var standard = map[field.Record]string{
	field.Person:  "person.job_title,company.name,status:104,letter,written:104",
	field.Company: "company.city,company.industry,owner,people:88,deals:104",
	field.Deal:    "company,contact,deal.stage:96,deal.amount:128,deal.close_date:128",
}

// Columns gives what a table of people, companies or deals can show beside the name.
func Columns(cat *field.Catalogue, of field.Record) []Field {
	out := slices.Clone(only[of])
	for _, f := range Fields(cat) {
		record, _, dotted := strings.Cut(f.Path, ".")
		switch {
		case slices.Contains([]string{"person.first_name", "person.last_name", string(of) + ".name", "written"}, f.Path) && !(of == field.Person && f.Path == "company.name"):
		case of == field.Person && record != string(field.Deal), of != field.Person && dotted && record == string(of):
			out = append(out, f)
		}
	}
	for i := range out {
		out[i].Ops = []Op{}
		out[i].Choices = append([]string{}, out[i].Choices...)
	}
	return out
}

// FindColumn gives the column of a path, without a width.
func FindColumn(cat *field.Catalogue, of field.Record, path string) (Field, bool) {
	list := Columns(cat, of)
	i := slices.IndexFunc(list, func(f Field) bool { return f.Path == path })
	if i < 0 {
		return Field{}, false
	}
	return list[i], true
}

// ReadColumns reads the text form of a table's columns: paths with commas between them, each
// with ":" and its width or without. Nothing stands for the usual ones. What is not there, or
// not there any more, is left out, and so are doubles and what is beyond MaxColumns.
func ReadColumns(cat *field.Catalogue, of field.Record, text string) []TableColumn {
	if strings.TrimSpace(text) == "" {
		text = standard[of]
	}
	can := Columns(cat, of)
	out := []TableColumn{}
	for part := range strings.SplitSeq(text, ",") {
		path, width, _ := strings.Cut(strings.TrimSpace(part), ":")
		at := slices.IndexFunc(can, func(f Field) bool { return f.Path == path })
		if at < 0 || len(out) == MaxColumns || slices.ContainsFunc(out, func(c TableColumn) bool { return c.Path == path }) {
			continue
		}
		c := TableColumn{Field: can[at]}
		if n, err := strconv.Atoi(width); err == nil && n > 0 {
			c.Width = max(MinWidth, min(MaxWidth, n))
		}
		out = append(out, c)
	}
	return out
}

// PrintColumns gives the text form of columns; "" for the usual ones.
func PrintColumns(of field.Record, list []TableColumn) string {
	parts := make([]string, len(list))
	for i := range list {
		if parts[i] = list[i].Path; list[i].Width > 0 {
			parts[i] += ":" + strconv.Itoa(list[i].Width)
		}
	}
	if text := strings.Join(parts, ","); text != standard[of] {
		return text
	}
	return ""
}
