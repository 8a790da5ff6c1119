package demo

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// letters writes half a year of letters that were sent, oldest first, with what
// came back.
func (m *maker) letters() error {
	firms := map[int64]*domain.Company{}
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
			at = workingDay(p.CreatedAt.Add(time.Hour))
		}
		if at.After(m.today) {
			continue
		}
		done, err := m.write(p, firms, at)
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
func (m *maker) write(p *domain.Person, firms map[int64]*domain.Company, at time.Time) (bool, error) {
	k := m.r.IntN(len(m.wordings))
	t, program := m.wordings[k], m.programs[k]
	firm := p.CompanyName
	if p.CompanyID != nil {
		firm = firms[*p.CompanyID].Name
	}
	if t.State != domain.TemplateReady || !suits(t.Name, firm) || p.FirstName == "n/a" {
		return false, nil
	}
	sender := m.byUser[*p.OwnerID]
	team := m.teams[*sender.TeamID]
	recs := records.Records{Person: p, Sender: &sender, Owner: &sender, Team: &team}
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
	lang := t.Body.Attrs.Lang
	if lang == "" {
		lang = "en"
	}
	if lang != "en" && !field.SameLanguage(p.Language, lang) {
		return false, nil // nobody writes in a language that the reader does not read
	}
	reader := field.NewReader(field.LocaleFor(lang, p.Language, field.CountryCode(p.Country), "en-GB"))
	values := m.a.Records.Values(m.cat, recs)
	values.Set("today", field.DateOf(at))
	if !m.sensible(&t, values, at) {
		return false, nil
	}
	l := program.Merge(values, nil, reader)
	if len(l.Gaps) > 0 {
		return false, nil
	}
	if l.Body.Attrs.Body == document.BodyPlain && m.chance(60) {
		l.Body = render.Formatted(l.Body) // most people write so
	}
	signature := document.NewPlain(sender.Signature)
	if l.Body.Attrs.Body == document.BodyFormatted {
		signature = render.Formatted(signature)
	}
	l.Body = letter.AppendSignature(l.Body, signature)
	sent := at.Add(time.Minute)
	out := domain.Letter{
		PersonID: p.ID, CompanyID: p.CompanyID, DealID: dealID, TemplateID: &t.ID, TemplateVersion: &t.Version, SenderID: sender.ID,
		State: domain.Sent, Reason: "250 Kept", ToName: strings.TrimSpace(p.FirstName + " " + p.LastName), ToEmail: p.Email, FromName: sender.Name(), FromEmail: sender.Email,
		Subject: l.Subject, Body: l.Body, SubjectLine: render.RenderText(l.Subject), Version: 1, Attempts: 1,
		MessageID: fmt.Sprintf("demo%016x@fernhollow.example", m.r.Uint64()), CreatedAt: at, UpdatedAt: sent, DueAt: &at, HandedOverAt: &sent, SentAt: &sent,
		Token: fmt.Sprintf("demo%016x%016x", m.r.Uint64(), m.r.Uint64()), Tracked: l.Body.Attrs.Body == document.BodyFormatted,
	}
	return true, m.file(p, &out)
}

// file stores a letter that was sent, with what belongs to it.
func (m *maker) file(p *domain.Person, out *domain.Letter) error {
	sent, dealID := *out.SentAt, out.DealID
	raw, err := m.w.Composer.Compose(domain.Mail{
		FromName: out.FromName, FromEmail: out.FromEmail, ToName: out.ToName, ToEmail: out.ToEmail,
		Subject: out.SubjectLine, Text: render.RenderText(out.Body), HTML: render.RenderHTML(out.Body, out.SubjectLine), MessageID: out.MessageID, Date: sent,
	})
	if err != nil {
		return err
	}
	id, err := m.s.AddSent(m.ctx, *out, raw)
	if err != nil {
		return err
	}
	if err := m.s.AddEntry(m.ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, DealID: dealID, LetterID: &id, UserID: &out.SenderID, Kind: domain.EntrySent, Text: out.SubjectLine, At: sent}); err != nil {
		return err
	}
	if err := m.links(id, raw, out); err != nil {
		return err
	}
	if sent.After(m.today.AddDate(0, 0, -20)) {
		if _, err := m.s.AddPostLetter(m.ctx, domain.PostLetter{Mailbox: field.EmailKey(p.Email), Sender: out.FromEmail, Subject: out.SubjectLine, ArrivedAt: sent, Bytes: raw}); err != nil {
			return err
		}
	}
	if id%5 == 0 && sent.After(m.today.AddDate(0, 0, -9)) {
		due := time.Date(sent.Year(), sent.Month(), sent.Day()+7, 9, 0, 0, 0, time.UTC)
		if _, err := m.s.AddTask(m.ctx, domain.Task{
			UserID: out.SenderID, PersonID: &p.ID, DealID: dealID, LetterID: &id, DueAt: due, CreatedAt: sent,
			Text: fmt.Sprintf("No reply yet from %s to “%s”", out.ToName, out.SubjectLine),
		}); err != nil {
			return err
		}
	}
	out.ID = id
	return m.cameBack(p, out, sent)
}

// sensible tells whether the dates that a template speaks of make sense on the day of
// the letter: what is valid or comes is some days ahead, and not for ever.
func (m *maker) sensible(t *domain.Template, v *field.Values, at time.Time) bool {
	for _, path := range markup.PathsIn(t.Subject, t.Body) {
		if path != "deal.close_date" && path != "deal.own.inspection_date" && path != "team.own.next_event_date" {
			continue
		}
		if ahead := v.Get(path).Day().Sub(at).Hours() / 24; ahead < 5 || ahead > 75 {
			return false
		}
	}
	return true
}

// links stores where the links of a letter lead, as they are redirected.
func (m *maker) links(id int64, raw []byte, l *domain.Letter) error {
	if !l.Tracked {
		return nil
	}
	mail, err := m.w.Reader.Read(raw)
	if err != nil {
		return err
	}
	seen := map[string]bool{}
	letter.Track(mail.HTML, func(href string) string {
		if !seen[href] && err == nil {
			seen[href] = true
			_, err = m.s.AddLink(m.ctx, domain.Link{LetterID: id, Token: fmt.Sprintf("demo%016x%016x", m.r.Uint64(), m.r.Uint64()), URL: href, CreatedAt: l.CreatedAt})
		}
		return ""
	}, "")
	return err
}
