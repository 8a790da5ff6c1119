package files

import (
	"strings"
	"testing"

	"lucidletter/core/field"
)

func TestReadJSON(t *testing.T) {
	d, err := ReadJSON(strings.NewReader("\uFEFF" + `[{"person": {"first_name": "Ada", "city": null}, "deal": {"own": {"volume": 12.50, "urgent": true}}}, {}]`))
	if err != nil || len(d.Records) != 2 || len(d.Records[1]) != 0 {
		t.Fatalf("%+v, %v", d, err)
	}
	r := d.Records[0]
	if r["person.first_name"] != "Ada" || r["deal.own.volume"] != "12.50" || r["deal.own.urgent"] != "true" || len(r) != 3 {
		t.Errorf("%v", r)
	}
	if len(d.Own) != 2 || d.Own[0].Type != field.YesNo || d.Own[1].Type != field.Number || d.Own[1].Label != "volume" {
		t.Errorf("%+v", d.Own)
	}
	for text, why := range map[string]string{
		"": "is not JSON", "{} {}": "behind its end", `["a"]`: "record 1: is not an object", `{"person": {"first_name": [1]}}`: "is a list",
		strings.Repeat(`{"a":`, 9) + "1" + strings.Repeat("}", 9): "nested too deep",
	} {
		if _, err := ReadJSON(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%q: %v, want %q", text, err, why)
		}
	}
}

func TestReadRecordsCSV(t *testing.T) {
	d, err := ReadRecordsCSV(strings.NewReader("person.first_name;Last name;deal.own.volume\nAda; Quill ;12\nBo;;\n"))
	if err != nil || len(d.Records) != 2 || d.Records[0]["person.last_name"] != "Quill" || len(d.Records[1]) != 1 || len(d.Own) != 1 {
		t.Errorf("%+v, %v", d, err)
	}
	if _, err := ReadRecordsCSV(strings.NewReader("a,b\n1\n")); err == nil || !strings.Contains(err.Error(), "line 2") {
		t.Errorf("a short row: %v", err)
	}
}

func TestFill(t *testing.T) {
	cat := field.New(nil)
	v, err := Fill(cat, map[string]string{"lead.status": "new", "lead.company_name": "Quill Bakery", "person.first_name": "Ada", "person.last_name": "Quill"})
	if err != nil || v.Kind != field.Lead || v.Get("person.full_name").Text != "Ada Quill" || v.Get("company.name").Text != "Quill Bakery" {
		t.Errorf("%+v, %v", v, err)
	}
	if v, err = Fill(cat, map[string]string{"person.first_name": "Ada"}); err != nil || v.Kind != field.Contact || v.Get("contact.first_name").Text != "Ada" {
		t.Errorf("%+v, %v", v, err)
	}
	for path, why := range map[string]string{"person.frist_name": "did you mean person.first_name", "zzz.qqq": "is not a field", "deal.close_date": "is not a date", "person.email": "is not an email address"} {
		if _, err := Fill(cat, map[string]string{path: "soon"}); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%s: %v", path, err)
		}
	}
}

func TestOwnField(t *testing.T) {
	for path, want := range map[string]bool{"deal.own.volume": true, "team.own.next_event": true, "contact.own.x": false, "deal.volume": false, "deal.own.": false, "deal.own.a.b": false} {
		if _, ok := OwnField(path, field.Text); ok != want {
			t.Errorf("%s: %v", path, ok)
		}
	}
}

// Own fields of a file are typed by what stands in them.
func TestRead_ownTypes(t *testing.T) {
	d, err := ReadJSON(strings.NewReader(`[{"deal": {"own": {"day": "2026-03-02", "price": "12.50 EUR", "n": 5, "mixed": 5, "words": "a", "code": "007"}}},
		{"deal": {"own": {"day": "2026-04-02", "mixed": "a", "words": "2026-03-02"}}}]`))
	if err != nil {
		t.Fatal(err)
	}
	csv, err := ReadRecordsCSV(strings.NewReader("deal.own.day,deal.own.price,deal.own.n,deal.own.mixed,deal.own.words,deal.own.code,deal.own.none\n2026-03-02,12.50 EUR,5,5,a,007,\n2026-03-03,,6.5,a,,008,\n"))
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]field.Type{"day": field.Date, "price": field.Money, "n": field.Number, "mixed": field.Text, "words": field.Text, "code": field.Text, "none": field.Text}
	for name, list := range map[string][]field.Def{"JSON": d.Own, "CSV": csv.Own} {
		for _, def := range list {
			if key := strings.TrimPrefix(def.Path, "deal.own."); def.Type != want[key] {
				t.Errorf("%s: %s is a %s, want a %s", name, key, def.Type, want[key])
			}
		}
	}
}
