package desk

import (
	"cmp"
	"context"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/result"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// Opened files that the picture of a letter was fetched.
func (a *Service) Opened(ctx context.Context, token string, v result.Visit) error {
	l, err := a.store.LetterByToken(ctx, token)
	if err != nil {
		return err
	}
	return a.visited(ctx, &l, domain.EntryOpened, nil, v)
}

// Followed files that a link was followed, and gives where it leads: only what stood
// in the letter.
func (a *Service) Followed(ctx context.Context, token string, v result.Visit) (string, error) {
	link, err := a.store.LinkByToken(ctx, token)
	if err != nil {
		return "", err
	}
	if link.URL == "" {
		return "", domain.ErrNotFound
	}
	l, err := a.store.LetterHead(ctx, link.LetterID)
	if err != nil {
		return "", err
	}
	return link.URL, a.visited(ctx, &l, domain.EntryClicked, &link, v)
}

// visited files a visit by its weight. The same within a short while is one look.
func (a *Service) visited(ctx context.Context, l *domain.Letter, kind domain.EntryKind, link *domain.Link, v result.Visit) error {
	now := a.now()
	v.Since = -1
	if l.SentAt != nil {
		v.Since = now.Sub(*l.SentAt)
	}
	weight := result.Weigh(v)
	if weight == result.Nothing || !wentOut(l.State) {
		return nil
	}
	e := domain.Entry{
		PersonID: &l.PersonID, CompanyID: l.CompanyID, DealID: l.DealID, LetterID: &l.ID,
		Kind: kind, Text: l.SubjectLine, At: now, Machine: weight == result.Machine,
	}
	if link != nil {
		e.LinkID, e.Text = &link.ID, cmp.Or(link.URL, link.Name)
	}
	return a.store.GroupCommit(ctx, func(ctx context.Context) error {
		filed, err := a.store.AddVisit(ctx, e, now.Add(-result.AtOnce))
		if err != nil || !filed || kind == domain.EntryDocument {
			return err
		}
		return a.store.Burst(ctx, l.ID, now.Add(-result.Burst))
	})
}

// LinkDocument makes the address of a page that shows an approved document to the
// reader of a letter, and gives the words that lead there, to be put in.
func (a *Service) LinkDocument(ctx context.Context, u domain.User, id, documentID int64) (document.Document, error) {
	l, err := a.draftOf(ctx, u, id)
	switch {
	case err != nil:
		return document.Document{}, err
	case l.Body.Attrs.Body == document.BodyHTML:
		return document.Document{}, &domain.StateError{Why: "The letter is an HTML page, whose layout can’t be changed. Attach the document instead."}
	}
	d, err := a.library.DocumentFor(ctx, u, documentID)
	if err != nil {
		return document.Document{}, err
	}
	had, err := a.store.LinksOf(ctx, id)
	if err != nil {
		return document.Document{}, err
	}
	var link *domain.Link
	for i := range had {
		if had[i].DocumentID != nil && *had[i].DocumentID == d.ID && had[i].SHA == d.SHA {
			link = &had[i]
		}
	}
	if link == nil {
		link = &domain.Link{LetterID: id, Token: a.newID(), DocumentID: &d.ID, Name: d.Name, SHA: d.SHA, CreatedAt: a.now()}
		if _, err := a.store.AddLink(ctx, *link); err != nil {
			return document.Document{}, err
		}
	}
	return linkWords(link.Name, a.compose.Public(compose.DocumentPath+link.Token), l.Body.Attrs.Body), nil
}

// linkWords are words that lead to an address, in the form of a body.
func linkWords(words, address, kind string) document.Document {
	if kind != document.BodyFormatted {
		return document.NewPlain(words + ": " + address)
	}
	d := render.Formatted(document.NewPlain(""))
	d.Content = []document.Node{{Type: document.Paragraph, Content: []document.Node{
		{Type: document.Text, Text: words, Marks: []document.Mark{{Type: document.Link, Attrs: &document.MarkAttrs{Href: address}}}},
	}}}
	return markup.Canonical(d)
}

// DocumentPage is what the page of a document shows.
type DocumentPage struct {
	Name     string
	FileName string
	Sender   string
	Team     string
	File     domain.File // without its bytes
}

// DocumentPage gives the page of a document's token, for whoever has it. What v says
// is filed; a nil v only looks.
func (a *Service) DocumentPage(ctx context.Context, token string, v *result.Visit) (DocumentPage, error) {
	link, err := a.store.LinkByToken(ctx, token)
	if err != nil {
		return DocumentPage{}, err
	}
	if link.DocumentID == nil {
		return DocumentPage{}, domain.ErrNotFound
	}
	l, err := a.store.LetterHead(ctx, link.LetterID)
	if err != nil {
		return DocumentPage{}, err
	}
	out := DocumentPage{Name: link.Name}
	if out.File, err = a.store.FileHead(ctx, link.SHA); err != nil {
		return out, err
	}
	d, err := a.store.SharedDocument(ctx, *link.DocumentID)
	if err != nil {
		return out, err
	}
	out.FileName = d.FileName
	if out.Sender, out.Team, err = a.SenderOf(ctx, &l); err != nil || v == nil {
		return out, err
	}
	return out, a.visited(ctx, &l, domain.EntryDocument, &link, *v)
}

// SetTracked says for a draft whether its opens and clicks are measured.
func (a *Service) SetTracked(ctx context.Context, u domain.User, id int64, w Wording, on bool) (LetterSheet, error) {
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error { l.Extras.Untracked = !on; return nil })
}

