package access

import "testing"

func TestMay(t *testing.T) {
	const me, other = 1, 2
	for _, row := range []struct {
		role  Role
		what  Action
		owner int64
		draft bool
		want  bool
	}{
		{Representative, EditTemplate, me, true, true},
		{Representative, EditTemplate, other, false, false},
		{TeamLead, EditTemplate, other, false, true},
		{Administrator, EditTemplate, other, false, true},
		{Representative, UseTemplate, other, false, true},
		{Representative, UseTemplate, me, true, false},
		{Representative, EditLetter, me, true, true},
		{Administrator, EditLetter, other, true, false},
		{Administrator, SeeLetter, other, true, false},
		{Representative, SeeLetter, other, false, true},
		{Representative, EditRecord, other, false, true},
		{Representative, ImportPeople, 0, false, true},
		{"", EditRecord, me, false, false},
		{"guest", SeeLetter, me, false, false},
		{Administrator, "fly", me, false, false},
	} {
		if got := May(User{ID: me, Role: row.role}, row.what, Thing{OwnerID: row.owner, Draft: row.draft}); got != row.want {
			t.Errorf("%+v: %v", row, got)
		}
	}
	if May(User{Role: Administrator}, EditRecord, Thing{}) {
		t.Error("nobody may edit")
	}
}
