package app_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
	"lucidletter/internal/testbed"
)

func formatted(t testing.TB, text string) document.Document {
	t.Helper()
	d, err := markup.ParseMarkup(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// sent sends a letter and gives what arrived.
func sent(t *testing.T, b *testbed.Bed, l desk.LetterSheet) domain.ReadMail {
	t.Helper()
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	bytes, err := b.Store.Bytes(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	m, err := (mail.Reader{}).Read(bytes)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

var onlyMe = access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}

func TestPassages(t *testing.T) {
	b := testbed.New(t)
	add := func(u domain.User, in library.PassageInput) library.PassageSheet {
		t.Helper()
		p, err := b.App.Library.AddPassage(ctx, u, in)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	shared := add(b.Lead, library.PassageInput{Name: "Opening hours", Shortcut: "hours", Body: "We are open from 8 to 5, {{person.first_name|friend}}."})
	add(b.Rep, library.PassageInput{Name: "My hours", Shortcut: "hours", Body: "I am there on Mondays.", Rights: onlyMe})
	add(b.Lead, library.PassageInput{Name: "End", Shortcut: "end", Kind: "formatted", Body: "<p>Regards,</p><p><b>{{sender.first_name}}</b></p>"})
	for name, in := range map[string]library.PassageInput{
		"no name":            {Shortcut: "x", Body: "b"},
		"a bad shortcut":     {Name: "n", Shortcut: "No Spaces", Body: "b"},
		"no words":           {Name: "n", Shortcut: "x", Body: " \n "},
		"an unknown field":   {Name: "n", Shortcut: "x", Body: "{{person.nickname}}"},
		"itself":             {Name: "n", Shortcut: "x", Body: "a {{>x}}"},
		"one that is none":   {Name: "n", Shortcut: "x", Body: "a {{>y}}"},
		"a page":             {Name: "n", Shortcut: "x", Body: "<p>b</p>", Kind: "html"},
		"the same shortcut":  {Name: "n", Shortcut: "end", Body: "b"},
		"broken markup":      {Name: "n", Shortcut: "x", Body: "<video>", Kind: "formatted"},
		"audience of nobody": {Name: "n", Shortcut: "x", Body: "b", Rights: access.Rights{Audience: access.Audience{Who: access.Some}}},
	} {
		if _, err := b.App.Library.AddPassage(ctx, b.Lead, in); err == nil {
			t.Errorf("%s was stored", name)
		}
	}
	list, err := b.App.Library.Passages(ctx, b.Lead, "", 0)
	if err != nil || len(list) != 2 {
		t.Errorf("the lead sees %+v, %v", list, err)
	}
	if list, _ := b.App.Library.Passages(ctx, b.Rep, "hou mond", 0); len(list) != 1 || !list[0].Mine || !list[0].MayEdit {
		t.Errorf("found %+v", list)
	}
	// A template speaks with the passages of its owner, whoever sends it.
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "T", Input: library.Input{Subject: "s", Body: "Dear,\n{{>hours}}\n\n{{>end}}"}})
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), id)
	if got := render.RenderText(l.Body); got != "Dear,\nWe are open from 8 to 5, Ada.\n\nRegards,\n\nImre" {
		t.Errorf("%q", got)
	}
	mine := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "Mine", Input: library.Input{Subject: "s", Body: "{{>hours}}"}})
	if l := b.Letter(t, l.PersonID, mine); render.RenderText(l.Body) != "I am there on Mondays." {
		t.Errorf("%q", render.RenderText(l.Body))
	}
	names, others, err := b.App.Library.UsersOfPassage(ctx, b.Lead, shared.ID)
	if err != nil || others != 0 || fmt.Sprint(names) != "[Mine T]" {
		t.Errorf("%v %d %v", names, others, err)
	}
	if err := b.App.Library.DeletePassage(ctx, b.Rep, shared.ID); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("deleted by another: %v", err)
	}
	if err := b.App.Library.DeletePassage(ctx, b.Lead, shared.ID); err != nil {
		t.Fatal(err)
	}
	s, err := b.App.Library.Template(ctx, b.Lead, id)
	if err != nil || len(s.Notes) != 1 || !strings.Contains(s.Notes[0].Message, "no passage with the shortcut hours") {
		t.Errorf("%+v, %v", s.Notes, err)
	}
	if page, err := b.App.Library.Library(ctx, b.Lead, domain.LibraryQuery{Limit: 10}); err != nil || page.Lines[1].Stops != 1 {
		t.Errorf("the library: %+v, %v", page, err)
	}
	if err := b.App.Library.PutBackPassage(ctx, b.Lead, shared.ID); err != nil {
		t.Fatal(err)
	}
	changed, err := b.App.Library.ChangePassage(ctx, b.Lead, shared.ID, shared.Version, library.PassageInput{Name: "Hours", Shortcut: "hours", Body: "New: 9 to 4."})
	if err != nil || changed.Version != 2 {
		t.Fatal(changed, err)
	}
	if _, err := b.App.Library.ChangePassage(ctx, b.Lead, shared.ID, shared.Version, library.PassageInput{Name: "Old", Shortcut: "hours", Body: "b"}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("stale: %v", err)
	}
}

