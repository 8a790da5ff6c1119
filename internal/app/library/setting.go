package library

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// dealFor settles which deal a letter is about: the given one, or the only open
// one of the person; and gives the person's deals.
func (a *Service) dealFor(ctx context.Context, p *domain.Person, dealID *int64) (id *int64, deals []domain.Deal, err error) {
	if deals, err = a.store.DealsOf(ctx, p.ID); err != nil {
		return nil, nil, err
	}
	if dealID != nil && slices.ContainsFunc(deals, func(d domain.Deal) bool { return d.ID == *dealID }) {
		return dealID, deals, nil
	}
	open := slices.DeleteFunc(slices.Clone(deals), func(d domain.Deal) bool { return !d.Open() })
	if dealID != nil {
		return nil, deals, domain.Invalid("dealId", "is not a deal of %s; choose another", p.Name())
	}
	if len(open) == 1 {
		return &open[0].ID, deals, nil
	}
	return nil, deals, nil
}

// Setting is what every merge for one person needs.
type Setting struct {
	Cat    *field.Catalogue
	Person domain.Person
	DealID *int64
	Deals  []domain.Deal // that the person has
	Recs   records.Records
	Values *field.Values
	Reader *field.Reader
	// Colleague reads the letter, when it is about the person and not to them.
	Colleague *domain.User
}

// Setting gathers what a letter from u to a person draws from, about a deal or none.
func (a *Service) Setting(ctx context.Context, u domain.User, personID int64, dealID *int64) (*Setting, error) {
	p, err := a.store.Person(ctx, personID)
	if err != nil {
		return nil, err
	}
	dealID, deals, err := a.dealFor(ctx, &p, dealID)
	if err != nil {
		return nil, err
	}
	return a.setting(ctx, u, p, dealID, deals)
}

