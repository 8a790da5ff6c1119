// Package letter holds templates and letters: the document tree, the text form
// with merge fields, the checks while writing, merging with a record's values,
// and writing the result out.
//
// The template language follows the Mustache language (mustache(5): variables,
// comments) with `{{` and `}}`; docs/format.md has the grammar. On purpose
// different: a path is always whole (person.first_name), a missing value
// follows the policy of its occurrence, and unescaped output, changed
// delimiters and lambdas are refused with their place.
//
// Limits: subject 998 bytes on the wire (RFC 5322 section 2.1.1), body 1 MiB,
// 500 fields in a template.
package letter

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// Limits of a template and a letter.
const (
	MaxSubject = 998
	MaxBody    = 1 << 20
	MaxFields  = 500
	// MaxNesting is how deep only-whens and fixed blocks may stand in each other.
	MaxNesting = 32
	// FormatVersion is the version of the stored form of a document.
	FormatVersion = 1
)

// NodeType names a kind of node in the stored form.
type NodeType string

// The nodes of a document. Malformed keeps a mark that could not be read, so
// that a draft can be stored as it was typed; it never goes out.
const (
	Doc       NodeType = "doc"
	Paragraph NodeType = "paragraph"
	Text      NodeType = "text"
	Field     NodeType = "field"
	Blank     NodeType = "blank"
	Passage   NodeType = "passage"
	Break     NodeType = "hardBreak"
	When      NodeType = "when"      // only-when within a line
	OnlyWhen  NodeType = "onlyWhen"  // only-when around lines
	FixedText NodeType = "fixedText" // fixed wording within a line
	Fixed     NodeType = "fixed"     // fixed wording around lines
	Comment   NodeType = "comment"
	Malformed NodeType = "malformed"
	GapNode   NodeType = "gap"
)

// Missing is what an occurrence of a field does when its value is missing.
type Missing string

// The three policies. MustBe is the default: the letter cannot go.
const (
	MustBe  Missing = "must"
	Instead Missing = "instead"
	Leave   Missing = "leave"
)

// BodyPlain marks a document that is plain text: paragraphs are its lines.
const BodyPlain = "plain"

// Document is one tree: the body or the subject of a template or a letter. Its
// JSON is the stored form and the editor's form alike.
type Document struct {
	Type    NodeType `json:"type"`
	Attrs   DocAttrs `json:"attrs"`
	Content []Node   `json:"content"`
}

// DocAttrs says how to read the document.
type DocAttrs struct {
	Version int    `json:"version"`
	Body    string `json:"body"`
}

// Node is one node below the document.
type Node struct {
	Type    NodeType `json:"type"`
	Attrs   *Attrs   `json:"attrs,omitempty"`
	Marks   []Mark   `json:"marks,omitempty"`
	Text    string   `json:"text,omitempty"`
	Content []Node   `json:"content,omitempty"`

	at    int       // byte offset in the text form it was read from
	place htmlPlace // of merged words in an HTML source
}

// Attrs are the settings of a node: Path, Missing, Fallback and As of a field;
// Path, Not, Op and Literals of an only-when; Name, Kind, Optional, Hint,
// Default and Choices of a blank, Path being what of a colleague is written;
// Path, Label and again Kind, Hint and Choices of a gap; Name of a passage;
// Code of a comment or a malformed mark.
type Attrs struct {
	Path     string   `json:"path,omitempty"`
	Missing  Missing  `json:"missing,omitempty"`
	Fallback string   `json:"fallback,omitempty"`
	As       string   `json:"as,omitempty"`
	Label    string   `json:"label,omitempty"`
	Not      bool     `json:"not,omitempty"`
	Op       string   `json:"op,omitempty"`
	Literals []string `json:"literals,omitempty"`
	Name     string   `json:"name,omitempty"`
	Kind     string   `json:"kind,omitempty"`
	Optional bool     `json:"optional,omitempty"`
	Hint     string   `json:"hint,omitempty"`
	Default  string   `json:"default,omitempty"`
	Choices  []string `json:"choices,omitempty"`
	Code     string   `json:"code,omitempty"`
}

// Merged is the mark on words that came from a field.
const Merged = "merged"

// Mark is a property of a piece of text.
type Mark struct {
	Type  string     `json:"type"`
	Attrs *MarkAttrs `json:"attrs,omitempty"`
}

// MarkAttrs: Path is the field that merged words came from.
type MarkAttrs struct {
	Path string `json:"path,omitempty"`
}

