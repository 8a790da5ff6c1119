package app_test

import (
	"errors"
	"testing"

	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func folderAt(t *testing.T, b *testbed.Bed, name string, parent *int64) int64 {
	t.Helper()
	id, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsTemplates, library.FolderInput{Name: name, ParentID: parent})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func place(t *testing.T, b *testbed.Bed) func(template int64) int64 {
	return func(template int64) int64 {
		t.Helper()
		s, err := b.App.Library.Template(ctx, b.Lead, template)
		if errors.Is(err, domain.ErrNotFound) {
			return -2
		}
		if err != nil {
			t.Fatal(err)
		}
		if s.FolderID == nil {
			return -1
		}
		return *s.FolderID
	}
}

// A folder comes back with what was in it, whichever way it went; what was moved
// elsewhere since stays there.
func TestPutBackFolder(t *testing.T) {
	for _, contents := range []library.Contents{library.MoveOut, library.DeleteToo} {
		b := testbed.New(t)
		outer := folderAt(t, b, "Offer", nil)
		inner := folderAt(t, b, "When no answer came", &outer)
		other := folderAt(t, b, "Other", nil)
		in := b.Template(t, "In", "s", "b")
		deep := b.Template(t, "Deep", "s", "b")
		moved := b.Template(t, "Moved", "s", "b")
		for id, folder := range map[int64]int64{in: outer, deep: inner, moved: outer} {
			if err := b.App.Library.MoveTemplate(ctx, b.Lead, id, &folder, 0); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsTemplates, outer, contents); err != nil {
			t.Fatal(err)
		}
		if contents == library.MoveOut {
			if err := b.App.Library.MoveTemplate(ctx, b.Lead, moved, &other, 0); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.App.Desk.PutBackFolder(ctx, b.Rep, library.HoldsTemplates, outer); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: somebody else put it back: %v", contents, err)
		}
		if err := b.App.Desk.PutBackFolder(ctx, b.Lead, library.HoldsTemplates, outer); err != nil {
			t.Fatal(err)
		}
		at := place(t, b)
		if at(in) != outer || at(deep) != inner {
			t.Errorf("%s: came back at %d and %d, not %d and %d", contents, at(in), at(deep), outer, inner)
		}
		if want := map[library.Contents]int64{library.MoveOut: other, library.DeleteToo: outer}[contents]; at(moved) != want {
			t.Errorf("%s: what was moved since stands at %d, not %d", contents, at(moved), want)
		}
		list, err := b.App.Library.Folders(ctx, b.Lead, library.HoldsTemplates)
		if err != nil || len(list.Folders) != 3 {
			t.Fatal(list, err)
		}
		for _, f := range list.Folders {
			if f.ID == inner && (f.ParentID == nil || *f.ParentID != outer) {
				t.Errorf("%s: the inner folder stands at %v", contents, f.ParentID)
			}
		}
		if err := b.App.Desk.PutBackFolder(ctx, b.Lead, library.HoldsTemplates, outer); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: put back twice: %v", contents, err)
		}
	}
}

func TestPutBackFrom(t *testing.T) {
	b := testbed.New(t)
	boss := admin(b)
	if err := b.App.Desk.AllowFrom(ctx, boss, b.Rep.ID, "Sales", "sales@fernhollow.example"); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Desk.SetSignature(ctx, b.Rep, "sales@fernhollow.example", formatted(t, "<p>The sales desk</p>")); err != nil {
		t.Fatal(err)
	}
	froms := func() int {
		list, err := b.App.Team.FromAddresses(ctx, b.Rep)
		if err != nil {
			t.Fatal(err)
		}
		if len(list) == 2 && len(list[1].Signature.Content) == 0 {
			t.Error("its signature is gone")
		}
		return len(list)
	}
	if err := b.App.Desk.ForbidFrom(ctx, boss, b.Rep.ID, "sales@fernhollow.example"); err != nil || froms() != 1 {
		t.Fatal(froms(), err)
	}
	if err := b.App.Desk.PutBackFrom(ctx, b.Rep, b.Rep.ID, "sales@fernhollow.example"); err == nil {
		t.Error("a representative put it back")
	}
	if err := b.App.Desk.PutBackFrom(ctx, boss, b.Rep.ID, "Sales@Fernhollow.example"); err != nil || froms() != 2 {
		t.Errorf("%d, %v", froms(), err)
	}
}

