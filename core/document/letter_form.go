package document

import (
	"fmt"
	"slices"
)

// CheckLetterForm refuses documents that hold template nodes: a letter is made
// of words, breaks and gaps alone, in blocks that always stand. What addresses lead
// to is not looked at: CheckLetter tells of those that may not be followed.
func CheckLetterForm(d Document) error {
	if err := d.Check(); err != nil {
		return err
	}
	return checkLetterNodes("", d.Content)
}

var letterInlines = []NodeType{Text, GapNode, Break}

func checkLetterNodes(where string, nodes []Node) error {
	for i := range nodes {
		n := &nodes[i]
		at := fmt.Sprintf("%scontent[%d]", where, i)
		if n.Type == OnlyWhen || slices.Contains(InlineTypes, n.Type) && !slices.Contains(letterInlines, n.Type) {
			return &FormError{at, fmt.Sprintf("a letter cannot hold a %q", n.Type)}
		}
		if err := checkLetterNodes(at+".", n.Content); err != nil {
			return err
		}
	}
	return nil
}
