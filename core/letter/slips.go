package letter

import (
	"fmt"
	"regexp"
	"strings"

	"lucidletter/core/document"
)

// slip is something in the words of a letter that nobody means to send.
type slip struct {
	at                  int // byte offset
	code, text, message string
}

var (
	// A greeting or salutation without its name, by language (common practice, no source).
	bareGreeting = regexp.MustCompile(`(?m)^[ \t]*((?:Dear|My dear|Lieber?|Liebe|Sehr geehrter?|Sehr geehrte|Verehrter?|Cher|Chère|Estimad[oa]|Querid[oa]|Apreciad[oa]|Car[oa]|Gentile|Gentilissim[oa]|Egregio|Prezad[oa]|Beste|Geachte|Kära|Bästa|Kære|Kjære|Szanown[ya]|Drog[ia]|Vážen[ýá]|Mil[ýá]|Tisztelt|Kedves|Stimat[eă]|Dragă|Poštovan[ia]|Sayın|Sevgili|Αγαπητέ|Уважаемый|Уважаемая|Шановний|Шановна)(?: (?:Mr|Mrs|Ms|Miss|Dr|Herr|Frau|Monsieur|Madame|Señor|Señora|Sr|Sra|Signor|Signora|heer|mevrouw)\.?)?)[ \t]*([,:!])[ \t]*$`)
	salutation   = regexp.MustCompile(`(?m)^[ \t]*((?:Hello|Hi|Hey|Hallo|Bonjour|Hola|Ciao|Olá|Hej|Hei) (?:Mr|Mrs|Ms|Miss|Dr|Herr|Frau|Monsieur|Madame)\.?)[ \t]*([,:!])[ \t]*$`)
	// Two marks that never stand together. A point before a comma may end "Inc.".
	twoMarks = regexp.MustCompile(`[,;:][ \t]?[,;:.](?:[ \t\n]|$)|[,;:][ \t]?[!?]|(?:^|\n)[ \t]*[,;:]`)
)

// slips finds greetings without a name and marks that were left standing together.
// Words that came from fields stand in s as one sign each.
func slips(part document.Part, s string) []slip {
	var out []slip
	if part == document.Body {
		for _, form := range []*regexp.Regexp{bareGreeting, salutation} {
			for _, m := range form.FindAllStringSubmatchIndex(s, -1) {
				words := s[m[2]:m[3]]
				out = append(out, slip{m[2], "greeting", words, fmt.Sprintf("The greeting “%s%s” has no name. Add one, or write “Hello,”.", words, s[m[4]:m[5]])})
			}
		}
	}
	for _, m := range twoMarks.FindAllStringIndex(s, -1) {
		text := strings.TrimSpace(s[m[0]:m[1]])
		if strings.HasPrefix(text, "::") || strings.Contains(s[max(0, m[0]-1):min(len(s), m[1]+1)], "://") {
			continue
		}
		out = append(out, slip{m[0], "marks", text, fmt.Sprintf("The punctuation “%s” looks like something is missing before it. Check this line.", text)})
	}
	return out
}
