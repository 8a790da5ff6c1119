package library

import (
	"context"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// StationeryInput is what a lead sets on a stationery. Header and Footer are
// formatted documents; the look of the sheet is that of the header.
type StationeryInput struct {
	Name    string
	Header  document.Document
	Footer  document.Document
	Ready   bool
	Default bool
}

func (a *Service) intoStationery(ctx context.Context, st *domain.Stationery, in StationeryInput) error {
	st.Name = strings.TrimSpace(in.Name)
	switch {
	case st.Name == "":
		return domain.Invalid("name", "is missing; give the stationery a name")
	case len(st.Name) > maxFolderName:
		return domain.Invalid("name", "is longer than %d bytes", maxFolderName)
	case in.Default && !in.Ready:
		return domain.Invalid("default", "must be ready; make it ready first")
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	for _, part := range []struct {
		name string
		in   document.Document
		to   *document.Document
	}{{"header", in.Header, &st.Header}, {"footer", in.Footer, &st.Footer}} {
		read, _, _, err := Input{Subject: "s", Doc: &part.in}.Read()
		if err != nil {
			return err
		}
		*part.to = read.Body
		if err := CheckSheetPart(cat, part.name, read.Body); err != nil && in.Ready {
			return err
		}
	}
	st.Ready, st.Default = in.Ready, in.Default
	return nil
}

// around are the records whose values every letter has.
var aroundLetters = []field.Record{field.Team, field.Sender, field.Owner, field.Today}

// CheckSheetPart refuses red notes, blanks, and values that could be missing in a
// stationery: nobody could fill them.
func CheckSheetPart(cat *field.Catalogue, where string, d document.Document) error {
	p, notes := template.Compile(template.Template{Subject: document.NewPlain("s"), Body: d}, cat)
	for _, n := range notes {
		if n.Severity == document.Stops {
			return domain.Invalid(where, "%s: %s", n.Where, n.Message)
		}
	}
	if len(p.Blanks()) > 0 {
		return domain.Invalid(where, "holds a blank, which nobody could fill; take it out")
	}
	for _, path := range p.Missing(cat.NewValues(), nil) {
		if ref, ok := cat.Find(path); ok && !slices.Contains(aroundLetters, ref.Def.Record) {
			return domain.Invalid(where, "%s can be missing; say what is written instead", cat.Name(ref.Def.Path))
		}
	}
	return nil
}

// AllStationery lists every stationery by name.
func (a *Service) AllStationery(ctx context.Context) ([]domain.Stationery, error) {
	return a.store.AllStationery(ctx)
}

// AddStationery makes a stationery.
func (a *Service) AddStationery(ctx context.Context, u domain.User, in StationeryInput) (domain.Stationery, error) {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return domain.Stationery{}, err
	}
	st := domain.Stationery{Version: 1, UpdatedAt: a.now(), UpdatedBy: u.ID}
	if err := a.intoStationery(ctx, &st, in); err != nil {
		return st, err
	}
	err := a.store.Within(ctx, func(ctx context.Context) error {
		id, err := a.store.AddStationery(ctx, st)
		if st.ID = id; err != nil || !st.Default {
			return err
		}
		return a.store.UpdateStationery(ctx, st) // takes the default from another one
	})
	if err != nil {
		return st, err
	}
	return a.store.Stationery(ctx, st.ID)
}

// ChangeStationery stores a stationery made on version; every template that uses
// it follows.
func (a *Service) ChangeStationery(ctx context.Context, u domain.User, id int64, version int, in StationeryInput) (domain.Stationery, error) {
	st, err := a.stationeryFor(ctx, u, id, version)
	switch {
	case st.DeletedAt != nil:
		return st, domain.ErrNotFound
	case err != nil:
		return st, err
	}
	if err := a.intoStationery(ctx, &st, in); err != nil {
		return st, err
	}
	if err := a.store.UpdateStationery(ctx, st); err != nil {
		return st, err
	}
	return a.store.Stationery(ctx, id)
}

func (a *Service) stationeryFor(ctx context.Context, u domain.User, id int64, version int) (domain.Stationery, error) {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return domain.Stationery{}, err
	}
	st, err := a.store.Stationery(ctx, id)
	if err != nil {
		return st, err
	}
	if st.Version != version {
		return st, domain.ErrStale
	}
	st.UpdatedAt, st.UpdatedBy = a.now(), u.ID
	return st, nil
}

// UsersOfStationery names the templates that chose a stationery, of those that the
// user may see; the rest are counted. Those without a choice use the default one.
func (a *Service) UsersOfStationery(ctx context.Context, u domain.User, id int64) (names []string, others int, err error) {
	st, err := a.store.Stationery(ctx, id)
	if err != nil {
		return nil, 0, err
	}
	return a.templatesWith(ctx, u, func(t *domain.Template) bool {
		return t.Extras.Stationery == id || st.Default && t.Extras.Stationery == 0 && t.Body.Attrs.Body == document.BodyFormatted
	})
}

