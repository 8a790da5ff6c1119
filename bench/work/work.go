// Package work makes a large workspace and lets clients use it as people do, for the
// measurements of bench and bench/load.
package work

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/app"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/mail"
	"lucidletter/internal/store"
	"lucidletter/internal/store/seal"
)

// Workspace is a program on a workspace of its own, in a folder that Close removes.
type Workspace struct {
	App    *app.App
	URL    string
	People int

	folder  string
	store   *store.Store
	server  *httptest.Server
	stop    func()
	cookies []string // of each client's user: nobody's questions wait for those of another
	drafts  []int64
	turn    atomic.Int64
	user    domain.User
}

const password = "long enough for them"

var (
	firsts = strings.Fields("Ada Bo Cy Di Eda Fay Gus Hal Ida Jo Kay Leo Max Nora Otto Pia Quin Rita Sol Tess Ute Vera Wim Xenia Yara Zoe")
	lasts  = strings.Fields("Abel Barrow Corvin Darrow Eastlake Fenwick Greenaway Halloran Inman Jarrow Kestrel Lorimer Merrow Nordahl Oakhurst Penrose Quill Ravenhill Strand Teasdale Usher Verity Wolfram Yewdale Zimmer")
	firms  = strings.Fields("Bakery Dairy Flowers Kitchen Laboratory Canteen")
	cities = strings.Fields("Harrowmere Lindholm Valmorel Oldcastle Brandvold")
)

// New makes a workspace of so many people, a company for each twenty of them, fifty
// templates, and a draft for each hundred.
func New(people int) (*Workspace, error) {
	ctx := context.Background()
	folder, err := os.MkdirTemp("", "lucid-load-")
	if err != nil {
		return nil, err
	}
	w := &Workspace{People: people, folder: folder}
	if w.store, err = store.Open(ctx, folder); err != nil {
		return nil, err
	}
	sealer, err := seal.Open(folder)
	if err != nil {
		return nil, err
	}
	journal, err := store.OpenJournal(folder)
	if err != nil {
		return nil, err
	}
	var mu sync.Mutex
	ids := 0
	w.App = app.New(app.Ports{Store: w.store, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: time.Now, Sealer: sealer, Journal: journal, PublicURL: "http://letters.fernhollow.example",
		NewID: func() string { mu.Lock(); defer mu.Unlock(); ids++; return fmt.Sprintf("load%020d", ids) }})
	w.user = domain.User{Email: "lea@fernhollow.example", FirstName: "Lea", Role: access.TeamLead}
	if w.user.ID, err = w.App.Team.AddUser(ctx, w.user, password); err != nil {
		return nil, err
	}
	for i := range clients - 1 {
		if _, err := w.App.Team.AddUser(ctx, domain.User{Email: emailOf(i + 1), FirstName: "Lea", Role: access.TeamLead}, password); err != nil {
			return nil, err
		}
	}
	if err := w.fill(ctx); err != nil {
		return nil, err
	}
	w.server = httptest.NewServer(httpapi.New(w.App, w.store, nil, slog.New(slog.DiscardHandler)))
	w.URL = w.server.URL
	running, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() { defer close(done); w.App.Transfer.RunImports(running, func(err error) { panic(err) }) }()
	w.stop = func() { cancel(); <-done }
	return w, w.signIn()
}

// Close ends the program and removes its folder.
func (w *Workspace) Close() error {
	w.stop()
	w.server.Close()
	if err := w.store.Close(); err != nil {
		return err
	}
	return os.RemoveAll(w.folder)
}

