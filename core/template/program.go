package template

import (
	"lucidletter/core/document"
	"lucidletter/core/field"
)

// Template is the wording to start from: an optional subject of one line and a
// body. Text is the plain-text part of a formatted body or a page when it was
// written by hand; nil when it is made by itself. Passages finds the passages in
// it; nil knows none.
type Template struct {
	Subject  document.Document
	Body     document.Document
	Text     *document.Document
	Passages Passages
}

// Program is a checked and flattened template. It is safe for concurrent use.
type Program struct {
	subject, body    []block
	sheet            document.DocAttrs // of the body
	tree             []treeBlock       // of a formatted body, instead of body
	Segmented, nodes int               // how many of its blocks are segmented, and how many words and fields are in plain ones
	subjectRuns      []stretch
	bodyRuns         []stretch
	text             []block // the plain-text part, when it was written by hand
	needs            []need
	fits             []field.Record
	needsDeal        bool
	blanks           []document.BlankDef
}
