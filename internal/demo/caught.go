package demo

import (
	"errors"
	"fmt"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
)

const changedFollow = "Dear {{person.first_name}},\n\nI have not heard from you, so I take it that a cold room is not on your list this winter. I will ask once more in spring, and not before.\n\nIf that changes, a reply to this email reaches me directly.\n"

// caught makes what is kept from going out until somebody has looked: a plan whose words a
// colleague changed, a letter on its way whose record changed, a template that reads badly when
// a value is missing.
func (m *maker) caught() error {
	for _, step := range []func() error{m.changedPlan, m.changedRecord, m.readsBadly} {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

// changedPlan has the lead write the last letter of the first plan anew, that people are on.
func (m *maker) changedPlan() error {
	lead := m.byUser[m.ids[4]]
	list, err := m.a.Plans.Plans(m.ctx, lead)
	if err != nil {
		return err
	}
	for i := range list {
		if list[i].Name != firstPlan {
			continue
		}
		p := &list[i].Plan
		in := plans.Input{Name: p.Name, WhenToUse: p.WhenToUse, Steps: p.Said.Steps}
		last := letterIn{subject: "My last letter for this winter", body: changedFollow}
		made, err := last.step()
		if err != nil {
			return err
		}
		in.Steps[len(in.Steps)-1].Wording = made.Wording
		effects, err := m.a.Plans.PreviewChange(m.ctx, lead, p.ID, in)
		if err == nil {
			_, err = m.a.Plans.ChangePlan(m.ctx, lead, p.ID, p.Version, in, effects.Seen)
		}
		return err
	}
	return fmt.Errorf("there is no plan %q", firstPlan)
}

// changedRecord schedules a letter of the first user for the next working day, and has a
// colleague store another address on the record afterwards.
func (m *maker) changedRecord() error {
	rep, lead := m.byUser[m.ids[0]], m.byUser[m.ids[4]]
	day := workingDay(m.today.AddDate(0, 0, 2)).Format("2006-01-02T09:00")
	for i := range m.all {
		p := &m.all[i]
		if p.OwnerID == nil || *p.OwnerID != rep.ID || p.Kind != field.Contact || p.FirstName == "" || p.Email == "" || p.OptedOutAt != nil {
			continue
		}
		l, err := m.a.Desk.StartLetter(m.ctx, rep, p.ID, nil, nil)
		if err != nil {
			return err
		}
		saved, err := m.a.Desk.SaveDraft(m.ctx, rep, l.ID, desk.Wording{
			Version: l.Version, Subject: markup.Parse("The drawing of your room"),
			Body: document.NewPlain(fmt.Sprintf("Dear %s,\n\nThe drawing is done. I will bring it when I come to measure the door on Thursday; it takes a quarter of an hour.\n\nBest regards\n%s\n", p.FirstName, rep.Name())),
		})
		if err == nil {
			_, err = m.a.Desk.Send(m.ctx, rep, l.ID, saved.Version, saved.ToEmail, desk.When{Local: day, Zone: rep.TimeZone})
		}
		var state *domain.StateError
		if errors.As(err, &state) { // something keeps it from going: somebody else
			if err := m.a.Desk.Discard(m.ctx, rep, l.ID); err != nil {
				return err
			}
			continue
		}
		if err != nil {
			return err
		}
		now, err := m.s.Person(m.ctx, p.ID)
		if err == nil {
			_, err = m.a.Records.ChangePerson(m.ctx, lead, p.ID, now.Version, map[string]string{"person.email": "direct." + p.Email})
		}
		return err
	}
	return errors.New("nobody can be written to")
}

// readsBadly makes a draft of a template whose sentence breaks when the town is missing.
func (m *maker) readsBadly() error {
	rep := m.byUser[m.ids[0]]
	folder, err := m.folder("Opening")
	if err != nil {
		return err
	}
	_, err = m.s.AddTemplate(m.ctx, domain.Template{
		Name: "On my way past", WhenToUse: "When a visit nearby is planned anyway", FolderID: folder, State: domain.TemplateDraft, OwnerID: rep.ID, Version: 1,
		Subject: markup.Parse("I am near {{person.city|}} next week"), Body: markup.Parse("Dear {{person.first_name|Sir or Madam}},\n\nNext week I am in {{person.city|}} to see a customer. Shall I look in on you?\n"),
		CreatedAt: m.today.AddDate(0, 0, -3), UpdatedAt: m.today.AddDate(0, 0, -3), UpdatedBy: rep.ID,
	})
	return err
}
