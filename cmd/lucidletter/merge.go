package main

import (
	"bytes"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/mail"
)

// Exit statuses of merge and check beside 0 and 1.
var (
	errNotes = errors.New("the template has red notes")
	errGaps  = errors.New("values that must be there are missing")
)

// mergeOptions are the flags of merge and check.
type mergeOptions struct {
	template, subject, data, locale, today, out, format, missing string
	blanks                                                       []string
}

func mergeCommand() *cobra.Command {
	var o mergeOptions
	cmd := &cobra.Command{
		Use: "merge", Short: "Merge a template with records from a file, without a workspace", Args: cobra.NoArgs,
		Long: `Merge a template (.txt in the text form, .html with merge fields, .json with
subject, body and kind) with records (.json, nested; .csv, with field paths as headers).
With --format text or html and a single record, only the merged body is written to
standard output. Exit status: 1 it could not run, 3 the template has errors, 4 values
that must be there are missing (nothing was written).`,
		RunE: func(cmd *cobra.Command, _ []string) error { return runMerge(&o, cmd.OutOrStdout(), cmd.ErrOrStderr()) },
	}
	f := cmd.Flags()
	f.StringVar(&o.template, "template", "", "the template: .txt, .html or .json")
	f.StringVar(&o.subject, "subject", "", "the subject in the text form, for .txt and .html")
	f.StringVar(&o.data, "data", "", "the records: .json or .csv")
	f.StringArrayVar(&o.blanks, "blank", nil, "fill in a blank: name=value")
	f.StringVar(&o.locale, "locale", "", "language of the letters, such as de-DE (default: the person's)")
	f.StringVar(&o.today, "today", "", "day the letters are sent, such as 2026-03-02 (default: today)")
	f.StringVar(&o.out, "out", "", "folder to write .eml files to, one for each record")
	f.StringVar(&o.format, "format", "", "write text, html, eml or json to standard output")
	f.StringVar(&o.missing, "missing", "refuse", "when a value that must be there is missing: refuse, or empty to leave it empty")
	for _, name := range []string{"template", "data"} {
		if err := cmd.MarkFlagRequired(name); err != nil {
			panic(err) // the flag was just made
		}
	}
	return cmd
}

func checkCommand() *cobra.Command {
	var o mergeOptions
	cmd := &cobra.Command{
		Use: "check", Short: "Check a template: errors and advice, with line and column", Args: cobra.NoArgs,
		Long: "Print the errors and advice on a template as file:line:column. Exit status: 1 it could not run, 3 the template has errors.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, err := o.compile(nil, cmd.OutOrStdout())
			return err
		},
	}
	cmd.Flags().StringVar(&o.template, "template", "", "the template: .txt, .html or .json")
	cmd.Flags().StringVar(&o.subject, "subject", "", "the subject in the text form, for .txt and .html")
	if err := cmd.MarkFlagRequired("template"); err != nil {
		panic(err) // the flag was just made
	}
	return cmd
}

// compiled is a template ready to be merged.
type compiled struct {
	program *template.Program
	cat     *field.Catalogue
	kind    string // of the body
}

var ownPath = regexp.MustCompile(`\b(?:person|lead|contact|company|deal|sender|team)\.own\.[A-Za-z0-9_-]+`)

// compile reads and checks the template; its notes are printed. Own fields that
// the data do not have are taken as text, since there is no workspace to ask.
func (o *mergeOptions) compile(own []field.Def, notes io.Writer) (*compiled, error) {
	t, err := o.readTemplate()
	var text *markup.MarkupError
	if errors.As(err, &text) {
		fmt.Fprintf(notes, "%s:%d:%d: %s\n", o.template, text.Line, text.Column, text.Why)
		return nil, errNotes
	}
	if err != nil {
		return nil, err
	}
	for _, path := range ownPath.FindAllString(markup.Print(t.Subject)+markup.Print(t.Body), -1) {
		if def, ok := files.OwnField(strings.Replace(path, "contact.", "person.", 1), field.Text); ok {
			own = append(own, def)
		}
	}
	cat := field.New(own)
	program, list := template.Compile(t, cat)
	for _, n := range list {
		where := o.template
		if n.Part == document.Subject {
			where += " (subject)"
		}
		if n.Where != "" {
			where += " (" + n.Where + ")"
		}
		fmt.Fprintf(notes, "%s:%d:%d: %s\n", where, n.Line, n.Column, n.Message)
	}
	if document.Stopping(list) {
		return nil, errNotes
	}
	return &compiled{program, cat, t.Body.Attrs.Body}, nil
}

