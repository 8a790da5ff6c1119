package records

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// maxLabel is in bytes.
const maxLabel = 80

var ownPath = regexp.MustCompile(`^(person|lead|company|deal|sender|team)\.own\.[a-z][a-z0-9_]{0,39}$`)

// AtHome tells whether a field stands on its record, and is not one of another record that
// is seen from there, such as the main contact of a deal.
func AtHome(d field.Def) bool { return !d.Own || ownPath.MatchString(d.Path) }

// maxOwnKey is how long the last part of a path is that is made of a label.
const maxOwnKey = 40

// OwnFieldPath makes the path of a new own field of its record and its label. Letters other
// than a to z have no place in a path: a label that has no others becomes field, field_2 …
func (a *Service) OwnFieldPath(ctx context.Context, record field.Record, label string) (string, error) {
	key := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			return r
		case r == ' ':
			return '_'
		}
		return -1
	}, field.PlainWords(label))
	key = strings.Trim(strings.TrimLeft(key, "_0123456789"), "_")
	key = strings.TrimRight(key[:min(len(key), maxOwnKey)], "_")
	before := string(record) + ".own."
	if key != "" {
		return before + key, nil
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return "", err
	}
	for n := 1; ; n++ {
		path := before + "field"
		if n > 1 {
			path += "_" + strconv.Itoa(n)
		}
		deleted, err := a.store.OwnFieldDeleted(ctx, path)
		if _, known := cat.Find(path); err != nil || !known && !deleted {
			return path, err
		}
	}
}

// NewOwnField checks an own field and adds it to the workspace.
func (a *Service) NewOwnField(ctx context.Context, u domain.User, d field.Def) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	d.Label, d.Own, d.Choices = strings.TrimSpace(d.Label), true, tidyChoices(d.Choices)
	record, _, _ := strings.Cut(d.Path, ".")
	d.Record = field.Record(record)
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	switch {
	case !ownPath.MatchString(d.Path):
		return domain.Invalid("path", "must be such as deal.own.volume: person, lead, company, deal, sender or team, own, and small letters")
	case d.Label == "" || len(d.Label) > maxLabel:
		return domain.Invalid("label", "must have 1 to %d bytes", maxLabel)
	case !slices.Contains(field.Types(), d.Type):
		return domain.Invalid("type", "%q is no type of field", d.Type)
	case d.Type == field.Choice && len(d.Choices) == 0:
		return domain.Invalid("choices", "are missing; write what can be chosen")
	}
	if _, known := cat.Find(d.Path); known {
		return domain.Invalid("path", "there is a field %s already", d.Path)
	}
	deleted, err := a.store.OwnFieldDeleted(ctx, d.Path)
	if err != nil {
		return err
	}
	if deleted {
		return domain.Invalid("path", "a field %s was deleted; put it back, or choose another path", d.Path)
	}
	return a.AddOwnField(ctx, d)
}

// ChangeOwnField renames a field and says what can be chosen. Its path stays, so that
// templates go on; values that are none of the choices any more stay in their records. What
// would not go on without a choice that is taken away is asked about before, unless anyway.
func (a *Service) ChangeOwnField(ctx context.Context, u domain.User, path, label string, choices []string, anyway bool) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	list, err := a.store.OwnFields(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(d field.Def) bool { return d.Path == path })
	if i < 0 {
		return domain.ErrNotFound
	}
	d := list[i]
	before := d.Choices
	d.Label, d.Choices = strings.TrimSpace(label), tidyChoices(choices)
	switch {
	case d.Label == "" || len(d.Label) > maxLabel:
		return domain.Invalid("label", "must have 1 to %d bytes", maxLabel)
	case d.Type == field.Choice && len(d.Choices) == 0:
		return domain.Invalid("choices", "are missing; write what can be chosen")
	case d.Type != field.Choice:
		d.Choices = nil
	}
	if !anyway {
		if err := a.askAboutChoices(ctx, &d, before, list); err != nil {
			return err
		}
	}
	defer a.ForgetCatalogue()
	return a.store.UpdateOwnField(ctx, d)
}

// askAboutChoices refuses to take choices away that templates or passages name.
func (a *Service) askAboutChoices(ctx context.Context, d *field.Def, before []string, own []field.Def) error {
	gone := slices.DeleteFunc(slices.Clone(before), func(c string) bool { return slices.Contains(d.Choices, c) })
	if len(gone) == 0 {
		return nil
	}
	all := slices.Clone(own)
	all[slices.IndexFunc(all, func(x field.Def) bool { return x.Path == d.Path })] = *d
	had, with := field.New(own), field.New(all)
	var names []string
	for _, state := range []domain.TemplateState{domain.TemplateReady, domain.TemplateDraft} {
		list, err := a.store.AllTemplates(ctx, state)
		if err != nil {
			return err
		}
		for i := range list {
			t := &list[i]
			w := template.Template{Subject: t.Subject, Body: t.Body, Text: t.Extras.TextPart}
			_, was := template.Compile(w, had)
			_, is := template.Compile(w, with)
			if len(is) > len(was) && !slices.Contains(names, "“"+t.Name+"”") {
				names = append(names, "“"+t.Name+"”")
			}
		}
	}
	if len(names) == 0 {
		return nil
	}
	return &domain.StateError{Why: fmt.Sprintf("“%s” is asked for by %s. What stands under that condition would not appear any more; change those templates first, or remove the choice anyway.", strings.Join(gone, "”, “"), strings.Join(names, ", "))}
}

// MoveOwnField puts a field before another one, or last for "".
func (a *Service) MoveOwnField(ctx context.Context, u domain.User, path, before string) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	list, err := a.store.OwnFields(ctx)
	if err != nil {
		return err
	}
	var order []string
	for _, d := range list {
		if d.Path == path {
			continue
		}
		if d.Path == before {
			order = append(order, path)
		}
		order = append(order, d.Path)
	}
	if !slices.Contains(order, path) {
		order = append(order, path)
	}
	if len(order) != len(list) {
		return domain.ErrNotFound
	}
	defer a.ForgetCatalogue()
	return a.store.OrderOwnFields(ctx, order)
}

// tidyChoices leaves out what is empty or twice.
func tidyChoices(list []string) []string {
	var out []string
	for _, c := range list {
		if c = strings.Join(strings.Fields(c), " "); c != "" && !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	return out
}

// DeleteOwnField takes a field away. Templates that use it get a red note; the
// values of records stay for when it is put back.
func (a *Service) DeleteOwnField(ctx context.Context, u domain.User, path string) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	defer a.ForgetCatalogue()
	return a.store.DeleteOwnField(ctx, path, new(a.now()))
}

// PutBackOwnField undoes DeleteOwnField.
func (a *Service) PutBackOwnField(ctx context.Context, u domain.User, path string) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	defer a.ForgetCatalogue()
	return a.store.DeleteOwnField(ctx, path, nil)
}
