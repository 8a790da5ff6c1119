package document

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"
)

// FormError says where in the stored form something is that cannot be read.
type FormError struct {
	Where string // "content[3].content[0]"
	Why   string
}

func (e *FormError) Error() string { return e.Where + ": " + e.Why }

// ParseJSON reads the stored form. Unknown nodes, marks, settings and versions
// are refused with a *FormError; nothing is dropped silently.
func ParseJSON(data []byte) (Document, error) {
	var d Document
	if len(data) > 4*MaxBody {
		return d, &FormError{"document", fmt.Sprintf("is larger than %d bytes", 4*MaxBody)}
	}
	if err := json.Unmarshal(data, &d, json.RejectUnknownMembers(true)); err != nil {
		return d, unreadable(err)
	}
	return d, d.Check()
}

// unreadable says where JSON is not what a document is read from.
func unreadable(err error) error {
	var bad *json.SemanticError
	if !errors.As(err, &bad) {
		return &FormError{"document", "is not JSON"}
	}
	where := "document"
	for name := range bad.JSONPointer.Tokens() {
		if _, err := strconv.Atoi(name); err == nil {
			where += "[" + name + "]"
		} else {
			where += "." + name
		}
	}
	if errors.Is(err, json.ErrUnknownName) {
		return &FormError{where, "is a setting that this program does not know"}
	}
	return &FormError{where, "is a " + bad.JSONKind.String() + " and must not be"}
}

// Check tells whether the tree is of the form that this version reads.
func (d *Document) Check() error {
	a := d.Attrs
	switch {
	case d.Type != Doc:
		return &FormError{"type", fmt.Sprintf("%q; a document has the type %q", d.Type, Doc)}
	case a.Version != FormatVersion:
		return &FormError{"attrs.version", fmt.Sprintf("%d; this program reads version %d", a.Version, FormatVersion)}
	case a.Lang != "" && !LangForm.MatchString(a.Lang):
		return &FormError{"attrs.lang", fmt.Sprintf("%q is not a language such as en-GB", a.Lang)}
	}
	if a.Body == BodyFormatted {
		if where, why := CheckSheet(a); why != "" {
			return &FormError{"attrs." + where, why}
		}
		return orNil(checkTree(d.Content, TopBlocks, 1))
	}
	if a.Body != BodyPlain && a.Body != BodyHTML {
		return &FormError{"attrs.body", fmt.Sprintf("%q is not a kind of body; use %q, %q or %q", a.Body, BodyPlain, BodyFormatted, BodyHTML)}
	}
	if a != (DocAttrs{Version: a.Version, Body: a.Body, Lang: a.Lang}) {
		return &FormError{"attrs", "font, size, colours and align are for formatted bodies"}
	}
	return orNil(checkTree(d.Content, LineBlocks, 1))
}

var (
	LangForm  = regexp.MustCompile(`^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$`) // of RFC 5646 what is in use
	ColorForm = regexp.MustCompile(`^#[0-9A-Fa-f]{6}$`)
)

// Fonts are those that recipients have (common practice, no source), each with
// what stands in for it.
var Fonts = map[string]string{
	"Arial": "Arial, Helvetica, sans-serif", "Verdana": "Verdana, Geneva, sans-serif", "Tahoma": "Tahoma, Verdana, sans-serif",
	"Trebuchet MS": "'Trebuchet MS', Tahoma, sans-serif", "Georgia": "Georgia, 'Times New Roman', serif",
	"Times New Roman": "'Times New Roman', Times, serif", "Courier New": "'Courier New', Courier, monospace",
}

// CheckSheet tells which attribute of a sheet is wrong, and why; "" when none is.
func CheckSheet(a DocAttrs) (where, why string) {
	switch {
	case a.Font != "" && Fonts[a.Font] == "":
		return "font", fmt.Sprintf("%q is not a font that recipients have", a.Font)
	case a.Size != 0 && (a.Size < minSize || a.Size > MaxSize):
		return "size", fmt.Sprintf("%d is not from %d to %d pixels", a.Size, minSize, MaxSize)
	case BadColor(a.Color):
		return "color", fmt.Sprintf("%q is not a colour such as #1b3a5c", a.Color)
	case BadColor(a.Background):
		return "background", fmt.Sprintf("%q is not a colour such as #1b3a5c", a.Background)
	case a.Align != "" && a.Align != "center":
		return "align", fmt.Sprintf("%q is neither empty nor %q", a.Align, "center")
	}
	return "", ""
}

// BadColor tells whether a color is set that is not of the form #rrggbb.
func BadColor(s string) bool { return s != "" && !ColorForm.MatchString(s) }

// Sizes of words in pixels.
const (
	minSize = 8
	MaxSize = 72
)

// AttrSet is a set of settings.
type AttrSet uint64

