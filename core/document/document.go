// Package document is the tree that a body and a merged letter are: nodes, marks, their
// attributes, the notes of checks, and what a document must be to be stored. A body is
// plain text, formatted, or an HTML page; all are one kind of tree, with a stored form in
// JSON (docs/document.schema.json, docs/format.md). In goes that JSON, out come checked
// trees, or a *FormError with the place.
//
// # Limits
//
// Subject 998 bytes on the wire (RFC 5322 section 2.1.1), body 1 MiB, 500 fields in a
// template, only-whens nested 32 deep, nodes 64 deep.
package document

import (
	"strings"
)

// Limits of a template and a letter.
const (
	MaxSubject = 998
	MaxBody    = 1 << 20
	MaxFields  = 500
	// MaxNesting is how deep only-whens and fixed blocks may stand in each other,
	// MaxTree how deep any nodes may.
	MaxNesting = 32
	MaxTree    = 64
	// FormatVersion is the version of the stored form of a document.
	FormatVersion = 1
)

// NodeType names a kind of node in the stored form.
type NodeType string

// The nodes of every kind of body. Malformed keeps a mark that could not be
// read, so that a draft can be stored as it was typed; it never goes out.
const (
	Doc       NodeType = "doc"
	Paragraph NodeType = "paragraph"
	Text      NodeType = "text"
	Field     NodeType = "field"
	Blank     NodeType = "blank"
	Passage   NodeType = "passage"
	Break     NodeType = "hardBreak"
	When      NodeType = "when"      // only-when within a line
	OnlyWhen  NodeType = "onlyWhen"  // only-when around blocks
	FixedText NodeType = "fixedText" // fixed wording within a line
	Fixed     NodeType = "fixed"     // fixed wording around blocks
	Comment   NodeType = "comment"
	Malformed NodeType = "malformed"
	GapNode   NodeType = "gap"
)

// The further blocks of formatted bodies.
const (
	Heading      NodeType = "heading"
	BulletList   NodeType = "bulletList"
	OrderedList  NodeType = "orderedList"
	ListItem     NodeType = "listItem"
	Quote        NodeType = "blockquote"
	Image        NodeType = "image"
	Button       NodeType = "button"
	Table        NodeType = "table"
	TableRow     NodeType = "tableRow"
	TableHeading NodeType = "tableHeader"
	TableCell    NodeType = "tableCell"
	Columns      NodeType = "columns"
	Column       NodeType = "column"
	Divider      NodeType = "divider"
	Spacer       NodeType = "spacer"
)

// Missing is what an occurrence of a field does when its value is missing.
type Missing string

// The three policies. MustBe is the default: the letter cannot go.
const (
	MustBe  Missing = "must"
	Instead Missing = "instead"
	Leave   Missing = "leave"
)

// The kinds of body. In a plain one and in an HTML one the paragraphs are the
// lines of the text or of the HTML source.
const (
	BodyPlain     = "plain"
	BodyFormatted = "formatted"
	BodyHTML      = "html"
)

// Document is one tree: the body or the subject of a template or a letter. Its
// JSON is the stored form and the editor's form alike.
type Document struct {
	Type    NodeType `json:"type"`
	Attrs   DocAttrs `json:"attrs"`
	Content []Node   `json:"content"`
}

// DocAttrs says how to read the document, and how the sheet of a formatted one
// looks: Font and Size of its words, Color of words, Background around the
// sheet, Align of the sheet ("" left, "center"). Lang is the language of the
// words (RFC 5646).
type DocAttrs struct {
	Version    int    `json:"version"`
	Body       string `json:"body"`
	Lang       string `json:"lang,omitempty"`
	Font       string `json:"font,omitempty"`
	Size       int    `json:"size,omitempty"`
	Color      string `json:"color,omitempty"`
	Background string `json:"background,omitempty"`
	Align      string `json:"align,omitempty"`
}

// Prerendered is what a node of a merged letter is written as, made when its template was
// compiled. It holds as long as nothing in the node is changed: whoever changes a node, or
// one in it, sets it to nil, and a node that was read from JSON has none.
type Prerendered interface {
	AppendHTML(dst []byte) []byte
	AppendText(dst []byte) []byte
	Lines() []string // of text
	Silent() bool    // there is nothing of it in text
}

// Node is one node below the document.
type Node struct {
	Type    NodeType `json:"type"`
	Attrs   *Attrs   `json:"attrs,omitempty"`
	Marks   []Mark   `json:"marks,omitempty"`
	Text    string   `json:"text,omitempty"`
	Content []Node   `json:"content,omitempty"`

	At          int         `json:"-"` // byte offset in the text form it was read from
	Prerendered Prerendered `json:"-"` // what it is written as, when that is known
}