func TestStationery(t *testing.T) {
	b := testbed.New(t)
	in := library.StationeryInput{Name: "House", Header: formatted(t, "<p>Fernhollow Cold Rooms</p>"), Footer: formatted(t, "<p>{{team.postal_address|}} {{sender.first_name}}</p>"), Ready: true, Default: true}
	in.Header.Attrs.Background = "#f7f4ec"
	if _, err := b.App.Library.AddStationery(ctx, b.Rep, in); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative made one: %v", err)
	}
	st, err := b.App.Library.AddStationery(ctx, b.Lead, in)
	if err != nil {
		t.Fatal(err)
	}
	for name, change := range map[string]func(*library.StationeryInput){
		"no name":            func(in *library.StationeryInput) { in.Name = "" },
		"a missing value":    func(in *library.StationeryInput) { in.Footer = formatted(t, "<p>{{person.city}}</p>") },
		"a blank":            func(in *library.StationeryInput) { in.Footer = formatted(t, "<p>{{?why}}</p>") },
		"an unknown field":   func(in *library.StationeryInput) { in.Header = formatted(t, "<p>{{team.nickname}}</p>") },
		"default, not ready": func(in *library.StationeryInput) { in.Ready = false },
		"a plain header":     func(in *library.StationeryInput) { in.Header = document.NewPlain("x") },
	} {
		bad := in
		change(&bad)
		var invalid *domain.InvalidError
		if _, err := b.App.Library.AddStationery(ctx, b.Lead, bad); !errors.As(err, &invalid) {
			t.Errorf("%s: %v", name, err)
		}
	}
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "T", Input: library.Input{Subject: "Cold", Kind: "formatted", Body: "<p>Dear {{person.first_name}}</p>"}})
	none := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Alone", Input: library.Input{Subject: "Cold", Kind: "formatted", Body: "<p>Dear</p>", Stationery: domain.NoStationery}})
	plain := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Plain", Input: library.Input{Subject: "Cold", Body: "Dear"}})
	l := b.Letter(t, person, id)
	// A draft follows when the stationery is changed.
	in.Header = formatted(t, "<p>Fernhollow, new</p>")
	if st, err = b.App.Library.ChangeStationery(ctx, b.Lead, st.ID, st.Version, in); err != nil {
		t.Fatal(err)
	}
	m := sent(t, b, l)
	if !strings.Contains(m.HTML, "Fernhollow, new") || m.Text != "Fernhollow, new\n\nDear Ada\n\nImre\n" {
		t.Errorf("%s\n%q", m.HTML, m.Text)
	}
	for _, alone := range []int64{none, plain} {
		if m := sent(t, b, b.Letter(t, person, alone)); strings.Contains(m.HTML+m.Text, "Fernhollow, new") {
			t.Errorf("around %d: %s", alone, m.Text)
		}
	}
	trial, err := b.App.Library.TryOn(ctx, b.Rep, library.Input{Subject: "s", Kind: "formatted", Body: "<p>x</p>"}, person, "", 0)
	if err != nil || !strings.Contains(trial.HTML, "Fernhollow, new") || strings.Contains(render.RenderText(trial.Body), "Fernhollow") {
		t.Errorf("%+v, %v", trial, err)
	}
	html, err := b.App.Library.PreviewStationery(ctx, b.Lead, in, id)
	if err != nil || !strings.Contains(html, "Fernhollow, new") || !strings.Contains(html, "Dear") {
		t.Errorf("%s, %v", html, err)
	}
	if names, _, err := b.App.Library.UsersOfStationery(ctx, b.Lead, st.ID); err != nil || fmt.Sprint(names) != "[T]" {
		t.Errorf("%v, %v", names, err)
	}
	// Another default takes the place; what was taken away is around nothing.
	other, err := b.App.Library.AddStationery(ctx, b.Lead, library.StationeryInput{Name: "Feast", Header: formatted(t, "<p>Feast</p>"), Footer: formatted(t, "<p></p>"), Ready: true, Default: true})
	if err != nil {
		t.Fatal(err)
	}
	if st, _ = b.Store.Stationery(ctx, st.ID); st.Default {
		t.Error("two are the default")
	}
	l = b.Letter(t, person, id)
	if _, err := b.App.Library.DeleteStationery(ctx, b.Lead, other.ID, other.Version, false); err != nil {
		t.Fatal(err)
	}
	if m := sent(t, b, l); strings.Contains(m.Text, "Feast") {
		t.Errorf("%q", m.Text)
	}
	if _, err := b.App.Library.AddTemplate(ctx, b.Lead, library.TemplateInput{Name: "x", State: domain.TemplateDraft, Input: library.Input{Kind: "formatted", Body: "<p>x</p>", Stationery: other.ID}}); err == nil {
		t.Error("a stationery that is gone was chosen")
	}
	// It is not changed while it is gone, and comes back as it was.
	away, err := b.Store.Stationery(ctx, other.ID)
	if err != nil {
		t.Fatal(err)
	}
	feast := library.StationeryInput{Name: "Feast", Header: formatted(t, "<p>Feast</p>"), Footer: formatted(t, "<p></p>"), Ready: true}
	for _, version := range []int{other.Version, away.Version} {
		if _, err := b.App.Library.ChangeStationery(ctx, b.Lead, other.ID, version, feast); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("what is gone was changed: %v", err)
		}
	}
	if back, err := b.App.Library.DeleteStationery(ctx, b.Lead, other.ID, away.Version, true); err != nil || !back.Default || back.DeletedAt != nil {
		t.Errorf("it came back as %+v, %v", back, err)
	}
}