// DeleteStationery takes a stationery away or puts it back; letters being written
// and templates go on without one.
func (a *Service) DeleteStationery(ctx context.Context, u domain.User, id int64, version int, back bool) (domain.Stationery, error) {
	st, err := a.stationeryFor(ctx, u, id, version)
	if err != nil {
		return st, err
	}
	// The default comes back as the default, unless another one is it by then.
	st.DeletedAt = new(a.now())
	if back {
		st.DeletedAt = nil
	}
	if err := a.store.UpdateStationery(ctx, st); err != nil {
		return st, err
	}
	return a.store.Stationery(ctx, id)
}

// StationeryOf gives the stationery around a template's letters, or nil. One that
// was taken away or is not ready is none.
func (a *Service) StationeryOf(ctx context.Context, chosen int64, kind string) (*domain.Stationery, error) {
	if kind != document.BodyFormatted || chosen == domain.NoStationery {
		return nil, nil
	}
	list, err := a.store.AllStationery(ctx)
	if err != nil {
		return nil, err
	}
	for i := range list {
		if st := &list[i]; st.Ready && (st.ID == chosen || chosen == 0 && st.Default) {
			return st, nil
		}
	}
	return nil, nil
}

// MergedStationery is a stationery merged for a person.
type MergedStationery struct {
	header, footer document.Document
	Missing        []document.Gap
}

// stationeryPrograms are header and footer as they are merged.
type stationeryPrograms struct{ header, footer *template.Program }

func compileStationery(cat *field.Catalogue, st *domain.Stationery) (p stationeryPrograms) {
	p.header, _ = template.Compile(template.Template{Body: st.Header}, cat)
	p.footer, _ = template.Compile(template.Template{Body: st.Footer}, cat)
	return p
}

// MergeStationery merges header and footer of a stationery as it is stored.
func (a *Service) MergeStationery(st *domain.Stationery, s *Setting, reader *field.Reader) *MergedStationery {
	key := versionKey{st.ID, st.Version}
	a.kept(s.Cat, key) // what another catalogue was compiled with goes
	a.mu.Lock()
	p, ok := a.stationery[key]
	a.mu.Unlock()
	if !ok {
		p = compileStationery(s.Cat, st)
		a.mu.Lock()
		if a.digestsOf == s.Cat {
			a.stationery[key] = p
		}
		a.mu.Unlock()
	}
	return p.merge(s, reader)
}

func (p stationeryPrograms) merge(s *Setting, reader *field.Reader) *MergedStationery {
	header, footer := p.header.Merge(s.Values, nil, reader), p.footer.Merge(s.Values, nil, reader)
	return &MergedStationery{header.Body, footer.Body, slices.Concat(header.Gaps, footer.Gaps)}
}

// Wrap gives the two forms of a letter as they go out.
func (x *MergedStationery) Wrap(body document.Document, textPart *document.Document, subject string) (html, text string) {
	whole := body
	if x != nil {
		whole = letter.Wrap(x.header, body, x.footer)
	}
	html, text = render.RenderHTML(whole, subject), render.RenderText(whole)
	if textPart == nil {
		return html, text
	}
	text = render.RenderText(*textPart)
	if x != nil && body.Attrs.Body == document.BodyFormatted {
		parts := []string{render.RenderText(x.header), text, render.RenderText(x.footer)}
		text = strings.Join(slices.DeleteFunc(parts, func(s string) bool { return strings.TrimSpace(s) == "" }), "\n\n")
	}
	return html, text
}

// PreviewStationery shows a stationery around a template, or around a few words,
// with the user as the sender.
func (a *Service) PreviewStationery(ctx context.Context, u domain.User, in StationeryInput, templateID int64) (string, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return "", err
	}
	st := domain.Stationery{}
	in.Name, in.Ready, in.Default = "x", false, false
	if err := a.intoStationery(ctx, &st, in); err != nil {
		return "", err
	}
	body := render.Formatted(document.NewPlain("Dear Ada,\n\nthe letter goes here.\n\nKind regards,\n" + u.Name()))
	if templateID != 0 {
		t, err := a.TemplateFor(ctx, u, access.SeeTemplate, templateID)
		if err != nil {
			return "", err
		}
		if t.Body.Attrs.Body == document.BodyFormatted {
			body = t.Body
		}
	}
	recs, err := a.records.Gather(ctx, &domain.Person{Kind: field.Contact}, nil, &u)
	if err != nil {
		return "", err
	}
	s := &Setting{Cat: cat, Recs: recs, Values: a.records.Values(cat, recs), Reader: Reader("", &domain.Person{}, recs.Team)}
	p, _ := template.Compile(template.Template{Body: body}, cat)
	x := compileStationery(cat, &st).merge(s, s.Reader)
	html, _ := x.Wrap(p.Merge(s.Values, nil, s.Reader).Body, nil, "Preview")
	return letter.ShowPictures(html, PicturePath), nil
}

// PicturePath is where screens fetch the pictures of letters.
const PicturePath = "/api/files/"