// SetPersonTracked says whether it is measured what a person opens.
func (a *Service) SetPersonTracked(ctx context.Context, u domain.User, id int64, on bool) error {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.store.Person(ctx, id)
		if err != nil || p.Untracked == !on {
			return err
		}
		p.Untracked, p.UpdatedAt = !on, a.now()
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		text := "What they open is no longer tracked"
		if on {
			text = "What they open is measured again"
		}
		return a.store.AddEntry(ctx, domain.Entry{PersonID: &id, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: text, At: p.UpdatedAt})
	})
}

// BackOfAll counts what came back of letters.
func (a *Service) BackOfAll(ctx context.Context, letters []*domain.Letter) (map[int64]domain.Back, error) {
	ids := make([]int64, len(letters))
	for i, l := range letters {
		ids[i] = l.ID
	}
	events, err := a.store.CameBack(ctx, ids)
	if err != nil {
		return nil, err
	}
	tallies := map[int64]*result.Tally{}
	for _, e := range events {
		kind, ok := domain.BackKinds[e.Kind]
		if !ok {
			continue
		}
		t := tallies[e.LetterID]
		if t == nil {
			t = &result.Tally{}
			tallies[e.LetterID] = t
		}
		one := result.Event{Kind: kind, Machine: e.Machine, At: e.At, Times: e.Times}
		if e.LinkID != nil {
			one.Link = *e.LinkID
		}
		t.Add(one)
	}
	out := make(map[int64]domain.Back, len(letters))
	for _, l := range letters {
		b := domain.Back{LetterID: l.ID, Measured: l.Tracked}
		if t := tallies[l.ID]; t != nil {
			b = domain.Back{
				LetterID: l.ID, Measured: l.Tracked, Opened: t.Opened, Opens: t.Opens, MachineOpens: t.MachineOpens, Clicks: t.Clicks, MachineClicks: t.MachineClicks, Documents: t.Documents, Replies: t.Replies,
				Away: t.Away, Delayed: t.Delayed, Bounced: t.Bounced, Complained: t.Complained, OptedOut: t.OptedOut, LastOpen: t.LastOpen, Links: nil,
			}
		}
		out[l.ID] = b
	}
	return out, nil
}

// BackOf gives what came back of one letter, with its links.
func (a *Service) BackOf(ctx context.Context, u domain.User, id int64) (domain.Back, error) {
	l, err := a.Seen(ctx, u, id)
	if err != nil {
		return domain.Back{}, err
	}
	all, err := a.BackOfAll(ctx, []*domain.Letter{&l})
	if err != nil {
		return domain.Back{}, err
	}
	out := all[id]
	links, err := a.store.LinksOf(ctx, id)
	if err != nil {
		return out, err
	}
	events, err := a.store.CameBack(ctx, []int64{id})
	if err != nil {
		return out, err
	}
	for _, link := range links {
		one := domain.LinkBack{Link: link}
		for _, e := range events {
			if e.LinkID != nil && *e.LinkID == link.ID && !e.Machine {
				one.Clicks += e.Times
			}
		}
		out.Links = append(out.Links, one)
	}
	return out, nil
}

// Seen gives a letter that the user may see, without its words.
func (a *Service) Seen(ctx context.Context, u domain.User, id int64) (domain.Letter, error) {
	l, err := a.store.LetterHead(ctx, id)
	if err == nil && !access.May(u.As(), access.SeeLetter, access.Thing{OwnerID: l.SenderID, Draft: l.State != domain.Sent}) {
		return domain.Letter{}, domain.ErrNotFound
	}
	return l, err
}

// SentRow is a letter that went out, with what came back of it.
type SentRow struct {
	domain.LetterRow
	Back domain.Back
}

// SentLetters lists what the user sent that holds all words of a search, the latest
// first, with what came back.
func (a *Service) SentLetters(ctx context.Context, u domain.User, search string) ([]SentRow, error) {
	rows, err := a.Letters(ctx, u, []domain.LetterState{domain.Sent}, search)
	if err != nil {
		return nil, err
	}
	return a.withBack(ctx, rows)
}

func (a *Service) withBack(ctx context.Context, rows []domain.LetterRow) ([]SentRow, error) {
	letters := make([]*domain.Letter, len(rows))
	for i := range rows {
		letters[i] = &rows[i].Letter
	}
	all, err := a.BackOfAll(ctx, letters)
	if err != nil {
		return nil, err
	}
	out := make([]SentRow, len(rows))
	for i := range rows {
		out[i] = SentRow{rows[i], all[rows[i].ID]}
	}
	return out, nil
}
