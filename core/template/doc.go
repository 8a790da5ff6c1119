// Package template compiles templates and merges them: in go the documents of a subject
// and a body, the catalogue of fields and the values of a record; out come notes for the
// writer, what a template needs and whom it fits, and letters with every merged word
// marked by its field. A Program is safe for concurrent use; merging the same values
// gives the same bytes.
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
//	two dashes        York – · – Leeds             York – Leeds
//	dash + mark       York – ·, Leeds              York, Leeds
//	dash at start     · – your cold room           your cold room
//
// Of an only-when that does not hold, whose writer placed spaces and marks around it, only a
// second space and the space before a mark go.
//
// The word before what was left out, or behind it at the start of a line, carries the mark
// LeftOut in a letter: package letter tells from it whether the sentence still reads.
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
// 500 fields in a template, passages 8 deep in each other, only-whens 32 deep, 1,000 notes.
package template
