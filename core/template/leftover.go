package template

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/markup"
)

// Leftover is a hand-made mark of an old text that was never filled in: [First
// name], XXX, ____, «Company». From and To are byte offsets.
type Leftover struct {
	From, To int
	Text     string
	Path     string // the field that was probably meant; "" a blank fits better
}

// What counts as a left-over mark (common practice, no source). Few false
// alarms matter more than finding all: footnotes [1], [sic], <https://…>, XXL,
// Roman numerals and abbreviations in capitals are none.
var leftoverForms = []leftoverForm{
	// Words in square, angle, curly or doubled brackets, percent or dollar signs
	// that name something of a letter.
	{[]string{"["}, regexp.MustCompile(`\[\[?([^\[\]\n]{2,40})\]\]?`)},
	{[]string{"<"}, regexp.MustCompile(`<<?([^<>\n@/:]{2,40})>>?`)},
	{[]string{"{"}, regexp.MustCompile(`\{([^{}\n]{2,40})\}`)},
	{[]string{"«", "‹"}, regexp.MustCompile(`[«‹]([^«»‹›\n]{2,40})[»›]`)},
	{[]string{"%"}, regexp.MustCompile(`%%?([A-Za-z][A-Za-z_ ]{2,30})%%?`)},
	{[]string{"$"}, regexp.MustCompile(`\$([A-Z][A-Z_]{2,30})\$?`)},
	{[]string{"#"}, regexp.MustCompile(`#{1,3}([A-Za-z][A-Za-z_ .-]{1,30})#{1,3}`)},
	{[]string{"@@"}, regexp.MustCompile(`@{2,3}([A-Za-z][A-Za-z_ .-]{1,30})@{2,3}`)},
	{[]string{"~"}, regexp.MustCompile(`~{1,3}([A-Za-z][A-Za-z_ .-]{1,30})~{1,3}`)},
	{[]string{"^"}, regexp.MustCompile(`\^{1,3}([A-Za-z][A-Za-z_ .-]{1,30})\^{1,3}`)},
	{[]string{"|"}, regexp.MustCompile(`\*?\|{1,2}\s?([A-Za-z][A-Za-z_ .-]{1,30}?)\s?\|{1,2}\*?`)},
	{[]string{"**"}, regexp.MustCompile(`\*{2,3}([A-Za-z][A-Za-z_ .-]{1,30})\*{2,3}`)},
	{[]string{"=="}, regexp.MustCompile(`={2,3}\s?([A-Za-z][A-Za-z_ .-]{1,30}?)\s?={2,3}`)},
	{[]string{"++"}, regexp.MustCompile(`\+{2,3}([A-Za-z][A-Za-z_ .-]{1,30})\+{2,3}`)},
	{[]string{"§"}, regexp.MustCompile(`§{1,3}([A-Za-z][A-Za-z_ .-]{1,30})§{1,3}`)},
	{[]string{"__"}, regexp.MustCompile(`_{2,3}([A-Za-z][A-Za-z ]{1,30}(?:_[A-Za-z]+)?)_{2,3}`)},
	{[]string{"(("}, regexp.MustCompile(`\(\(([^()\n]{2,40})\)\)`)},
	{[]string{"("}, regexp.MustCompile(`\(([A-Z][A-Z_ ]{3,30})\)`)},
	{[]string{"【", "「", "〈", "《"}, regexp.MustCompile(`[【「〈《]([^【】「」〈〉《》\n]{2,40})[】」〉》]`)},
	// Signs alone.
	{[]string{"___", ".....", "----?", "???"}, regexp.MustCompile(`(?:^|[\s(,:])(_{3,}|\.{5,}|-{4,}\?|\?{3,})(?:$|[\s),.:;!])`)},
	{[]string{"xxx", "xyz", "tbd", "tba", "todo", "fixme"}, regexp.MustCompile(`(?:^|[^\w.@/-])(XXX+|xxx+|XYZ|xyz|TBD|TBA|TODO|FIXME)(?:$|[^\w@/-])`)},
	{[]string{"lorem"}, regexp.MustCompile(`(?i)\b(lorem ipsum)\b`)},
	{[]string{"here"}, regexp.MustCompile(`(?i)\b((?:(?:insert|enter|add|type|put|your)\s+){1,2}(?:the\s+)?(?:first |last |company )?(?:name|text|date|link|price|amount|company|reason)\s+here)\b`)},
	// A greeting to a word for a name.
	// One word in capitals where a name would stand.
	{[]string{"dear", "hi", "hello", "hey"}, regexp.MustCompile(`(?m)^(?:Dear|Hi|Hello|Hey)\s+([A-Z][A-Z_]{3,20})\s*[,!:]`)},
	{[]string{"name", "customer", "client"}, regexp.MustCompile(`(?m)^(?:Dear|Hi|Hello|Hey)\s+((?:[Ff]irst ?[Nn]ame|FIRST ?NAME|NAME|Name|[Ll]ast ?[Nn]ame|LAST ?NAME|CUSTOMER|CLIENT|Firstname|Lastname)(?:\s+(?:[Ll]ast ?[Nn]ame|NAME|SURNAME))?)\s*[,!:]`)},
}

// leftoverForm is a form of marks. In small letters, each holds one of some words: to
// look for those first takes a fraction of the time.
type leftoverForm struct {
	words []string
	form  *regexp.Regexp
}

// bracketed is how many of the forms above need a telling word inside.
const bracketed = 19