func TestDocuments(t *testing.T) {
	b := testbed.New(t)
	if _, err := b.App.Library.AddDocument(ctx, b.Rep, library.DocumentInput{Name: "Terms"}, "terms.pdf", []byte("%PDF-1")); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative put one on the shelf: %v", err)
	}
	d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Terms", Purpose: "With every quote"}, `C:\x\terms "of" trade.pdf`, []byte("%PDF-1 one"))
	if err != nil || d.FileName != "terms of trade.pdf" || d.Type != "application/pdf" || d.Version != 1 {
		t.Fatalf("%+v, %v", d, err)
	}
	for name, row := range map[string]struct {
		name  string
		bytes []byte
	}{"empty": {"a.pdf", nil}, "no name": {"..//", []byte("x")}, "too large": {"a.pdf", make([]byte, library.MaxAttachment+1)}} {
		if _, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "n"}, row.name, row.bytes); err == nil {
			t.Errorf("%s was stored", name)
		}
	}
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "Quote", Input: library.Input{Subject: "s", Body: "b"}, Documents: []int64{d.ID}})
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	first := sent(t, b, b.Letter(t, person, id))
	if len(first.Files) != 1 || first.Files[0].Name != "terms of trade.pdf" || first.Files[0].Size != len("%PDF-1 one") {
		t.Errorf("%+v", first.Files)
	}
	draft := b.Letter(t, person, id)
	if d, err = b.App.Library.ChangeDocument(ctx, b.Lead, d.ID, nil, "terms 2.pdf", []byte("%PDF-1 the second one")); err != nil || d.Version != 2 {
		t.Fatal(d, err)
	}
	if m := sent(t, b, draft); m.Files[0].Name != "terms 2.pdf" || m.Files[0].Size != len("%PDF-1 the second one") {
		t.Errorf("the draft did not follow: %+v", m.Files)
	}
	if names, _, err := b.App.Library.UsersOfDocument(ctx, b.Lead, d.ID); err != nil || fmt.Sprint(names) != "[Quote]" {
		t.Errorf("%v, %v", names, err)
	}
	if err := b.App.Library.DeleteDocument(ctx, b.Lead, d.ID, false); err != nil {
		t.Fatal(err)
	}
	if m := sent(t, b, b.Letter(t, person, id)); len(m.Files) != 0 {
		t.Errorf("%+v", m.Files)
	}
	if err := b.App.Library.DeleteDocument(ctx, b.Lead, d.ID, true); err != nil {
		t.Fatal(err)
	}
	onlyLeads := access.Rights{Audience: access.Audience{Who: access.Some, Roles: []access.Role{access.TeamLead}}}
	if _, err := b.App.Library.ChangeDocument(ctx, b.Lead, d.ID, &library.DocumentInput{Name: "Terms", Rights: onlyLeads}, "", nil); err != nil {
		t.Fatal(err)
	}
	if list, err := b.App.Library.Documents(ctx, b.Rep); err != nil || len(list) != 0 {
		t.Errorf("a representative sees %+v, %v", list, err)
	}
	if _, _, err := b.App.Library.DocumentFile(ctx, b.Rep, d.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("and reads it: %v", err)
	}
	if _, err := b.App.Library.AddTemplate(ctx, b.Rep, library.TemplateInput{Name: "x", State: domain.TemplateDraft, Documents: []int64{d.ID}}); err == nil {
		t.Error("and attaches it")
	}
}

