package walk

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
)

// acts are what can be done. Those whose name begins with a dot are one use case, of which nothing
// is left when it is refused.
var acts = map[string]func(w *walker) error{
	"· add a person":           (*walker).addPerson,
	"· add another person":     (*walker).addPerson,
	"· change a person":        (*walker).changePerson,
	"· change their address":   (*walker).changeAddress,
	"delete a record":          (*walker).deleteRecord,
	"put a record back":        (*walker).putBackRecord,
	"merge":                    (*walker).merge,
	"split":                    (*walker).split,
	"add a deal":               (*walker).addDeal,
	"· move a deal":            (*walker).moveDeal,
	"add a template":           (*walker).addTemplate,
	"change a template":        (*walker).changeTemplate,
	"add a German wording":     (*walker).addWording,
	"delete a template":        (*walker).deleteTemplate,
	"start a letter":           (*walker).startLetter,
	"start another letter":     (*walker).startLetter,
	"type":                     (*walker).typeWords,
	"fill a gap":               (*walker).fillGap,
	"change the recipient":     (*walker).changeRecipient,
	"take what changed":        (*walker).takeNews,
	"say that it fits":         (*walker).settleKept,
	"send":                     (*walker).send,
	"send again and again":     (*walker).send,
	"write and send":           (*walker).writeAndSend,
	"write and send another":   (*walker).writeAndSend,
	"· discard":                (*walker).discard,
	"restore":                  (*walker).restore,
	"take back":                (*walker).takeBack,
	"retry or cancel":          (*walker).retry,
	"start a round":            (*walker).startRound,
	"work on a round":          (*walker).workOnRound,
	"send a round":             (*walker).sendRound,
	"pause, go on, stop":       (*walker).moveRound,
	"add a plan":               (*walker).addPlan,
	"start a plan":             (*walker).startPlan,
	"act on a run":             (*walker).actOnRun,
	"order":                    (*walker).order,
	"a reply comes":            (*walker).reply,
	"a bounce comes":           (*walker).bounce,
	"somebody unsubscribes":    (*walker).unsubscribe,
	"answer a letter":          (*walker).answer,
	"a task":                   (*walker).task,
	"import":                   (*walker).importPeople,
	"undo an import":           (*walker).undoImport,
	"time passes":              (*walker).pass,
	"more time passes":         (*walker).pass,
	"the program is restarted": (*walker).restart,
	"the program is killed":    (*walker).kill,
	"the workers work":         (*walker).rest,
}

// rare are acts after which there is less to write to, or nobody.
var rare = map[string]bool{
	"delete a record": true, "delete a template": true, "somebody unsubscribes": true, "a bounce comes": true, "· discard": true, "merge": true, "change a template": true, "more time passes": true, "· change their address": true,
}

// beginning is what every walk begins with.
var beginning = slices.Concat(slices.Repeat([]string{"· add a person"}, 14), slices.Repeat([]string{"add a template"}, 5), []string{"add a German wording", "add a deal", "add a plan", "add a plan", "order", "start a plan", "start a round"})

var actNames = slices.Sorted(maps.Keys(acts))

// name makes a first name that nobody else has.
func (w *walker) name() string {
	w.named++
	n := w.named
	out := []byte("Qaaaa")
	for i := 4; i > 0; i-- {
		out[i] = byte('a' + n%26)
		n /= 26
	}
	return string(out)
}

func (w *walker) called(person int64, name string) {
	if w.names[person] == nil {
		w.names[person] = map[string]bool{}
	}
	w.names[person][name] = true
}