func (w *Workspace) fill(ctx context.Context) error {
	r := rand.New(rand.NewPCG(1, 2))
	pick := func(list []string) string { return list[r.IntN(len(list))] }
	now := time.Now().UTC()
	var company int64
	for from := 0; from < w.People; from += 5000 {
		err := w.store.Within(ctx, func(ctx context.Context) error {
			people := []domain.Person{}
			for i := from; i < min(w.People, from+5000); i++ {
				if i%20 == 0 {
					id, err := w.store.AddCompany(ctx, domain.Company{Name: fmt.Sprintf("%s %s %d", pick(lasts), pick(firms), i/20), City: pick(cities), OwnerID: &w.user.ID, CreatedAt: now})
					if err != nil {
						return err
					}
					company = id
				}
				p := domain.Person{Kind: field.Lead, FirstName: pick(firsts), LastName: pick(lasts), Email: fmt.Sprintf("%s.%d@quill%d.example", strings.ToLower(pick(firsts)), i, i/20), City: pick(cities),
					JobTitle: "Owner", CompanyName: fmt.Sprint("Firm ", i/20), LeadStatus: "new", OwnerID: &w.user.ID, CreatedAt: now, UpdatedAt: now}
				if i%3 == 0 {
					p.Kind, p.CompanyName, p.CompanyID, p.LeadStatus = field.Contact, "", new(company), ""
				}
				people = append(people, p)
			}
			_, err := w.store.AddPeople(ctx, people)
			return err
		})
		if err != nil {
			return err
		}
	}
	if _, err := w.store.DB().Exec(`UPDATE people SET last_letter_at = datetime('2026-01-01', '+' || (id * 7919 % 400000) || ' minutes'), last_subject = 'Hello' WHERE id % 2 = 0`); err != nil {
		return err
	}
	for i := range 50 {
		t := domain.Template{Name: fmt.Sprintf("%s letter %d", pick(firms), i), Subject: markup.Parse("For {{person.first_name}}"), State: domain.TemplateReady, OwnerID: w.user.ID, Version: 1, CreatedAt: now, UpdatedAt: now, UpdatedBy: w.user.ID,
			Body: markup.Parse("Dear {{person.first_name}},\n\nYour room in {{person.city}} for {{company.name|your company}} is ready.\n" + strings.Repeat("Words that say what it is about.\n", 10))}
		if _, err := w.store.AddTemplate(ctx, t); err != nil {
			return err
		}
	}
	template := int64(1)
	for i := range min(1000, w.People/100) {
		l, err := w.App.Desk.StartLetter(ctx, w.user, int64(i*100+1), &template, nil)
		if err != nil {
			return err
		}
		w.drafts = append(w.drafts, l.ID)
	}
	_, err := w.store.DB().Exec(`ANALYZE`)
	return err
}

func (w *Workspace) signIn() error {
	c := http.Client{} // which keeps no cookies: each is somebody else
	for i := range clients {
		answer, err := c.Post(w.URL+"/api/session", "application/json", strings.NewReader(`{"email":"`+emailOf(i)+`","password":"`+password+`"}`))
		if err != nil {
			return err
		}
		for _, cookie := range answer.Cookies() {
			if cookie.Name == "lucidletter" {
				w.cookies = append(w.cookies, cookie.Name+"="+cookie.Value)
			}
		}
		if err := answer.Body.Close(); err != nil {
			return err
		}
	}
	if len(w.cookies) != clients {
		return fmt.Errorf("%d of %d signed in", len(w.cookies), clients)
	}
	return nil
}

// clients is how many users there are, who ask in turn.
const clients = 20

func emailOf(i int) string {
	if i == 0 {
		return "lea@fernhollow.example"
	}
	return fmt.Sprintf("lea%d@fernhollow.example", i)
}

// Ask is one kind of request; draws makes its way from drawn numbers.
type Ask struct {
	Name   string
	Method string
	Path   func(r *rand.Rand) string
	Own    bool                                                           // of the first user alone
	Act    func(ctx context.Context, r *rand.Rand) (time.Duration, error) // instead of a request
}

