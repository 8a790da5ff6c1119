package result

import (
	"regexp"
	"strings"
)

// saidBy are the details of enhanced status codes (RFC 3463 sections 3.2 to 3.8; 1.10
// of RFC 7505 section 5), for people who do not run mail servers.
var saidBy = map[string]string{
	"1.1": "the address does not exist", "1.2": "there is no mail at that domain", "1.3": "the address is not written correctly", "1.6": "the mailbox has moved",
	"1.8": "they do not accept our address", "1.10": "the domain takes no mail", "2.1": "the mailbox is switched off", "2.2": "the mailbox is full", "2.3": "the letter is too large for the mailbox",
	"2.4": "the mailing list did not pass it on", "3.1": "their mail system is full", "3.2": "their mail system takes no mail at the moment", "3.4": "the letter is too large for their mail system",
	"4.1": "their mail server did not answer", "4.2": "the connection broke off", "4.3": "their mail server could not be found", "4.4": "there is no way to their mail server",
	"4.5": "their mail system is overloaded", "4.6": "their mail system sends it round in circles", "4.7": "it took too long",
	"7.1": "their mail server does not accept it", "7.2": "the mailing list does not accept it", "7.8": "the sign-in to the mail server was not accepted",
}

// subjects are the subjects of the codes, for details that say no more.
var subjects = map[string]string{
	"1": "the address cannot be delivered to", "2": "the mailbox does not take it", "3": "their mail system cannot take it", "4": "their mail server could not be reached",
	"5": "the mail servers did not understand each other", "6": "their mail system cannot take what is in it", "7": "their mail system refused it",
}

// Explain says in a few words what an enhanced status code means, such as "the mailbox is
// full" for 5.2.2; "" for one that says nothing.
func Explain(status string) string {
	parts := strings.SplitN(status, ".", 2)
	if len(parts) < 2 {
		return ""
	}
	if words := saidBy[parts[1]]; words != "" {
		return words
	}
	subject, _, _ := strings.Cut(parts[1], ".")
	return subjects[subject]
}

var (
	codeForm = regexp.MustCompile(`\b([245]\.\d{1,3}\.\d{1,3})\b`)
	// What a server answered: a reply code (RFC 5321 section 4.2), an enhanced code or both.
	answerForm = regexp.MustCompile(`(?s)^(?:(.*?): )?\(?((?:[245]\.\d{1,3}\.\d{1,3}|[245]\d\d)[ -].*|[245]\.\d{1,3}\.\d{1,3})$`)
)

// replies are what reply codes without an enhanced one mean, by their first digit.
var replies = map[byte]string{'4': "their mail server asked to try again later", '5': "their mail server refused it"}

// ForPeople parts what was noted of a delivery into words for people and the answer of
// the server behind them, "" when there is none.
func ForPeople(text string) (words, answer string) {
	m := answerForm.FindStringSubmatch(text)
	if m == nil {
		return text, ""
	}
	words, answer = strings.TrimRight(m[1], ": "), strings.TrimSuffix(m[2], ")")
	why := ""
	if code := codeForm.FindString(answer); code != "" {
		why = Explain(code)
	}
	if why == "" {
		why = replies[answer[0]]
	}
	switch {
	case why == "":
	case words == "":
		words = strings.ToUpper(why[:1]) + why[1:]
	default:
		words += ": " + why
	}
	return words, answer
}