// NewPlain makes a plain document of ready words: no marks are read in them.
func NewPlain(text string) Document {
	d := plainDoc()
	for line := range strings.SplitSeq(normal(text), "\n") {
		d.Content = append(d.Content, paragraph(textNode(line, 0)...))
	}
	return d
}

func plainDoc() Document {
	return Document{Type: Doc, Attrs: DocAttrs{Version: FormatVersion, Body: BodyPlain}, Content: []Node{}}
}

func paragraph(content ...Node) Node { return Node{Type: Paragraph, Content: content} }

func textNode(s string, at int) []Node {
	if s == "" {
		return nil
	}
	return []Node{{Type: Text, Text: s, at: at}}
}

// normal gives text with LF line ends and without NUL, which neither the store
// nor mail can carry.
func normal(s string) string {
	s = strings.ReplaceAll(s, "\r\n", "\n")
	s = strings.ReplaceAll(s, "\r", "\n")
	return strings.ReplaceAll(s, "\x00", "")
}

// FormError says where in the stored form something is that cannot be read.
type FormError struct {
	Where string // "content[3].content[0]"
	Why   string
}

func (e *FormError) Error() string { return e.Where + ": " + e.Why }

// ParseJSON reads the stored form. Unknown nodes, marks and versions are
// refused with a *FormError; nothing is dropped silently.
func ParseJSON(data []byte) (Document, error) {
	var d Document
	if len(data) > 4*MaxBody {
		return d, &FormError{"document", fmt.Sprintf("is larger than %d bytes", 4*MaxBody)}
	}
	if err := json.Unmarshal(data, &d); err != nil {
		var bad *json.UnmarshalTypeError
		if errors.As(err, &bad) {
			return d, &FormError{"document." + bad.Field, "is a " + bad.Value + " and must not be"}
		}
		return d, &FormError{"document", "is not JSON"}
	}
	return d, d.Check()
}

// Check tells whether the tree is of the form that this version reads.
func (d *Document) Check() error {
	switch {
	case d.Type != Doc:
		return &FormError{"type", fmt.Sprintf("%q; a document has the type %q", d.Type, Doc)}
	case d.Attrs.Version != FormatVersion:
		return &FormError{"attrs.version", fmt.Sprintf("%d; this program reads version %d", d.Attrs.Version, FormatVersion)}
	case d.Attrs.Body != BodyPlain:
		return &FormError{"attrs.body", fmt.Sprintf("%q is not a kind of body; use %q", d.Attrs.Body, BodyPlain)}
	}
	return checkBlocks("", d.Content, 1)
}

func checkBlocks(where string, blocks []Node, depth int) error {
	for i, n := range blocks {
		at := fmt.Sprintf("%scontent[%d]", where, i)
		switch {
		case depth > MaxNesting:
			return &FormError{at, fmt.Sprintf("is nested deeper than %d", MaxNesting)}
		case n.Type == OnlyWhen || n.Type == Fixed:
			if n.Type == OnlyWhen && n.Attrs == nil {
				return &FormError{at, fmt.Sprintf("%q needs attrs", n.Type)}
			}
			if err := checkBlocks(at+".", n.Content, depth+1); err != nil {
				return err
			}
		case n.Type != Paragraph:
			return &FormError{at, fmt.Sprintf("%q cannot stand here; a line is a %q", n.Type, Paragraph)}
		default:
			if err := checkInlines(at+".", n.Content, depth); err != nil {
				return err
			}
		}
	}
	return nil
}

func checkInlines(where string, inlines []Node, depth int) error {
	for i, n := range inlines {
		at := fmt.Sprintf("%scontent[%d]", where, i)
		if why := checkInline(n); why != "" {
			return &FormError{at, why}
		}
		if depth > MaxNesting {
			return &FormError{at, fmt.Sprintf("is nested deeper than %d", MaxNesting)}
		}
		if err := checkInlines(at+".", n.Content, depth+1); err != nil {
			return err
		}
	}
	return nil
}

func checkInline(n Node) string {
	switch n.Type {
	case Text:
		for _, m := range n.Marks {
			if m.Type != Merged {
				return fmt.Sprintf("unknown mark %q", m.Type)
			}
		}
		if strings.ContainsAny(n.Text, "\n\r\x00") {
			return "text holds a line break; each line is a paragraph of its own"
		}
		return ""
	case Break, FixedText:
		return ""
	case Field, GapNode, Comment, Malformed, Blank, Passage, When:
		if n.Attrs == nil {
			return fmt.Sprintf("%q needs attrs", n.Type)
		}
		return ""
	}
	return fmt.Sprintf("unknown node %q", n.Type)
}
