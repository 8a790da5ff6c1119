package letter

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
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
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&d); err != nil {
		var bad *json.UnmarshalTypeError
		if errors.As(err, &bad) {
			return d, &FormError{"document." + bad.Field, "is a " + bad.Value + " and must not be"}
		}
		if _, unknown, ok := strings.Cut(err.Error(), "unknown field "); ok {
			return d, &FormError{"document", "has a setting " + unknown + " that this program does not know"}
		}
		return d, &FormError{"document", "is not JSON"}
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return d, &FormError{"document", "has more behind its end"}
	}
	return d, d.Check()
}

// Check tells whether the tree is of the form that this version reads.
func (d *Document) Check() error {
	a := d.Attrs
	switch {
	case d.Type != Doc:
		return &FormError{"type", fmt.Sprintf("%q; a document has the type %q", d.Type, Doc)}
	case a.Version != FormatVersion:
		return &FormError{"attrs.version", fmt.Sprintf("%d; this program reads version %d", a.Version, FormatVersion)}
	case a.Lang != "" && !langForm.MatchString(a.Lang):
		return &FormError{"attrs.lang", fmt.Sprintf("%q is not a language such as en-GB", a.Lang)}
	}
	if a.Body == BodyFormatted {
		if where, why := checkSheet(a); why != "" {
			return &FormError{"attrs." + where, why}
		}
		return checkTree("", d.Content, topBlocks, 1)
	}
	if a.Body != BodyPlain && a.Body != BodyHTML {
		return &FormError{"attrs.body", fmt.Sprintf("%q is not a kind of body; use %q, %q or %q", a.Body, BodyPlain, BodyFormatted, BodyHTML)}
	}
	if a != (DocAttrs{Version: a.Version, Body: a.Body, Lang: a.Lang}) {
		return &FormError{"attrs", "font, size, colours and align are for formatted bodies"}
	}
	return checkTree("", d.Content, lineBlocks, 1)
}

var (
	langForm  = regexp.MustCompile(`^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$`) // of RFC 5646 what is in use
	colorForm = regexp.MustCompile(`^#[0-9A-Fa-f]{6}$`)
)

// Fonts are those that recipients have (common practice, no source), each with
// what stands in for it.
var Fonts = map[string]string{
	"Arial": "Arial, Helvetica, sans-serif", "Verdana": "Verdana, Geneva, sans-serif", "Tahoma": "Tahoma, Verdana, sans-serif",
	"Trebuchet MS": "'Trebuchet MS', Tahoma, sans-serif", "Georgia": "Georgia, 'Times New Roman', serif",
	"Times New Roman": "'Times New Roman', Times, serif", "Courier New": "'Courier New', Courier, monospace",
}

func checkSheet(a DocAttrs) (where, why string) {
	switch {
	case a.Font != "" && Fonts[a.Font] == "":
		return "font", fmt.Sprintf("%q is not a font that recipients have", a.Font)
	case a.Size != 0 && (a.Size < minSize || a.Size > maxSize):
		return "size", fmt.Sprintf("%d is not from %d to %d pixels", a.Size, minSize, maxSize)
	case badColor(a.Color):
		return "color", fmt.Sprintf("%q is not a colour such as #1b3a5c", a.Color)
	case badColor(a.Background):
		return "background", fmt.Sprintf("%q is not a colour such as #1b3a5c", a.Background)
	case a.Align != "" && a.Align != "center":
		return "align", fmt.Sprintf("%q is neither empty nor %q", a.Align, "center")
	}
	return "", ""
}

func badColor(s string) bool { return s != "" && !colorForm.MatchString(s) }

// Sizes of words in pixels.
const (
	minSize = 8
	maxSize = 72
)

// attrSet is a set of settings.
type attrSet uint64

const (
	hasPath attrSet = 1 << iota
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
	hasLevel
	hasAlign
	hasStart
	hasHref
	hasSrc
	hasAlt
	hasWidth
	hasHeight
	hasColor
	hasColspan
	hasRowspan
	hasColwidth
	hasGaps
)

var attrNames = strings.Fields("path missing fallback as label not op literals name kind optional hint default choices code place " +
	"level align start href src alt width height color colspan rowspan colwidth gaps")