const (
	hasPath AttrSet = 1 << iota
	hasMissing
	hasFallback
	hasAs
	hasLabel
	hasNot
	hasOp
	hasLiterals
	hasName
	hasKind
	hasOptional
	hasHint
	hasDefault
	hasChoices
	hasCode
	hasPlace
	HasLevel
	HasAlign
	HasStart
	hasHref
	hasSrc
	hasAlt
	HasWidth
	HasHeight
	HasColor
	HasColspan
	HasRowspan
	hasColwidth
	hasGaps
)

// AttrNames are the names of the attributes in JSON, in the order of AttrSet.
var AttrNames = strings.Fields("path missing fallback as label not op literals name kind optional hint default choices code place " +
	"level align start href src alt width height color colspan rowspan colwidth gaps")

// Given tells which settings are there.
func (a *Attrs) Given() AttrSet {
	if a == nil {
		return 0
	}
	var set AttrSet
	for i, there := range []bool{
		a.Path != "", a.Missing != "", a.Fallback != "", a.As != "", a.Label != "", a.Not, a.Op != "", len(a.Literals) > 0,
		a.Name != "", a.Kind != "", a.Optional, a.Hint != "", a.Default != "", len(a.Choices) > 0, a.Code != "", a.Place != "",
		a.Level != 0, a.Align != "", a.Start != 0, a.Href != "", a.Src != "", a.Alt != "", a.Width != 0, a.Height != 0,
		a.Color != "", a.Colspan != 0, a.Rowspan != 0, len(a.Colwidth) > 0, len(a.Gaps) > 0,
	} {
		if there {
			set |= 1 << i
		}
	}
	return set
}

// Rule is what a node may have and hold.
type Rule struct {
	May, Must AttrSet
	Holds     []NodeType // nil: nothing
	Same      bool       // holds what may stand where it stands
	Min, Max  int        // of Content; max 0: any
}

const (
	gapAttrs   = hasPath | hasLabel | hasKind | hasHint | hasChoices | hasPlace
	whenAttrs  = hasPath | hasNot | hasOp | hasLiterals
	blankAttrs = hasName | hasPath | hasKind | hasOptional | hasHint | hasDefault | hasChoices
)

var (
	LineBlocks  = []NodeType{Paragraph, OnlyWhen, Fixed}
	CellBlocks  = []NodeType{Paragraph, Heading, BulletList, OrderedList, Quote, Image, Button, Divider, Spacer, OnlyWhen, Fixed}
	ColBlocks   = append(slices.Clone(CellBlocks), Table)
	TopBlocks   = append(slices.Clone(ColBlocks), Columns)
	InlineTypes = []NodeType{Text, Field, Blank, Passage, Break, When, FixedText, Comment, Malformed, GapNode}
)

// Rules are what every node may have and hold.
var Rules = map[NodeType]Rule{
	Paragraph:    {May: HasAlign, Holds: InlineTypes},
	Heading:      {May: HasAlign | HasLevel, Must: HasLevel, Holds: InlineTypes},
	BulletList:   {Holds: []NodeType{ListItem}, Min: 1},
	OrderedList:  {May: HasStart, Holds: []NodeType{ListItem}, Min: 1},
	ListItem:     {Holds: CellBlocks, Min: 1},
	Quote:        {Holds: ColBlocks, Min: 1},
	Image:        {May: hasSrc | hasAlt | HasWidth | HasAlign | hasHref | hasGaps, Must: hasSrc},
	Button:       {May: hasHref | HasAlign | HasColor | hasGaps, Must: hasHref, Holds: InlineTypes},
	Table:        {Holds: []NodeType{TableRow}, Min: 1},
	TableRow:     {Holds: []NodeType{TableHeading, TableCell}, Min: 1, Max: 40},
	TableHeading: {May: HasColspan | HasRowspan | hasColwidth | HasAlign, Holds: CellBlocks, Min: 1},
	TableCell:    {May: HasColspan | HasRowspan | hasColwidth | HasAlign, Holds: CellBlocks, Min: 1},
	Columns:      {Holds: []NodeType{Column}, Min: 1, Max: 3},
	Column:       {May: HasWidth, Holds: ColBlocks, Min: 1},
	Divider:      {},
	Spacer:       {May: HasHeight},
	OnlyWhen:     {May: whenAttrs, Must: hasPath, Same: true},
	Fixed:        {Same: true},
	Text:         {},
	Break:        {},
	Field:        {May: hasPath | hasMissing | hasFallback | hasAs, Must: hasPath},
	Blank:        {May: blankAttrs, Must: hasName},
	Passage:      {May: hasName, Must: hasName},
	When:         {May: whenAttrs, Must: hasPath, Holds: InlineTypes},
	FixedText:    {Holds: InlineTypes},
	Comment:      {May: hasCode},
	Malformed:    {May: hasCode, Must: hasCode},
	GapNode:      {May: gapAttrs, Must: hasPath},
}

func orNil(e *FormError) error {
	if e == nil {
		return nil
	}
	return e
}