func (w *walker) addPerson() error {
	name := w.name()
	values := map[string]string{"person.first_name": name, "person.last_name": "Stone", "person.email": strings.ToLower(name) + "@stone.example", "person.language": w.pick("", "", "en-GB", "de"), "person.city": w.pick("", "York", "Leeds")}
	switch w.r.IntN(8) {
	case 0:
		delete(values, "person.first_name")
	case 1:
		values["person.first_name"] = "n/a"
	case 2:
		delete(values, "person.email")
	}
	kind := field.Lead
	if w.r.IntN(3) == 0 {
		kind = field.Contact
	}
	p, err := w.b.App.Records.AddPerson(ctx, w.user(), records.NewPerson{Kind: kind, Values: values})
	if err == nil {
		w.people = append(w.people, p.ID)
		w.called(p.ID, name)
	}
	return err
}

func (w *walker) changePerson() error {
	id := w.one(w.people)
	p, err := w.b.Store.Person(ctx, id)
	if err != nil {
		return err
	}
	set := map[string]string{"person.city": w.pick("", "York", "Hull", "n/a")}
	name := w.name()
	if w.r.IntN(2) == 0 {
		set = map[string]string{"person.first_name": name}
	}
	if w.r.IntN(5) == 0 {
		set = map[string]string{"person.language": w.pick("", "de", "en-GB")}
	}
	if _, err = w.b.App.Records.ChangePerson(ctx, w.user(), id, p.Version-w.r.IntN(2)*w.r.IntN(2), set); err == nil {
		w.called(id, name)
	}
	return err
}

func (w *walker) changeAddress() error {
	p, err := w.b.Store.Person(ctx, w.one(w.people))
	if err != nil {
		return err
	}
	_, err = w.b.App.Records.ChangePerson(ctx, w.user(), p.ID, p.Version, map[string]string{"person.email": w.pick("", fmt.Sprintf("other%d@stone.example", w.r.IntN(40)))})
	return err
}

func (w *walker) record() (field.Record, int64) {
	if w.r.IntN(3) == 0 && len(w.deals) > 0 {
		return field.Deal, w.one(w.deals)
	}
	return field.Person, w.one(w.people)
}

func (w *walker) deleteRecord() error {
	kind, id := w.record()
	return w.b.App.Records.Delete(ctx, w.user(), kind, id)
}

func (w *walker) putBackRecord() error {
	kind, id := w.record()
	return w.b.App.Records.PutBack(ctx, w.user(), kind, id)
}

func (w *walker) merge() error {
	kept, gone := w.one(w.people), w.one(w.people)
	p, err := w.b.Store.Person(ctx, kept)
	if err != nil {
		return err
	}
	id, err := w.b.App.Records.Merge(ctx, w.users[2], kept, gone, p.Version, nil)
	if err == nil {
		w.merges = append(w.merges, id)
		for _, one := range []int64{kept, gone} { // letters and values are of both
			for name := range w.names[kept+gone-one] {
				w.called(one, name)
			}
		}
	}
	return err
}

func (w *walker) split() error {
	_, err := w.b.App.Records.Split(ctx, w.users[2], w.one(w.merges))
	return err
}

func (w *walker) addDeal() error {
	p, err := w.b.Store.Person(ctx, w.one(w.people))
	if err != nil {
		return err
	}
	if p.CompanyID == nil && w.r.IntN(2) == 0 {
		id, err := w.b.App.Records.AddCompany(ctx, w.user(), records.NewCompany{Values: map[string]string{"company.name": fmt.Sprint("Firm ", w.r.IntN(1000))}})
		if err != nil {
			return err
		}
		w.companies = append(w.companies, id)
	}
	id, err := w.b.App.Records.AddDeal(ctx, w.user(), records.NewDeal{Values: map[string]string{"deal.name": fmt.Sprint("Room ", w.r.IntN(1000)), "deal.amount": "12500.00 EUR"}, MainID: &p.ID})
	if err == nil {
		w.deals = append(w.deals, id)
	}
	return err
}

func (w *walker) moveDeal() error {
	d, err := w.b.Store.Deal(ctx, w.one(w.deals))
	if err != nil {
		return err
	}
	return w.b.App.Records.ChangeRecord(ctx, w.user(), field.Deal, d.ID, "deal.stage", d.Stage, w.pick("survey", "quoted", "won", "lost"))
}

