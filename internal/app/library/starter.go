package library

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"strings"
	"sync"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

//go:embed starter
var starterFiles embed.FS

// ShelfItem is one of the ready-written templates to copy from.
type ShelfItem struct {
	Key       string
	Moment    string // of the sale
	Name      string
	WhenToUse string
	Subject   string
	Kind      string
	Body      string
	Wordings  []ShelfWording // in other languages
}

// ShelfWording is a wording in another language.
type ShelfWording struct {
	Language, Subject, Body string
}

// SplitWordings takes the wordings in other languages off the end of a body: each
// begins with a line "~~ " and its language, then its subject, then "---".
func SplitWordings(text string) (body string, others []ShelfWording, err error) {
	parts := strings.Split(text, "\n~~ ")
	for _, part := range parts[1:] {
		head, words, ok := strings.Cut(part, "\n---\n")
		language, subject, named := strings.Cut(head, "\nsubject: ")
		if !ok || !named {
			return "", nil, fmt.Errorf("a wording needs a language, a subject and --- in %q", head)
		}
		others = append(others, ShelfWording{language, subject, strings.TrimSpace(words)})
	}
	return strings.TrimSpace(parts[0]), others, nil
}

var pageDesigns = [][3]string{
	{"announcement.html", "An announcement", "One piece of news, with a button"},
	{"programme.html", "An event with a programme", "A day with times and what happens then"},
	{"offer.html", "An offer in figures", "What it costs, part by part, with the sum of the deal"},
	{"two-columns.html", "Two things side by side", "Two short pieces, under each other on a phone"},
}

// Shelf gives the starter shelf, by moment of the sale.
var shelf = sync.OnceValues(func() ([]ShelfItem, error) {
	text, err := fs.ReadFile(starterFiles, "starter/letters.txt")
	if err != nil {
		return nil, err
	}
	var out []ShelfItem
	for _, part := range strings.Split("\n"+string(text), "\n== ")[1:] {
		head, body, _ := strings.Cut(part, "\n---\n")
		lines := strings.Split(head, "\n")
		item := ShelfItem{Name: lines[0], Key: KeyOf(lines[0])}
		if item.Body, item.Wordings, err = SplitWordings(body); err != nil {
			return nil, fmt.Errorf("starter/letters.txt: %s: %w", item.Name, err)
		}
		for _, line := range lines[1:] {
			key, value, _ := strings.Cut(line, ": ")
			switch key {
			case "moment":
				item.Moment = value
			case "when":
				item.WhenToUse = value
			case "subject":
				item.Subject = value
			case "kind":
				item.Kind = value
			default:
				return nil, fmt.Errorf("starter/letters.txt: %q is not a setting", line)
			}
		}
		out = append(out, item)
	}
	for _, p := range pageDesigns {
		page, err := fs.ReadFile(starterFiles, "starter/"+p[0])
		if err != nil {
			return nil, err
		}
		out = append(out, ShelfItem{Key: KeyOf(p[1]), Moment: "Page designs", Name: p[1], WhenToUse: p[2], Subject: `{{?subject: text "What it is about, in a few words"}}`, Kind: document.BodyHTML, Body: string(page)})
	}
	return out, nil
})

// KeyOf gives the key of something on the shelf, from its name.
func KeyOf(name string) string {
	return strings.Trim(strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(name)), "-")
}

// ShelfLine is a template of the shelf as it is listed.
type ShelfLine struct {
	ShelfItem
	Fits []field.Record
}

// Shelf lists the starter shelf.
func (a *Service) Shelf(ctx context.Context) ([]ShelfLine, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	items, err := shelf()
	var out []ShelfLine
	for _, item := range items {
		t, _, _, err := item.input().Read()
		if err != nil {
			return nil, err
		}
		p, _ := template.Compile(t, cat)
		out = append(out, ShelfLine{item, p.Fits()})
	}
	return out, err
}

