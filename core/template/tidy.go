package template

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"lucidletter/core/document"
)

// The rules stand in the package comment.

const (
	stopMarks  = ",.;:!?"
	openers    = "([{\"“„«‘‚<"
	closers    = ")]}\"”“»’‘>"
	dashes     = "-–—|/·"
	maxLabel   = 40 // bytes of a label before its colon
	maxClosing = 3  // words of a greeting or closing that keeps its comma
)

var pairs = map[rune]string{
	'(': ")", '[': "]", '{': "}", '"': "\"", '“': "”", '„': "“”", '«': "»", '»': "«»", '”': "”", '‘': "’", '‚': "‘’", '<': ">",
}

// tidy joins the pieces of a line around what was left out. It gives false when
// the line is to go as a whole. Time is linear in the length of the line.
func tidy(pieces []Piece) ([]Piece, bool) {
	t := tidier{}
	for _, p := range pieces {
		switch {
		case p.raw:
			t.out = append(t.out, p)
		case p.left:
			t.open, t.any = t.open || !p.passage, t.any || !p.passage
			t.passage = p.passage
			t.places = append(t.places, leftPlace{t.length, p})
		case p.Gap != nil || p.Path != "":
			t.joinWord()
			t.add(p)
			t.kept = t.kept || p.Gap != nil || p.Text != ""
		default:
			t.mark = p.Marks
			t.words(p.Text)
		}
	}
	if t.open {
		t.endOfLine()
	}
	if t.any && t.emptied() {
		return t.out, false
	}
	return t.marked(), true
}

// leftPlace is where something was left out: behind so many bytes of the line.
type leftPlace struct {
	at   int
	what Piece
}

type tidier struct {
	out     []Piece
	length  int             // of the words of the line so far, in bytes
	places  []leftPlace     // in order
	open    bool            // something was left out right here
	passage bool            // the words of an only-when were left out right here
	any     bool            // something was left out on this line
	kept    bool            // words from a field or a gap stand on this line
	mark    []document.Mark // of the words that are being added
}

// words adds literal text, tidying at its start when something was left out
// before it.
func (t *tidier) words(s string) {
	if !t.open {
		t.add(Piece{Text: t.behindPassage(s), Marks: t.mark})
		return
	}
	if strings.TrimSpace(s) == "" && s != "" {
		// Nothing but space between two places: keep at most one space, the
		// decision falls with the text behind it.
		if !t.endsWithSpace() {
			t.add(Piece{Text: " ", Marks: t.mark})
		}
		return
	}
	t.open, t.passage = false, false
	s = t.brackets(s)
	if s == "" {
		// The brackets held nothing else: the place is still open behind them.
		t.open = true
		return
	}
	switch {
	case t.blank():
		s = strings.TrimLeft(s, " \t,;:.")
		if r, size := utf8.DecodeRuneInString(s); strings.ContainsRune(dashes, r) && strings.HasPrefix(s[size:], " ") {
			s = strings.TrimLeft(s[size:], " \t")
		}
	case t.endsWithDash():
		s = t.dash(s)
	case t.endsWith(openers) && strings.Trim(s, " \t,;") == "":
		t.open = true // "(·, " before more: the list inside has not begun
		return
	case t.endsWith(openers):
		s = strings.TrimLeft(s, " \t,;")
	}
	first, _ := utf8.DecodeRuneInString(strings.TrimLeft(s, " \t"))
	switch {
	case strings.ContainsRune(stopMarks, first) && first != utf8.RuneError:
		s = strings.TrimLeft(s, " \t")
		t.trimSpace()
		s = t.marks(s)
	case t.endsWithSpace() || t.endsWith(openers):
		s = strings.TrimLeft(s, " \t")
	}
	if first, _ = utf8.DecodeRuneInString(s); strings.ContainsRune(")]}”»", first) {
		t.trimSpace()
		if t.endsWith(",;") {
			t.setTail(t.tail()[:len(t.tail())-1])
		}
	}
	t.add(Piece{Text: s, Marks: t.mark})
}

func (t *tidier) add(p Piece) {
	t.length += len(p.Text)
	t.out = append(t.out, p)
}

// endsWithDash tells whether a dash between spaces stands right before this place.
func (t *tidier) endsWithDash() bool {
	tail := strings.TrimRight(t.tail(), " \t")
	last, size := utf8.DecodeLastRuneInString(tail)
	return tail != t.tail() && strings.ContainsRune(dashes, last) && last != utf8.RuneError && strings.HasSuffix(tail[:len(tail)-size], " ")
}

// dash takes the dash before this place away when another one or the end of a sentence
// follows.
func (t *tidier) dash(s string) string {
	next := strings.TrimLeft(s, " \t")
	first, size := utf8.DecodeRuneInString(next)
	switch {
	case strings.ContainsRune(dashes, first) && strings.HasPrefix(next[size:], " "):
		return strings.TrimLeft(next[size:], " \t")
	case strings.ContainsRune(stopMarks+")]", first):
		tail := strings.TrimRight(t.tail(), " \t")
		_, last := utf8.DecodeLastRuneInString(tail)
		t.setTail(strings.TrimRight(tail[:len(tail)-last], " \t"))
	}
	return s
}

// joinWord is called before words from a field: the space before the place
// serves them.
func (t *tidier) joinWord() { t.open, t.passage = false, false }

