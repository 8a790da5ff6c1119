package field

import (
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"
)

// stopWords are short words that a language uses all the time and few others do
// (common practice, no source: from memory, the most frequent function words of each).
var stopWords = map[string]string{
	"en": "the and you your for with this that are have will would from our we to of is it in on at please thank thanks dear hello",
	"de": "der die das und ist nicht ich sie ihr ihre ihnen wir uns mit für auf ein eine einen von zu den dem im über wenn gern haben können sehr geehrte liebe lieber",
	"fr": "le la les et vous votre vos nous notre est pas pour avec une dans que qui sur des du au aux je ce cette bonjour merci cher chère",
	"es": "el la los las y usted su sus nosotros nuestro es no para con una en que por del al le gracias estimado estimada hola un como está",
	"it": "il lo la gli le e lei suo sua noi nostro è non per con una in che di del della ci grazie gentile buongiorno un come sono",
	"pt": "o a os as e você seu sua nós nosso é não para com uma em que por do da no na obrigado obrigada prezado prezada olá um como está",
	"nl": "de het een en u uw wij ons is niet voor met van op dat die te aan in hebben kunnen zijn graag beste geachte bedankt",
	"sv": "och att det är inte för med på en ett vi vår er ni av till som om har kan hej tack gärna",
	"da": "og at det er ikke for med på en et vi vores jer i af til som om har kan hej tak gerne kære jeg dig",
	"nb": "og at det er ikke for med på en et vi vår dere i av til som om har kan hei takk gjerne kjære jeg deg",
	"fi": "ja on ei se että hän me teidän meidän kanssa mutta tai kun jos hyvä hei kiitos voimme olisi",
	"pl": "i nie jest się na do że z w dla pani pana państwa nasz oraz czy dziękuję szanowny szanowna dzień dobry jak o",
	"cs": "a je se na že s v pro vás vám náš nebo jak děkuji dobrý den vážený vážená který jsme by",
	"sk": "a je sa na že s v pre vás vám náš alebo ako ďakujem dobrý deň vážený vážená ktorý sme by",
	"hu": "a az és nem egy hogy van önnek önök mi vagy kedves tisztelt köszönöm szeretnénk meg",
	"ro": "și în la de cu pe nu este un o pentru dumneavoastră vă ne sau mulțumesc stimate stimată bună ziua",
	"hr": "i je se na u za da nije vas vam naš ili kako hvala poštovani poštovana dobar dan s",
	"sl": "in je se na v za da ni vas vam naš ali kako hvala spoštovani spoštovana dober dan s z",
	"et": "ja on ei et see me teie meie või kui tere aitäh lugupeetud koos",
	"lv": "un ir nav ka mēs jūs jūsu mūsu vai ar uz par labdien paldies cienījamais",
	"lt": "ir yra ne kad mes jūs jūsų mūsų ar su už dėl laba diena ačiū gerbiamas",
	"tr": "ve bir bu için ile değil siz sizin biz bizim merhaba teşekkür sayın olarak ya da mi",
	"ca": "el la els les i vostè seu nosaltres nostre és no per amb una que del al gràcies benvolgut hola un com està",
	"is": "og að það er ekki fyrir með á í við þú þér okkur eða sem hæ takk kæri",
	"id": "dan yang di untuk dengan ini itu tidak kami anda dari terima kasih selamat adalah akan",
	"vi": "và là của cho với không chúng tôi bạn anh chị xin chào cảm ơn một các",
}

// ownLetters are letters that speak for a language where another has as many of the
// words.
var ownLetters = map[string]string{
	"de": "ß", "sv": "å", "da": "æø", "nb": "æø", "fi": "ä", "pl": "łśćżź", "cs": "ěřů", "sk": "ľĺŕô", "hu": "őű", "ro": "șțăâ", "tr": "ğış", "pt": "ãõ", "es": "ñ¿¡",
	"lv": "āēīūļķņ", "lt": "ėįųš", "et": "õ", "is": "þð", "ca": "·", "fr": "œ", "vi": "ơưđ",
}