func (i ShelfItem) input() Input { return Input{Subject: i.Subject, Body: i.Body, Kind: i.Kind} }

func shelfItem(key string) (ShelfItem, error) {
	items, err := shelf()
	if err != nil {
		return ShelfItem{}, err
	}
	for _, i := range items {
		if i.Key == key {
			return i, nil
		}
	}
	return ShelfItem{}, domain.ErrNotFound
}

// TryShelf shows a template of the shelf with one of the user's people, or with a
// stand-in when there are none.
func (a *Service) TryShelf(ctx context.Context, u domain.User, key string, index int) (Trial, error) {
	item, err := shelfItem(key)
	if err != nil {
		return Trial{}, err
	}
	return a.TryOn(ctx, u, item.input(), 0, "", index)
}

// CopyFromShelf puts templates of the shelf into the library, as drafts of the
// user, all of them or none.
func (a *Service) CopyFromShelf(ctx context.Context, u domain.User, keys []string, folder *int64) ([]int64, error) {
	ids := []int64{}
	err := a.store.Within(ctx, func(ctx context.Context) error {
		inner := a.On(a.store, a.records.Apart())
		for _, key := range keys {
			item, err := shelfItem(key)
			if err != nil {
				return err
			}
			t, err := inner.AddTemplate(ctx, u, TemplateInput{
				Name: item.Name, WhenToUse: item.WhenToUse, Input: item.input(), State: domain.TemplateDraft, FolderID: folder, Tags: []string{strings.ToLower(item.Moment)},
			})
			if err != nil {
				return err
			}
			ids = append(ids, t.ID)
			for _, w := range item.Wordings {
				added, err := inner.AddWording(ctx, u, t.ID, w.Language)
				if err != nil {
					return err
				}
				in := TemplateInput{State: domain.TemplateDraft, Input: Input{Subject: w.Subject, Body: w.Body, Kind: item.Kind, Language: w.Language, TemplateID: added.ID}}
				if _, err := inner.ChangeTemplate(ctx, u, added.ID, added.Version, in); err != nil {
					return fmt.Errorf("%s in %s: %w", item.Name, w.Language, err)
				}
			}
		}
		return nil
	})
	return ids, err
}

// standIn is a made-up contact with everything that a letter may need.
func (a *Service) standIn(ctx context.Context, cat *field.Catalogue, u domain.User) (*Setting, error) {
	main, firm := int64(1), int64(1)
	now := a.now()
	p := domain.Person{
		ID: 0, Kind: field.Contact, Honorific: "Ms", FirstName: "Ada", LastName: "Quill", Email: "ada@quill.example", Phone: "+44 20 7946 0155", JobTitle: "Owner",
		City: "Harrowmere", Country: "GB", CompanyID: &firm, Department: "Management", ContactSince: "2025-04-01", CreatedAt: now, UpdatedAt: now,
	}
	recs, err := a.records.Gather(ctx, &domain.Person{Kind: field.Contact}, nil, &u)
	if err != nil {
		return nil, err
	}
	recs.Person, recs.Main, recs.Owner = &p, &p, &u
	recs.Company = &domain.Company{ID: firm, Name: "Quill & Daughters", Website: "https://quill.example", Industry: "bakery", Employees: "12", Street: "1 Mill Lane", PostalCode: "HM1 4AB", City: "Harrowmere", Country: "GB", CreatedAt: now}
	recs.Deal = &domain.Deal{ID: 1, Name: "New oven room", CompanyID: &firm, MainContactID: &main, Stage: "quoted", AmountMinor: 1250000, Currency: "EUR", CloseDate: now.AddDate(0, 0, 21).Format("2006-01-02"), CreatedAt: now}
	return &Setting{cat, p, &main, []domain.Deal{*recs.Deal}, recs, a.records.Values(cat, recs), Reader("", &p, recs.Team), nil}, nil
}