// bodies are wordings, of which some cannot be filled for everybody.
var bodies = []string{
	"Dear {{person.first_name}},\n\nWe shall be in {{person.city}} next week and would like to show you the room.",
	"Dear {{person.first_name|there}},\n\nYour room is ready for you and we hope that you like it.",
	"Dear {{person.first_name}},\n\nThank you for the time that you took for us, {{person.city|}}.",
	"Dear {{person.first_name}},\n\nThe room {{deal.name}} for {{deal.amount}} is what we spoke about.",
	"Dear {{person.first_name}},\n\n{{?reason}} is why we write to you today.",
}

func (w *walker) input() library.TemplateInput {
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
	words := w.pick("I look forward to it.", "Please call me on Monday.", l.Person.FirstName+", one more thing.", strings.ToUpper(l.Person.FirstName)+" was right.")
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
	if _, err = w.b.App.Delivery.Send(ctx, u, l.ID, l.Version, l.ToEmail, when); err != nil {
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
	_, err := w.b.App.Delivery.TakeBack(ctx, w.user(), id)
	if err == nil && !slices.Contains(w.drafts, id) {
		w.drafts = append(w.drafts, id)
	}
	return err
}

func (w *walker) retry() error {
	if w.r.IntN(2) == 0 {
		_, err := w.b.App.Delivery.Retry(ctx, w.user(), w.anyLetter())
		return err
	}
	_, err := w.b.App.Delivery.Cancel(ctx, w.user(), w.anyLetter())
	return err
}

func (w *walker) some() []int64 {
	var out []int64
	for range 1 + w.r.IntN(8) {
		out = append(out, w.one(w.people))
	}
	return out
}

func (w *walker) startRound() error {
	template := w.one(w.templates)
	id, err := w.b.App.Rounds.StartRound(ctx, w.user(), rounds.Start{People: w.some(), TemplateID: &template})
	if err == nil {
		w.rounds = append(w.rounds, id)
	}
	return err
}

// round opens one of the rounds as who sends it.
func (w *walker) round() (domain.User, rounds.Sheet, error) {
	id := w.one(w.rounds)
	for _, u := range w.users {
		if s, err := w.b.App.Rounds.Round(ctx, u, id); err == nil {
			return u, s, nil
		} else if !errors.Is(err, domain.ErrNotFound) {
			return u, s, err
		}
	}
	return domain.User{}, rounds.Sheet{}, domain.ErrNotFound
}

func (w *walker) workOnRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	if err := w.b.App.Rounds.Check(ctx, s.ID); err != nil {
		return err
	}
	switch w.r.IntN(5) {
	case 0:
		return w.b.App.Rounds.Fill(ctx, u, s.ID, s.Version, w.pick("?reason", "person.city"), "Spring")
	case 1:
		_, err = w.b.App.Rounds.ChangeLetter(ctx, u, s.ID, w.one(w.people))
		return err
	case 2:
		return w.b.App.Rounds.KeepTemplate(ctx, u, s.ID, s.Version)
	case 3:
		return w.b.App.Rounds.SetTemplate(ctx, u, s.ID, s.Version, w.one(w.templates))
	}
	_, err = w.b.App.Rounds.Do(ctx, u, s.ID, rounds.Act(w.pick("aside", "back", "check", "instead", "take")), []int64{w.one(w.people)}, "", "")
	return err
}

func (w *walker) sendRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	if err := w.b.App.Rounds.Check(ctx, s.ID); err != nil {
		return err
	}
	if s, err = w.b.App.Rounds.Round(ctx, u, s.ID); err != nil {
		return err
	}
	_, err = w.b.App.Rounds.Send(ctx, u, s.ID, s.Version, s.Groups.Ready, domain.RoundWhen{All: true, OverHours: w.r.IntN(2) * 5})
	return err
}

