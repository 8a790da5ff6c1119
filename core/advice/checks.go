package advice

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/render"
	"lucidletter/core/sentence"
)

type check struct {
	in      Input
	lines   []line
	text    string
	report  *Report
	english bool
}

func (c *check) add(code string, part document.Part, at int, message, reason, source string) {
	c.report.Notes = append(c.report.Notes, Advice{Code: code, Part: part, Line: at, Message: message, Reason: reason, Source: source})
}

// lineWith gives the first line that a text stands in.
func (c *check) lineWith(text string) int {
	for _, l := range c.lines {
		if strings.Contains(l.text, text) {
			return l.number
		}
	}
	return 0
}

// maxSubject is the characters of a subject that a phone shows.
const maxSubject = 60

var answerMark = regexp.MustCompile(`(?i)^\s*(?:re|aw|sv|rif|fwd?|wg|tr)\s*:`)

func (c *check) subject() {
	s := render.RenderText(c.in.Subject)
	n, words := utf8.RuneCountInString(s), len(wordsOf(s))
	if n > maxSubject {
		c.add("longsubject", document.Subject, 1, fmt.Sprintf("The subject has %d characters; phones cut it after about %d.", n, maxSubject),
			"Readers don’t see what is cut off before they open the letter.", CommonPractice)
	} else if words >= 1 && words <= 3 {
		c.report.Notes = append(c.report.Notes, Advice{Code: "shortsubject", Part: document.Subject, Line: 1, Praise: true,
			Message: "A short subject: nothing of it is cut off.", Reason: "Email programs cut off long subjects, never short ones.", Source: CommonPractice})
	}
	if c.in.First && answerMark.MatchString(s) {
		c.add("notananswer", document.Subject, 1, fmt.Sprintf("“%s” stands before the subject of a first letter.", strings.TrimSpace(answerMark.FindString(s))),
			"It pretends to be a reply, and people see that as a trick.", "RFC 5322, section 3.6.5: “Re:” is for replies")
	}
	if strings.Contains(s, "!") {
		c.add("exclaiming", document.Subject, 1, "There is an exclamation mark in the subject.", "It reads as advertising.", CommonPractice)
	}
	if up, all := capitals(s); all >= 2 && up == all {
		c.add("capitals", document.Subject, 1, "The subject is in capitals.", "Capitals read like shouting.", CommonPractice)
	}
}

var salutation = regexp.MustCompile(`^(?i:dear|hello|hi|hallo|liebe|lieber|bonjour|cher|chère|hola|querida|querido|ciao|cara|caro|good (?:morning|afternoon|evening))\s+(\p{Lu}[\p{L}'’-]*(?:\s+\p{Lu}[\p{L}'’-]*)*)\s*[,!.:–-]?\s*$`)

// greeting looks whether the name in the first line is one of the recipient's.
func (c *check) greeting() {
	for _, l := range c.lines {
		text := strings.TrimSpace(l.text)
		if text == "" {
			continue
		}
		m := salutation.FindStringSubmatch(text)
		if m == nil || len(c.in.Names) == 0 || slices.ContainsFunc(strings.Fields(m[1]), c.isName) {
			return
		}
		c.add("othername", document.Body, l.number, fmt.Sprintf("The greeting says “%s”, and the letter goes to %s.", m[1], c.in.Names[0]),
			"People remember a letter that called them by the wrong name.", CommonPractice)
		return
	}
}

// today tells of a letter that its reader has today already.
func (c *check) today() {
	if c.in.Today != "" {
		c.add("today", document.Body, 0, fmt.Sprintf("Your recipient has a letter today already: “%s”.", c.in.Today), "Two letters in a day read like a machine.", CommonPractice)
	}
}

// frames looks for a letter that greets or closes twice.
func (c *check) frames() {
	greetings, closings := sentence.FrameLines(c.in.Body)
	if len(greetings) > 1 {
		c.add("twogreetings", document.Body, greetings[1], "The letter greets twice. Take the second greeting out.", "It reads as two letters that were put together.", CommonPractice)
	}
	if len(closings) > 1 {
		c.add("twoclosings", document.Body, closings[0], "The letter says goodbye twice. Take the first closing out.", "It reads as two letters that were put together.", CommonPractice)
	}
}

