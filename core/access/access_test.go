package access

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
)

var update = flag.Bool("update", false, "write the golden file anew")

// Me, my team, and others.
const (
	me, other      = 1, 2
	mine, notMine  = 7, 8
	goldenOfAccess = "testdata/may.txt"
)

func TestMay(t *testing.T) {
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
		{Representative, SeeTemplate, other, true, false},
		{Representative, EditLetter, me, true, true},
		{Administrator, EditLetter, other, true, false},
		{Administrator, SeeLetter, other, true, false},
		{Representative, SeeLetter, other, false, true},
		{Representative, EditRecord, other, false, true},
		{Representative, ImportPeople, 0, false, true},
		{Representative, EditRun, me, false, true},
		{Administrator, EditRun, other, false, false},
		{Representative, UsePlan, other, false, true},
		{Representative, EditPlan, other, false, false},
		{TeamLead, EditPlan, other, false, true},
		{Representative, SeeOrder, other, false, false},
		{TeamLead, SeeOrder, other, false, true},
		{TeamLead, EditOrder, other, false, false},
		{TeamLead, HaltOrder, other, false, true},
		{Representative, HaltOrder, me, false, true},
		{Representative, HaltOrders, me, false, false},
		{Administrator, HaltOrders, 0, false, true},
		{Representative, EditShared, 0, false, false},
		{TeamLead, EditShared, 0, false, true},
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

// audiences by how they stand to me.
var audiences = []struct {
	name string
	Audience
}{
	{"not set", Audience{}},
	{"its owner", Audience{Who: OnlyOwner}},
	{"me by name", Audience{Who: Some, Users: []int64{other, me}}},
	{"others by name", Audience{Who: Some, Users: []int64{other}}},
	{"my team", Audience{Who: Some, Teams: []int64{notMine, mine}}},
	{"another team", Audience{Who: Some, Teams: []int64{notMine}}},
	{"representatives", Audience{Who: Some, Roles: []Role{Representative}}},
	{"leads", Audience{Who: Some, Roles: []Role{TeamLead}}},
	{"nobody named", Audience{Who: Some}},
	{"everybody", Audience{Who: Everybody}},
}

// Every combination of role, owner, state, audience and editors, beside the golden file that people read.
func TestMay_everyCombination(t *testing.T) {
	var b strings.Builder
	for _, role := range []Role{Representative, TeamLead, Administrator} {
		for _, owner := range []int64{me, other} {
			for _, draft := range []bool{false, true} {
				fmt.Fprintf(&b, "\n%s, %s, %s\n", role, map[int64]string{me: "owns it", other: "does not own it"}[owner], map[bool]string{false: "ready", true: "not ready"}[draft])
				for _, audience := range audiences {
					line := fmt.Sprintf("  for %-16s edited by", audience.name)
					for _, editors := range audiences {
						u := User{ID: me, Role: role, TeamID: mine}
						thing := Thing{OwnerID: owner, Draft: draft, Rights: Rights{audience.Audience, editors.Audience}}
						word := ""
						for _, a := range []Action{SeeTemplate, UseTemplate, EditTemplate} {
							may := May(u, a, thing)
							word += map[bool]string{true: string(a)[:1], false: "-"}[may]
							if may && a != SeeTemplate && !May(u, SeeTemplate, thing) {
								t.Errorf("%+v: may %s and not see it", thing, a)
							}
						}
						if May(u, UseTemplate, thing) && draft {
							t.Errorf("%+v: a draft can be used", thing)
						}
						if May(u, EditTemplate, thing) && !May(u, SeeFolder, thing) {
							t.Errorf("%+v: may edit and not see the folder", thing)
						}
						line += fmt.Sprintf("  %s: %s", editors.name, word)
					}
					b.WriteString(line + "\n")
				}
			}
		}
	}
	if *update {
		if err := os.WriteFile(goldenOfAccess, []byte(b.String()), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(goldenOfAccess)
	if err != nil {
		t.Fatal(err)
	}
	got, wanted := strings.Split(b.String(), "\n"), strings.Split(string(want), "\n")
	for i := range max(len(got), len(wanted)) {
		if i >= len(got) || i >= len(wanted) || got[i] != wanted[i] {
			t.Fatalf("line %d:\n%s\nwant\n%s", i+1, slices.Concat(got, make([]string, len(wanted)))[i], slices.Concat(wanted, make([]string, len(got)))[i])
		}
	}
}

func TestNearest(t *testing.T) {
	team := Audience{Who: Some, Teams: []int64{mine}}
	for name, row := range map[string]struct {
		levels []Rights
		want   Rights
	}{
		"nothing said":          {[]Rights{{}, {}}, Rights{}},
		"the thing itself wins": {[]Rights{{Audience: Audience{Who: OnlyOwner}}, {Audience: team}}, Rights{Audience: Audience{Who: OnlyOwner}}},
		"each on its own":       {[]Rights{{Editors: team}, {Audience: Audience{Who: Everybody}}, {Audience: team, Editors: Audience{Who: OnlyOwner}}}, Rights{Audience{Who: Everybody}, team}},
		"from far outside":      {[]Rights{{}, {}, {Audience: team}}, Rights{Audience: team}},
	} {
		if got := Nearest(row.levels...); fmt.Sprint(got) != fmt.Sprint(row.want) {
			t.Errorf("%s: %+v", name, got)
		}
	}
}
