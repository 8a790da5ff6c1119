package walk

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// bodies are wordings, of which some cannot be filled for everybody.
var bodies = []string{
	"Dear {{person.first_name}},\n\nWe shall be in {{person.city}} next week and would like to show you the room.",
	"Dear {{person.first_name|there}},\n\nYour room is ready for you and we hope that you like it.",
	"Dear {{person.first_name}},\n\nThank you for the time that you took for us, {{person.city|}}.",
	"Dear {{person.first_name}},\n\nThe room {{deal.name}} for {{deal.amount}} is what we spoke about.",
	"Dear {{person.first_name}},\n\n{{?reason}} is why we write to you today.",
	"Dear {{person.first_name}},\n\n{{>thanks}}\n\nWe hope that you like the room.",
}

func (w *walker) input() library.TemplateInput {
	in := w.plainInput()
	switch w.r.IntN(6) {
	case 0:
		in.Kind, in.Body = "html", w.pick("<p>Dear {{person.first_name}},</p><p>Your room in {{person.city}} is ready.</p>", "<p>Dear {{person.first_name|there}},</p><p>Your room is ready.</p>")
	case 1:
		in.Kind, in.Body = "formatted", w.pick("<p>Dear {{person.first_name}},</p><p>Your <strong>room</strong> is ready.</p>", "<p>Dear {{person.first_name}},</p><p>{{>thanks}}</p>")
	}
	return in
}

func (w *walker) plainInput() library.TemplateInput {
	return library.TemplateInput{Name: fmt.Sprint("Template ", w.r.IntN(1000)), Input: library.Input{Subject: w.pick("Your room", "About your room, {{person.first_name}}"), Body: w.pick(bodies...)}, State: domain.TemplateState(w.pick("ready", "ready", "draft"))}
}

func (w *walker) addTemplate() error {
	t, err := w.b.App.Library.AddTemplate(ctx, w.users[2], w.input())
	if err == nil {
		w.templates = append(w.templates, t.ID)
	}
	return err
}

func (w *walker) changeTemplate() error {
	t, err := w.b.Store.Template(ctx, w.one(w.templates))
	if err != nil {
		return err
	}
	in := w.input()
	if t.SisterOf != nil {
		in.Body, in.Language = "Guten Tag {{person.first_name}},\n\nIhr Raum ist fertig und wir würden ihn Ihnen gerne zeigen.", "de"
	}
	in.State = domain.TemplateState(w.pick("ready", "ready", "draft", "withdrawn"))
	_, err = w.b.App.Library.ChangeTemplate(ctx, w.users[2], t.ID, t.Version, in)
	return err
}

func (w *walker) addWording() error {
	t, err := w.b.App.Library.AddWording(ctx, w.users[2], w.one(w.templates), "de")
	if err != nil {
		return err
	}
	w.templates = append(w.templates, t.ID)
	_, err = w.b.App.Library.ChangeTemplate(ctx, w.users[2], t.ID, t.Version, library.TemplateInput{Name: t.Name, State: domain.TemplateReady, Input: library.Input{
		Subject: "Ihr Raum", Body: "Guten Tag {{person.first_name}},\n\nIhr Kühlraum ist fertig und wir würden ihn Ihnen gerne zeigen.", Language: "de"}})
	return err
}

func (w *walker) deleteTemplate() error {
	id := w.one(w.templates)
	if w.r.IntN(2) == 0 {
		return w.b.App.Library.PutBackTemplate(ctx, w.users[2], id)
	}
	return w.b.App.Library.DeleteTemplate(ctx, w.users[2], id)
}

func (w *walker) startLetter() error {
	var template *int64
	if id := w.one(w.templates); id != 0 && w.r.IntN(5) > 0 {
		template = &id
	}
	l, err := w.b.App.Desk.StartLetter(ctx, w.user(), w.one(w.people), template, nil)
	if err == nil {
		w.drafts = append(w.drafts, l.ID)
	}
	return err
}

// draft opens one of the letters as who writes it.
func (w *walker) draft() (domain.User, desk.LetterSheet, error) {
	l, err := w.b.Store.Letter(ctx, w.one(w.drafts))
	if err != nil {
		return domain.User{}, desk.LetterSheet{}, err
	}
	for _, u := range w.users {
		if u.ID == l.SenderID {
			s, err := w.b.App.Desk.Letter(ctx, u, l.ID)
			return u, s, err
		}
	}
	return domain.User{}, desk.LetterSheet{}, domain.ErrNotFound
}

func wording(l *desk.LetterSheet) desk.Wording {
	return desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: l.Body}
}

func (w *walker) typeWords() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	in := wording(&l)
	words := w.pick("I look forward to it.", "Please call me on Monday.")
	if name := l.Person.FirstName; nameForm.MatchString(name) { // also by hand
		words = w.pick(words, name+", one more thing.", strings.ToUpper(name)+" was right.")
	}
	in.Body.Content = append(document.Clone(in.Body.Content), document.NewPlain(words).Content...)
	if len(in.Subject.Content) == 0 || l.SubjectLine == "" {
		in.Subject = document.NewPlain("Your room")
	}
	if w.r.IntN(6) == 0 {
		in.Version--
	}
	_, err = w.b.App.Desk.SaveDraft(ctx, u, l.ID, in)
	return err
}