func (w *walker) moveRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	switch w.r.IntN(5) {
	case 0:
		return w.b.App.Rounds.Stop(ctx, u, s.ID)
	case 1:
		return w.b.App.Rounds.Reopen(ctx, u, s.ID)
	case 2:
		return w.b.App.Rounds.Pause(ctx, u, s.ID)
	}
	return w.b.App.Rounds.GoOn(ctx, u, s.ID)
}

func (w *walker) addPlan() error {
	template, u := w.one(w.templates), w.user()
	letter := func(days int) domain.PlanStep {
		return domain.PlanStep{Kind: plan.Letter, When: plan.Timing{Days: days, Working: true}, TemplateID: &template, Same: days > 0}
	}
	p, err := w.b.App.Plans.AddPlan(ctx, u, plans.Input{Name: fmt.Sprint("Plan ", w.r.IntN(1000)), Steps: []domain.PlanStep{letter(0), letter(w.r.IntN(4)), {Kind: plan.Task, When: plan.Timing{Days: 1}, Task: domain.TaskCall, Words: "Call {{person.first_name}}"}}})
	if err == nil {
		w.plans = append(w.plans, p.ID)
		_, err = w.b.App.Plans.SetPlanState(ctx, u, p.ID, p.Version, domain.TemplateReady)
	}
	return err
}

func (w *walker) startPlan() error {
	_, err := w.b.App.Plans.Start(ctx, w.user(), w.one(w.plans), w.some(), plans.With{Anyway: w.r.IntN(4) == 0})
	return err
}

func (w *walker) actOnRun() error {
	var runs int64
	if err := w.b.Store.DB().QueryRow(`SELECT count(*) FROM runs`).Scan(&runs); err != nil || runs == 0 {
		return err
	}
	return w.b.App.Plans.Do(ctx, w.user(), 1+w.r.Int64N(runs), plans.Act(w.pick("stop", "pause", "go on", "go on", "skip", "now", "remake")), "")
}

func (w *walker) order() error {
	u := w.user()
	if id := w.one(w.orders); id != 0 && w.r.IntN(2) == 0 {
		o, err := w.b.App.Plans.Order(ctx, u, id)
		if err == nil {
			_, err = w.b.App.Plans.SwitchOrder(ctx, u, id, o.Version, w.r.IntN(2) == 0)
		}
		return err
	}
	template := w.one(w.templates)
	said := domain.OrderSaid{When: plan.Trigger{On: plan.On(w.pick("replied", "clicked"))}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}}
	switch w.r.IntN(3) {
	case 0:
		said.When = plan.Trigger{On: plan.OnCreated, Record: "person"}
	case 1:
		said = domain.OrderSaid{When: plan.Trigger{On: plan.OnChanged, Record: "person", Path: "person.city", Value: "York"}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Look at {{person.first_name}}"}, {Do: plan.StopPlan}}}
	}
	o, err := w.b.App.Plans.AddOrder(ctx, u, plans.OrderInput{Name: fmt.Sprint("Order ", w.r.IntN(1000)), Said: said})
	if err == nil {
		w.orders = append(w.orders, o.ID)
		_, err = w.b.App.Plans.SwitchOrder(ctx, u, o.ID, o.Version, true)
	}
	return err
}

// sent draws a letter that went.
func (w *walker) sent() (domain.Letter, error) {
	l, err := w.b.Store.Letter(ctx, w.anyLetter())
	if err == nil && l.State != domain.Sent {
		err = domain.ErrNotFound
	}
	return l, err
}

func (w *walker) comes(to, headers, text string) error {
	raw := strings.ReplaceAll(headers+"\n\n"+text+"\n", "\n", "\r\n")
	return w.b.App.Inbox.TakeIn(ctx, "", []string{to}, []byte(raw))
}

func (w *walker) reply() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	from := w.pick(l.ToEmail, l.ToEmail, "elsewhere@stone.example")
	more := ""
	if w.r.IntN(4) == 0 {
		more = "Auto-Submitted: auto-replied\n"
	}
	return w.comes(l.FromEmail, fmt.Sprintf("From: %s\n%sSubject: Re: %s\nIn-Reply-To: <%s>\nMessage-ID: <r%d@stone.example>", from, more, l.SubjectLine, l.MessageID, w.r.IntN(1<<30)), "Yes, please.")
}