// given tells which settings are there.
func (a *Attrs) given() attrSet {
	if a == nil {
		return 0
	}
	var set attrSet
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

// nodeRule is what a node may have and hold.
type nodeRule struct {
	may, must attrSet
	holds     []NodeType // nil: nothing
	same      bool       // holds what may stand where it stands
	min, max  int        // of Content; max 0: any
}

const (
	gapAttrs   = hasPath | hasLabel | hasKind | hasHint | hasChoices | hasPlace
	whenAttrs  = hasPath | hasNot | hasOp | hasLiterals
	blankAttrs = hasName | hasPath | hasKind | hasOptional | hasHint | hasDefault | hasChoices
)

var (
	lineBlocks = []NodeType{Paragraph, OnlyWhen, Fixed}
	cellBlocks = []NodeType{Paragraph, Heading, BulletList, OrderedList, Quote, Image, Button, Divider, Spacer, OnlyWhen, Fixed}
	colBlocks  = append(slices.Clone(cellBlocks), Table)
	topBlocks  = append(slices.Clone(colBlocks), Columns)
	inlines    = []NodeType{Text, Field, Blank, Passage, Break, When, FixedText, Comment, Malformed, GapNode}
)

var nodeRules = map[NodeType]nodeRule{
	Paragraph:    {may: hasAlign, holds: inlines},
	Heading:      {may: hasAlign | hasLevel, must: hasLevel, holds: inlines},
	BulletList:   {holds: []NodeType{ListItem}, min: 1},
	OrderedList:  {may: hasStart, holds: []NodeType{ListItem}, min: 1},
	ListItem:     {holds: cellBlocks, min: 1},
	Quote:        {holds: colBlocks, min: 1},
	Image:        {may: hasSrc | hasAlt | hasWidth | hasAlign | hasHref | hasGaps, must: hasSrc},
	Button:       {may: hasHref | hasAlign | hasColor | hasGaps, must: hasHref, holds: inlines},
	Table:        {holds: []NodeType{TableRow}, min: 1},
	TableRow:     {holds: []NodeType{TableHeading, TableCell}, min: 1, max: 40},
	TableHeading: {may: hasColspan | hasRowspan | hasColwidth | hasAlign, holds: cellBlocks, min: 1},
	TableCell:    {may: hasColspan | hasRowspan | hasColwidth | hasAlign, holds: cellBlocks, min: 1},
	Columns:      {holds: []NodeType{Column}, min: 1, max: 3},
	Column:       {may: hasWidth, holds: colBlocks, min: 1},
	Divider:      {},
	Spacer:       {may: hasHeight},
	OnlyWhen:     {may: whenAttrs, must: hasPath, same: true},
	Fixed:        {same: true},
	Text:         {},
	Break:        {},
	Field:        {may: hasPath | hasMissing | hasFallback | hasAs, must: hasPath},
	Blank:        {may: blankAttrs, must: hasName},
	Passage:      {may: hasName, must: hasName},
	When:         {may: whenAttrs, must: hasPath, holds: inlines},
	FixedText:    {holds: inlines},
	Comment:      {may: hasCode},
	Malformed:    {may: hasCode, must: hasCode},
	GapNode:      {may: gapAttrs, must: hasPath},
}

func checkTree(where string, nodes []Node, allowed []NodeType, depth int) error {
	for i := range nodes {
		n := &nodes[i]
		at := where + "content[" + strconv.Itoa(i) + "]"
		rule, known := nodeRules[n.Type]
		holds := rule.holds
		if rule.same {
			holds = allowed
		}
		set := n.Attrs.given()
		why := ""
		switch {
		case !known:
			why = fmt.Sprintf("unknown node %q", n.Type)
		case !slices.Contains(allowed, n.Type):
			why = fmt.Sprintf("%q cannot stand here", n.Type)
		case depth > MaxTree:
			why = fmt.Sprintf("is nested deeper than %d", MaxTree)
		case set&^rule.may != 0:
			why = fmt.Sprintf("%q has no %s", n.Type, attrNamed(set&^rule.may))
		case rule.must&^set != 0:
			why = fmt.Sprintf("%q needs %s", n.Type, attrNamed(rule.must&^set))
		case len(n.Content) > 0 && holds == nil:
			why = fmt.Sprintf("%q cannot hold anything", n.Type)
		case len(n.Content) < rule.min:
			why = fmt.Sprintf("%q is empty", n.Type)
		case rule.max > 0 && len(n.Content) > rule.max:
			why = fmt.Sprintf("%q holds more than %d", n.Type, rule.max)
		case n.Type != Text && n.Text != "":
			why = fmt.Sprintf("%q has no text", n.Type)
		default:
			why = checkNode(n)
		}
		if why != "" {
			return &FormError{at, why}
		}
		if err := checkTree(at+".", n.Content, holds, depth+1); err != nil {
			return err
		}
	}
	return nil
}

func attrNamed(set attrSet) string {
	for i, name := range attrNames {
		if set&(1<<i) != 0 {
			return name
		}
	}
	return ""
}

// checkNode looks at the values of a node whose shape is right.
func checkNode(n *Node) string {
	for _, m := range n.Marks {
		if why := checkMark(m); why != "" {
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
	case badColor(a.Color):
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

func checkMark(m Mark) string {
	a := m.Attrs
	if a == nil {
		a = &MarkAttrs{}
	}
	switch m.Type {
	case Merged, FixedMark, Bold, Italic, Underline, Strike, Highlight:
	case Link:
		if a.Href == "" {
			return "link needs href"
		}
	case TextStyle:
		size, err := strconv.Atoi(strings.TrimSuffix(a.FontSize, "px"))
		if a.FontSize != "" && (err != nil || size < minSize || size > maxSize || !strings.HasSuffix(a.FontSize, "px")) {
			return fmt.Sprintf("fontSize %q is not from %dpx to %dpx", a.FontSize, minSize, maxSize)
		}
		if a.FontFamily != "" && Fonts[a.FontFamily] == "" {
			return fmt.Sprintf("fontFamily %q is not a font that recipients have", a.FontFamily)
		}
	default:
		return fmt.Sprintf("unknown mark %q", m.Type)
	}
	if badColor(a.Color) {
		return fmt.Sprintf("color %q is not a colour such as #1b3a5c", a.Color)
	}
	return ""
}