var common = []string{"all", "team", "everybody", "everyone", "colleagues", "friends", "sir", "madam", "there", "zusammen", "mr", "mrs", "ms", "dr"}

// isName tells whether a word of a greeting fits the recipient, or nobody.
func (c *check) isName(word string) bool {
	word = strings.ToLower(strings.Trim(word, ".'’"))
	return slices.Contains(common, word) || slices.ContainsFunc(c.in.Names, func(n string) bool {
		return slices.Contains(strings.Fields(strings.ToLower(n)), word)
	})
}

// maxWords is from where a letter is long.
const maxWords = 250

func (c *check) length() {
	if w := c.report.Words; w > maxWords {
		c.add("long", document.Body, 0, fmt.Sprintf("The letter has %d words and takes %d seconds to read.", w, c.report.Seconds),
			"People read half a page to the end, rarely more.", CommonPractice)
	}
}

func (c *check) ease() {
	e := c.report.Ease
	if e == nil || *e >= 50 {
		return
	}
	longest, at, most := "", 0, 0
	for _, l := range c.lines {
		for _, s := range sentences(l.text) {
			if n := len(wordsOf(s)); n > most {
				longest, at, most = s, l.number, n
			}
		}
	}
	message := fmt.Sprintf("The letter is %s to read (%.0f of 100).", c.report.EaseWords, *e)
	if most > 20 {
		message += fmt.Sprintf(" The longest sentence has %d words: “%s”", most, shortened(longest))
	}
	c.add("hard", document.Body, at, message, "60 to 70 is plain English: short sentences, short words.", "Flesch, A new readability yardstick, 1948")
}

func shortened(s string) string {
	if r := []rune(s); len(r) > 48 {
		return strings.TrimSpace(string(r[:48])) + " …"
	}
	return s
}

func questions(text string) int {
	n := 0
	for _, s := range sentences(text) {
		if strings.HasSuffix(strings.TrimRight(s, `"”’») `), "?") || strings.HasSuffix(s, "？") {
			n++
		}
	}
	return n
}

func (c *check) request() {
	if c.report.Words < 20 {
		return
	}
	inv := interchange.InventoryOf(c.in.Body)
	switch q := c.report.Questions; {
	case q == 0 && inv.Links == 0 && !c.leads():
		c.add("norequest", document.Body, 0, "This letter doesn’t ask for anything: no question and no link.",
			"Readers should know what to do next.", CommonPractice)
	case q > 3:
		c.add("questions", document.Body, 0, fmt.Sprintf("There are %d questions in the letter.", q), "One clear request is easier to answer.", CommonPractice)
	}
	if inv.Links > 3 {
		c.add("links", document.Body, 0, fmt.Sprintf("There are %d links in the letter.", inv.Links), "With many links readers choose none, and spam filters count them.", CommonPractice)
	}
}

// leads tells whether an address stands in the words, such as one that came from a record.
func (c *check) leads() bool {
	return slices.ContainsFunc(c.lines, func(l line) bool { return address.MatchString(l.text) })
}

var address = regexp.MustCompile(`(?i)\b(?:https?://|www\.)[^\s<>"]+`)

// addresses looks for web addresses that are words and no links.
func (c *check) addresses() {
	if c.in.Body.Attrs.Body != document.BodyFormatted {
		return // mail programs make links of them in plain text
	}
	var look func(nodes []document.Node) string
	look = func(nodes []document.Node) string {
		for i := range nodes {
			n := &nodes[i]
			linked := slices.ContainsFunc(n.Marks, func(m document.Mark) bool { return m.Type == document.Link })
			if found := address.FindString(n.Text); found != "" && !linked {
				return found
			}
			if found := look(n.Content); found != "" {
				return found
			}
		}
		return ""
	}
	for i := range c.in.Body.Content {
		if found := look(c.in.Body.Content[i : i+1]); found != "" {
			c.add("bareaddress", document.Body, i+1, fmt.Sprintf("“%s” is no link.", shortened(found)), "Not every mail program makes a link of it; put one on words that say where it leads.", CommonPractice)
			return
		}
	}
}

