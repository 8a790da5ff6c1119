package field

import (
	"fmt"
	"net/mail"
	"net/url"
	"strings"
)

// CheckEmail tells whether s is one bare address that mail can be sent to:
// an addr-spec of RFC 5322 section 3.4.1 without comments, within the lengths
// of RFC 5321 section 4.5.3.1 (64 octets before the @, 254 in all). Domain
// literals and domains of a single label are refused: no prospect has one.
func CheckEmail(s string) error {
	if plainAddress(s) {
		return nil
	}
	return checkEmail(s)
}

// checkEmail is the long way.
func checkEmail(s string) error {
	if strings.ContainsFunc(s, func(r rune) bool { return r > 126 }) {
		return fmt.Errorf("%q has a letter outside ASCII; write the domain in its xn-- form", s)
	}
	parsed, err := mail.ParseAddress(s)
	if err != nil || parsed.Address != s || parsed.Name != "" {
		return fmt.Errorf("%q is not an email address; write it as name@firm.example", s)
	}
	at := strings.LastIndexByte(s, '@')
	local, domain := s[:at], s[at+1:]
	if len(local) > 64 || len(s) > 254 {
		return fmt.Errorf("%q is too long for an email address", s)
	}
	for label := range strings.SplitSeq(domain, ".") {
		if label == "" || len(label) > 63 || label[0] == '-' || label[len(label)-1] == '-' || strings.ContainsAny(label, "[]_") {
			return fmt.Errorf("%q has a domain that cannot receive mail", s)
		}
	}
	if !strings.Contains(domain, ".") {
		return fmt.Errorf("%q has a domain without a dot; write it as name@firm.example", s)
	}
	return nil
}

// plainAddress tells that an address is surely good, as most are: letters, digits and a few
// signs, parted by single dots. It is the short way of CheckEmail.
func plainAddress(s string) bool {
	at, dots, last := -1, 0, byte('.')
	for i := range len(s) {
		c := s[i]
		switch {
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c >= '0' && c <= '9':
		case c == '.' && last != '.' && last != '-':
			if at >= 0 {
				dots++
			}
		case c == '-' && (at < 0 || last != '.'):
		case (c == '_' || c == '+') && at < 0:
		case c == '@' && at < 0 && last != '.' && i > 0 && i <= 64:
			at, last = i, '.'
			continue
		default:
			return false
		}
		last = c
	}
	return at > 0 && dots > 0 && last != '.' && last != '-' && len(s)-at <= 64
}

// EmailKey is the form under which two addresses count as the same: the whole
// address in lower case. (RFC 5321 lets a server tell local parts apart by
// case; none in practice does. Common practice, no source.)
func EmailKey(s string) string { return strings.ToLower(strings.TrimSpace(s)) }

func checkURL(s string) error {
	u, err := url.Parse(s)
	if err == nil && u.Scheme == "" {
		u, err = url.Parse("https://" + s)
	}
	if err != nil || u.Host == "" || (u.Scheme != "http" && u.Scheme != "https") || !strings.Contains(u.Host, ".") {
		return fmt.Errorf("%q is not a web address; write it as https://firm.example", s)
	}
	return nil
}