// scripts are languages that are known by their script.
var scripts = []struct {
	table *unicode.RangeTable
	lang  string
}{
	{unicode.Hiragana, "ja"}, {unicode.Katakana, "ja"}, {unicode.Hangul, "ko"}, {unicode.Han, "zh"}, {unicode.Greek, "el"}, {unicode.Hebrew, "he"}, {unicode.Arabic, "ar"},
	{unicode.Thai, "th"}, {unicode.Devanagari, "hi"}, {unicode.Bengali, "bn"}, {unicode.Tamil, "ta"}, {unicode.Telugu, "te"}, {unicode.Gujarati, "gu"}, {unicode.Armenian, "hy"}, {unicode.Georgian, "ka"},
	{unicode.Cyrillic, "ru"},
}

// stopWordsBy gives the languages of each frequent word.
var stopWordsBy = sync.OnceValue(func() map[string][]string {
	out := map[string][]string{}
	for lang, list := range stopWords {
		for w := range strings.FieldsSeq(list) {
			if !slices.Contains(out[w], lang) {
				out[w] = append(out[w], lang)
			}
		}
	}
	return out
})

// leastWords is how many words of a language a text needs to be taken for it.
const leastWords = 2

// GuessLanguage recognises the language of a text by its script and its most frequent
// words; "" when there is too little to tell. Letters between U+FFFC and marks in
// braces do not count.
func GuessLanguage(text string) string {
	counts := map[string]int{}
	letters := 0
	for _, r := range text {
		if !unicode.IsLetter(r) {
			continue
		}
		letters++
		if r < 0x370 { // Latin
			continue
		}
		for _, s := range scripts {
			if unicode.Is(s.table, r) {
				counts[s.lang]++
				break
			}
		}
	}
	if counts["ja"] > 0 && counts["ja"]*10 > counts["zh"] {
		counts["ja"] += counts["zh"]
		delete(counts, "zh")
	}
	for lang, n := range counts {
		if n*2 > letters {
			return cyrillic(lang, text)
		}
	}
	words := strings.FieldsFunc(strings.ToLower(withoutMarks(text)), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) })
	points := map[string]int{}
	for _, w := range words {
		for _, lang := range stopWordsBy()[w] {
			points[lang] += 2
		}
	}
	small := strings.ToLower(text)
	best, most, second := "", 0, 0
	for _, lang := range slices.Sorted(maps.Keys(points)) {
		n := points[lang]
		if ownLetters[lang] != "" && strings.ContainsAny(small, ownLetters[lang]) {
			n++
		}
		switch {
		case n > most:
			best, second, most = lang, most, n
		case n > second:
			second = n
		}
	}
	if most < 2*leastWords || most == second {
		return ""
	}
	return best
}

// cyrillic tells the languages of one script apart by letters that only they have.
func cyrillic(lang, text string) string {
	small := strings.ToLower(text)
	switch {
	case lang == "ar" && strings.ContainsAny(small, "پچژگ"):
		return "fa"
	case lang != "ru":
		return lang
	case strings.ContainsAny(small, "іїєґ"):
		return "uk"
	case strings.ContainsAny(small, "ђћџљњ"):
		return "sr"
	case !strings.ContainsAny(small, "ыэё") && strings.Contains(small, "ъ"):
		return "bg"
	}
	return lang
}

// withoutMarks leaves out what stands in double braces.
func withoutMarks(s string) string {
	var b strings.Builder
	for {
		start := strings.Index(s, "{{")
		end := -1
		if start >= 0 {
			end = strings.Index(s[start:], "}}")
		}
		if end < 0 {
			b.WriteString(s)
			return b.String()
		}
		b.WriteString(s[:start] + " ")
		s = s[start+end+2:]
	}
}