func (w *walker) fillGap() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	if len(l.Gaps) == 0 {
		return nil
	}
	g := l.Gaps[w.r.IntN(len(l.Gaps))]
	value := w.pick("York", "Hull", "n/a", "a short story")
	if g.Path == "person.first_name" {
		value = w.name()
		w.called(l.PersonID, value)
	}
	_, err = w.b.App.Desk.FillGap(ctx, u, l.ID, wording(&l), g.Path, value, w.r.IntN(2) == 0)
	return err
}

func (w *walker) changeRecipient() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	_, err = w.b.App.Desk.SetAddressee(ctx, u, l.ID, wording(&l), desk.Addressee{PersonID: w.one(w.people)})
	return err
}

func (w *walker) takeNews() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	_, err = w.b.App.Desk.SettleRecordNews(ctx, u, l.ID, wording(&l), w.r.IntN(2) == 0)
	return err
}

func (w *walker) settleKept() error {
	u, l, err := w.draft()
	if err != nil || len(l.Kept) == 0 {
		return err
	}
	if _, err = w.b.App.Desk.SettleKept(ctx, u, l.ID, wording(&l)); err == nil {
		w.confirmed[l.ID] = true
	}
	return err
}

func (w *walker) send() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	return w.sendThis(u, l)
}

func (w *walker) sendThis(u domain.User, l desk.LetterSheet) (err error) {
	when := desk.When{}
	if w.r.IntN(3) == 0 {
		when = desk.When{Local: w.b.Now().Add(time.Duration(1+w.r.IntN(200)) * time.Hour).Format("2006-01-02T15:04"), Zone: "Europe/London"}
	}
	proof, failed := w.b.App.Desk.ProofOf(ctx, u, l.ID, when)
	if _, err = w.b.App.Desk.Send(ctx, u, l.ID, l.Version, l.ToEmail, when); err != nil {
		return err
	}
	if failed != nil {
		return errors.New("it was sent and has no proof: " + failed.Error())
	}
	w.proofs[l.ID] = proof.Mail.Text
	return nil
}

// writeAndSend is what most letters are: begun, filled and sent.
func (w *walker) writeAndSend() error {
	if err := w.startLetter(); err != nil {
		return err
	}
	id := w.drafts[len(w.drafts)-1]
	l, err := w.b.Store.Letter(ctx, id)
	if err != nil {
		return err
	}
	u, err := w.b.Store.User(ctx, l.SenderID)
	if err != nil {
		return err
	}
	s, err := w.b.App.Desk.Letter(ctx, u, id)
	for i := 0; err == nil && len(s.Gaps) > 0 && i < 6; i++ {
		value := "York"
		switch s.Gaps[0].Path {
		case "person.first_name":
			value = w.name()
			w.called(s.PersonID, value)
		case "deal.amount":
			value = "900.00 EUR"
		}
		s, err = w.b.App.Desk.FillGap(ctx, u, id, wording(&s), s.Gaps[0].Path, value, false)
	}
	if err != nil {
		return err
	}
	return w.sendThis(u, s)
}

func (w *walker) discard() error {
	u, l, err := w.draft()
	if err != nil {
		return err
	}
	return w.b.App.Desk.Discard(ctx, u, l.ID)
}

func (w *walker) restore() error {
	_, err := w.b.App.Desk.Restore(ctx, w.user(), w.one(w.drafts))
	return err
}

func (w *walker) anyLetter() int64 {
	var id int64
	_ = w.b.Store.DB().QueryRow(`SELECT coalesce(max(id), 0) FROM letters`).Scan(&id)
	if id == 0 {
		return 0
	}
	return 1 + w.r.Int64N(id)
}

func (w *walker) takeBack() error {
	id := w.anyLetter()
	waiting, err := w.ids(`SELECT id FROM letters WHERE state = 'waiting' AND deleted_at IS NULL ORDER BY id`)
	if err != nil {
		return err
	}
	u := w.user()
	if len(waiting) > 0 && w.r.IntN(4) > 0 {
		l, err := w.b.Store.Letter(ctx, w.one(waiting))
		if err != nil {
			return err
		}
		if u, err = w.b.Store.User(ctx, l.SenderID); err != nil {
			return err
		}
		id = l.ID
	}
	if _, err = w.b.App.Desk.TakeBack(ctx, u, id); err == nil && !slices.Contains(w.drafts, id) {
		w.drafts = append(w.drafts, id)
	}
	return err
}

func (w *walker) retry() error {
	if w.r.IntN(2) == 0 {
		_, err := w.b.App.Desk.Retry(ctx, w.user(), w.anyLetter())
		return err
	}
	_, err := w.b.App.Desk.Cancel(ctx, w.user(), w.anyLetter())
	return err
}
