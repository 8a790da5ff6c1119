package demo

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/app"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/mail"
	"lucidletter/internal/store"
)

func load(t testing.TB) (*app.App, *store.Store) {
	t.Helper()
	return loadAt(t, 9)
}

func loadAt(t testing.TB, hour int) (*app.App, *store.Store) {
	t.Helper()
	s, err := store.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	})
	now := func() time.Time { return time.Date(2026, 11, 24, hour, 0, 0, 0, time.UTC) }
	a := app.New(app.Ports{Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: now, NewID: func() string { return "id" }})
	if err := Load(context.Background(), World{App: a, Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}}); err != nil {
		t.Fatal(err)
	}
	return a, s
}

func TestLoad(t *testing.T) {
	ctx := context.Background()
	a, s := load(t)
	imre, err := a.Team.SignIn(ctx, "imre@fernhollow.example", Password, "192.0.2.1", "")
	if err != nil {
		t.Fatal(err)
	}
	page, err := a.Records.People(ctx, domain.User{}, records.Asked{}, domain.PeopleQuery{Limit: 500})
	rows, total := page.Rows, page.Total
	if err != nil || total != people {
		t.Fatal(total, err)
	}
	trouble := map[string]int{}
	addresses := map[string]int{}
	for _, r := range rows {
		addresses[r.Email]++
		switch {
		case r.FirstName == "":
			trouble["no first name"]++
		case r.FirstName == "n/a":
			trouble["n/a"]++
		case r.FirstName == strings.ToUpper(r.FirstName):
			trouble["capitals"]++
		case r.Email == "":
			trouble["no address"]++
		}
		if r.OptedOut {
			trouble["opted out"]++
		}
	}
	for _, what := range []string{"no first name", "n/a", "capitals", "no address", "opted out"} {
		if trouble[what] == 0 {
			t.Errorf("nobody with %s: %v", what, trouble)
		}
	}
	if addresses["office@shared-counter.example"] != 2 {
		t.Error("no two people share an address")
	}
	library, err := a.Library.Library(ctx, imre, domain.LibraryQuery{Limit: 500})
	if err != nil || library.Total < 40 {
		t.Fatal(library.Total, err)
	}
	for _, l := range library.Lines {
		if l.Stops > 0 || l.FolderID == nil {
			t.Errorf("%s: %d red notes, folder %v", l.Name, l.Stops, l.FolderID)
		}
	}
	if all, err := s.InState(ctx, domain.Sent); err != nil || len(all) != letters {
		t.Errorf("%d letters, %v", len(all), err)
	} else {
		for _, l := range all {
			if notes := letter.CheckLetter(l.Subject, l.Body); len(notes) > 0 {
				t.Errorf("letter %d should not have gone: %v", l.ID, notes)
			}
		}
	}
}

func TestLoad_isTheSameEveryTime(t *testing.T) {
	fingerprint := func(hour int) string {
		a, s := loadAt(t, hour)
		page, err := a.Records.People(context.Background(), domain.User{}, records.Asked{}, domain.PeopleQuery{Limit: 500})
		rows := page.Rows
		if err != nil {
			t.Fatal(err)
		}
		l, err := s.Letter(context.Background(), 700)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(rows[3], rows[300], l.SubjectLine, render.RenderText(l.Body), l.SentAt)
	}
	if a, b := fingerprint(1), fingerprint(23); a != b {
		t.Errorf("%s\n%s", a, b)
	}
}

func TestProspects_canBeImported(t *testing.T) {
	a, s := load(t)
	ctx := context.Background()
	file, err := data.Open("data/prospects.csv")
	if err != nil {
		t.Fatal(err)
	}
	table, err := files.OpenCSV(file)
	if err != nil {
		t.Fatal(err)
	}
	u, err := s.User(ctx, 1)
	if err != nil {
		t.Fatal(err)
	}
	r, err := a.Transfer.ImportPeople(ctx, u, table, transfer.ImportOptions{})
	if err != nil || r.Created != 6 || !r.Done {
		t.Fatalf("%+v, %v", r, err)
	}
	p, err := s.PeopleByEmail(ctx, "juergen@kaltenbach-brot.example")
	if err != nil || len(p) != 1 || p[0].CompanyName != "Bäckerei Kaltenbach; Filiale Süd" || p[0].Own["lead.own.volume"] != "24.5" || p[0].Kind != field.Lead {
		t.Errorf("%+v, %v", p, err)
	}
}

func BenchmarkLoad(b *testing.B) {
	for b.Loop() {
		load(b)
	}
}

// The lists of the sample stand as the program would store them, and hold somebody.
func TestLoad_lists(t *testing.T) {
	ctx := context.Background()
	a, _ := load(t)
	imre, err := a.Team.SignIn(ctx, "imre@fernhollow.example", Password, "192.0.2.1", "")
	if err != nil {
		t.Fatal(err)
	}
	lists, err := a.Records.Lists(ctx, imre)
	if err != nil || len(lists) == 0 {
		t.Fatal(lists, err)
	}
	for _, l := range lists {
		read, err := a.Records.ReadFilter(ctx, l.Filter)
		n, err2 := a.Records.CountPeople(ctx, imre, records.Asked{Where: l.Filter}, domain.PeopleQuery{})
		if err != nil || err2 != nil || read.Text != l.Filter || n == 0 {
			t.Errorf("%s: %q is %q, %d people, %v %v", l.Name, l.Filter, read.Text, n, err, err2)
		}
	}
}

// What is kept from going out until somebody has looked is there to be seen.
func TestLoad_shows_what_is_caught(t *testing.T) {
	ctx := context.Background()
	a, s := load(t)
	imre, err := a.Team.SignIn(ctx, "imre@fernhollow.example", Password, "192.0.2.1", "")
	if err != nil {
		t.Fatal(err)
	}
	list, err := a.Plans.Plans(ctx, imre)
	if err != nil {
		t.Fatal(err)
	}
	news := ""
	for _, p := range list {
		sheet, err := a.Plans.Plan(ctx, imre, p.ID)
		if err != nil {
			t.Fatal(err)
		}
		news += sheet.News
	}
	if news == "" {
		t.Error("no plan has words that he has not looked at")
	}
	waiting, err := s.InState(ctx, domain.Waiting)
	if err != nil {
		t.Fatal(err)
	}
	unfit := 0
	for i := range waiting {
		found, err := a.Outbound.UnfitTo(ctx, imre, waiting[i].PersonID)
		if err != nil {
			t.Fatal(err)
		}
		unfit += len(found)
	}
	if unfit == 0 {
		t.Errorf("none of %d letters on their way is another than its record says", len(waiting))
	}
	library, err := a.Library.Library(ctx, imre, domain.LibraryQuery{Search: "On my way past", Limit: 5})
	if err != nil || library.Total != 1 {
		t.Errorf("%d templates read badly, %v", library.Total, err)
	}
}