// What a template does not let its writers add keeps the letter from going, whatever the screen did.
func TestSend_additions(t *testing.T) {
	b := testbed.New(t)
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	all := []domain.Addition{domain.AddLinks, domain.AddPictures, domain.AddFields, domain.AddAttachments}
	markup := `<p>Dear {{person.first_name}}, <a href="https://a.example">look</a></p><img src="https://a.example/a.png" alt="A">`
	id := addTemplate(t, b, b.Lead, library.TemplateInput{Name: "T", Input: library.Input{Subject: "s", Kind: "formatted", Body: markup}, MayNot: all})
	for name, row := range map[string]struct{ body, stops string }{
		"other words":      {`<p>Dear Ada, look <a href="https://b.example">there</a></p>`, ""},
		"a link":           {`<p><a href="https://a.example">look</a> or <a href="https://b.example">there</a></p>`, "to add links"},
		"an address":       {`<p><a href="https://a.example">look</a> or https://b.example</p>`, "to add links"},
		"a second picture": {`<img src="https://a.example/a.png" alt="A"><img src="https://a.example/b.png" alt="B"><p>x</p>`, "to add pictures"},
	} {
		l := b.Letter(t, person, id)
		s, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: formatted(t, row.body)})
		if err != nil {
			t.Fatal(name, err)
		}
		stops := fmt.Sprint(s.Stops)
		if (row.stops == "") != (len(s.Stops) == 0) || !strings.Contains(stops, row.stops) {
			t.Errorf("%s: %s", name, stops)
		}
	}
	if _, err := b.App.Library.AddTemplate(ctx, b.Lead, library.TemplateInput{Name: "x", State: domain.TemplateDraft, MayNot: []domain.Addition{"songs"}}); err == nil {
		t.Error("songs cannot be added either")
	}
}