// Asks are what people ask all day.
func (w *Workspace) Asks() []Ask {
	get := func(name string, path func(r *rand.Rand) string) Ask {
		return Ask{Name: name, Method: http.MethodGet, Path: path}
	}
	word := func(r *rand.Rand, least int) string {
		s := strings.ToLower(lasts[r.IntN(len(lasts))])
		return s[:min(len(s), least+r.IntN(3))]
	}
	return []Ask{
		get("random page of the people", func(r *rand.Rand) string { return fmt.Sprintf("/api/people?limit=100&offset=%d", r.IntN(w.People)) }),
		get("people by last letter", func(r *rand.Rand) string {
			return fmt.Sprintf("/api/people?limit=100&sort=last&down=true&offset=%d", r.IntN(w.People))
		}),
		get("people by company", func(r *rand.Rand) string {
			return fmt.Sprintf("/api/people?limit=100&sort=company&offset=%d", r.IntN(w.People))
		}),
		get("search of people", func(r *rand.Rand) string { return "/api/people?limit=100&q=" + word(r, 2) }),
		get("completion of an address", func(r *rand.Rand) string { return "/api/addresses?q=" + word(r, 2) }),
		get("one person", func(r *rand.Rand) string { return fmt.Sprintf("/api/people/%d", 1+r.IntN(w.People)) }),
		get("history of a person", func(r *rand.Rand) string { return fmt.Sprintf("/api/history?person=%d", 1+r.IntN(w.People)) }),
		get("choices of templates", func(r *rand.Rand) string { return fmt.Sprintf("/api/people/%d/templates", 1+r.IntN(w.People)) }),
		get("drafts", func(*rand.Rand) string { return "/api/letters?state=draft" }),
		get("library", func(*rand.Rand) string { return "/api/templates?limit=100" }),
		get("today", func(*rand.Rand) string { return "/api/tasks" }),
		get("reach of a template", func(r *rand.Rand) string { return fmt.Sprintf("/api/templates/%d/reach", 1+r.IntN(50)) }),
	}
}

// Table are the eleven things that people do all day, for whom 20 do them at once. The first is the
// one that the others are measured by.
func (w *Workspace) Table() []Ask {
	all := map[string]Ask{}
	for _, a := range w.Asks() {
		all[a.Name] = a
	}
	named := func(name string, a Ask) Ask { a.Name = name; return a }
	get := func(name string, path func(r *rand.Rand) string) Ask {
		return Ask{Name: name, Method: http.MethodGet, Path: path}
	}
	filter := func(r *rand.Rand) string {
		return url.QueryEscape(fmt.Sprintf(`person.city is "%s" and person.first_name is "%s"`, cities[r.IntN(len(cities))], firsts[r.IntN(len(firsts))]))
	}
	return []Ask{
		named("person", all["one person"]),
		named("list", all["random page of the people"]),
		named("search", all["search of people"]),
		get("filter", func(r *rand.Rand) string { return "/api/people?limit=100&where=" + filter(r) }),
		get("count", func(r *rand.Rand) string { return "/api/people/count?where=" + filter(r) }),
		get("sort", func(r *rand.Rand) string {
			return fmt.Sprintf("/api/people?limit=100&sort=person.city&offset=%d", 100*r.IntN(5))
		}),
		Ask{Name: "desk", Method: http.MethodGet, Own: true, Path: func(r *rand.Rand) string { return fmt.Sprintf("/api/letters/%d", w.drafts[r.IntN(len(w.drafts))]) }},
		{Name: "save", Act: w.Save},
		named("choices", all["choices of templates"]),
		named("today", all["today"]),
		named("reach", all["reach of a template"]),
	}
}

// Save changes a person, as writing into a field of a record does.
func (w *Workspace) Save(ctx context.Context, r *rand.Rand) (time.Duration, error) {
	id := 1 + r.Int64N(int64(w.People))
	p, err := w.store.Person(ctx, id)
	if err != nil {
		return 0, err
	}
	began := time.Now()
	status, err := w.ask(ctx, http.MethodPatch, fmt.Sprintf("/api/people/%d", id), "application/json", strings.NewReader(fmt.Sprintf(`{"version":%d,"set":{"person.city":"%s"}}`, p.Version, cities[r.IntN(len(cities))])))
	if err == nil && status != 200 && status != http.StatusConflict { // somebody else saved it meanwhile
		err = fmt.Errorf("saving a person answered %d", status)
	}
	return time.Since(began), err
}

// Do asks once and gives how long the answer took.
func (w *Workspace) Do(ctx context.Context, a Ask, r *rand.Rand) (time.Duration, error) {
	if a.Act != nil {
		return a.Act(ctx, r)
	}
	path := a.Path(r)
	began := time.Now()
	cookie := w.cookies[0]
	if !a.Own {
		cookie = w.cookies[int(w.turn.Add(1))%len(w.cookies)]
	}
	status, err := w.askAs(ctx, cookie, a.Method, path, "", nil)
	if err == nil && (status < 200 || status > 299) {
		err = fmt.Errorf("%s answered %d", path, status)
	}
	return time.Since(began), err
}

