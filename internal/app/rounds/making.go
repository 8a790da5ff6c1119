package rounds

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/preflight"
	"lucidletter/core/template"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// maker makes the letters of a round, for one goroutine and a short while.
type maker struct {
	a      *Service
	r      *domain.Round
	u      domain.User
	cat    *field.Catalogue
	book   *library.Book
	list   []compose.Variant // the round's template and its wordings in other languages
	other  map[[2]int64]*compose.Variant
	from   domain.FromAddress
	users  []domain.User
	askSum uint64 // a sum of what the letters ask
	// settings keeps what was gathered of people who are checked, where it is not nil.
	settings map[int64]gathered
}

// gathered is what a letter draws from, and what the records said before gaps were filled.
type gathered struct {
	*library.Setting
	seen domain.Own
}

// errNoTemplate is of a round for which none was chosen.
var errNoTemplate = &domain.StateError{Why: "No template is chosen for this round yet; choose one."}

func (a *Service) maker(ctx context.Context, r *domain.Round) (*maker, error) {
	if r.TemplateID == nil {
		return nil, errNoTemplate
	}
	k := &maker{a: a, r: r, other: map[[2]int64]*compose.Variant{}}
	var err error
	if k.u, err = a.store.User(ctx, r.OwnerID); err != nil {
		return nil, err
	}
	if k.cat, err = a.records.Catalogue(ctx); err != nil {
		return nil, err
	}
	if k.book, err = a.library.Book(ctx); err != nil {
		return nil, err
	}
	t, err := a.store.TemplateVersion(ctx, *r.TemplateID, r.TemplateVersion)
	if err != nil {
		return nil, err
	}
	if k.list, err = a.worded(ctx, k, t); err != nil {
		return nil, err
	}
	if r.Said.Ask != nil {
		said, err := json.Marshal(r.Said.Ask)
		if err != nil {
			return nil, err
		}
		k.askSum = preflight.Sum(said)
	}
	return k, k.sender(ctx)
}

// sender finds the address that the round is written from, and the colleagues that blanks
// may name. An address that is the sender's no more is told by what stops each letter.
func (k *maker) sender(ctx context.Context) (err error) {
	email := k.r.Said.From
	if email == "" {
		email = k.u.Email
	}
	k.from, err = k.a.team.FromAddress(ctx, k.u, email)
	if errors.Is(err, domain.ErrNotFound) {
		k.from, err = domain.FromAddress{Name: k.u.Name(), Email: email}, nil
	}
	if err == nil {
		k.users, err = k.a.store.Users(ctx)
	}
	return err
}

// of gives the template for somebody: another one that was chosen for them, else the
// wording in their language that fits them.
func (k *maker) of(ctx context.Context, m *domain.Member, s *library.Setting) (*compose.Variant, error) {
	if m.TemplateID != nil {
		key := [2]int64{*m.TemplateID, int64(m.TemplateVersion)}
		if k.other[key] == nil {
			t, err := k.a.store.TemplateVersion(ctx, *m.TemplateID, m.TemplateVersion)
			if err != nil {
				return nil, err
			}
			k.other[key] = new(k.a.compose.Variant(k.cat, k.book, t))
		}
		return k.other[key], nil
	}
	return compose.VariantFor(k.list, s), nil
}

// whyNot says why a template cannot serve somebody, or "".
func (k *maker) whyNot(ctx context.Context, s *library.Setting, w *compose.Variant) (string, error) {
	if w.Broken != "" {
		return w.Broken, nil
	}
	if why := s.WhyNot(w.Program); why != "" || !w.Program.NeedsDeal() {
		return why, nil
	}
	deals, err := k.a.store.DealsOf(ctx, s.Person.ID)
	if err != nil {
		return "", err
	}
	if open := slices.DeleteFunc(deals, func(d domain.Deal) bool { return !d.Open() }); len(open) > 1 {
		return fmt.Sprintf("is about a deal, and %s has %d that are open; write to them from the deal that is meant", s.Person.Name(), len(open)), nil
	}
	return "", nil
}

// fill puts what was said about gaps and blanks into the values of somebody: where the
// records have no value.
func (k *maker) fill(m *domain.Member, s *library.Setting, w *compose.Variant) template.Blanks {
	said := maps.Clone(map[string]string(k.r.Said.Fills))
	if said == nil {
		said = map[string]string{}
	}
	maps.Copy(said, m.Fills)
	for path, words := range said {
		if ref, ok := k.cat.Find(path); ok && !s.Values.Get(path).Filled() {
			if v, err := field.Given(ref.Def, words, ""); err == nil {
				s.Values.Set(path, v)
			}
		}
	}
	return w.Blanks(k.users, said)
}

// letter makes the letter of somebody, stored nowhere. It asks what the round asks by a page
// of this token; with "" it asks nothing.
func (k *maker) letter(ctx context.Context, m *domain.Member, s *library.Setting, token string) (domain.Letter, error) {
	w, err := k.of(ctx, m, s)
	if err != nil {
		return domain.Letter{}, err
	}
	if why, err := k.whyNot(ctx, s, w); err != nil || why != "" {
		if err == nil {
			err = &domain.StateError{Why: fmt.Sprintf("The template “%s” %s.", w.Template.Name, why)}
		}
		return domain.Letter{}, err
	}
	seen := s.Snapshot() // what the records say, without what fills their gaps here
	blanks := k.fill(m, s, w)
	l, err := k.a.compose.NewLetter(ctx, k.u, s, &w.Template, w.Program.Merge(s.Values, blanks, s.ReaderFor(&w.Wording)), &k.from, k.asked(token))
	if err != nil {
		return l, err
	}
	l.RoundID, l.Extras.ReplyTo, l.Seen = &k.r.ID, k.r.Said.ReplyTo, seen
	l.Extras.Attachments = append(l.Extras.Attachments, k.r.Said.Attachments...)
	return l, nil
}

// asked is what a letter of the round asks, nil nothing.
func (k *maker) asked(token string) *domain.Asked {
	if k.r.Said.Ask == nil || token == "" {
		return nil
	}
	return &domain.Asked{Token: token, Sheet: *k.r.Said.Ask, CreatedAt: k.a.now()}
}

// add stores a letter of the round with what it asks by a page of this token.
func (k *maker) add(ctx context.Context, l domain.Letter, token string) (int64, error) {
	id, err := k.a.store.AddLetter(ctx, l)
	if asked := k.asked(token); err == nil && asked != nil {
		asked.LetterID = id
		_, err = k.a.store.AddAsked(ctx, *asked)
	}
	return id, err
}

// day is the one that the sum of a letter is worked out for: what is said of today alone
// does not make it another letter.
func (k *maker) day() field.Value { return field.DateOf(k.r.CreatedAt.UTC().Truncate(24 * time.Hour)) }