// checkTree gives what is wrong first in nodes that stand where some are allowed, with its
// place among them.
func checkTree(nodes []Node, allowed []NodeType, depth int) *FormError {
	for i := range nodes {
		n := &nodes[i]
		rule, known := Rules[n.Type]
		holds := rule.Holds
		if rule.Same {
			holds = allowed
		}
		set := n.Attrs.Given()
		why := ""
		switch {
		case !known:
			why = fmt.Sprintf("unknown node %q", n.Type)
		case !slices.Contains(allowed, n.Type):
			why = fmt.Sprintf("%q cannot stand here", n.Type)
		case depth > MaxTree:
			why = fmt.Sprintf("is nested deeper than %d", MaxTree)
		case set&^rule.May != 0:
			why = fmt.Sprintf("%q has no %s", n.Type, attrNamed(set&^rule.May))
		case rule.Must&^set != 0:
			why = fmt.Sprintf("%q needs %s", n.Type, attrNamed(rule.Must&^set))
		case len(n.Content) > 0 && holds == nil:
			why = fmt.Sprintf("%q cannot hold anything", n.Type)
		case len(n.Content) < rule.Min:
			why = fmt.Sprintf("%q is empty", n.Type)
		case rule.Max > 0 && len(n.Content) > rule.Max:
			why = fmt.Sprintf("%q holds more than %d", n.Type, rule.Max)
		case n.Type != Text && n.Text != "":
			why = fmt.Sprintf("%q has no text", n.Type)
		default:
			why = CheckNode(n)
		}
		if why != "" {
			return &FormError{"content[" + strconv.Itoa(i) + "]", why}
		}
		if err := checkTree(n.Content, holds, depth+1); err != nil {
			err.Where = "content[" + strconv.Itoa(i) + "]." + err.Where
			return err
		}
	}
	return nil
}

func attrNamed(set AttrSet) string {
	for i, name := range AttrNames {
		if set&(1<<i) != 0 {
			return name
		}
	}
	return ""
}

// CheckNode looks at the values of a node whose shape is right.
func CheckNode(n *Node) string {
	for _, m := range n.Marks {
		if why := CheckMark(m); why != "" {
			return why
		}
	}
	a := n.Attrs
	if n.Type == Text {
		if strings.ContainsAny(n.Text, "\n\r\x00") {
			return "text holds a line break; use a hardBreak, or a paragraph of its own"
		}
	}
	if a == nil {
		return ""
	}
	between := func(name string, v, from, to int) string {
		if v != 0 && (v < from || v > to) {
			return fmt.Sprintf("%s is %d and must be from %d to %d", name, v, from, to)
		}
		return ""
	}
	for _, why := range []string{
		between("level", a.Level, 1, 3), between("start", a.Start, 1, 100000), between("height", a.Height, 1, 200),
		between("width", a.Width, 1, 1200), between("colspan", a.Colspan, 1, 40), between("rowspan", a.Rowspan, 1, 100),
	} {
		if why != "" {
			return why
		}
	}
	switch {
	case a.Align != "" && !slices.Contains([]string{"left", "center", "right", "justify"}, a.Align):
		return fmt.Sprintf("align %q is not left, center, right or justify", a.Align)
	case BadColor(a.Color):
		return fmt.Sprintf("color %q is not a colour such as #1b3a5c", a.Color)
	case a.Missing != "" && a.Missing != MustBe && a.Missing != Instead && a.Missing != Leave:
		return fmt.Sprintf("missing %q is not %q, %q or %q", a.Missing, MustBe, Instead, Leave)
	case n.Type == Comment && strings.Contains(a.Code, "}}"):
		return "a comment cannot hold }}"
	case n.Type == Column && a.Width > 100:
		return fmt.Sprintf("width is %d per cent", a.Width)
	}
	return ""
}

// CheckMark tells what is wrong with a mark; "" when nothing is.
func CheckMark(m Mark) string {
	a := m.Attrs
	if a == nil {
		a = &MarkAttrs{}
	}
	switch m.Type {
	case Merged, FixedMark, LeftOut, Bold, Italic, Underline, Strike, Highlight:
	case Link:
		if a.Href == "" {
			return "link needs href"
		}
	case TextStyle:
		size, err := strconv.Atoi(strings.TrimSuffix(a.FontSize, "px"))
		if a.FontSize != "" && (err != nil || size < minSize || size > MaxSize || !strings.HasSuffix(a.FontSize, "px")) {
			return fmt.Sprintf("fontSize %q is not from %dpx to %dpx", a.FontSize, minSize, MaxSize)
		}
		if a.FontFamily != "" && Fonts[a.FontFamily] == "" {
			return fmt.Sprintf("fontFamily %q is not a font that recipients have", a.FontFamily)
		}
	default:
		return fmt.Sprintf("unknown mark %q", m.Type)
	}
	if BadColor(a.Color) {
		return fmt.Sprintf("color %q is not a colour such as #1b3a5c", a.Color)
	}
	return ""
}
