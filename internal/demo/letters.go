package demo

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/internal/app"
)

// letters writes half a year of letters that were sent, oldest first, with what
// came back.
func (m *maker) letters() error {
	readers := map[string]*field.Reader{}
	firms := map[int64]*app.Company{}
	for i := range m.firms {
		firms[m.firms[i].ID] = &m.firms[i]
	}
	made := 0
	for n := 0; made < letters; n++ {
		age := 182 - 182*made/letters
		at := m.ago(age+1, age+2) // yesterday at the latest: the hour of the day changes nothing
		p := &m.all[m.r.IntN(len(m.all))]
		if p.Email == "" || p.OptedOutAt != nil || p.CreatedAt.After(at) && m.chance(95) {
			continue
		}
		if p.CreatedAt.After(at) {
			at = p.CreatedAt.Add(3 * time.Hour)
		}
		if at.After(m.today) {
			continue
		}
		if readers[p.Language] == nil {
			readers[p.Language] = field.NewReader(p.Language)
		}
		done, err := m.write(p, firms, readers[p.Language], at)
		if err != nil {
			return err
		}
		if done {
			made++
		}
	}
	return nil
}

// write sends one letter to a person if the template it draws fits without a
// gap.
func (m *maker) write(p *app.Person, firms map[int64]*app.Company, reader *field.Reader, at time.Time) (bool, error) {
	k := m.r.IntN(len(m.wordings))
	t, program := m.wordings[k], m.programs[k]
	firm := p.CompanyName
	if p.CompanyID != nil {
		firm = firms[*p.CompanyID].Name
	}
	if t.State != app.TemplateReady || !suits(t.Name, firm) || p.FirstName == "n/a" {
		return false, nil
	}
	sender := m.byUser[*p.OwnerID]
	team := m.teams[*sender.TeamID]
	recs := app.Records{Person: p, Sender: &sender, Owner: &sender, Team: &team}
	if p.CompanyID != nil {
		recs.Company = firms[*p.CompanyID]
	}
	var dealID *int64
	if own := m.dealsOf[p.ID]; len(own) > 0 {
		recs.Deal, recs.Main, dealID = &own[0], p, &own[0].ID
	}
	if program.NeedsDeal() && recs.Deal == nil || !program.NeedsDeal() && !slices.Contains(program.Fits(), p.Kind) {
		return false, nil
	}
	if lang := t.Body.Attrs.Lang; lang != "" {
		reader = field.NewReader(lang)
	}
	l := program.Merge(m.a.Values(m.cat, recs), nil, reader)
	if len(l.Gaps) > 0 {
		return false, nil
	}
	sent := at.Add(time.Minute)
	out := app.Letter{
		PersonID: p.ID, CompanyID: p.CompanyID, DealID: dealID, TemplateID: &t.ID, TemplateVersion: &t.Version, SenderID: sender.ID,
		State: app.Sent, Reason: "250 Kept", ToName: strings.TrimSpace(p.FirstName + " " + p.LastName), ToEmail: p.Email, FromName: sender.Name(), FromEmail: sender.Email,
		Subject: l.Subject, Body: l.Body, SubjectLine: letter.RenderText(l.Subject), Version: 1, Attempts: 1,
		MessageID: fmt.Sprintf("demo%016x@fernhollow.example", m.r.Uint64()), CreatedAt: at, UpdatedAt: sent, DueAt: &at, HandedOverAt: &sent, SentAt: &sent,
	}
	raw, err := m.a.Composer.Compose(app.Mail{
		FromName: out.FromName, FromEmail: out.FromEmail, ToName: out.ToName, ToEmail: out.ToEmail,
		Subject: out.SubjectLine, Text: letter.RenderText(out.Body), HTML: letter.RenderHTML(out.Body, out.SubjectLine), MessageID: out.MessageID, Date: sent,
	})
	if err != nil {
		return false, err
	}
	id, err := m.s.AddSent(m.ctx, out, raw)
	if err != nil {
		return false, err
	}
	if err := m.entry(p.ID, app.EntrySent, out.SubjectLine, sent, sender.ID, &id, dealID); err != nil {
		return false, err
	}
	if sent.After(m.today.AddDate(0, 0, -20)) {
		if _, err := m.s.AddPostLetter(m.ctx, app.PostLetter{Mailbox: field.EmailKey(p.Email), Sender: out.FromEmail, Subject: out.SubjectLine, ArrivedAt: sent, Bytes: raw}); err != nil {
			return false, err
		}
	}
	if id%5 == 0 && sent.After(m.today.AddDate(0, 0, -9)) {
		due := time.Date(sent.Year(), sent.Month(), sent.Day()+7, 9, 0, 0, 0, time.UTC)
		if _, err := m.s.AddTask(m.ctx, app.Task{
			UserID: sender.ID, PersonID: &p.ID, DealID: dealID, LetterID: &id, DueAt: due, CreatedAt: sent,
			Text: fmt.Sprintf("No answer yet from %s to “%s”", out.ToName, out.SubjectLine),
		}); err != nil {
			return false, err
		}
	}
	return true, m.cameBack(p, &out, id, sent)
}

// cameBack draws what the recipient did. Letters of the demo are plain text, so
// nothing can be said of opens: an answer, a bounce or an opt-out is all that
// shows.
func (m *maker) cameBack(p *app.Person, l *app.Letter, id int64, sent time.Time) error {
	later := sent.Add(time.Duration(20+m.r.IntN(3000)) * time.Minute)
	draw := m.r.IntN(100)
	if later.After(m.today) {
		return nil
	}
	switch {
	case draw < 13:
		return m.entry(p.ID, app.EntryReplied, "Re: "+l.SubjectLine, later, 0, &id, l.DealID)
	case draw < 15:
		return m.entry(p.ID, app.EntryBounced, "the mailbox is full", sent.Add(time.Minute), 0, &id, l.DealID)
	}
	return nil
}
