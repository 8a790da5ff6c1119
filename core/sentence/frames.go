package sentence

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

// Frame is a part of a letter that stands in it once.
type Frame string

// The frames.
const (
	Greeting Frame = "greeting"
	Closing  Frame = "closing"
)

// Lines that greet or close, by language (common practice, no source).
var (
	greetingLine = regexp.MustCompile(`^(?i:dear|my dear|hello|hi|hey|good (?:morning|day|afternoon|evening)|greetings|hallo|guten (?:tag|morgen|abend)|sehr geehrter?|liebe[rs]?|moin|grüezi|servus|bonjour|bonsoir|chère?s?|madame|monsieur|hola|buen(?:os|as) (?:días|tardes|noches)|estimad[oa]s?|querid[oa]s?|apreciad[oa]s?|ciao|buongiorno|buonasera|gentil[ei]s?|egregi[oa]?|car[oaie]|spettabile|olá|bom dia|boa (?:tarde|noite)|prezad[oa]s?|car[oa]s|geachte|beste|goede(?:morgen|middag|navond|dag)|hej|hejsan|bästa?|kära?|god (?:dag|morgon|morgen|kveld|aften)|kære|hei|kjære|szanown[yai]e?|drog[aie]|dzień dobry|dobrý den|vážen[ýá]|hyvä|arvoisa)(?:[ ,!:]|$)[^.?;]{0,70}$`)
	closingLine  = regexp.MustCompile(`^(?i:(?:with |very |and )?(?:kind(?:est)?|best|warm(?:est)?|many|friendly) (?:regards|wishes|thanks|greetings)|(?:best|kind) regards to .{1,30}|regards|best|sincerely(?: yours)?|yours(?: sincerely| faithfully| truly)?|all the best|many thanks(?: and .{1,20})?|cheers|mit (?:freundlichen|besten|herzlichen|lieben|vielen) grüßen|(?:freundliche|viele|beste|herzliche|liebe|schöne) grüße(?: (?:aus|nach) .{1,30})?|mit freundlichem gruß|hochachtungsvoll|(?:bien )?cordialement|bien à vous|(?:sincères|meilleures|cordiales) salutations|bonne journée|(?:un |muchos )?(?:cordial |atento )?saludos?(?: cordial(?:es)?)?|atentamente|cordialmente|(?:cordiali|distinti|cari|migliori) saluti|un (?:caro |cordiale )?saluto|atenciosamente|(?:com os )?(?:melhores )?cumprimentos|(?:um )?abraços?|(?:met )?(?:vriendelijke|hartelijke|beste|warme) groet(?:en|jes)?|groet(?:en|jes)?|(?:med )?(?:vänliga?|bästa|varma) hälsning(?:ar)?|hälsningar|(?:med )?(?:venlig|vennlig|bedste|beste|varme?) hilsen(?:er)?|(?:mange )?hilsner|hilsen|pozdrawiam|z poważaniem|s pozdravem|ystävällisin terveisin)[,!.]?$`)
)

// lineAt is a line of a body with the block, from 0, that it stands in.
type lineAt struct {
	text  string
	block int
}

func framedLines(d document.Document) []lineAt {
	var out []lineAt
	if d.Attrs.Body == document.BodyHTML {
		return nil // a page keeps its build
	}
	for i := range d.Content {
		if !document.HoldsWords(d.Content[i].Type) {
			continue
		}
		one := d
		one.Content = d.Content[i : i+1]
		for line := range strings.SplitSeq(strings.TrimSpace(render.RenderText(one)), "\n") {
			if line = strings.TrimSpace(line); line != "" {
				out = append(out, lineAt{line, i})
			}
		}
	}
	return out
}

// FrameLines gives the blocks, from 1, of the lines of a body that greet, and of those that
// close it. A closing stands near the end of what somebody wrote: a name, or the end, is
// behind it, or another greeting.
func FrameLines(d document.Document) (greetings, closings []int) {
	lines := framedLines(d)
	for i, l := range lines {
		switch {
		case greetingLine.MatchString(l.text) && len(strings.Fields(l.text)) <= 8 && strings.ContainsAny(l.text[len(l.text)-1:], ",!:-") || greetingLine.MatchString(l.text) && i == 0:
			greetings = append(greetings, l.block+1)
		case closingLine.MatchString(l.text):
			closings = append(closings, l.block+1)
		}
	}
	return greetings, closings
}

// FramesOf gives which of the frames a body has.
func FramesOf(d document.Document) []Frame {
	var out []Frame
	greetings, closings := FrameLines(d)
	if len(greetings) > 0 {
		out = append(out, Greeting)
	}
	if len(closings) > 0 {
		out = append(out, Closing)
	}
	return out
}

// maxBehindClosing is how many lines may stand behind a closing: a name, a line or two of a
// signature.
const maxBehindClosing = 6

// WithoutFrames takes the greeting at the beginning of a body and the closing at its end,
// with the name behind it, away, and tells which were there. The input stays as it is.
func WithoutFrames(d document.Document, which ...Frame) (document.Document, []Frame) {
	var gone []Frame
	lines := framedLines(d)
	from, to := 0, len(d.Content)
	greetings, closings := FrameLines(d)
	if slices.Contains(which, Greeting) && len(greetings) > 0 && greetings[0] == lines[0].block+1 {
		from = greetings[0]
		gone = append(gone, Greeting)
	}
	if slices.Contains(which, Closing) && len(closings) > 0 {
		last := closings[len(closings)-1]
		behind := slices.IndexFunc(lines, func(l lineAt) bool { return l.block+1 == last })
		if len(lines)-behind-1 <= maxBehindClosing && last-1 >= from && !slices.ContainsFunc(d.Content[last:], func(n document.Node) bool { return !document.HoldsWords(n.Type) }) {
			to = last - 1
			gone = append(gone, Closing)
		}
	}
	if len(gone) == 0 {
		return d, nil
	}
	content := document.Clone(d.Content[from:to])
	for len(content) > 0 && content[0].Type == document.Paragraph && document.HasNoWords(content[0]) {
		content = content[1:]
	}
	for len(content) > 0 && content[len(content)-1].Type == document.Paragraph && document.HasNoWords(content[len(content)-1]) {
		content = content[:len(content)-1]
	}
	if len(content) == 0 {
		return d, nil
	}
	d.Content = content
	return markup.Canonical(d), gone
}
