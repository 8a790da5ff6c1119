package library

import (
	"context"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// digest is what is worked out of a version of a template.
type digest struct {
	fits     []field.Record
	stops    int
	Language string
	Program  *template.Program // of one without passages, which may change by themselves
}

type versionKey struct {
	id      int64
	version int
}

// kept gives what was worked out of a version with a catalogue, if it was.
func (a *Service) kept(cat *field.Catalogue, key versionKey) (digest, bool) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.digestsOf != cat {
		clear(a.digests)
		clear(a.stationery)
		a.digestsOf = cat
	}
	d, ok := a.digests[key]
	return d, ok
}

// DigestOf works out a template, once for each version and catalogue.
func (a *Service) DigestOf(ctx context.Context, cat *field.Catalogue, id int64, version int) (digest, error) {
	if d, ok := a.kept(cat, versionKey{id, version}); ok {
		return d, nil
	}
	t, err := a.store.Template(ctx, id)
	if err != nil {
		return digest{}, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return digest{}, err
	}
	return a.digest(cat, b, &t), nil
}

// Program gives a stored version of a template as it is merged. One that holds passages,
// which change by themselves, is compiled each time.
func (a *Service) Program(cat *field.Catalogue, b *Book, t *domain.Template) *template.Program {
	if d, ok := a.kept(cat, versionKey{t.ID, t.Version}); ok && d.Program != nil {
		return d.Program
	}
	if d := a.digest(cat, b, t); d.Program != nil {
		return d.Program
	}
	p, _ := template.Compile(b.Wording(t), cat)
	return p
}

// Broken says what in a template has to be mended before a letter can begin with it, or "": its
// first red note, with the fields and passages that there are now.
func (a *Service) Broken(cat *field.Catalogue, b *Book, t *domain.Template) string {
	if d, ok := a.kept(cat, versionKey{t.ID, t.Version}); ok && d.Program != nil && d.stops == 0 {
		return ""
	}
	_, notes := template.Compile(b.Wording(t), cat)
	if why := document.FirstStop(notes); why != "" {
		return "has an error that must be fixed first: " + strings.TrimSuffix(why, ".")
	}
	return ""
}

// digest works out a stored version of a template.
func (a *Service) digest(cat *field.Catalogue, b *Book, t *domain.Template) (d digest) {
	p, notes := template.Compile(b.Wording(t), cat)
	d.fits, d.Language = p.Fits(), LanguageOf(t.Subject, t.Body)
	if len(template.PassagesIn(t.Subject, t.Body)) == 0 {
		d.Program = p
	}
	for _, n := range notes {
		if n.Severity == document.Stops {
			d.stops++
		}
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.digestsOf == cat {
		a.digests[versionKey{t.ID, t.Version}] = d
	}
	return d
}
