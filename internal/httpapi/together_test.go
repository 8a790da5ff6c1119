package httpapi

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Every operation that reads is asked several times at once, reach forty times; each gets
// its answer, and the people list after them. The time is for what would hang. A query that stayed open while another began on the same
// connections kept all of them for ever (four looks at reach were enough).
func TestServer_manyAtOnce(t *testing.T) {
	b, c := start(t)
	ctx, cancel := context.WithTimeout(context.Background(), 8*time.Minute)
	defer cancel()
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	for i := range 12 { // each of another company, which is looked up while they are gone through
		firm, err := b.Store.AddCompany(ctx, domain.Company{Name: fmt.Sprint("Firm ", i), CreatedAt: b.Now()})
		if err == nil {
			_, err = b.Store.AddPerson(ctx, domain.Person{Kind: field.Contact, FirstName: "Bo", Email: fmt.Sprintf("bo%d@firm.example", i), CompanyID: &firm, CreatedAt: b.Now(), UpdatedAt: b.Now()})
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	template := b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}, of {{company.name|}}")
	b.Letter(t, 1, template)
	doc, err := New(b.App, nil, nil, nil).OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var api struct {
		Paths map[string]map[string]any `json:"paths"`
	}
	if err := json.Unmarshal(doc, &api); err != nil {
		t.Fatal(err)
	}
	ask := func(path string) (int, error) {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, c.url+path, nil)
		if err != nil {
			return 0, err
		}
		res, err := c.http.Do(req)
		if err != nil {
			return 0, err
		}
		return res.StatusCode, res.Body.Close()
	}
	asked := 0
	for path, ops := range api.Paths {
		if _, reads := ops["get"]; !reads {
			continue
		}
		asked++
		path = strings.NewReplacer("{id}", "1", "{key}", "first-contact", "{sha}", "0", "{mailbox}", "x", "{version}", "1", "{path}", "deal.own.volume").Replace(path)
		times := 6 // more than there are connections
		if strings.Contains(path, "reach") {
			times = 40
		}
		var all sync.WaitGroup
		for range times {
			all.Go(func() {
				if status, err := ask(path); err != nil || status >= 500 && status != http.StatusServiceUnavailable {
					t.Errorf("%s: %d, %v", path, status, err)
				}
			})
		}
		all.Wait()
	}
	if asked < 50 {
		t.Errorf("only %d operations were asked", asked)
	}
	if status, err := ask("/api/people"); err != nil || status != http.StatusOK {
		t.Errorf("the people list: %d, %v", status, err)
	}
}
