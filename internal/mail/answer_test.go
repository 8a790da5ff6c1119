package mail

import (
	"strings"
	"testing"

	"github.com/emersion/go-smtp"
)

// What a server says is kept on one line of some length, without what a screen would act on.
func TestAnswerOf(t *testing.T) {
	long := answerOf(&smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: strings.Repeat("no\x1b[31m such\x00 mailbox\n", 400_000)})
	if len(long) > maxAnswer+len("…") || !strings.HasPrefix(long, "550 5.1.1 no[31m such mailbox no") || strings.ContainsAny(long, "\x1b\x00\n") {
		t.Errorf("%d bytes: %.80q", len(long), long)
	}
	if short := answerOf(&smtp.SMTPError{Code: 450, Message: "Später,\r\nbitte"}); short != "450 Später, bitte" {
		t.Errorf("%q", short)
	}
}