// telling are words that stand for something to be filled in, and the field
// that they mean.
var telling = map[string]string{
	"name": "person.first_name", "first name": "person.first_name", "firstname": "person.first_name", "fname": "person.first_name", "vorname": "person.first_name",
	"last name": "person.last_name", "lastname": "person.last_name", "surname": "person.last_name", "nachname": "person.last_name", "full name": "person.full_name",
	"contact": "person.full_name", "contact name": "person.full_name", "customer": "person.full_name", "customer name": "person.full_name", "client": "person.full_name",
	"client name": "person.full_name", "prospect": "person.full_name", "recipient": "person.full_name", "recipient name": "person.full_name",
	"title": "person.honorific", "salutation": "person.honorific", "job title": "person.job_title", "position": "person.job_title", "role": "person.job_title",
	"email": "person.email", "email address": "person.email", "phone": "person.phone", "phone number": "person.phone", "city": "person.city", "town": "person.city",
	"company": "company.name", "company name": "company.name", "firm": "company.name", "organisation": "company.name", "organization": "company.name", "firma": "company.name",
	"industry": "company.industry", "website": "company.website", "amount": "deal.amount", "price": "deal.amount", "sum": "deal.amount", "deal": "deal.name",
	"your name": "sender.full_name", "my name": "sender.full_name", "sender": "sender.full_name", "sender name": "sender.full_name", "signature": "sender.signature",
	"your company": "team.name", "our company": "team.name", "your phone": "sender.phone", "booking link": "sender.booking_link",
	"date": "", "time": "", "day": "", "link": "", "url": "", "topic": "", "subject": "", "reason": "", "product": "", "product name": "", "event": "", "event name": "", "number": "",
	"address": "", "street": "", "country": "", "month": "", "project": "", "project name": "", "placeholder": "", "insert": "", "text": "", "quote": "", "offer": "",
}

// Leftovers finds the left-over marks of a text, in order. Fields of ours
// ({{…}}) are none.
func Leftovers(s string) []Leftover {
	var out []Leftover
	next := make([]Leftover, len(leftoverForms)) // the next mark of each form
	found := make([]bool, len(leftoverForms))
	small := strings.ToLower(s)
	for i, form := range leftoverForms {
		if slices.ContainsFunc(form.words, func(word string) bool { return strings.Contains(small, word) }) {
			next[i], found[i] = firstOf(form.form, i < bracketed, s, 0)
		}
	}
	for len(out) < maxLeftovers {
		best := -1
		for i := range next {
			if found[i] && (best < 0 || next[i].From < next[best].From) {
				best = i
			}
		}
		if best < 0 {
			break
		}
		l := next[best]
		out = append(out, l)
		for i, form := range leftoverForms {
			if found[i] && next[i].From < l.To {
				next[i], found[i] = firstOf(form.form, i < bracketed, s, l.To)
			}
		}
	}
	return out
}

// maxLeftovers is how many are listed; the rest is found once these are mended.
const maxLeftovers = 50

// firstOf gives the first mark of a form at or behind an offset.
func firstOf(form *regexp.Regexp, needsWord bool, s string, from int) (Leftover, bool) {
	for from < len(s) {
		m := form.FindStringSubmatchIndex(s[from:])
		if m == nil {
			return Leftover{}, false
		}
		l := Leftover{From: from + m[0], To: from + m[1]}
		if !needsWord {
			l.From, l.To = from+m[2], from+m[3]
		}
		l.Text = s[l.From:l.To]
		word := plainWord(s[from+m[2] : from+m[3]])
		path, known := telling[word]
		switch {
		case s[l.From] == '{' && l.From > 0 && s[l.From-1] == '{': // a mark of ours, as it was typed
		case !needsWord:
			l.Path = telling[word]
			return l, true
		case known || tellingPhrase(word):
			l.Path = path
			return l, true
		}
		from = l.From + 1
	}
	return Leftover{}, false
}

func plainWord(s string) string {
	return strings.Join(strings.Fields(strings.ToLower(strings.NewReplacer("_", " ", "-", " ", ".", " ", "*", " ").Replace(s))), " ")
}

// tellingPhrase tells whether a phrase asks for something: "insert the date",
// "name of the company", "contact first name".
func tellingPhrase(s string) bool {
	words := strings.Fields(s)
	if len(words) < 2 || len(words) > 6 {
		return false
	}
	switch words[0] {
	case "insert", "enter", "your", "their", "add", "put", "fill":
		return true
	}
	if strings.Contains(s, " of the ") || strings.Contains(s, " of your ") {
		_, known := telling[words[0]]
		return known
	}
	for n := 1; n < len(words); n++ {
		if _, known := telling[strings.Join(words[n:], " ")]; known {
			_, first := telling[strings.Join(words[:n], " ")]
			return first
		}
	}
	return false
}

// leftoverFix is what may stand there instead: a field if the catalogue has it,
// or a blank.
func leftoverFix(l Leftover, cat *field.Catalogue) []string {
	name := strings.ReplaceAll(plainWord(strings.Trim(l.Text, "[]<>{}«»‹›%$")), " ", "_")
	if !markup.BlankForm.MatchString(name) {
		name = "words"
	}
	fixes := []string{"{{?" + name + "}}"}
	if _, ok := cat.Find(l.Path); ok {
		fixes = append([]string{"{{" + l.Path + "}}"}, fixes...)
	}
	return fixes
}
