package files

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"lucidletter/core/field"
)

// Data is a list of records for merging without a workspace: for each record
// its values by field path, in canonical form. Own holds the own fields that
// stand in the data, typed by what stands there.
type Data struct {
	Records []map[string]string
	Own     []field.Def
}

// maxRecords is how many records a data file may hold.
const maxRecords = 100_000

// ReadJSON reads an object or an array of objects with nested person, company,
// deal, sender, owner and team. Numbers and true/false are taken as they stand.
func ReadJSON(r io.Reader) (Data, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	if err != nil {
		return Data{}, fmt.Errorf("read the data: %w", err)
	}
	if len(raw) > MaxFile {
		return Data{}, problem("data", "is larger than 100 MiB; split it")
	}
	dec := json.NewDecoder(bytes.NewReader(bytes.TrimPrefix(raw, []byte("\xEF\xBB\xBF"))))
	dec.UseNumber()
	var top any
	if err := dec.Decode(&top); err != nil {
		return Data{}, problem("data", "is not JSON: "+err.Error())
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return Data{}, problem("data", "has something behind its end")
	}
	list, ok := top.([]any)
	if !ok {
		list = []any{top}
	}
	if len(list) > maxRecords {
		return Data{}, problem("data", fmt.Sprintf("has more than %d records", maxRecords))
	}
	var d Data
	own := map[string]field.Def{}
	for i, item := range list {
		object, ok := item.(map[string]any)
		if !ok {
			return Data{}, problem(fmt.Sprintf("record %d", i+1), "is not an object")
		}
		record := map[string]string{}
		if err := flatten(record, own, "", object, 0); err != nil {
			return Data{}, problem(fmt.Sprintf("record %d", i+1), err.Error())
		}
		d.Records = append(d.Records, record)
	}
	for path, def := range own {
		if def.Type == field.Text {
			def.Type = typeOf(d.Records, path, field.Date, field.Money)
		}
		d.Own = append(d.Own, def)
	}
	slices.SortFunc(d.Own, func(a, b field.Def) int { return strings.Compare(a.Path, b.Path) })
	return d, nil
}

func flatten(record map[string]string, own map[string]field.Def, prefix string, object map[string]any, depth int) error {
	if depth > 6 {
		return fmt.Errorf("%s is nested too deep", prefix)
	}
	for key, value := range object {
		path := strings.TrimPrefix(prefix+"."+key, ".")
		kind := field.Text
		switch v := value.(type) {
		case nil:
			continue
		case map[string]any:
			if err := flatten(record, own, path, v, depth+1); err != nil {
				return err
			}
			continue
		case string:
			record[path] = v
		case json.Number:
			record[path], kind = v.String(), field.Number
		case bool:
			record[path], kind = fmt.Sprint(v), field.YesNo
		default:
			return fmt.Errorf("%s is a list; a field has one value", path)
		}
		if def, isOwn := OwnField(path, kind); isOwn {
			if seen, there := own[path]; there && seen.Type != kind {
				def.Type = field.Text // of two types in two records
			}
			own[path] = def
		}
	}
	return nil
}

// OwnField makes the definition of an own field out of its path, such as
// deal.own.volume.
func OwnField(path string, t field.Type) (field.Def, bool) {
	record, key, ok := strings.Cut(path, ".own.")
	switch field.Record(record) {
	case field.Person, field.Lead, field.Company, field.Deal, field.Sender, field.Team:
	default:
		return field.Def{}, false
	}
	if !ok || key == "" || strings.Contains(key, ".") {
		return field.Def{}, false
	}
	return field.Def{Path: path, Record: field.Record(record), Label: strings.ReplaceAll(key, "_", " "), Type: t, Own: true}, true
}

// typeOf gives the first of the types that every value of a path has, else text.
// Figures that begin with 0, such as postal codes, are no numbers.
func typeOf(records []map[string]string, path string, types ...field.Type) field.Type {
	for _, t := range types {
		fits, any := true, false
		for _, r := range records {
			s := r[path]
			if s == "" {
				continue
			}
			_, err := field.Parse(t, s, nil)
			fits, any = fits && err == nil && !(t == field.Number && len(s) > 1 && s[0] == '0' && s[1] != '.'), true
		}
		if fits && any {
			return t
		}
	}
	return field.Text
}

// ReadRecordsCSV reads a CSV file whose headers are field paths or labels.
func ReadRecordsCSV(r io.Reader) (Data, error) {
	table, err := OpenCSV(r)
	if err != nil {
		return Data{}, err
	}
	var d Data
	paths := make([]string, len(table.Header))
	byLabel := map[string]string{}
	for _, def := range field.New(nil).Fields() {
		if _, taken := byLabel[strings.ToLower(def.Label)]; !taken {
			byLabel[strings.ToLower(def.Label)] = def.Path
		}
	}
	for i, h := range table.Header {
		paths[i] = strings.TrimSpace(h)
		if p := byLabel[strings.ToLower(paths[i])]; p != "" {
			paths[i] = p
		}
		if def, isOwn := OwnField(paths[i], field.Text); isOwn {
			d.Own = append(d.Own, def)
		}
	}
	for row, err := range table.Rows {
		switch {
		case err != nil:
			return Data{}, err
		case row.Err != nil:
			return Data{}, problem(fmt.Sprintf("line %d", row.Line), row.Err.Error())
		case len(d.Records) == maxRecords:
			return Data{}, problem("data", fmt.Sprintf("has more than %d records", maxRecords))
		}
		record := map[string]string{}
		for i, c := range row.Cells {
			if c = strings.TrimSpace(c); c != "" {
				record[paths[i]] = c
			}
		}
		d.Records = append(d.Records, record)
	}
	for i, def := range d.Own {
		d.Own[i].Type = typeOf(d.Records, def.Path, field.Date, field.Money, field.Number)
	}
	return d, nil
}

// Fill puts a record into values. What the catalogue does not know and what
// does not fit its type is an error that names the path. Names that follow from
// others (full_name) are worked out where they are not given.
func Fill(cat *field.Catalogue, record map[string]string) (*field.Values, error) {
	v := cat.NewValues()
	v.Kind = field.Contact
	for path := range record {
		if strings.HasPrefix(path, "lead.") {
			v.Kind = field.Lead
		}
	}
	if kind := record["person.kind"]; kind != "" {
		v.Kind = field.Record(strings.ToLower(kind))
	}
	for path, s := range record {
		ref, ok := cat.Find(path)
		if !ok {
			near := cat.Suggest(path, 1)
			if len(near) > 0 {
				return nil, problem(path, "is not a field; did you mean "+near[0]+"?")
			}
			return nil, problem(path, "is not a field")
		}
		value, err := field.Parse(ref.Def.Type, s, nil)
		if ref.Def.Type == field.Choice {
			value, err = field.Of(s), nil
		}
		if err != nil {
			return nil, problem(path, err.Error())
		}
		if !field.Junk(ref.Def, value) { // “n/a” is no value
			v.Set(ref.Def.Path, value)
		}
	}
	for _, who := range []string{"person", "deal.main_contact", "owner", "sender"} {
		if full := strings.TrimSpace(v.Get(who+".first_name").Text + " " + v.Get(who+".last_name").Text); full != "" && !v.Get(who+".full_name").Filled() {
			v.Set(who+".full_name", field.Of(full))
		}
	}
	if name := v.Get("lead.company_name"); v.Kind == field.Lead && name.Filled() && !v.Get("company.name").Filled() {
		v.Set("company.name", name)
	}
	return v, nil
}