func TestTextPart(t *testing.T) {
	b := testbed.New(t)
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	typed := library.Input{Subject: "s", Kind: "formatted", Body: "<p>Dear {{person.first_name}}</p><p>{{?why}}</p>"}
	of, err := b.App.Library.TextPartOf(typed)
	if err != nil || of != "Dear {{person.first_name}}\n\n{{?why}}" {
		t.Fatalf("%q, %v", of, err)
	}
	typed.TextPart, typed.TextOf = new("Hello {{person.first_name}} of {{person.city}}: {{?why}}"), of
	c, err := b.App.Library.CheckTemplate(ctx, b.Rep, typed)
	if err != nil || len(c.Notes) != 0 {
		t.Fatalf("%+v, %v", c.Notes, err)
	}
	id := addTemplate(t, b, b.Rep, library.TemplateInput{Name: "T", Input: typed})
	l := b.Letter(t, person, id)
	if len(l.Gaps) != 2 || l.Gaps[1].Part != document.TextPart || l.Gaps[0].Path != "?why" {
		t.Fatalf("%+v", l.Gaps)
	}
	for path, value := range map[string]string{"?why": "For the roses", "person.city": "Leeds"} {
		if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}, path, value, false); err != nil {
			t.Fatal(path, err)
		}
	}
	if m := sent(t, b, l); m.Text != "Hello Ada of Leeds: For the roses\n" || !strings.Contains(m.HTML, "For the roses") {
		t.Errorf("%q", m.Text)
	}
	// Words that are typed at the desk make it be made by itself again.
	l = b.Letter(t, person, id)
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: formatted(t, "<p>Other words</p>")}); err != nil {
		t.Fatal(err)
	}
	if m := sent(t, b, l); m.Text != "Other words\n" {
		t.Errorf("%q", m.Text)
	}
	typed.Body = "<p>Dear {{person.first_name}}, new</p>"
	if c, err = b.App.Library.CheckTemplate(ctx, b.Rep, typed); err != nil || len(c.Notes) != 1 || c.Notes[0].Code != "textpart" {
		t.Errorf("%+v, %v", c.Notes, err)
	}
}

func TestSendTest(t *testing.T) {
	b := testbed.New(t)
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if err := b.App.Desk.SendTest(ctx, b.Rep, library.Input{Subject: "For {{person.first_name}}", Body: "Dear {{person.city}}"}, nil, person); err != nil {
		t.Fatal(err)
	}
	list, err := b.App.Postbox.Mailbox(ctx, b.Rep.Email)
	if err != nil || len(list) != 1 || list[0].Subject != "Test: For Ada" {
		t.Fatalf("%+v, %v", list, err)
	}
	if l, err := b.App.Postbox.PostLetter(ctx, list[0].ID); err != nil || l.Mail.Text != "Dear ‹City›\n" {
		t.Errorf("%q, %v", l.Mail.Text, err)
	}
	if h, err := b.History(ctx, person, 10, 0); err != nil || len(h) != 0 {
		t.Errorf("it was filed: %+v, %v", h, err)
	}
	b.Send("127.0.0.1:1")
	var state *domain.StateError
	if err := b.App.Desk.SendTest(ctx, b.Rep, library.Input{Subject: "s", Body: "b"}, nil, person); !errors.As(err, &state) {
		t.Errorf("no server: %v", err)
	}
}

