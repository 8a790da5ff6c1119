package letter

import (
	"regexp"
	"strings"

	"golang.org/x/net/html"
)

// NewWords gives what somebody wrote anew in an answer: without the letter that they
// quote at its end, the line before it that says whose it is, and a signature behind
// the line "-- " (RFC 3676 section 4.3).
func NewWords(text string) string {
	lines := strings.Split(strings.TrimRight(strings.ReplaceAll(text, "\r\n", "\n"), "\n \t"), "\n")
	for i, line := range lines {
		if line == "-- " {
			lines = lines[:i]
			break
		}
	}
	for i, line := range lines {
		if originalMark.MatchString(line) {
			lines = lines[:i]
			break
		}
	}
	end := len(lines)
	for end > 0 && (strings.HasPrefix(strings.TrimSpace(lines[end-1]), ">") || strings.TrimSpace(lines[end-1]) == "") {
		end--
	}
	quoted := false
	for _, line := range lines[end:] {
		quoted = quoted || strings.HasPrefix(strings.TrimSpace(line), ">")
	}
	// The line that says whose words follow may be broken in two.
	switch {
	case !quoted || end == 0 || !attribution.MatchString(lines[end-1]) && !strings.HasSuffix(strings.TrimSpace(lines[end-1]), ":"):
	case !strings.ContainsAny(lines[end-1], "0123456789") && end > 1 && lines[end-2] != "" && attribution.MatchString(lines[end-2]+" "+lines[end-1]):
		end -= 2
	case attribution.MatchString(lines[end-1]):
		end--
	}
	if out := strings.TrimSpace(strings.Join(lines[:end], "\n")); out != "" {
		return out
	}
	return strings.TrimSpace(text)
}

var (
	attribution  = regexp.MustCompile(`(?i)^\s*\S.*\d.*:\s*$|(wrote|schrieb|a écrit|escribió|ha scritto|schreef)\s*:\s*$`)
	originalMark = regexp.MustCompile(`(?i)^\s*-{2,}\s*(original message|ursprüngliche nachricht|message d'origine|mensaje original|messaggio originale)\s*-{2,}\s*$`)
)

// WithQuote puts the words that a letter answers below its two forms, who said them
// before; page may be "". Words "" leave both as they are.
func WithQuote(page, text, who, words string) (string, string) {
	words = strings.TrimSpace(words)
	if words == "" {
		return page, text
	}
	var quoted strings.Builder
	for line := range strings.SplitSeq(words, "\n") {
		if quoted.WriteString(">"); line != "" && !strings.HasPrefix(line, ">") {
			quoted.WriteByte(' ')
		}
		quoted.WriteString(line + "\n")
	}
	text = strings.TrimRight(text, "\n") + "\n\n" + who + "\n" + quoted.String()
	if page == "" {
		return page, text
	}
	block := `<div style="margin:16px auto 0;max-width:600px;padding:0 16px;font:14px/1.5 Arial,sans-serif;color:#5d6256"><p style="margin:0 0 8px">` + html.EscapeString(who) +
		`</p><blockquote style="margin:0;padding:0 0 0 12px;border-left:2px solid #d0d0d0">` + strings.ReplaceAll(html.EscapeString(words), "\n", "<br>") + `</blockquote></div>`
	return beforeBodyEnd(page, block), text
}

// beforeBodyEnd puts a block at the end of what a page shows: before the last end tag of its
// body, which is found as a browser finds it (HTML Standard, section 13.2.5), or at its end.
func beforeBodyEnd(page, block string) string {
	at, offset := len(page), 0
	z := html.NewTokenizer(strings.NewReader(page))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		if kind == html.EndTagToken && isBodyEnd(z.Raw()) {
			at = offset
		}
		offset += len(z.Raw())
	}
	return page[:at] + block + page[at:]
}

// isBodyEnd reports whether the bytes of an end tag are those of a body's.
func isBodyEnd(raw []byte) bool {
	const name = "</body"
	return len(raw) > len(name) && strings.EqualFold(string(raw[:len(name)]), name) && strings.IndexByte(" \t\n\f\r/>", raw[len(name)]) >= 0
}

var answerMark = regexp.MustCompile(`(?i)^\s*(?:re|aw|antw|sv|vs|rif|r|odp|fwd?|wg|tr)\s*(?:\[\d+\])?\s*[:：]\s*`)

// BareSubject is a subject without what programs put before it when they answer.
func BareSubject(subject string) string {
	for {
		rest := answerMark.ReplaceAllString(subject, "")
		if rest == subject {
			return strings.TrimSpace(subject)
		}
		subject = rest
	}
}