func (w *Workspace) ask(ctx context.Context, method, path, kind string, body io.Reader) (int, error) {
	return w.askAs(ctx, w.cookies[int(w.turn.Add(1))%len(w.cookies)], method, path, kind, body)
}

func (w *Workspace) askAs(ctx context.Context, cookie, method, path, kind string, body io.Reader) (int, error) {
	req, err := http.NewRequestWithContext(ctx, method, w.URL+path, body)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Cookie", cookie)
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	answer, err := client.Do(req)
	if err != nil {
		return 0, err
	}
	_, err = io.Copy(io.Discard, answer.Body)
	if err2 := answer.Body.Close(); err == nil {
		err = err2
	}
	return answer.StatusCode, err
}

var client = &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 64}}

// Import brings so many people in and waits until the last one is written.
func (w *Workspace) Import(ctx context.Context, rows int) error {
	return w.ImportCSV(ctx, func(out io.Writer) error { return CSV(out, rows) })
}

// CSV writes a file of so many people.
func CSV(to io.Writer, rows int) error {
	out := bufio.NewWriter(to)
	fmt.Fprintln(out, "First,Last,Email,City")
	for i := range rows {
		fmt.Fprintf(out, "%s,%s,in%d@import.example,%s\n", firsts[i%len(firsts)], lasts[i%len(lasts)], i, cities[i%len(cities)])
	}
	return out.Flush()
}

// ImportCSV brings the people of a file in, which is sent as it is written, and waits until
// the last one is stored.
func (w *Workspace) ImportCSV(ctx context.Context, csv func(io.Writer) error) error {
	body, to := io.Pipe()
	form := multipart.NewWriter(to)
	kind := form.FormDataContentType()
	go func() {
		part, err := form.CreateFormFile("file", "people.csv")
		if err == nil {
			err = csv(part)
		}
		if err == nil {
			err = form.Close()
		}
		_ = to.CloseWithError(err) // never fails
	}()
	if status, err := w.ask(ctx, http.MethodPost, "/api/imports?kind=lead", kind, body); err != nil || status != 200 {
		return fmt.Errorf("the import answered %d, %w", status, err)
	}
	for {
		open, err := w.store.ImportsToWrite(ctx)
		if err != nil || len(open) == 0 {
			return err
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// Prime asks how many people there are, as the screen of the list does.
func (w *Workspace) Prime(ctx context.Context) error {
	_, err := w.ask(ctx, http.MethodGet, "/api/people/count", "", nil)
	return err
}

// Busy imports people and sends a round of 5,000, over and over, until ctx ends.
func (w *Workspace) Busy(ctx context.Context) error {
	people := make([]int64, 5000)
	for i := range people {
		people[i] = int64(i + 1)
	}
	template := int64(1)
	working, stop := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() { w.App.Rounds.Run(working, func(error) {}) })
	defer all.Wait()
	defer stop()
	for n := 0; ctx.Err() == nil; n++ {
		if _, err := w.App.Rounds.StartRound(ctx, w.user, rounds.Start{Name: fmt.Sprint("Round ", n), People: people, TemplateID: &template}); err != nil && ctx.Err() == nil {
			return err
		}
		if err := w.Import(ctx, 60_000+n); err != nil && ctx.Err() == nil {
			return err
		}
	}
	return nil
}

// Under has clients ask for some time, all the same thing, and gives the times in order.
func (w *Workspace) Under(clients int, a Ask, for_ time.Duration) ([]time.Duration, error) {
	var mu sync.Mutex
	var times []time.Duration
	var failed error
	var all sync.WaitGroup
	until := time.Now().Add(for_)
	for c := range clients {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(c), 3))
			for first := true; first || time.Now().Before(until); first = false {
				took, err := w.Do(context.Background(), a, r)
				mu.Lock()
				times = append(times, took)
				if err != nil {
					failed = err
				}
				mu.Unlock()
				if err != nil {
					return
				}
			}
		})
	}
	all.Wait()
	slices.Sort(times)
	return times, failed
}

// At gives a quantile of times in order, such as 0.95.
func At(times []time.Duration, q float64) time.Duration {
	if len(times) == 0 {
		return 0
	}
	return times[min(len(times)-1, int(q*float64(len(times))))]
}