func TestOrigin(t *testing.T) {
	b := testbed.New(t)
	in := library.TemplateInput{Name: "Quote", State: domain.TemplateReady, Input: library.Input{Subject: "Your quote", Body: "Dear,\n\nhere is the quote.\n\nRegards"}}
	original := addTemplate(t, b, b.Lead, in)
	mine, err := b.App.Library.CopyTemplate(ctx, b.Rep, original, true)
	if err != nil || mine.Name != "My Quote" || *mine.OriginID != original {
		t.Fatalf("%+v, %v", mine, err)
	}
	own := library.TemplateInput{Name: "My quote", State: domain.TemplateReady, Input: library.Input{Subject: "Your quote", Body: "Hello,\n\nhere is the quote.\n\nRegards"}}
	if mine, err = b.App.Library.ChangeTemplate(ctx, b.Rep, mine.ID, mine.Version, own); err != nil || mine.OriginID == nil {
		t.Fatal(err)
	}
	o, err := b.App.Library.OriginOf(ctx, b.Rep, mine.ID)
	if err != nil || o.Moved || o.Name != "Quote" {
		t.Fatalf("%+v, %v", o, err)
	}
	in.Subject, in.Body = "Your new quote", "Dear customer,\n\nhere is the quote.\n\nIt holds for a month.\n\nRegards"
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, original, 1, in); err != nil {
		t.Fatal(err)
	}
	o, err = b.App.Library.OriginOf(ctx, b.Rep, mine.ID)
	if err != nil || !o.Moved || o.Now != 2 || o.Version != 1 || len(o.Changes) != 2 || !o.Changes[0].Conflict || o.Changes[1].Conflict || o.Changes[0].Mine != "Hello," ||
		!slices.ContainsFunc(o.Subject, func(s library.Stretch) bool { return s.Kind == "added" }) {
		t.Fatalf("%+v, %v", o, err)
	}
	if _, err := b.App.Library.FollowOrigin(ctx, b.Rep, mine.ID, library.Follow{Now: 1}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("of a version that was not looked at: %v", err)
	}
	b.Pass(time.Minute)
	got, err := b.App.Library.FollowOrigin(ctx, b.Rep, mine.ID, library.Follow{Now: 2, Subject: true, Take: []int{1}})
	if err != nil || got.SubjectText != "Your new quote" || got.BodyText != "Hello,\n\nhere is the quote.\n\nIt holds for a month.\n\nRegards" || got.Version != mine.Version+1 {
		t.Fatalf("%+v, %v", got, err)
	}
	if o, err = b.App.Library.OriginOf(ctx, b.Rep, mine.ID); err != nil || o.Moved {
		t.Errorf("still to be looked at: %+v, %v", o, err)
	}
	// What is being tried in a draft of the original is not offered.
	in.State, in.Body = domain.TemplateDraft, "Only a try"
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, original, 2, in); err != nil {
		t.Fatal(err)
	}
	if o, err = b.App.Library.OriginOf(ctx, b.Rep, mine.ID); err != nil || !o.Gone {
		t.Errorf("%+v, %v", o, err)
	}
	in.State, in.Kind, in.Body = domain.TemplateReady, "formatted", "<p>Now in colours</p>"
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, original, 3, in); err != nil {
		t.Fatal(err)
	}
	if o, err = b.App.Library.OriginOf(ctx, b.Rep, mine.ID); err != nil || !o.Whole || !o.Moved {
		t.Errorf("%+v, %v", o, err)
	}
	if _, err := b.App.Library.FollowOrigin(ctx, b.Rep, mine.ID, library.Follow{Now: 4, Take: []int{0}}); err == nil {
		t.Error("a paragraph of another kind was taken")
	}
	if got, err = b.App.Library.FollowOrigin(ctx, b.Rep, mine.ID, library.Follow{Now: 4, Whole: true}); err != nil || got.Body.Attrs.Body != "formatted" {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err = b.App.Library.FollowOrigin(ctx, b.Rep, mine.ID, library.Follow{End: true}); err != nil || got.OriginID != nil {
		t.Errorf("%+v, %v", got, err)
	}
}
