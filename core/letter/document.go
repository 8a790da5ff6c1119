// Package letter holds templates and letters: the document tree, the text form
// with merge fields, the checks while writing, merging with a record's values,
// and writing the result out as HTML and as text.
//
// A body is plain text, formatted, or an HTML page; all are one kind of tree with
// a text form (docs/format.md) and a stored form (docs/document.schema.json).
//
// The template language follows the Mustache language (mustache(5): variables,
// sections over single values, inverted sections, comments, standalone lines)
// with `{{` and `}}`. On purpose different: a path is always whole
// (person.first_name), a missing value follows the policy of its occurrence, and
// unescaped output, changed delimiters and lambdas are refused with their place.
//
// # Tidying
//
// After a value was left out what stands around it is tidied. Each rule looks only at the text next to
// the place; words that came from fields are never changed, and neither are
// the tags of an HTML body. The place is written · here. Marks such as bold do
// not matter: the rules hold across them.
//
//	rule              before                       after
//	brackets, quotes  cold room (·) for you        cold room for you
//	  a list inside   (·, ash) / (oak, ·)          (ash) / (oak)
//	space + mark      Dear ·, / today ·.           Dear, / today.
//	two spaces        your · cold room             your cold room
//	line start        ·, thank you                 thank you
//	line end          See you in ·                 See you in
//	comma + mark      in Leeds, ·. / a, ·, b       in Leeds. / a, b
//	end comma         oak, ash, ·                  oak, ash
//	  but             Kind regards, ·              Kind regards,
//	end dash          Ada Quill – ·                Ada Quill
//	label             Closing date: ·              (the line goes)
//	nothing left      · ·                          (the line goes)
//
// In formatted bodies the rules hold within a paragraph, a heading, a list item
// or a cell, and go on from there:
//
//	an emptied paragraph, heading, list item, quote, list or table goes
//	a row of a table goes when nothing is left behind its first cell, the label
//	a cell or a column beside others stays, empty
//	a button whose address was left out goes, the words of such a link stay
//	of two empty paragraphs around something that went, one goes
//
// An HTML body keeps its build: the rules hold between two tags of blocks, and no
// element goes.
//
// "Principal ·," becoming "Principal," and the label rule are common practice,
// no source.
//
// # Limits
//
// Subject 998 bytes on the wire (RFC 5322 section 2.1.1), body 1 MiB,
// 500 fields in a template, only-whens nested 32 deep, nodes 64 deep.
package letter

import "strings"

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

	at          int         // byte offset in the text form it was read from
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
	Bold      = "bold"
	Italic    = "italic"
	Underline = "underline"
	Strike    = "strike"
	TextStyle = "textStyle" // colour, font and size
	Highlight = "highlight"
	Link      = "link"
)

// Mark is a property of a piece of text.
type Mark struct {
	Type  string     `json:"type"`
	Attrs *MarkAttrs `json:"attrs,omitempty"`
}

// MarkAttrs: Path is the field that merged words came from, Place where they
// stand in an HTML source ("" in text); Href is the address of a link, in the
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
	if strings.IndexByte(s, '\r') < 0 && strings.IndexByte(s, 0) < 0 {
		return s
	}
	s = strings.ReplaceAll(s, "\r\n", "\n")
	s = strings.ReplaceAll(s, "\r", "\n")
	return strings.ReplaceAll(s, "\x00", "")
}
