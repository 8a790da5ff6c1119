package library

import (
	"context"
	"encoding/json"
	"fmt"
	"path"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// The names of our formats; docs/format.md says what is in them.
const (
	TemplateFormat = "lucidletter/template"
	LibraryFormat  = "lucidletter/library"
	FilesVersion   = 1
)

// FieldFile is an own field as a file names it.
type FieldFile struct {
	Path    string     `json:"path"`
	Label   string     `json:"label"`
	Type    field.Type `json:"type"`
	Choices []string   `json:"choices,omitempty"`
}

// TemplateFile is a template as a file holds it: nothing of its wording is lost.
// Folder is the way to where it stands. Stationery and Documents are names.
type TemplateFile struct {
	Format     string               `json:"format"`
	Version    int                  `json:"version"`
	Name       string               `json:"name"`
	WhenToUse  string               `json:"whenToUse,omitempty"`
	State      domain.TemplateState `json:"state"`
	Folder     []string             `json:"folder,omitempty"`
	Tags       []string             `json:"tags,omitempty"`
	Subject    string               `json:"subject"`
	Body       document.Document    `json:"body"`
	TextPart   *string              `json:"textPart,omitempty"`
	TextOf     string               `json:"textOf,omitempty"`
	MayNot     []domain.Addition    `json:"mayNot,omitempty"`
	Untracked  bool                 `json:"untracked,omitempty"`
	Stationery string               `json:"stationery,omitempty"`
	Documents  []string             `json:"documents,omitempty"`
	Fields     []FieldFile          `json:"fields,omitempty"`
	Wordings   []TemplateFile       `json:"wordings,omitempty"` // in other languages; their settings are those of this one
}

// Exported is a file to be kept.
type Exported struct {
	Name, Type string
	Bytes      []byte
}

// fileName makes a name that every file system takes.
func fileName(name, ending string) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`<>:"/\|?*`, r) {
			return '-'
		}
		return r
	}, strings.Trim(name, " ."))
	return Shorten(name, 100) + ending
}

// ExportTemplate writes a template as html, md, txt, json or eml.
func (a *Service) ExportTemplate(ctx context.Context, u domain.User, id int64, as string) (Exported, error) {
	t, err := a.TemplateFor(ctx, u, access.SeeTemplate, id)
	if err != nil {
		return Exported{}, err
	}
	title := markup.Print(t.Subject)
	text := render.PlainPart(t.Body)
	if t.Extras.TextPart != nil {
		text = markup.Print(*t.Extras.TextPart)
	}
	switch as {
	case "html":
		return Exported{fileName(t.Name, ".html"), "text/html; charset=utf-8", []byte(interchange.ExportHTML(t.Body, title))}, nil
	case "md":
		return Exported{fileName(t.Name, ".md"), "text/markdown; charset=utf-8", []byte(t.Head() + interchange.Markdown(t.Body))}, nil
	case "txt":
		return Exported{fileName(t.Name, ".txt"), "text/plain; charset=utf-8", []byte(t.Head() + text)}, nil
	case "json":
		f, err := a.TemplateFile(ctx, &t)
		if err != nil {
			return Exported{}, err
		}
		bytes, err := json.MarshalIndent(f, "", "  ")
		return Exported{fileName(t.Name, ".json"), "application/json", bytes}, err
	case "eml":
		m := domain.Mail{FromName: u.Name(), FromEmail: u.Email, ToName: u.Name(), ToEmail: u.Email, Subject: title, Text: text, Date: a.now(), MessageID: a.newID() + "@" + domain.EmailDomain(u.Email)}
		if t.Body.Attrs.Body != document.BodyPlain {
			m.HTML = interchange.ExportHTML(t.Body, title)
		}
		if err := a.Pack(ctx, &m, &domain.Letter{}); err != nil {
			return Exported{}, err
		}
		bytes, err := a.composer.Compose(m)
		return Exported{fileName(t.Name, ".eml"), "message/rfc822", bytes}, err
	}
	return Exported{}, domain.Invalid("as", "%q is no format; use html, md, txt, json or eml", as)
}

