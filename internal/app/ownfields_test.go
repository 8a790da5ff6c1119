package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/testbed"
)

// A field may be called anything; its path has no other letters than a to z.
func TestOwnFieldPath(t *testing.T) {
	b := testbed.New(t)
	for _, row := range []struct{ label, want string }{
		{"Colour of the door", "deal.own.colour_of_the_door"}, {"O'Neil's aisle", "deal.own.o_neil_s_aisle"}, {"Öffnung Süd", "deal.own.offnung_sud"},
		{"2nd door", "deal.own.nd_door"}, {strings.Repeat("x", 80), "deal.own." + strings.Repeat("x", 40)}, {strings.Repeat("a", 39) + " b", "deal.own." + strings.Repeat("a", 39)},
		{"اسم الشركة", "deal.own.field"}, {"🙂", "deal.own.field_2"}, {"{{}}", "deal.own.field_3"}, {"会社", "deal.own.field_4"},
	} {
		path, err := b.App.Records.OwnFieldPath(ctx, field.Deal, row.label)
		if err != nil || path != row.want {
			t.Errorf("%s: %q, %v", row.label, path, err)
			continue
		}
		if err := b.App.Records.NewOwnField(ctx, b.Lead, field.Def{Path: path, Label: row.label, Type: field.Text}); err != nil {
			t.Errorf("%s: %v", row.label, err)
		}
	}
	// One that was deleted keeps its path, with the values on the records.
	if err := b.App.Records.DeleteOwnField(ctx, b.Lead, "deal.own.field_4"); err != nil {
		t.Fatal(err)
	}
	if path, err := b.App.Records.OwnFieldPath(ctx, field.Deal, "会社"); err != nil || path != "deal.own.field_5" {
		t.Errorf("%q, %v", path, err)
	}
}
