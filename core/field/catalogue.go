package field

import (
	"slices"
	"strings"
)

// Record is a kind of record, named as the first part of a field path.
type Record string

// The records that a letter can draw from. Person is the lead or the contact,
// whichever the letter goes to.
const (
	Person      Record = "person"
	Lead        Record = "lead"
	Contact     Record = "contact"
	Company     Record = "company"
	Deal        Record = "deal"
	MainContact Record = "deal.main_contact"
	Owner       Record = "owner"
	Sender      Record = "sender"
	Team        Record = "team"
	Today       Record = "today"
)

// Def describes one field. Path is whole ("person.first_name"); Choices are the
// allowed words of a choice field.
type Def struct {
	Path    string
	Record  Record
	Label   string
	Type    Type
	Choices []string
	Own     bool
}

// Key is the path without its record: "first_name", "own.volume".
func (d Def) Key() string {
	return strings.TrimPrefix(strings.TrimPrefix(d.Path, string(d.Record)), ".")
}

// Ref is a path found in the catalogue: the slot of its value, its definition,
// and the record that the path itself names (lead.first_name shares its slot
// with person.first_name but names Lead).
type Ref struct {
	Slot  int
	Def   Def
	Names Record
}

// Catalogue knows every field of a workspace. It does not change after New and
// is safe for concurrent use.
type Catalogue struct {
	defs  []Def
	paths map[string]Ref
	names map[string]string
}

// New makes the catalogue of the standard fields and the given own fields,
// whose paths must be of the form "person.own.volume". Person's own fields are
// reached through lead and contact too, and for a deal's main contact. One with the path
// of a standard choice says what that may be.
func New(own []Def) *Catalogue {
	c := &Catalogue{paths: map[string]Ref{}}
	all := append(standard(), own...)
	for _, d := range own {
		if i := slices.IndexFunc(all, func(s Def) bool { return s.Path == d.Path }); !all[i].Own {
			all[i].Choices = d.Choices
		}
	}
	for _, d := range all {
		c.add(d, d.Record)
	}
	for _, d := range all {
		if d.Record == Person {
			main := d
			main.Path, main.Record = string(MainContact)+"."+d.Key(), MainContact
			c.add(main, MainContact)
			slot := c.paths[d.Path].Slot
			for _, kind := range []Record{Lead, Contact} {
				c.paths[string(kind)+"."+d.Key()] = Ref{Slot: slot, Def: d, Names: kind}
			}
		}
	}
	c.name()
	return c
}

// recordNames are what a label is followed by when others are called the same.
var recordNames = map[Record]string{
	Lead: "lead", Contact: "contact", Company: "company", Deal: "deal", MainContact: "main contact", "owner": "owner", Sender: "sender", Team: "team",
}

// name gives each field the name that tells it from the others: its label, with its
// record where it is not the person's and another one reads the same.
func (c *Catalogue) name() {
	labels := map[string]int{}
	for _, d := range c.defs {
		labels[d.Label]++
	}
	c.names = map[string]string{}
	for _, d := range c.defs {
		c.names[d.Path] = d.Label
		if record := recordNames[d.Record]; labels[d.Label] > 1 && record != "" {
			c.names[d.Path] = d.Label + " (" + record + ")"
		}
	}
}

// Name is what a field is called where those of several records stand together, such
// as "First name (sender)".
func (c *Catalogue) Name(path string) string {
	ref, ok := c.paths[path]
	if !ok {
		return path
	}
	return c.names[ref.Def.Path]
}

func (c *Catalogue) add(d Def, names Record) {
	if _, there := c.paths[d.Path]; there {
		return
	}
	c.paths[d.Path] = Ref{Slot: len(c.defs), Def: d, Names: names}
	c.defs = append(c.defs, d)
}

// Find looks a whole path up.
func (c *Catalogue) Find(path string) (Ref, bool) {
	ref, ok := c.paths[path]
	return ref, ok
}

// Fields gives every field once, in the order for lists. Callers must not
// change it.
func (c *Catalogue) Fields() []Def { return c.defs }

// Of gives the fields of one record kind, in order.
func (c *Catalogue) Of(r Record) []Def {
	var out []Def
	for _, d := range c.defs {
		if d.Record == r {
			out = append(out, d)
		}
	}
	return out
}

// Has tells whether a record kind has fields.
func (c *Catalogue) Has(r Record) bool {
	return slices.ContainsFunc(c.defs, func(d Def) bool { return d.Record == r }) || r == Lead || r == Contact
}

// WithKey gives up to three paths of other records with the same key, such as
// deal.stage and lead.status have not, but person.city and company.city have.
func (c *Catalogue) WithKey(key string) []string {
	var out []string
	for _, d := range c.defs {
		if d.Key() == key && len(out) < 3 {
			out = append(out, d.Path)
		}
	}
	return out
}

// Len is the number of slots.
func (c *Catalogue) Len() int { return len(c.defs) }

// Values holds the values of one letter's records, by slot. It is filled once
// and then only read.
type Values struct {
	cat  *Catalogue
	vals []Value
	// ready holds the words of filled one-line values that can be written as
	// they stand, and in HTML too where safe says so.
	ready []string
	safe  []bool
	// Kind is what the person is: Lead, Contact, or "" when there is no person.
	Kind Record
}