// TemplateFile gives everything of a template but its folder.
func (a *Service) TemplateFile(ctx context.Context, t *domain.Template) (TemplateFile, error) {
	f := TemplateFile{
		Format: TemplateFormat, Version: FilesVersion, Name: t.Name, WhenToUse: t.WhenToUse, State: t.State, Tags: t.Tags,
		Subject: markup.Print(t.Subject), Body: t.Body, TextOf: t.Extras.TextOf, MayNot: t.Extras.MayNot, Untracked: t.Extras.Untracked,
	}
	docs := []document.Document{t.Subject, t.Body}
	if t.Extras.TextPart != nil {
		f.TextPart = new(markup.Print(*t.Extras.TextPart))
		docs = append(docs, *t.Extras.TextPart)
	}
	switch t.Extras.Stationery {
	case 0:
	case domain.NoStationery:
		f.Stationery = "-"
	default:
		f.Stationery = a.stationeryName(ctx, t.Extras.Stationery)
	}
	for _, id := range t.Extras.Documents {
		if d, err := a.store.SharedDocument(ctx, id); err == nil {
			f.Documents = append(f.Documents, d.Name)
		}
	}
	if t.SisterOf == nil {
		list, err := a.store.WordingsOf(ctx, t.ID)
		if err != nil {
			return f, err
		}
		for i := range list {
			if list[i].ID == t.ID {
				continue
			}
			w, err := a.TemplateFile(ctx, &list[i])
			if err != nil {
				return f, err
			}
			w.Tags, w.WhenToUse = nil, ""
			f.Wordings = append(f.Wordings, w)
		}
	}
	fields, err := a.FieldFiles(ctx, docs...)
	f.Fields = fields
	return f, err
}

// FieldFiles gives the own fields that documents use.
func (a *Service) FieldFiles(ctx context.Context, docs ...document.Document) ([]FieldFile, error) {
	own, err := a.store.OwnFields(ctx)
	if err != nil {
		return nil, err
	}
	paths := markup.PathsIn(docs...)
	var out []FieldFile
	for _, d := range own {
		if slices.ContainsFunc(paths, func(p string) bool {
			return p == d.Path || strings.HasSuffix(p, strings.TrimPrefix(d.Path, string(d.Record))) && strings.Contains(p, ".own.")
		}) {
			out = append(out, FieldFile{d.Path, d.Label, d.Type, d.Choices})
		}
	}
	return out, nil
}

// ReadFile is what a file of a template gives: its wording, and what was taken out.
type ReadFile struct {
	Template TemplateInput
	Removed  []interchange.Removed
	Notes    []string // what is not as it was in the file
}

