package app_test

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// stored sums up everything that is in the database.
func stored(t *testing.T, b *testbed.Bed) string {
	t.Helper()
	var tables []string
	list := func(query string, each func(values []any)) {
		rows, err := b.Store.DB().Query(query)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = rows.Close() }()
		columns, err := rows.Columns()
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			values, into := make([]any, len(columns)), make([]any, len(columns))
			for i := range values {
				into[i] = &values[i]
			}
			if err := rows.Scan(into...); err != nil {
				t.Fatal(err)
			}
			each(values)
		}
		if err := rows.Err(); err != nil {
			t.Fatal(err)
		}
	}
	list(`SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE '%find%' ORDER BY name`, func(v []any) { tables = append(tables, fmt.Sprint(v[0])) })
	sum := sha256.New()
	for _, table := range tables {
		list(`SELECT * FROM "`+table+`" ORDER BY 1, 2`, func(v []any) { _, _ = io.WriteString(sum, fmt.Sprintln(table, v)) })
	}
	return fmt.Sprintf("%x", sum.Sum(nil))
}

// oneActs are the use cases that write more than once, each with what it needs.
var oneActs = map[string]func(t *testing.T, b *testbed.Bed) func() error{
	"FillGap, also on the record": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		return func() error {
			_, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name", "Ada", true)
			return err
		}
	},
	"Correct, also on the record": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "ADA", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		return func() error {
			_, err := b.App.Desk.Correct(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name", "Ada", true)
			return err
		}
	},
	"ItIsRight": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "Test", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		return func() error {
			_, err := b.App.Desk.ItIsRight(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name")
			return err
		}
	},
	"DoubtAgain": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "Test", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		l, err := b.App.Desk.ItIsRight(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name")
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Desk.SuggestAgain(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name")
			return err
		}
	},
	"Send": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		return func() error {
			_, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{})
			return err
		}
	},
	"StartAnswer to somebody new": func(t *testing.T, b *testbed.Bed) func() error {
		comes(t, b, "imre@fernhollow.example", "From: Bo Rye <bo@rye.example>\nMessage-ID: <a@rye.example>\nSubject: Hello", "Can you help?")
		list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
		if err != nil || len(list) != 1 {
			t.Fatalf("%+v, %v", list, err)
		}
		return func() error {
			_, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, nil, false)
			return err
		}
	},
	"AddLead": func(_ *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Records.AddLead(ctx, b.Rep, "Ada Quill <ada@quill.example>")
			return err
		}
	},
	"ChangePerson": func(t *testing.T, b *testbed.Bed) func() error {
		id := b.Person(t, "Ada", "Quill", "ada@quill.example")
		return func() error {
			_, err := b.App.Records.ChangePerson(ctx, b.Rep, id, 1, map[string]string{"person.first_name": "Adele"})
			return err
		}
	},
	"AddOptOuts": func(t *testing.T, b *testbed.Bed) func() error {
		b.Person(t, "Ada", "Quill", "ada@quill.example")
		return func() error {
			_, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "ada@quill.example, bo@rye.example", "asked for it")
			return err
		}
	},
	"OptInAgain": func(t *testing.T, b *testbed.Bed) func() error {
		b.Person(t, "Ada", "Quill", "ada@quill.example")
		if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "ada@quill.example", "asked for it"); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Inbox.OptInAgain(ctx, b.Lead, "ada@quill.example", "asked for it again") }
	},
	"AddDocument": func(_ *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Prices", Purpose: "Every year"}, "prices.pdf", []byte("%PDF-1.4"))
			return err
		}
	},
	"ChangeDocument": func(t *testing.T, b *testbed.Bed) func() error {
		d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Prices", Purpose: "Every year"}, "prices.pdf", []byte("%PDF-1.4"))
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Library.ChangeDocument(ctx, b.Lead, d.ID, nil, "prices.pdf", []byte("%PDF-1.5"))
			return err
		}
	},
	"AddTemplate": func(_ *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Library.AddTemplate(ctx, b.Rep, library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "s", Body: "b"}, State: domain.TemplateDraft})
			return err
		}
	},
	"CopyFromShelf": func(t *testing.T, b *testbed.Bed) func() error {
		shelf, err := b.App.Library.Shelf(ctx)
		if err != nil {
			t.Fatal(err)
		}
		keys := []string{shelf[0].Key, shelf[1].Key}
		return func() error {
			_, err := b.App.Library.CopyFromShelf(ctx, b.Rep, keys, nil)
			return err
		}
	},
	"ImportLibrary": func(_ *testing.T, b *testbed.Bed) func() error {
		in := manyTemplates(2)
		return func() error {
			_, err := b.App.Transfer.ImportLibrary(ctx, b.Rep, in, transfer.ArchiveChoices{}, false)
			return err
		}
	},
	"ImportPeople": func(t *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := importCSV(t, b, "First name,Last name,Email\nAda,Quill,ada@quill.example\nBo,Rye,bo@rye.example\n", transfer.ImportOptions{Kind: field.Lead})
			return err
		}
	},
	"DeleteFolder with what is in it": func(t *testing.T, b *testbed.Bed) func() error {
		id, err := b.App.Library.AddFolder(ctx, b.Rep, library.HoldsTemplates, library.FolderInput{Name: "Offers"})
		if err != nil {
			t.Fatal(err)
		}
		addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Hello", FolderID: &id, Input: library.Input{Subject: "s", Body: "b"}})
		return func() error {
			_, err := b.App.Library.DeleteFolder(ctx, b.Rep, library.HoldsTemplates, id, library.DeleteToo)
			return err
		}
	},
	"AddStationery": func(t *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Library.AddStationery(ctx, b.Lead, library.StationeryInput{Name: "Winter", Header: formatted(t, "<p>Fernhollow</p>"), Footer: formatted(t, "<p>Bye</p>"), Ready: true, Default: true})
			return err
		}
	},
	"TakeIn": func(t *testing.T, b *testbed.Bed) func() error {
		b.Person(t, "Ada", "Quill", "ada@quill.example")
		return func() error {
			return b.App.Inbox.TakeIn(ctx, "", []string{"imre@fernhollow.example"}, []byte("From: ada@quill.example\r\nMessage-ID: <a@quill.example>\r\nSubject: Hello\r\n\r\nYes.\r\n"))
		}
	},
	"ChangeTemplate": func(t *testing.T, b *testbed.Bed) func() error {
		id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "s", Body: "b"}})
		return func() error {
			_, err := b.App.Library.ChangeTemplate(ctx, b.Rep, id, 1, library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "s", Body: "c"}, State: domain.TemplateDraft})
			return err
		}
	},
	"AddWording": func(t *testing.T, b *testbed.Bed) func() error {
		id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "Hello", Body: "Good day", Language: "en"}})
		return func() error {
			_, err := b.App.Library.AddWording(ctx, b.Rep, id, "de")
			return err
		}
	},
	"CopyTemplate with its wordings": func(t *testing.T, b *testbed.Bed) func() error {
		id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "Hello", Body: "Good day", Language: "en"}})
		if _, err := b.App.Library.AddWording(ctx, b.Rep, id, "de"); err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Library.CopyTemplate(ctx, b.Rep, id, true)
			return err
		}
	},
	"ChangeRecord": func(t *testing.T, b *testbed.Bed) func() error {
		id, err := b.Store.AddCompany(ctx, domain.Company{Name: "Quill", City: "Leeds", CreatedAt: b.Now()})
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			return b.App.Records.ChangeRecord(ctx, b.Rep, field.Company, id, "company.city", "Leeds", "York")
		}
	},
	"SetPersonTracked": func(t *testing.T, b *testbed.Bed) func() error {
		id := b.Person(t, "Ada", "Quill", "ada@quill.example")
		return func() error { return b.App.Desk.SetPersonTracked(ctx, b.Rep, id, false) }
	},
	"ChangeFolder to another place": func(t *testing.T, b *testbed.Bed) func() error {
		first, second := folderNamed(t, b, "Offers"), folderNamed(t, b, "Thanks")
		return func() error {
			return b.App.Library.ChangeFolder(ctx, b.Rep, library.HoldsTemplates, second, library.FolderInput{Name: "Thank you"}, &first)
		}
	},
	"PutBackFolder": func(t *testing.T, b *testbed.Bed) func() error {
		id := folderNamed(t, b, "Offers")
		addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Hello", FolderID: &id, Input: library.Input{Subject: "s", Body: "b"}})
		if _, err := b.App.Library.DeleteFolder(ctx, b.Rep, library.HoldsTemplates, id, library.DeleteToo); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Desk.PutBackFolder(ctx, b.Rep, library.HoldsTemplates, id) }
	},
	"PutBackOptOut": func(t *testing.T, b *testbed.Bed) func() error {
		b.Person(t, "Ada", "Quill", "ada@quill.example")
		if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "ada@quill.example", "asked for it"); err != nil {
			t.Fatal(err)
		}
		if err := b.App.Inbox.OptInAgain(ctx, b.Lead, "ada@quill.example", "asked for it again"); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Desk.PutBackOptOut(ctx, b.Lead, "ada@quill.example") }
	},
	"OptOutBy": func(t *testing.T, b *testbed.Bed) func() error {
		l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
		gone(t, b, l, desk.When{})
		sent, err := b.Store.Letter(ctx, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Inbox.OptOutBy(ctx, sent.Token) }
	},
	"Answer to a question, onto the record": func(t *testing.T, b *testbed.Bed) func() error {
		if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "lead.own.visit", Record: field.Lead, Label: "Visit wanted", Type: field.YesNo, Own: true}); err != nil {
			t.Fatal(err)
		}
		l, _ := asking(t, b, yesOrNo("lead.own.visit"))
		gone(t, b, l, desk.When{})
		return func() error { return b.App.Desk.Answer(ctx, l.Asked[0].Token, []string{"Yes"}) }
	},
	"AddressWorks": func(t *testing.T, b *testbed.Bed) func() error {
		id := bounced(t, b)
		return func() error { return b.App.Inbox.AddressWorks(ctx, b.Rep, id) }
	},
	"AddressFails": func(t *testing.T, b *testbed.Bed) func() error {
		id := bounced(t, b)
		if err := b.App.Inbox.AddressWorks(ctx, b.Rep, id); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Desk.AddressFails(ctx, b.Rep, id) }
	},
}

