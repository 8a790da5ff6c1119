package result

import "testing"

func TestForPeople(t *testing.T) {
	for text, want := range map[string][2]string{
		"The letter bounced: 5.1.1 550 5.1.1 No such user":                 {"The letter bounced: the address does not exist", "5.1.1 550 5.1.1 No such user"},
		"The letter bounced: 5.2.2 The mailbox is full":                    {"The letter bounced: the mailbox is full", "5.2.2 The mailbox is full"},
		"The mail server refused the letter: 550 no":                       {"The mail server refused the letter: their mail server refused it", "550 no"},
		"450 4.2.1 mailbox busy":                                           {"The mailbox is switched off", "450 4.2.1 mailbox busy"},
		"451 wait":                                                         {"Their mail server asked to try again later", "451 wait"},
		"The letter bounced":                                               {"The letter bounced", ""},
		"the mail server 127.0.0.1:9 was not reached":                      {"the mail server 127.0.0.1:9 was not reached", ""},
		"Gave up after two days. The last answer was: 421 4.3.2 closed":    {"Gave up after two days. The last answer was: their mail system takes no mail at the moment", "421 4.3.2 closed"},
		"The letter bounced from ida@firm.example: 5.7.99 rejected\nby us": {"The letter bounced from ida@firm.example: their mail system refused it", "5.7.99 rejected\nby us"},
		"For 550 guests":                                                   {"For 550 guests", ""},
	} {
		if words, answer := ForPeople(text); words != want[0] || answer != want[1] {
			t.Errorf("%q: %q, %q", text, words, answer)
		}
	}
	for status, want := range map[string]string{"5.1.1": "the address does not exist", "4.4.99": "their mail server could not be reached", "5.0.0": "", "": ""} {
		if got := Explain(status); got != want {
			t.Errorf("%q: %q", status, got)
		}
	}
}
