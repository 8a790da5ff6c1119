package field

import "testing"

func TestKnownLocale(t *testing.T) {
	for in, want := range map[string]string{
		"de": "de", "DE-at": "de-AT", "pt_br": "pt-BR", "zh-hant-tw": "zh-Hant-TW", "es-419": "es-419", " fr ": "fr", "no": "nb", "en-JP": "en-JP", "sr-Latn": "sr-Latn",
		"xx": "", "german": "", "e": "", "de-Germany": "", "de-Thai-DE": "de-Thai-DE", "": "", "en-": "", "tlh": "",
	} {
		got, ok := KnownLocale(in)
		if ok != (want != "") || ok && got != want {
			t.Errorf("%q: %q, %v", in, got, ok)
		}
	}
	if len(Languages()) < 80 {
		t.Errorf("%d languages", len(Languages()))
	}
}

// The words around decide the language of a value, the country only the variant.
func TestLocaleFor(t *testing.T) {
	for _, row := range []struct{ words, person, country, team, want string }{
		{"en", "fr", "FR", "en-GB", "en-GB"},
		{"en-GB", "fr-FR", "FR", "en-GB", "en-GB"},
		{"en", "", "US", "en-GB", "en-US"},
		{"en", "en-AU", "US", "en-GB", "en-AU"},
		{"de", "", "AT", "en-GB", "de-AT"},
		{"de", "de", "CH", "en-GB", "de-CH"},
		{"en-GB", "", "US", "en-GB", "en-US"},
		{"en", "de", "DE", "de-DE", "en"},
		{"", "fr", "BE", "en-GB", "fr-BE"},
		{"", "", "FR", "en-GB", "en-GB"},
		{"", "", "", "", ""},
		{"pt", "", "BR", "", "pt-BR"},
	} {
		if got := LocaleFor(row.words, row.person, row.country, row.team); got != row.want {
			t.Errorf("%+v: %q", row, got)
		}
	}
	// As it was seen: an English template to a French reader.
	date, _ := Parse(Date, "2026-12-03", nil)
	money, _ := Parse(Money, "27920.00 EUR", nil)
	r := NewReader(LocaleFor("en", "fr", "FR", "en-GB"))
	if got := string(r.Append(nil, date, "")) + " " + string(r.Append(nil, money, "")); got != "3 December 2026 €27,920.00" {
		t.Error(got)
	}
}

func TestGuessLanguage(t *testing.T) {
	for text, want := range map[string]string{
		"Dear {{person.first_name}}, thank you for your enquiry. We would like to visit you.":             "en",
		"Sehr geehrte Frau {{person.last_name}}, vielen Dank für Ihre Anfrage. Wir kommen gern zu Ihnen.": "de",
		"Bonjour {{person.first_name}}, merci pour votre demande. Nous passons vous voir.":                "fr",
		"Estimada {{person.first_name}}: gracias por su consulta. Le visitamos con mucho gusto.":          "es",
		"Gentile {{person.first_name}}, grazie per la sua richiesta. Le mandiamo il preventivo.":          "it",
		"Olá {{person.first_name}}, obrigado pela sua mensagem. Não há problema com o prazo.":             "pt",
		"Beste {{person.first_name}}, bedankt voor uw aanvraag. Wij komen graag bij u langs.":             "nl",
		"Hej {{person.first_name}}, tack för er förfrågan. Vi kommer gärna till er.":                      "sv",
		"Dzień dobry, dziękuję za wiadomość. Czy możemy się spotkać w tygodniu?":                          "pl",
		"お問い合わせありがとうございます。来週伺います。":                                                                        "ja",
		"Дякую за ваш лист, ми приїдемо до вас.":                                                          "uk",
		"Спасибо за ваше письмо, мы приедем.":                                                             "ru",
		"{{person.first_name}}": "",
		"OK":                    "",
	} {
		if got := GuessLanguage(text); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}
