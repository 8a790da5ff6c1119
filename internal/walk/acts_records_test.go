package walk

import (
	"fmt"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
)

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