// NewValues makes an empty set.
func (c *Catalogue) NewValues() *Values {
	n := len(c.defs)
	return &Values{cat: c, vals: make([]Value, n), ready: make([]string, n), safe: make([]bool, n)}
}

// Set puts a value under a path; a path that the catalogue does not know is
// left out, since a record may hold own fields that were deleted since.
func (v *Values) Set(path string, value Value) {
	if ref, ok := v.cat.Find(path); ok {
		value.Text = withoutOverrides(value.Text)
		v.vals[ref.Slot] = value
		words := ""
		if value.Type.Textual() && strings.IndexFunc(value.Text, isBreak) < 0 {
			words = value.Text
		}
		v.ready[ref.Slot], v.safe[ref.Slot] = words, !strings.ContainsAny(words, `&<>"'`)
	}
}

// withoutOverrides takes out the signs that turn the direction of what stands
// behind them (Unicode Standard Annex 9, sections 2.1 to 2.3: embeddings,
// overrides and isolates): a value must not change how the words around it read.
func withoutOverrides(s string) string {
	if !strings.ContainsFunc(s, isOverride) {
		return s
	}
	return strings.Map(func(r rune) rune {
		if isOverride(r) {
			return -1
		}
		return r
	}, s)
}

func isOverride(r rune) bool { return r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069 }

// Ready gives the words of a slot if they can be written as they stand, else
// "", and whether they are safe in HTML as they stand, too.
func (v *Values) Ready(slot int) (words string, safe bool) { return v.ready[slot], v.safe[slot] }

// At gives the value of a slot.
func (v *Values) At(slot int) Value { return v.vals[slot] }

// Get gives the value under a path; missing when there is none, or when the
// path names a kind (lead, contact) that the person is not.
func (v *Values) Get(path string) Value {
	ref, ok := v.cat.Find(path)
	if !ok || !v.Serves(ref.Names) {
		return Value{}
	}
	return v.vals[ref.Slot]
}

// Label gives the label of a field, or the path where there is none.
func (v *Values) Label(path string) string {
	if ref, ok := v.cat.Find(path); ok && ref.Def.Label != "" {
		return ref.Def.Label
	}
	return path
}

// Serves tells whether a path that names this record can have a value here.
func (v *Values) Serves(names Record) bool {
	return (names != Lead && names != Contact) || names == v.Kind
}

// The words of the two standard choice fields; an administrator can change
// both.
var (
	leadStatus = []string{"new", "in touch", "qualified", "parked"}
	dealStage  = []string{"first talk", "survey", "quoted", "agreed", "won", "lost"}
)

// LeadStatuses and DealStages give copies of the standard words.
func LeadStatuses() []string { return slices.Clone(leadStatus) }

// DealStages gives the stages of a deal in their order.
func DealStages() []string { return slices.Clone(dealStage) }

func standard() []Def {
	var out []Def
	group := func(r Record, rows ...Def) {
		for _, d := range rows {
			d.Path, d.Record = string(r)+"."+d.Path, r
			out = append(out, d)
		}
	}
	f := func(key, label string, t Type, choices ...string) Def {
		return Def{Path: key, Label: label, Type: t, Choices: choices}
	}
	user := []Def{
		f("first_name", "First name", Text), f("last_name", "Last name", Text), f("full_name", "Full name", Text),
		f("email", "Email", Email), f("phone", "Phone", Phone), f("job_title", "Job title", Text), f("booking_link", "Booking link", URL),
	}
	group(Person,
		f("first_name", "First name", Text), f("last_name", "Last name", Text), f("full_name", "Full name", Text),
		f("honorific", "Form of address", Text), f("job_title", "Job title", Text), f("email", "Email", Email),
		f("phone", "Phone", Phone), f("city", "City", Text), f("country", "Country", Text), f("language", "Language", Text),
		f("time_zone", "Time zone", Text), f("basis", "Basis", Choice), f("basis_since", "Basis since", Date), f("basis_source", "Basis source", Text), f("kind", "Lead or contact", Choice, "lead", "contact"))
	group(Lead,
		f("status", "Lead status", Choice, leadStatus...), f("source", "Lead source", Text),
		f("company_name", "Company as given", Text), f("created", "Lead since", Date))
	group(Contact, f("department", "Department", Text), f("since", "Contact since", Date))
	group(Company,
		f("name", "Company", Text), f("website", "Website", URL), f("industry", "Industry", Text), f("employees", "Employees", Number),
		f("phone", "Company phone", Phone), f("street", "Street", Text), f("postal_code", "Postal code", Text),
		f("city", "Company city", Text), f("country", "Company country", Text))
	group(Deal,
		f("name", "Deal", Text), f("stage", "Stage", Choice, dealStage...), f("amount", "Amount", Money),
		f("close_date", "Expected close", Date), f("created", "Deal since", Date))
	group(Owner, user...)
	group(Sender, append(slices.Clone(user), f("signature", "Signature", Long))...)
	group(Team, f("name", "Team", Text), f("postal_address", "Postal address", Long), f("website", "Team website", URL))
	return append(out, Def{Path: "today", Record: Today, Label: "Today", Type: Date})
}
