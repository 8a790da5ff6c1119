package result

import (
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"sync"
)

//go:embed returned.txt
var returnedText string

// returnedRules are the rules of returned.txt by the name of their part.
var returnedRules = sync.OnceValue(func() map[string]*regexp.Regexp {
	parts, name := map[string][]string{}, ""
	for line := range strings.Lines(returnedText) {
		switch line = strings.TrimRight(line, "\r\n"); {
		case line == "" || line[0] == '#':
		case line[0] == '[' && line[len(line)-1] == ']':
			name = line[1 : len(line)-1]
		default:
			parts[name] = append(parts[name], "(?:"+line+")")
		}
	}
	out := map[string]*regexp.Regexp{}
	for name, list := range parts {
		out[name] = regexp.MustCompile("(?i)" + strings.Join(list, "|"))
	}
	return out
})

func says(part, text string) bool { return returnedRules()[part].MatchString(text) }

// MailKind is what a letter is that a machine may have sent.
type MailKind string

// The kinds. A letter of KindPerson is somebody's.
const (
	KindPerson    MailKind = "person"
	KindBounce    MailKind = "bounce"
	KindDelay     MailKind = "delay"
	KindAutomatic MailKind = "automatic"
)

// Signs are what tells that a machine sent a letter.
type Signs struct {
	From, FromName string // address and name of the sender
	Subject, Text  string
	To             string // whom it came to
	NullReturn     bool   // the path to return it is empty (RFC 5321 section 4.5.5)
	FailedHeader   bool   // it has X-Failed-Recipients
	Report         bool   // it is a multipart/report of a delivery (RFC 6522)
	Original       bool   // a letter is within
	Automatic      bool   // by RFC 3834 or the fields of older programs
}

// answers are subjects of people who answer to, or pass on, what was returned.
var answers = regexp.MustCompile(`(?i)^\s*(?:re|aw|antw|sv|vs|fwd?|wg|tr|rv)\s*:`)

// KindOf tells what a letter is that has no report which can be read: from who sent it,
// its subject in the languages of returned.txt, and the addresses and answers of servers
// in its text.
func KindOf(s Signs) MailKind {
	local, _, _ := strings.Cut(s.From, "@")
	machine := s.NullReturn || s.FailedHeader || s.Report || says("sender", local) || says("sender", s.FromName)
	failed := says("failed subject", s.Subject)
	delayed := says("delayed subject", s.Subject)
	var list []Failed
	if machine || failed || delayed { // for what people write it is not looked for
		list = ReadReturned(s.Text, s.To)
	}
	// An answer of a server, or a block of addresses, beside an address.
	told := slices.ContainsFunc(list, func(f Failed) bool { return f.Said != "" || f.inBlock })
	text := beforeOriginal(s.Text)
	switch {
	case s.Report || s.FailedHeader:
	case machine && (failed || delayed || told || s.Original || says("block", text)):
	case (told || s.Original && says("block", text)) && (failed || delayed) && !answers.MatchString(s.Subject):
	case machine && says("sender", local) && s.Automatic, s.NullReturn, s.Automatic, says("automatic subject", s.Subject), says("automatic text", text):
		return KindAutomatic
	default:
		return KindPerson
	}
	temporary := slices.ContainsFunc(list, func(f Failed) bool { return strings.HasPrefix(f.Status, "4") }) || len(list) == 0
	permanent := slices.ContainsFunc(list, func(f Failed) bool { return strings.HasPrefix(f.Status, "5") })
	if delayed && !permanent || says("delayed text", text) && temporary && !permanent {
		return KindDelay
	}
	return KindBounce
}

// Failed is an address that a letter did not reach, as words tell it.
type Failed struct {
	Email  string
	Status string // of RFC 3463, or made of a reply code of RFC 5321, or ""
	Said   string // in the words of the server

	inBlock bool // it stands below a heading for such addresses
}

var (
	addressForm = regexp.MustCompile(`[A-Za-z0-9.!#$%&'*+/=?^_{|}~-]{1,64}@[A-Za-z0-9-][A-Za-z0-9.-]{0,252}[A-Za-z0-9]`)
	replyForm   = regexp.MustCompile(`(?:^|[\s:("'<>,;#])([45]\d\d)(?:[ \t-]|$)`)
	lineEnds    = regexp.MustCompile(`\r\n?|\n`)
	bareHeader  = regexp.MustCompile(`(?i)^[>\s]*(?:message-id|date|subject|from|to|cc|reply-to|x-[a-z-]+|mime-version|received|content-[a-z-]+|reporting-mta|remote-mta|arrival-date|last-attempt-date):`)
	finalField  = regexp.MustCompile(`(?i)^[>\s]*(?:final|original)-recipient:`)
	statusField = regexp.MustCompile(`(?i)^[>\s]*(?:status|diagnostic-code):`)
)