func folderNamed(t *testing.T, b *testbed.Bed, name string) int64 {
	t.Helper()
	id, err := b.App.Library.AddFolder(ctx, b.Rep, library.HoldsTemplates, library.FolderInput{Name: name})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// bounced gives somebody whose address does not work.
func bounced(t *testing.T, b *testbed.Bed) int64 {
	t.Helper()
	if err := b.Store.PutBadAddress(ctx, domain.BadAddress{Key: "ada@quill.example", Reason: "5.1.1", At: b.Now()}); err != nil {
		t.Fatal(err)
	}
	return b.Person(t, "Ada", "Quill", "ada@quill.example")
}

// What fails in the middle of an act leaves nothing of it.
func TestEveryAct_allOrNothing(t *testing.T) {
	for name, prepare := range oneActs {
		t.Run(name, func(t *testing.T) {
			broken := errors.New("the disk is full")
			for fail, writes := 1, 1; fail <= writes; fail++ {
				b := testbed.New(t)
				act := prepare(t, b)
				before, n := stored(t, b), 0
				b.Store.Before = func(string) error {
					if n++; n == fail && fail > 1 {
						return broken
					}
					return nil
				}
				err := act()
				b.Store.Before = nil
				after := stored(t, b)
				switch {
				case fail == 1: // nothing fails the first time
					if writes = n; err != nil || n < 2 || after == before {
						t.Fatalf("%d writes, changed: %t, %v", n, after != before, err)
					}
				case err == nil:
					t.Errorf("no word of what failed at write %d of %d", fail, writes)
				case after != before:
					t.Errorf("something is left of what failed at write %d of %d", fail, writes)
				}
			}
		})
	}
}