// ReadTemplateFile reads a template from a file by the ending of its name: html or
// htm, eml, md, txt, json. It stores nothing.
func (a *Service) ReadTemplateFile(ctx context.Context, name string, bytes []byte) (ReadFile, error) {
	out := ReadFile{Template: TemplateInput{State: domain.TemplateDraft}, Removed: []interchange.Removed{}, Notes: []string{}}
	in := &out.Template
	ending := strings.ToLower(path.Ext(name))
	in.Name = Shorten(strings.TrimSpace(strings.TrimSuffix(path.Base(strings.ReplaceAll(name, `\`, "/")), path.Ext(name))), MaxName)
	text := interchange.DecodePage(bytes)
	switch {
	case len(bytes) > maxTemplateFile:
		return out, domain.Invalid("file", "is larger than %d MiB", maxTemplateFile>>20)
	case strings.TrimSpace(text) == "":
		return out, domain.Invalid("file", "is empty")
	}
	switch ending {
	case ".html", ".htm":
		return out, out.page(text)
	case ".eml":
		m, err := a.reader.Read(bytes)
		switch {
		case err != nil:
			return out, domain.Invalid("file", "is no email that can be read")
		case m.HTML == "" && strings.TrimSpace(m.Text) == "":
			return out, domain.Invalid("file", "holds no words, only %d attachments; take one with a text or an HTML part", len(m.Files))
		}
		in.Subject = Shorten(m.Subject, document.MaxSubject)
		if len(m.Files) > 0 {
			out.Notes = append(out.Notes, fmt.Sprintf("Left out what was attached (%d); put it on the shelf of approved documents.", len(m.Files)))
		}
		if m.HTML != "" {
			return out, out.page(m.HTML)
		}
		in.Body = strings.TrimRight(m.Text, "\n")
		return out, nil
	case ".md", ".markdown", ".txt":
		body := in.takeHead(text)
		if ending == ".txt" {
			in.Body = body
			return out, nil
		}
		d, err := interchange.FromMarkdown(body)
		if err != nil {
			return out, domain.Invalid("file", "%v", err)
		}
		in.Kind, in.Doc, in.Body = document.BodyFormatted, &d, ""
		return out, nil
	case ".json":
		var f TemplateFile
		if json.Unmarshal(bytes, &f) != nil || f.Format != TemplateFormat {
			return out, domain.Invalid("file", "is no template that was exported as JSON")
		}
		if f.Version > FilesVersion {
			return out, domain.Invalid("file", "is of version %d; this program reads version %d", f.Version, FilesVersion)
		}
		var err error
		out.Template, out.Notes, err = a.InputOf(ctx, &f)
		out.Template.State = domain.TemplateDraft
		for i := range f.Wordings {
			out.Notes = append(out.Notes, fmt.Sprintf("Its wording in %s was left out; export the library to keep all of them.", field.LanguageName(f.Wordings[i].Body.Attrs.Lang)))
		}
		return out, err
	}
	return out, domain.Invalid("file", "%q is no format of templates; use html, eml, md, txt or json", ending)
}

const maxTemplateFile = 6 << 20

func (r *ReadFile) page(src string) error {
	d, removed, _, err := readPage(src)
	if err != nil {
		return err
	}
	r.Template.Kind, r.Template.Body = document.BodyHTML, markup.Print(d)
	r.Removed = append(r.Removed, removed...)
	return nil
}

// takeHead reads the lines between --- and --- at the beginning of a file.
func (in *TemplateInput) takeHead(text string) (rest string) {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	if !strings.HasPrefix(text, "---\n") {
		return text
	}
	head, rest, ok := strings.Cut(text[4:], "\n---\n")
	if !ok {
		return text
	}
	for line := range strings.SplitSeq(head, "\n") {
		key, value, _ := strings.Cut(line, ":")
		switch value = strings.TrimSpace(value); strings.TrimSpace(key) {
		case "name":
			in.Name = value
		case "when":
			in.WhenToUse = value
		case "subject":
			in.Subject = value
		}
	}
	return strings.TrimPrefix(rest, "\n")
}

// InputOf gives what a file sets on a template here. Stationery and documents are
// found by their names.
func (a *Service) InputOf(ctx context.Context, f *TemplateFile) (TemplateInput, []string, error) {
	notes := []string{}
	in := TemplateInput{
		Name: f.Name, WhenToUse: f.WhenToUse, State: f.State, Tags: f.Tags, MayNot: f.MayNot, Untracked: f.Untracked,
		Input: Input{Subject: f.Subject, Kind: f.Body.Attrs.Body, Language: f.Body.Attrs.Lang, TextPart: f.TextPart, TextOf: f.TextOf},
	}
	if err := f.Body.Check(); err != nil {
		return in, notes, domain.Invalid("file", "its body cannot be read: %v", err)
	}
	if in.Kind == document.BodyFormatted {
		in.Doc = &f.Body
	} else {
		in.Body = markup.Print(f.Body)
	}
	if f.Stationery == "-" {
		in.Stationery = domain.NoStationery
	} else if f.Stationery != "" {
		list, err := a.store.AllStationery(ctx)
		if err != nil {
			return in, notes, err
		}
		for _, st := range list {
			if st.Name == f.Stationery && st.Ready {
				in.Stationery = st.ID
			}
		}
		if in.Stationery == 0 {
			notes = append(notes, fmt.Sprintf("Its stationery “%s” is not here; it has the default one.", f.Stationery))
		}
	}
	list, err := a.store.Documents(ctx)
	if err != nil {
		return in, notes, err
	}
	for _, name := range f.Documents {
		i := slices.IndexFunc(list, func(d domain.SharedDocument) bool { return d.Name == name })
		if i < 0 {
			notes = append(notes, fmt.Sprintf("The document “%s” that it attaches is not on the shelf here.", name))
			continue
		}
		in.Documents = append(in.Documents, list[i].ID)
	}
	return in, notes, nil
}