// behindPassage joins words to those before an only-when that does not hold: its writer
// wrote the space and the marks with it in mind, so that only two spaces, and a space
// before a mark, are mended.
func (t *tidier) behindPassage(s string) string {
	if !t.passage || s == "" {
		return s
	}
	t.passage = false
	head := strings.TrimLeft(s, " \t")
	first, _ := utf8.DecodeRuneInString(head)
	switch {
	case t.last() < 0 || !t.endsWithSpace():
		return s
	case strings.ContainsRune(stopMarks, first):
		t.trimSpace()
		return head
	}
	return head
}

// brackets takes away a pair that held only what was left out.
func (t *tidier) brackets(s string) string {
	for {
		head := strings.TrimLeft(s, " \t")
		closer, size := utf8.DecodeRuneInString(head)
		tail := strings.TrimRight(t.tail(), " \t")
		opener, openSize := utf8.DecodeLastRuneInString(tail)
		if head == "" || tail == "" || !strings.ContainsRune(closers, closer) || !strings.ContainsRune(pairs[opener], closer) {
			return s
		}
		t.setTail(tail[:len(tail)-openSize])
		s = head[size:]
	}
}

// marks settles two punctuation marks that now stand together.
func (t *tidier) marks(s string) string {
	mark, size := utf8.DecodeRuneInString(s)
	last, lastSize := utf8.DecodeLastRuneInString(t.tail())
	switch {
	case last == ',' || last == ';':
		t.setTail(t.tail()[:len(t.tail())-lastSize])
	case last == ':' && (mark == ',' || mark == ';'):
		return s[size:]
	case last == mark && strings.ContainsRune(".:", mark) && !strings.HasPrefix(s[size:], string(mark)):
		return s[size:]
	}
	return s
}

func (t *tidier) endOfLine() {
	t.trimSpace()
	tail := t.tail()
	last, size := utf8.DecodeLastRuneInString(tail)
	before := strings.TrimSuffix(tail, string(last))
	switch {
	case last == ',' && !t.closing():
		t.setTail(tail[:len(tail)-size])
	case strings.ContainsRune(dashes, last) && last != utf8.RuneError && strings.HasSuffix(before, " "):
		t.setTail(strings.TrimRight(before, " \t"))
	}
}

// closing tells whether the line is a greeting or a closing of a few words,
// which keeps its comma.
func (t *tidier) closing() bool {
	whole := t.line(80)
	return len(strings.Fields(whole)) <= maxClosing && strings.Count(whole, ",") == 1
}

// emptied tells whether the line has nothing left to say.
func (t *tidier) emptied() bool {
	if t.kept {
		return false
	}
	left := strings.TrimSpace(t.line(200))
	if !strings.ContainsFunc(left, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsNumber(r) || unicode.IsSymbol(r) }) {
		return true
	}
	label, value, colon := strings.Cut(left, ":")
	return colon && len(label) <= maxLabel && strings.Trim(value, " \t.,;") == "" && !strings.ContainsAny(label, ".!?")
}

// line gives the words of the line so far, up to about n bytes.
func (t *tidier) line(n int) string {
	var b strings.Builder
	for _, p := range t.out {
		if b.Len() > n {
			break
		}
		if !p.raw {
			b.WriteString(p.Text)
		}
	}
	return b.String()
}

// blank tells whether nothing but space stands before this place.
func (t *tidier) blank() bool {
	for _, p := range t.out {
		if !p.raw && (p.Gap != nil || strings.TrimSpace(p.Text) != "") {
			return false
		}
	}
	return true
}

// last is the last piece that is not HTML, or -1.
func (t *tidier) last() int {
	k := len(t.out) - 1
	for k >= 0 && t.out[k].raw {
		k--
	}
	return k
}

// tail is the literal text right before this place; "" behind merged words.
func (t *tidier) tail() string {
	t.dropEmpty()
	if k := t.last(); k >= 0 && t.out[k].Path == "" && t.out[k].Gap == nil {
		return t.out[k].Text
	}
	return ""
}

func (t *tidier) setTail(s string) {
	last := &t.out[t.last()].Text
	t.length += len(s) - len(*last)
	*last = s
	for i := len(t.places) - 1; i >= 0 && t.places[i].at > t.length; i-- {
		t.places[i].at = t.length
	}
	t.dropEmpty()
}

func (t *tidier) dropEmpty() {
	for k := t.last(); k >= 0 && t.out[k].Text == "" && t.out[k].Gap == nil; k = t.last() {
		t.out = slices.Delete(t.out, k, k+1)
	}
}

func (t *tidier) trimSpace() {
	for tail := t.tail(); tail != "" && strings.TrimRight(tail, " \t") != tail; tail = t.tail() {
		t.setTail(strings.TrimRight(tail, " \t"))
	}
}

func (t *tidier) endsWithSpace() bool {
	if t.last() < 0 {
		return true
	}
	tail := t.tail()
	return strings.HasSuffix(tail, " ") || strings.HasSuffix(tail, "\t")
}

func (t *tidier) endsWith(set string) bool {
	last, _ := utf8.DecodeLastRuneInString(t.tail())
	return last != utf8.RuneError && strings.ContainsRune(set, last)
}

// tidyPage tidies a line of an HTML body, each stretch between tags of blocks by
// itself. Its tags stay.
func tidyPage(pieces []Piece) []Piece {
	out := make([]Piece, 0, len(pieces))
	for start, i := 0, 0; i <= len(pieces); i++ {
		if i < len(pieces) && !pieces[i].wall {
			continue
		}
		part, keep := tidy(pieces[start:i])
		for _, p := range part {
			if keep || p.raw {
				out = append(out, p)
			}
		}
		if i < len(pieces) {
			out = append(out, pieces[i])
		}
		start = i + 1
	}
	return out
}