func (o *mergeOptions) readTemplate() (t template.Template, err error) {
	raw, err := os.ReadFile(o.template)
	if err != nil {
		return t, err
	}
	if len(raw) > 8*document.MaxBody {
		return t, fmt.Errorf("%s: is larger than 8 MiB", o.template)
	}
	raw = bytes.TrimPrefix(raw, []byte("\xEF\xBB\xBF"))
	t.Subject = markup.Parse(o.subject)
	switch strings.ToLower(filepath.Ext(o.template)) {
	case ".json":
		return o.readJSON(raw)
	case ".txt":
		t.Body = markup.Parse(string(raw))
	case ".html", ".htm":
		t.Body = markup.ParseHTML(string(raw))
	default:
		return t, fmt.Errorf("--template: %s is neither .txt nor .html nor .json", o.template)
	}
	return t, nil
}

// readJSON reads a .json template. Subject and body are in the text form, or
// documents in the stored form; kind says of which kind a body in the text form
// is.
func (o *mergeOptions) readJSON(raw []byte) (t template.Template, err error) {
	var file struct {
		Subject, Body json.RawMessage
		Kind          string
	}
	if err := json.Unmarshal(raw, &file); err != nil {
		return t, fmt.Errorf("%s: is not JSON with subject and body: %w", o.template, err)
	}
	if t.Subject, err = readPart(file.Subject, ""); err != nil {
		return t, fmt.Errorf("%s: subject: %w", o.template, err)
	}
	if t.Body, err = readPart(file.Body, file.Kind); err != nil {
		return t, fmt.Errorf("%s: body: %w", o.template, err)
	}
	return t, nil
}

// readPart reads a part of a .json template: the text form, or a document.
func readPart(raw json.RawMessage, kind string) (document.Document, error) {
	var text string
	if len(raw) > 0 && json.Unmarshal(raw, &text) != nil {
		return document.ParseJSON(raw)
	}
	return markup.ParseBody(text, kind)
}

func (o *mergeOptions) readData() (files.Data, error) {
	file, err := os.Open(o.data)
	if err != nil {
		return files.Data{}, err
	}
	defer func() { _ = file.Close() }() // it was only read
	read := files.ReadRecordsCSV
	if strings.EqualFold(filepath.Ext(o.data), ".json") {
		read = files.ReadJSON
	}
	d, err := read(file)
	if err != nil {
		return d, fmt.Errorf("%s: %w", o.data, err)
	}
	return d, nil
}

// merged is one letter in the format json.
type merged struct {
	Subject string   `json:"subject"`
	Text    string   `json:"text,omitempty"`
	HTML    string   `json:"html,omitempty"`
	Missing []string `json:"missing"`

	mail domain.Mail
	safe string // the HTML to send
}

func runMerge(o *mergeOptions, out, notes io.Writer) error {
	if err := o.settle(); err != nil {
		return err
	}
	data, err := o.readData()
	if err != nil {
		return err
	}
	c, err := o.compile(data.Own, notes)
	if err != nil {
		return err
	}
	blanks, err := o.fillBlanks(c.program)
	if err != nil {
		return err
	}
	var letters []merged
	open := false
	for i, record := range data.Records {
		m, err := o.one(c, record, blanks)
		if err != nil {
			return fmt.Errorf("%s: record %d: %w", o.data, i+1, err)
		}
		for _, path := range m.Missing {
			open = true
			fmt.Fprintf(notes, "%s: record %d: %s is missing\n", o.data, i+1, path)
		}
		letters = append(letters, m)
	}
	if open && o.missing != "empty" {
		return errGaps
	}
	return o.write(letters, out)
}

func (o *mergeOptions) settle() error {
	switch o.format {
	case "", "text", "html", "eml", "json":
	default:
		return fmt.Errorf("--format: %q is not text, html, eml or json", o.format)
	}
	if o.missing != "refuse" && o.missing != "empty" {
		return fmt.Errorf("--missing: %q is neither refuse nor empty", o.missing)
	}
	if (o.format == "") == (o.out == "") {
		return errors.New("say where the letters go: --out folder, or --format text, html, eml or json")
	}
	return nil
}