// SettingOf is the Setting of a letter that is there. A deal that was deleted since, or is with
// others, is none: what the letter says of it is news of its records.
func (a *Service) SettingOf(ctx context.Context, u domain.User, personID int64, dealID *int64) (*Setting, error) {
	if dealID == nil {
		return a.Setting(ctx, u, personID, nil)
	}
	p, err := a.store.Person(ctx, personID)
	if err != nil {
		return nil, err
	}
	deals, err := a.store.DealsOf(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(deals, func(d domain.Deal) bool { return d.ID == *dealID }) {
		dealID = nil
	}
	return a.setting(ctx, u, p, dealID, deals)
}

func (a *Service) setting(ctx context.Context, u domain.User, p domain.Person, dealID *int64, deals []domain.Deal) (*Setting, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	recs, err := a.records.Gather(ctx, &p, dealID, &u)
	if err != nil {
		return nil, err
	}
	s := &Setting{cat, p, dealID, deals, recs, a.records.Values(cat, recs), Reader("", &p, recs.Team), nil}
	sig, err := a.Signature(ctx, u, u.Email, document.BodyPlain, s.Reader)
	if err == nil && !letter.IsBlank(sig) {
		s.Values.Set("sender.signature", field.Value{Type: field.Long, Text: render.RenderText(sig)})
	}
	return s, err
}

// ToName is the name that stands beside the person's address: what of it is a name.
func (s *Setting) ToName() string { return s.Values.Get("person.full_name").Text }

// WhyNot says why a program cannot serve the person, or "".
func (s *Setting) WhyNot(p *template.Program) string {
	fits := p.Fits()
	switch {
	case len(fits) == 0:
		return "doesn’t fit any kind of record"
	case p.NeedsDeal() && len(s.Deals) == 0:
		return "needs a deal, and there isn’t one with " + s.Person.Name()
	case p.NeedsDeal() && s.DealID == nil:
		return "needs a deal; choose one"
	case !p.NeedsDeal() && !slices.Contains(fits, s.Person.Kind):
		return fmt.Sprintf("is for a %s; this is a %s", fits[0], s.Person.Kind)
	}
	return ""
}

// FieldOf gives the field that words came from, in the form they have. What stands
// where the records have no value is what to write instead of it.
func (s *Setting) FieldOf(r *field.Reader, path, words string) (document.Attrs, bool) {
	ref, ok := s.Cat.Find(path)
	if !ok {
		return document.Attrs{}, false
	}
	v := s.Values.Get(path)
	if v.Type == "" {
		return document.Attrs{Path: path, Missing: document.Instead, Fallback: words}, true
	}
	for _, as := range append([]field.Form{""}, field.FormsOf(ref.Def.Type)...) {
		if string(r.Append(nil, v, as)) == words {
			return document.Attrs{Path: path, As: string(as), Missing: document.MustBe}, true
		}
	}
	return document.Attrs{}, false
}

// unseen are values that change without anybody changing a record.
var Unseen = []string{"today", "sender.signature"}

// Snapshot gives the values that a letter is written with, in canonical form.
func (s *Setting) Snapshot() domain.Own {
	out := domain.Own{}
	for _, d := range s.Cat.Fields() {
		if v := s.Values.Get(d.Path); v.Filled() && !slices.Contains(Unseen, d.Path) {
			out[d.Path] = v.String()
		}
	}
	return out
}

// AsSeen is the setting as it was when a letter was written with these values.
func (s *Setting) AsSeen(seen domain.Own) *Setting {
	old := *s
	old.Values = s.Cat.NewValues()
	old.Values.Kind = s.Values.Kind
	for _, d := range s.Cat.Fields() {
		v := s.Values.Get(d.Path)
		if !slices.Contains(Unseen, d.Path) {
			var err error
			if v, err = field.Parse(d.Type, seen[d.Path], d.Choices); err != nil {
				v = field.Of(seen[d.Path])
			}
		}
		old.Values.Set(d.Path, v)
	}
	old.Person.Language, old.Person.Country = seen["person.language"], seen["person.country"]
	old.Reader = Reader("", &old.Person, s.Recs.Team)
	return &old
}

// Suggestion is a value of the person that may not be meant: one that only stands
// for nothing and is missing in the letter, or a name that could be set right.
type Suggestion struct {
	Path   string `json:"path"`
	Label  string `json:"label"`
	Value  string `json:"value"`
	Better string `json:"better" doc:"A name set right, or what the writer made of it; empty for a value that counts as missing"`
	Edited bool   `json:"edited" doc:"The writer wrote something else than the record has"`
}

// Edits finds what the writer wrote in place of the person's values, and could be
// kept on the record.
func (s *Setting) Edits(l *domain.Letter) []Suggestion {
	var out []Suggestion
	r := letter.Record{Values: s.Values, Reader: s.ReaderFor(&template.Template{Body: l.Body})}
	for _, k := range letter.Edited(r, l.Subject, l.Body) {
		ref, ok := s.Cat.Find(k.Path)
		if !ok || !ref.Def.Type.Textual() || ref.Def.Path == "person.full_name" {
			continue
		}
		p := s.Person
		if records.SetPersonField(s.Cat, &p, k.Path, k.Words) == nil {
			out = append(out, Suggestion{k.Path, ref.Def.Label, s.Values.Get(k.Path).Text, k.Words, true})
		}
	}
	return out
}

// Signature merges the signature of an address for a kind of body; of no content
// without one, and for pages, whose build cannot be changed.
func (a *Service) Signature(ctx context.Context, sender domain.User, from, kind string, r *field.Reader) (document.Document, error) {
	f, err := a.team.FromAddress(ctx, sender, from)
	if errors.Is(err, domain.ErrNotFound) || err == nil && (len(f.Signature.Content) == 0 || kind == document.BodyHTML) {
		return document.Document{}, nil
	}
	if err != nil {
		return document.Document{}, err
	}
	recs, err := a.records.Gather(ctx, &domain.Person{OwnerID: &sender.ID}, nil, &sender)
	if err != nil {
		return document.Document{}, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return document.Document{}, err
	}
	recs.Person = nil
	d, err := InKind(f.Signature, kind)
	if err != nil {
		return d, err
	}
	p, _ := template.Compile(template.Template{Subject: document.NewPlain(""), Body: d}, cat)
	return p.Merge(a.records.Values(cat, recs), nil, r).Body, nil
}