// An address that may be written to again by mistake is put back, with its day and reason.
func TestPutBackOptOut(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "ada@quill.example", "asked by phone"); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Inbox.OptInAgain(ctx, b.Lead, "ada@quill.example", "asked for it"); err != nil {
		t.Fatal(err)
	}
	out := func() bool {
		p, err := b.Store.Person(ctx, ada)
		if err != nil {
			t.Fatal(err)
		}
		list, err := b.App.Inbox.OptOuts(ctx, "")
		if err != nil || (len(list) == 1) != (p.OptedOutAt != nil) || len(list) == 1 && list[0].Reason != "asked by phone" {
			t.Errorf("%+v %v, %v", list, p.OptedOutAt, err)
		}
		return p.OptedOutAt != nil
	}
	if out() {
		t.Error("still out")
	}
	if err := b.App.Desk.PutBackOptOut(ctx, b.Lead, "ada@quill.example"); err != nil || !out() {
		t.Errorf("not put back: %v", err)
	}
	if err := b.App.Desk.PutBackOptOut(ctx, b.Lead, "ada@quill.example"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("twice: %v", err)
	}
}

func TestAddressFails(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if err := b.Store.PutBadAddress(ctx, domain.BadAddress{Key: "ada@quill.example", Reason: "5.1.1", At: b.Now()}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Inbox.AddressWorks(ctx, b.Rep, ada); err != nil {
		t.Fatal(err)
	}
	if p, err := b.App.Records.Person(ctx, b.Rep, ada); err != nil || p.BadAddress != nil {
		t.Errorf("%+v, %v", p.BadAddress, err)
	}
	if err := b.App.Desk.AddressFails(ctx, b.Rep, ada); err != nil {
		t.Fatal(err)
	}
	if p, err := b.App.Records.Person(ctx, b.Rep, ada); err != nil || p.BadAddress == nil {
		t.Errorf("%+v, %v", p.BadAddress, err)
	}
}

// A question is in a letter while its words are: what is taken out comes back with them.
func TestAskNoMore_undone(t *testing.T) {
	b := testbed.New(t)
	l, _ := asking(t, b, yesOrNo(""))
	with, id := wordingOf(l), l.Asked[0].ID
	out, err := b.App.Desk.AskNoMore(ctx, b.Rep, l.ID, with, id)
	if err != nil || len(out.Asked) != 0 {
		t.Fatalf("%+v, %v", out.Asked, err)
	}
	with.Version = out.Version
	back, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, with)
	if err != nil || len(back.Asked) != 1 || back.Asked[0].ID != id {
		t.Errorf("%+v, %v", back.Asked, err)
	}
}

// A folder that stood in another one and comes back alone brings what stood in it, and leaves to the
// other one what stood there: nothing stands in a folder that is gone.
func TestPutBackFolder_alone(t *testing.T) {
	b := testbed.New(t)
	outer := folderAt(t, b, "Offer", nil)
	inner := folderAt(t, b, "When no answer came", &outer)
	beside := folderAt(t, b, "Beside", &outer)
	innermost := folderAt(t, b, "Late", &inner)
	stood := map[int64]int64{}
	for _, folder := range []int64{outer, inner, beside, innermost} {
		id := b.Template(t, "T", "s", "b")
		if err := b.App.Library.MoveTemplate(ctx, b.Lead, id, &folder, 0); err != nil {
			t.Fatal(err)
		}
		stood[folder] = id
	}
	if _, err := b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsTemplates, outer, library.DeleteToo); err != nil {
		t.Fatal(err)
	}
	at := place(t, b)
	is := func(what string, want map[int64]int64) {
		t.Helper()
		for folder, there := range want {
			if got := at(stood[folder]); got != there {
				t.Errorf("%s: what stood in folder %d is at %d, not %d", what, folder, got, there)
			}
		}
		list, err := b.App.Library.Folders(ctx, b.Lead, library.HoldsTemplates)
		if err != nil {
			t.Fatal(err)
		}
		shown := list.Outside
		for _, f := range list.Folders {
			shown += f.Count
		}
		if shown != list.Total {
			t.Errorf("%s: %d of %d templates stand where they can be found", what, shown, list.Total)
		}
	}
	if err := b.App.Desk.PutBackFolder(ctx, b.Lead, library.HoldsTemplates, inner); err != nil {
		t.Fatal(err)
	}
	is("alone", map[int64]int64{outer: -2, beside: -2, inner: inner, innermost: innermost})
	if err := b.App.Desk.PutBackFolder(ctx, b.Lead, library.HoldsTemplates, outer); err != nil {
		t.Fatal(err)
	}
	is("all", map[int64]int64{outer: outer, beside: beside, inner: inner, innermost: innermost})
}
