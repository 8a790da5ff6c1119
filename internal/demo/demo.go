// Package demo makes the sample workspace: Fernhollow Cold Rooms, a made-up
// firm with made-up people on .example addresses, from the readable files in
// data/. The same seed gives the same workspace; only its dates follow the day
// it is made.
package demo

import (
	"context"
	"embed"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

//go:embed data
var data embed.FS

// Password is that of every demo sign-in.
const Password = "fernhollow"

// The sizes of the workspace.
const (
	companies = 120
	people    = 400
	deals     = 90
	letters   = 1400
)

// Store keeps the workspace.
type Store interface {
	app.Store
	AddTeam(ctx context.Context, t domain.Team) (int64, error)
	AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error)
	AddSent(ctx context.Context, l domain.Letter, bytes []byte) (int64, error)
}

// World is what the sample workspace is made with.
type World struct {
	App      *app.App
	Store    Store
	Composer domain.Composer
	Reader   domain.MailReader
}

// Load fills an empty workspace in one transaction.
func Load(ctx context.Context, w World) error {
	now := w.App.Now().UTC()
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	m := &maker{w: w, a: w.App, s: w.Store, r: rand.New(rand.NewPCG(1, 2)), today: today}
	err := w.Store.Within(ctx, func(ctx context.Context) error {
		m.ctx = ctx
		for _, step := range []func() error{m.fields, m.users, m.shared, m.templates, m.companies, m.people, m.deals, m.letters, m.rounds, m.plans, m.caught} {
			if err := step(); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("load the demo data: %w", err)
	}
	return nil
}

type maker struct {
	w        World
	a        *app.App
	s        Store
	ctx      context.Context
	r        *rand.Rand
	today    time.Time
	cat      *field.Catalogue
	ids      []int64 // of the users
	team     map[string]int64
	teams    map[int64]domain.Team
	byUser   map[int64]domain.User
	firms    []domain.Company
	all      []domain.Person
	dealsOf  map[int64][]domain.Deal
	folders  map[string]int64
	wordings []domain.Template
	programs []*template.Program
}

// rows reads a file of cells separated by bars; # begins a comment.
func rows(name string) ([][]string, error) {
	text, err := data.ReadFile("data/" + name)
	if err != nil {
		return nil, err
	}
	var out [][]string
	for line := range strings.SplitSeq(string(text), "\n") {
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		cells := strings.Split(line, "|")
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		out = append(out, cells)
	}
	return out, nil
}

func words(name string) ([]string, error) {
	text, err := data.ReadFile("data/" + name)
	list := strings.Fields(string(text))
	for i := range list {
		list[i] = strings.ReplaceAll(list[i], "~", " ")
	}
	return list, err
}

func (m *maker) fields() error {
	list, err := rows("fields.txt")
	if err != nil {
		return err
	}
	var own []field.Def
	for _, row := range list {
		record, _, _ := strings.Cut(row[0], ".")
		d := field.Def{Path: row[0], Record: field.Record(record), Label: row[1], Type: field.Type(row[2]), Own: true}
		if row[3] != "" {
			for choice := range strings.SplitSeq(row[3], ",") {
				d.Choices = append(d.Choices, strings.TrimSpace(choice))
			}
		}
		own = append(own, d)
		if err := m.s.AddOwnField(m.ctx, d); err != nil {
			return err
		}
	}
	m.cat = field.New(own)
	return nil
}

func (m *maker) users() error {
	m.team, m.teams, m.byUser = map[string]int64{}, map[int64]domain.Team{}, map[int64]domain.User{}
	event := m.today.AddDate(0, 0, 33)
	for _, name := range []string{"North", "South"} {
		t := domain.Team{
			Name: "Fernhollow Cold Rooms, " + name, PostalAddress: "Fernhollow Cold Rooms\n7 Ice House Lane\nHarrowmere HM2 6FR", Website: "https://fernhollow.example", Language: "en-GB",
			Own: domain.Own{"team.own.next_event": "Open workshop in Harrowmere", "team.own.next_event_date": event.Format(time.DateOnly), "team.own.emergency_phone": "+44 20 7946 0199"},
		}
		id, err := m.s.AddTeam(m.ctx, t)
		if err != nil {
			return err
		}
		t.ID = id
		m.team[name], m.teams[id] = id, t
	}
	list, err := rows("users.txt")
	if err != nil {
		return err
	}
	// One cheap hash for all: the password is printed at the start anyway.
	hash, err := team.HashPassword(Password, bcrypt.MinCost)
	if err != nil {
		return err
	}
	for _, row := range list {
		team := m.team[row[4]]
		u := domain.User{
			HoldSeconds: desk.DefaultHold, FirstName: row[0], LastName: row[1], Email: row[2], Role: access.Role(row[3]), TeamID: &team, Phone: row[5], JobTitle: row[6],
			BookingLink: "https://fernhollow.example/meet/" + strings.ToLower(row[0]), PasswordHash: hash,
			Own:       domain.Own{"sender.own.survey_link": "https://fernhollow.example/survey/" + strings.ToLower(row[0])},
			Signature: row[0] + " " + row[1] + "\n" + row[6] + "\nFernhollow Cold Rooms\n" + row[5],
		}
		id, err := m.s.AddUser(m.ctx, u)
		if err != nil {
			return err
		}
		u.ID = id
		if u.Role == access.TeamLead { // who also writes for the house
			if err := m.s.PutFromAddress(m.ctx, domain.FromAddress{
				UserID: id, Name: "Fernhollow Cold Rooms", Email: "hello@fernhollow.example",
				Signature: render.Formatted(document.NewPlain("Fernhollow Cold Rooms\n7 Ice House Lane, Harrowmere")),
			}); err != nil {
				return err
			}
		}
		m.ids, m.byUser[id] = append(m.ids, id), u
	}
	return nil
}

func (m *maker) templates() error {
	text, err := data.ReadFile("data/templates.txt")
	if err != nil {
		return err
	}
	lead := m.ids[4]
	m.folders = map[string]int64{}
	for i, part := range strings.Split("\n"+string(text), "\n== ")[1:] {
		head, body, ok := strings.Cut(part, "\n---\n")
		if !ok {
			return fmt.Errorf("templates.txt: no --- in %q", head)
		}
		lines := strings.Split(head, "\n")
		made := m.today.AddDate(0, 0, -200+i)
		t := domain.Template{
			Name: lines[0], State: domain.TemplateReady, OwnerID: lead, Version: 1, CreatedAt: made, UpdatedAt: made, UpdatedBy: lead,
		}
		kind, lang := "", ""
		var earlier []string // what the wording says now and said then, in turn
		for _, line := range lines[1:] {
			key, value, _ := strings.Cut(line, ": ")
			switch key {
			case "when":
				t.WhenToUse = value
			case "subject":
				t.Subject = markup.Parse(value)
			case "language":
				lang = value
			case "kind":
				kind = value
			case "folder":
				if t.FolderID, err = m.folder(value); err != nil {
					return err
				}
			case "tags":
				t.Tags = strings.Split(value, ", ")
			case "state":
				t.State = domain.TemplateState(value)
			case "earlier":
				now, then, _ := strings.Cut(value, " => ")
				earlier = append(earlier, now, then)
			default:
				return fmt.Errorf("templates.txt: %q is not a setting", line)
			}
		}
		body, others, err := library.SplitWordings(body)
		if err != nil {
			return fmt.Errorf("templates.txt: %s: %w", t.Name, err)
		}
		read := func(text string) (document.Document, error) {
			doc, err := markup.ParseBody(strings.TrimSpace(text), kind)
			doc.Attrs.Lang = lang
			return doc, err
		}
		if t.Body, err = read(body); err != nil {
			return fmt.Errorf("templates.txt: %s: %w", t.Name, err)
		}
		program, notes := template.Compile(template.Template{Subject: t.Subject, Body: t.Body}, m.cat)
		if document.Stopping(notes) {
			return fmt.Errorf("templates.txt: %s: %v", t.Name, notes)
		}
		if t.ID, err = m.store(t, earlier, body, read); err != nil {
			return err
		}
		t.Version += min(len(earlier), 1)
		for _, w := range others {
			if err := m.sister(t, w); err != nil {
				return fmt.Errorf("templates.txt: %s in %s: %w", t.Name, w.Language, err)
			}
		}
		m.wordings, m.programs = append(m.wordings, t), append(m.programs, program)
	}
	return nil
}

// sister adds the wording of a template in another language.
func (m *maker) sister(t domain.Template, w library.ShelfWording) error {
	body, err := markup.ParseBody(w.Body, t.Body.Attrs.Body)
	if err != nil {
		return err
	}
	t.SisterOf, t.Version, t.Subject, t.Body = &t.ID, 1, markup.Parse(w.Subject), body
	t.Body.Attrs.Lang = w.Language
	if _, notes := template.Compile(template.Template{Subject: t.Subject, Body: t.Body}, m.cat); document.Stopping(notes) {
		return fmt.Errorf("%v", notes)
	}
	_, err = m.s.AddTemplate(m.ctx, t)
	return err
}

// folder gives a folder by its path, made when it is not there.
func (m *maker) folder(path string) (*int64, error) {
	var parent *int64
	for i, name := range strings.Split(path, " / ") {
		at := strings.Join(strings.Split(path, " / ")[:i+1], " / ")
		id, known := m.folders[at]
		if !known {
			var err error
			f := domain.Folder{Holds: library.HoldsTemplates, Name: name, ParentID: parent, OwnerID: m.ids[4], CreatedAt: m.today.AddDate(0, 0, -220)}
			if id, err = m.s.AddFolder(m.ctx, f); err != nil {
				return nil, err
			}
			m.folders[at] = id
		}
		parent = &id
	}
	return parent, nil
}

// store adds a template, first in its earlier wording if it has one.
func (m *maker) store(t domain.Template, earlier []string, body string, read func(string) (document.Document, error)) (int64, error) {
	if len(earlier) == 0 {
		return m.s.AddTemplate(m.ctx, t)
	}
	old, err := t, error(nil)
	if old.Body, err = read(strings.NewReplacer(earlier...).Replace(body)); err != nil {
		return 0, err
	}
	old.CreatedAt = t.CreatedAt.AddDate(0, 0, -21)
	old.UpdatedAt = old.CreatedAt
	if t.ID, err = m.s.AddTemplate(m.ctx, old); err != nil {
		return 0, err
	}
	return t.ID, m.s.UpdateTemplate(m.ctx, t)
}

func pick[T any](r *rand.Rand, list []T) T { return list[r.IntN(len(list))] }

// chance is true n times in a hundred.
func (m *maker) chance(n int) bool { return m.r.IntN(100) < n }