// Attrs are the settings of a node: Path, Missing, Fallback and As of a field;
// Path, Not, Op and Literals of an only-when; Name, Kind, Optional, Hint,
// Default and Choices of a blank, Path being what of a colleague is written;
// Path, Label and again Kind, Hint and Choices of a gap, Place in HTML; Name of
// a passage; Code of a comment or a malformed mark. Of blocks: Level 1 to 3 of a
// heading; Align (left, center, right, justify); Start of a numbered list; Href
// and Src in the text form; Alt; Width of an image in pixels, of a column in per
// cent; Height of a spacer in pixels; Color of a button; Colspan, Rowspan and
// Colwidth (pixels) of a cell. Gaps is what is missing in an address of a letter.
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
	Place    string   `json:"place,omitempty"`

	Level    int     `json:"level,omitempty"`
	Align    string  `json:"align,omitempty"`
	Start    int     `json:"start,omitempty"`
	Href     string  `json:"href,omitempty"`
	Src      string  `json:"src,omitempty"`
	Alt      string  `json:"alt,omitempty"`
	Width    int     `json:"width,omitempty"`
	Height   int     `json:"height,omitempty"`
	Color    string  `json:"color,omitempty"`
	Colspan  int     `json:"colspan,omitempty"`
	Rowspan  int     `json:"rowspan,omitempty"`
	Colwidth []int   `json:"colwidth,omitempty"`
	Gaps     []Attrs `json:"gaps,omitempty"`
}

// The marks on words. Merged is on words that came from a field, FixedMark in a
// letter on words that writers may not change.
const (
	Merged    = "merged"
	FixedMark = "fixedWords"
	LeftOut   = "leftOut" // in a letter, on the word beside which a value was left out
	Bold      = "bold"
	Italic    = "italic"
	Underline = "underline"
	Strike    = "strike"
	TextStyle = "textStyle" // colour, font and size
	Highlight = "highlight"
	Link      = "link"
)

// Where something was left out, from the word that LeftOut is on.
const (
	BehindWord    = ""
	BeforeWord    = "before"
	BehindPassage = "passage"
)

// Mark is a property of a piece of text.
type Mark struct {
	Type  string     `json:"type"`
	Attrs *MarkAttrs `json:"attrs,omitempty"`
}

// MarkAttrs: Path is the field that merged words came from, Place where they
// stand in an HTML source ("" in text); on a word beside which a value was left out,
// Path is the field and Place where that was: BehindWord, BeforeWord or, for the words of an
// only-when, BehindPassage; Href is the address of a link, in the
// text form, and Gaps what is missing in it in a letter; Color (#rrggbb) of words
// or highlight; FontFamily; FontSize such as "18px".
type MarkAttrs struct {
	Path       string  `json:"path,omitempty"`
	Place      string  `json:"place,omitempty"`
	Href       string  `json:"href,omitempty"`
	Color      string  `json:"color,omitempty"`
	FontFamily string  `json:"fontFamily,omitempty"`
	FontSize   string  `json:"fontSize,omitempty"`
	Gaps       []Attrs `json:"gaps,omitempty"`
}

// NewPlain makes a plain document of ready words: no marks are read in them.
func NewPlain(text string) Document {
	d := PlainDoc()
	for line := range strings.SplitSeq(NormalLines(text), "\n") {
		d.Content = append(d.Content, NewParagraph(TextNode(line, 0)...))
	}
	return d
}

// PlainDoc gives an empty plain body.
func PlainDoc() Document {
	return Document{Type: Doc, Attrs: DocAttrs{Version: FormatVersion, Body: BodyPlain}, Content: []Node{}}
}

// NewParagraph gives a paragraph of inlines.
func NewParagraph(content ...Node) Node { return Node{Type: Paragraph, Content: content} }

// TextNode gives words as a list of one text, of none when there are none; at is their offset.
func TextNode(s string, at int) []Node {
	if s == "" {
		return nil
	}
	return []Node{{Type: Text, Text: s, At: at}}
}

// NormalLines gives text with LF line ends and without NUL, which neither the store
// nor mail can carry.
func NormalLines(s string) string {
	if strings.IndexByte(s, '\r') < 0 && strings.IndexByte(s, 0) < 0 {
		return s
	}
	s = strings.ReplaceAll(s, "\r\n", "\n")
	s = strings.ReplaceAll(s, "\r", "\n")
	return strings.ReplaceAll(s, "\x00", "")
}