func (o *mergeOptions) fillBlanks(p *template.Program) (template.Blanks, error) {
	out := template.Blanks{}
	for _, b := range o.blanks {
		name, value, ok := strings.Cut(b, "=")
		if !ok {
			return nil, fmt.Errorf("--blank: %q is not of the form name=value", b)
		}
		v, known := field.Of(value), false
		for _, d := range p.Blanks() {
			of, _, _ := strings.Cut(name, ".")
			if of != d.Name {
				continue
			}
			var err error
			known = true
			if v, err = field.Parse(d.Type(), value, d.Choices); err != nil {
				return nil, fmt.Errorf("--blank %s: %w", name, err)
			}
		}
		if !known {
			return nil, fmt.Errorf("--blank: the template has no blank %q", name)
		}
		out[name] = v
	}
	return out, nil
}

func (o *mergeOptions) one(c *compiled, record map[string]string, blanks template.Blanks) (merged, error) {
	v, err := files.Fill(c.cat, record)
	if err != nil {
		return merged{}, err
	}
	today := field.DateOf(time.Now())
	if o.today != "" {
		if today, err = field.Parse(field.Date, o.today, nil); err != nil {
			return merged{}, fmt.Errorf("--today: %w", err)
		}
	}
	v.Set("today", today)
	locale := o.locale
	if locale == "" {
		locale = v.Get("person.language").Text
	}
	reader := field.NewReader(locale)
	m := merged{Missing: append([]string{}, c.program.Missing(v, blanks)...)}
	l := c.program.Merge(v, blanks, reader)
	for _, g := range l.Gaps {
		// Written as nothing, or not at all.
		l.Subject, l.Body = letter.Fill(l.Subject, g.Path, ""), letter.Fill(l.Body, g.Path, "")
	}
	m.Subject, m.Text = render.RenderText(l.Subject), render.RenderText(l.Body)
	m.HTML = render.RenderHTML(l.Body, m.Subject)
	if c.kind == document.BodyHTML {
		// The page as it stands; as mail it is made safe first.
		page, _ := c.program.AppendBody(nil, v, blanks, reader, safehtml.AsHTML)
		m.safe, m.HTML = m.HTML, string(page)
	} else {
		m.safe = m.HTML
	}
	m.mail = domain.Mail{
		FromName: v.Get("sender.full_name").Text, FromEmail: v.Get("sender.email").Text, ToName: v.Get("person.full_name").Text,
		ToEmail: v.Get("person.email").Text, Subject: m.Subject, Text: m.Text, HTML: m.safe, Date: time.Now(),
	}
	return m, nil
}

func (o *mergeOptions) write(letters []merged, out io.Writer) error {
	switch {
	case o.format == "json":
		enc := json.NewEncoder(out)
		enc.SetEscapeHTML(false)
		enc.SetIndent("", "  ")
		return enc.Encode(letters)
	case o.out == "" && len(letters) != 1:
		return fmt.Errorf("%d records give as many letters; use --out or --format json", len(letters))
	case o.format == "html" && letters[0].HTML == "":
		return errors.New("--format html: the template is plain text; use --format text")
	case o.format == "html":
		_, err := io.WriteString(out, letters[0].HTML)
		return err
	case o.format == "text":
		_, err := io.WriteString(out, letters[0].Text)
		return err
	}
	var all [][]byte
	for i, m := range letters {
		m.mail.MessageID = rand.Text() + "@lucidletter.example"
		raw, err := mail.Composer{}.Compose(m.mail)
		if err != nil {
			return fmt.Errorf("record %d: %w", i+1, err)
		}
		all = append(all, raw)
	}
	if o.out == "" {
		_, err := out.Write(all[0])
		return err
	}
	if err := os.MkdirAll(o.out, 0o755); err != nil {
		return err
	}
	for i, raw := range all {
		name := filepath.Join(o.out, fmt.Sprintf("%0*d.eml", len(fmt.Sprint(len(all))), i+1))
		if err := os.WriteFile(name, raw, 0o644); err != nil {
			return err
		}
	}
	return nil
}