func (c *check) pictures() {
	n := interchange.InventoryOf(c.in.Body).Pictures
	switch {
	case n > 0 && c.report.Words == 0:
		c.add("picturesonly", document.Body, 0, "The letter contains only pictures.", "Many email programs hide pictures at first, so there would be nothing to read and the text part would be empty.", CommonPractice)
	case n > 0 && c.report.Words < 30*n:
		c.add("manypictures", document.Body, 0, fmt.Sprintf("There are %d words beside %s.", c.report.Words, count(n, "picture")), "Spam filters distrust letters that are mostly pictures.", CommonPractice)
	}
}

func count(n int, what string) string {
	if n == 1 {
		return "one " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// capitals counts the words of four letters and more, and those in capitals.
func capitals(text string) (up, all int) {
	for _, w := range wordsOf(text) {
		if len([]rune(w)) < 4 || strings.IndexFunc(w, func(r rune) bool { return !unicode.IsLetter(r) }) >= 0 {
			continue
		}
		all++
		if strings.ToUpper(w) == w && strings.ToLower(w) != w {
			up++
		}
	}
	return up, all
}

func (c *check) loud() {
	for _, l := range c.lines {
		if up, _ := capitals(l.text); up >= 2 {
			c.add("capitals", document.Body, l.number, "There are words in capitals.", "Capitals read like shouting.", CommonPractice)
			break
		}
	}
	if n := strings.Count(c.text, "!"); n > 1 {
		c.add("exclaiming", document.Body, c.lineWith("!"), fmt.Sprintf("There are %d exclamation marks in the letter.", n), "One is friendly; more look loud.", CommonPractice)
	}
}

// filterWords are phrases that mail filters are said to count.
var filterWords = []string{"100% free", "act now", "buy now", "cash bonus", "click here", "click below", "double your", "extra income", "free gift", "free trial",
	"guaranteed", "limited time", "no obligation", "no risk", "once in a lifetime", "order now", "risk-free", "risk free", "special promotion", "this is not spam", "urgent", "winner"}

func (c *check) filters() {
	in := func(text string, part document.Part, at int) bool {
		low := strings.ToLower(text)
		for _, w := range filterWords {
			if i := strings.Index(low, w); i >= 0 && edge(low, i-1) && edge(low, i+len(w)) {
				c.add("filterwords", part, at, fmt.Sprintf("“%s” is a phrase that mail filters know.", w), "Several phrases like this can send a letter to the junk folder.", CommonPractice)
				return true
			}
		}
		return false
	}
	if in(render.RenderText(c.in.Subject), document.Subject, 1) {
		return
	}
	for _, l := range c.lines {
		if in(l.text, document.Body, l.number) {
			return
		}
	}
}

// edge tells whether no letter stands at a place.
func edge(s string, i int) bool {
	return i < 0 || i >= len(s) || !('a' <= s[i] && s[i] <= 'z')
}

var attached = regexp.MustCompile(`(?i)\b(?:attached|attachment|attaching|enclosed|enclosing|im anhang|angehängt|anbei|beigefügt|ci-jointe?s?|pièce jointe|pièces jointes|adjunto|adjunta|in allegato|allego)(?:\b|$)`)

func (c *check) attachment() {
	if c.in.Attachments > 0 {
		return
	}
	for _, l := range c.lines {
		if w := attached.FindString(l.text); w != "" {
			c.add("noattachment", document.Body, l.number, fmt.Sprintf("The letter says “%s”, and nothing is attached.", w), "Otherwise you’ll have to send a second letter with the file.", CommonPractice)
			return
		}
	}
}

// maxPage is the bytes of HTML after which some mail programs cut a letter.
const maxPage = 102 << 10

func (c *check) size() {
	if c.in.Size > maxPage {
		c.add("large", document.Body, 0, fmt.Sprintf("The letter's page has %d KB; some mail programs cut it after %d.", c.in.Size>>10, maxPage>>10),
			"What is cut off isn’t seen, often including the unsubscribe link.", CommonPractice)
	}
}