func (w *walker) bounce() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	return w.b.Store.PutBadAddress(ctx, domain.BadAddress{Key: field.EmailKey(l.ToEmail), Reason: "5.1.1 unknown", At: w.b.Now(), LetterID: &l.ID})
}

func (w *walker) unsubscribe() error {
	l, err := w.sent()
	if err != nil {
		return err
	}
	return w.b.App.Inbox.OptOutBy(ctx, l.Token)
}

func (w *walker) answer() error {
	var id int64
	if err := w.b.Store.DB().QueryRow(`SELECT coalesce(max(id), 0) FROM incoming`).Scan(&id); err != nil || id == 0 {
		return err
	}
	before := w.people
	l, err := w.b.App.Inbox.StartAnswer(ctx, w.user(), 1+w.r.Int64N(id), nil, w.r.IntN(2) == 0)
	if err != nil {
		return err
	}
	if w.drafts = append(w.drafts, l.ID); !slices.Contains(before, l.PersonID) {
		w.people = append(w.people, l.PersonID)
		w.called(l.PersonID, l.Person.FirstName)
	}
	return nil
}

func (w *walker) task() error {
	u := w.user()
	if id := w.one(w.tasks); id != 0 && w.r.IntN(2) == 0 {
		return w.b.App.Inbox.TaskDone(ctx, u, id, w.r.IntN(2) == 0)
	}
	person := w.one(w.people)
	t, err := w.b.App.Inbox.AddTask(ctx, u, inbox.TaskInput{Text: "Call them", DueAt: w.b.Now().Add(time.Duration(w.r.IntN(100)) * time.Hour), PersonID: &person})
	if err == nil {
		w.tasks = append(w.tasks, t.ID)
	}
	return err
}

func (w *walker) importPeople() error {
	first, second := w.name(), w.name()
	table, err := files.OpenCSV(strings.NewReader(fmt.Sprintf("First,Last,Email,City\n%s,Stone,%s@stone.example,York\n%s,Stone,other%d@stone.example,Hull", first, strings.ToLower(first), second, w.r.IntN(40))))
	if err != nil {
		return err
	}
	r, err := w.b.App.Transfer.ImportPeople(ctx, w.users[2], table, transfer.ImportOptions{SkipRefused: true})
	if err != nil || r.ID == 0 {
		return err
	}
	w.imports = append(w.imports, r.ID)
	rows, err := w.b.Store.DB().Query(`SELECT id, first_name FROM people WHERE first_name IN (?, ?)`, first, second)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var id int64
		var name string
		if err := rows.Scan(&id, &name); err != nil {
			return err
		}
		if w.called(id, name); !slices.Contains(w.people, id) {
			w.people = append(w.people, id)
		}
	}
	return rows.Err()
}

func (w *walker) undoImport() error {
	_, err := w.b.App.Transfer.TakeBack(ctx, w.users[2], w.one(w.imports))
	return err
}

func (w *walker) pass() error {
	w.b.Pass([]time.Duration{time.Millisecond, time.Second, 11 * time.Second, time.Hour, 26 * time.Hour, 9 * 24 * time.Hour, 40 * 24 * time.Hour}[w.r.IntN(7)] + time.Duration(w.r.IntN(999))*time.Millisecond)
	return nil
}

// kill ends the program while letters are in hand, and begins anew.
func (w *walker) kill() error {
	list, _, err := w.b.Store.Due(ctx, w.b.Now(), 5)
	if err != nil {
		return err
	}
	var ids []int64
	for _, l := range list {
		ids = append(ids, l.ID)
	}
	if len(ids) > 0 {
		if _, err := w.b.App.Delivery.Claim(ctx, ids); err != nil {
			return err
		}
	}
	return w.restart()
}
