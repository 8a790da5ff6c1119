package library

import (
	"context"
	"regexp"
	"strings"

	"github.com/sergi/go-diff/diffmatchpatch"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// Versions lists the versions of a template that the user may see.
func (a *Service) Versions(ctx context.Context, u domain.User, id int64) ([]domain.VersionRow, error) {
	if _, err := a.Template(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.Versions(ctx, id)
}

// TemplateVersion gives a template as it was in one version.
func (a *Service) TemplateVersion(ctx context.Context, u domain.User, id int64, version int) (TemplateSheet, error) {
	now, err := a.Template(ctx, u, id)
	if err != nil {
		return TemplateSheet{}, err
	}
	t, err := a.store.TemplateVersion(ctx, id, version)
	if err != nil {
		return TemplateSheet{}, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	b, err := a.Book(ctx)
	if err != nil {
		return TemplateSheet{}, err
	}
	s := SheetOf(cat, b, t)
	s.OwnerName, s.MayEdit, s.Counts = now.OwnerName, now.MayEdit, now.Counts
	return s, nil
}

// Comparison tells what a later version changed.
type Comparison struct {
	From     int             `json:"from"`
	To       int             `json:"to"`
	Settings []SettingChange `json:"settings"`
	Subject  []Stretch       `json:"subject"`
	Body     []Stretch       `json:"body"`
}

// SettingChange is a setting that differs.
type SettingChange struct {
	Setting string `json:"setting"`
	From    string `json:"from"`
	To      string `json:"to"`
}

// Stretch is a piece of wording that stayed, was added or was taken out.
type Stretch struct {
	Kind string `json:"kind" enum:"same,added,removed"`
	Text string `json:"text"`
}

// CompareVersions compares two versions of a template by words.
func (a *Service) CompareVersions(ctx context.Context, u domain.User, id int64, from, to int) (Comparison, error) {
	x, err := a.TemplateVersion(ctx, u, id, from)
	if err != nil {
		return Comparison{}, err
	}
	y, err := a.TemplateVersion(ctx, u, id, to)
	if err != nil {
		return Comparison{}, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return Comparison{}, err
	}
	out := Comparison{From: from, To: to, Settings: []SettingChange{}}
	for _, s := range [][3]string{
		{"Name", x.Name, y.Name}, {"When to use", x.WhenToUse, y.WhenToUse}, {"State", string(x.State), string(y.State)},
		{"Language", x.Body.Attrs.Lang, y.Body.Attrs.Lang}, {"Kind of body", x.Body.Attrs.Body, y.Body.Attrs.Body},
		{"Plain-text part", textPartOf(x), textPartOf(y)}, {"Stationery", a.stationeryName(ctx, x.Extras.Stationery), a.stationeryName(ctx, y.Extras.Stationery)},
		{"Writers may not add", additions(x.Extras.MayNot), additions(y.Extras.MayNot)},
		{"Opens and clicks", measured(x.Extras.Untracked), measured(y.Extras.Untracked)}, {"Tags", strings.Join(x.Tags, ", "), strings.Join(y.Tags, ", ")},
		{"Attached documents", a.documentNames(ctx, x.Extras.Documents), a.documentNames(ctx, y.Extras.Documents)},
	} {
		if s[1] != s[2] {
			out.Settings = append(out.Settings, SettingChange{s[0], s[1], s[2]})
		}
	}
	out.Subject = CompareWords(x.SubjectText, y.SubjectText)
	out.Body = CompareWords(readable(cat, x.Body), readable(cat, y.Body))
	return out, nil
}

func textPartOf(s TemplateSheet) string {
	if s.Extras.TextPart == nil {
		return "made by itself"
	}
	return markup.Print(*s.Extras.TextPart)
}

func additions(list []domain.Addition) string {
	words := make([]string, len(list))
	for i, x := range list {
		words[i] = string(x)
	}
	return strings.Join(words, ", ")
}

func (a *Service) stationeryName(ctx context.Context, id int64) string {
	switch id {
	case 0:
		return "the default one"
	case domain.NoStationery:
		return ""
	}
	st, err := a.store.Stationery(ctx, id)
	if err != nil {
		return "one that is gone"
	}
	return st.Name
}

func (a *Service) documentNames(ctx context.Context, ids []int64) string {
	var names []string
	for _, id := range ids {
		if d, err := a.store.SharedDocument(ctx, id); err == nil {
			names = append(names, d.Name)
		}
	}
	return strings.Join(names, ", ")
}

// readable gives a body as people see it: of a formatted one its text with the
// labels of its fields.
func readable(cat *field.Catalogue, d document.Document) string {
	return render.Readable(d, LabelIn(cat))
}

// LabelIn gives the labels of fields, and paths as they are when there is no field.
func LabelIn(cat *field.Catalogue) func(path string) string {
	return func(path string) string {
		return cat.Name(path)
	}
}

var wordForm = regexp.MustCompile(`\n|[^\S\n]+|[^\s]+`)

// CompareWords finds the words that were added and removed (Myers, "An O(ND)
// Difference Algorithm", by go-diff), each word being one sign.
func CompareWords(a, b string) []Stretch {
	known := map[string]rune{}
	var words []string
	signs := func(s string) []rune {
		var out []rune
		for _, w := range wordForm.FindAllString(s, -1) {
			if _, seen := known[w]; !seen {
				// Beyond the surrogates, which are no runes.
				known[w] = rune(0x10000 + len(words))
				words = append(words, w)
			}
			out = append(out, known[w])
		}
		return out
	}
	d := diffmatchpatch.New()
	kinds := map[diffmatchpatch.Operation]string{diffmatchpatch.DiffEqual: "same", diffmatchpatch.DiffInsert: "added", diffmatchpatch.DiffDelete: "removed"}
	out := []Stretch{}
	for _, diff := range d.DiffCleanupSemantic(d.DiffMainRunes(signs(a), signs(b), false)) {
		s := Stretch{Kind: kinds[diff.Type]}
		for _, r := range diff.Text {
			s.Text += words[r-0x10000]
		}
		out = append(out, s)
	}
	return out
}

func measured(off bool) string {
	if off {
		return "not measured"
	}
	return "measured"
}