// mostReturned is how many addresses are read from one letter, linesAfter how far behind
// an address its answer may stand.
const mostReturned, linesAfter = 100, 8

// mostWords is how many bytes of words are read.
const mostWords = 16 << 10

// ReadReturned finds in words which addresses a letter did not reach, and what their
// servers said. To is whom the words came to, who is none of them.
func ReadReturned(text, to string) []Failed {
	var out []Failed
	at := map[string]int{}
	current, far, block := -1, 0, false
	var dialogue string // what was asked of the server last
	for _, line := range lineEnds.Split(beforeOriginal(text), -1) {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if bareHeader.MatchString(line) && !finalField.MatchString(line) && !statusField.MatchString(line) {
			continue
		}
		email := ""
		for _, found := range addressForm.FindAllString(line, 5) {
			local, _, _ := strings.Cut(found, "@")
			if !strings.EqualFold(found, to) && !says("sender", local) {
				email = strings.TrimPrefix(found, "=")
				break
			}
		}
		heading := says("block", line)
		answer := isAnswer(line)
		if strings.HasPrefix(line, ">>>") {
			dialogue = line
		}
		if email != "" && !strings.HasPrefix(strings.ToUpper(dialogue), ">>> MAIL") {
			key := strings.ToLower(email)
			i, known := at[key]
			if !known && len(out) < mostReturned && (answer || block || heading || finalField.MatchString(line) || strings.HasPrefix(line, "<") || strings.HasPrefix(line, ">>>") || email == strings.Trim(line, "<>:;,.\"'() ")) {
				i, known = len(out), true
				at[key] = i
				out = append(out, Failed{Email: email, inBlock: block || heading || finalField.MatchString(line)})
			}
			if known {
				current, far = i, 0
			}
		}
		if far++; answer && current >= 0 && far <= linesAfter && out[current].Said == "" {
			out[current].Said = line
		}
		block = heading || block && email != ""
	}
	for i := range out {
		out[i].Status = StatusIn(out[i].Said)
	}
	return out
}

// isAnswer tells whether a line holds what a server said.
func isAnswer(line string) bool {
	return codeForm.MatchString(line) || replyForm.MatchString(line) || says("gone", line) || says("full", line) && says("block", line) || strings.HasPrefix(line, "<<<") && len(line) > 6
}

// failureForm is an enhanced code of a failure, and no part of a longer number such as
// that of a machine.
var failureForm = regexp.MustCompile(`(?:^|[^0-9.])([45]\.\d{1,3}\.\d{1,3})(?:$|[^0-9.]|\.(?:\D|$))`)

// StatusIn gives the status of a failure that words hold: an enhanced code (RFC 3463), or
// one that has no more than the first digit of a reply code (RFC 5321), or "".
func StatusIn(said string) string {
	if code := failureForm.FindStringSubmatch(said); code != nil {
		return code[1]
	}
	if code := replyForm.FindStringSubmatch(said); code != nil {
		return code[1][:1] + ".0.0"
	}
	return ""
}

func beforeOriginal(text string) string {
	offset := 0
	text = text[:min(len(text), mostWords)]
	for line := range strings.Lines(text) {
		if offset > 0 && says("original", strings.TrimRight(line, "\r\n")) {
			return text[:offset]
		}
		offset += len(line)
	}
	return text
}

// ofAddress are the details that speak of the address alone (RFC 3463 section 3.2 and
// 3.3; 1.10 of RFC 7505 section 5).
var ofAddress = []string{"1.1", "1.2", "1.3", "1.4", "1.6", "1.10", "2.1"}

// AddressGone tells whether a failure means that the address itself is no good. The
// status (RFC 3463) decides where it speaks of the address or of something else; words
// that refuse the letter for what it says or where it comes from count more, since many
// servers give those any code; where the status says nothing, the words decide.
func AddressGone(status, said string) bool {
	rest, permanent := strings.CutPrefix(status, "5.")
	if !permanent && status != "" || status == "" && replyForm.MatchString(said) && StatusIn(said)[0] == '4' {
		return false
	}
	gone, refused, full := says("gone", said), says("refused", said), says("full", said)
	subject, _, _ := strings.Cut(rest, ".")
	switch {
	case (refused || full) && !gone: // whatever the status
		return false
	case slices.Contains(ofAddress, rest):
		return !refused || gone && !says("refused", withoutGone(said))
	case subject == "7" || subject == "5" || subject == "6" || rest == "1.7" || rest == "1.8" || rest == "2.2" || rest == "2.3":
		return gone && !says("refused", withoutGone(said)) && !full && !says("route", said)
	}
	return gone && !says("refused", withoutGone(said))
}

// withoutGone takes out of words what tells that an address is no good, so that "address
// rejected: access denied" is not read as another refusal.
func withoutGone(said string) string { return returnedRules()["gone"].ReplaceAllString(said, " ") }
