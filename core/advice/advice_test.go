package advice

import (
	"math"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// The worked examples of the article "Flesch–Kincaid readability tests" in the
// English Wikipedia (section "Flesch reading ease"), from memory.
func TestEaseAgainstPublishedExamples(t *testing.T) {
	for _, c := range []struct {
		text string
		ease float64
	}{
		{"The cat sat on the mat.", 116},
		{"This sentence, taken as a reading passage unto itself, is being used to prove a point.", 69},
		{"The Australian platypus is seemingly a hybrid of a mammal and reptilian creature.", 37.5},
	} {
		if got := Measure(c.text).Ease(); math.Abs(got-c.ease) > 0.5 {
			t.Errorf("%s\nease %.1f of %+v, published %.1f", c.text, got, Measure(c.text), c.ease)
		}
	}
}

// Syllables as a dictionary hyphenates or transcribes the words; from memory.
func TestSyllables(t *testing.T) {
	for word, want := range map[string]int{
		"a": 1, "the": 1, "cold": 1, "room": 1, "table": 2, "little": 2, "quote": 1, "prices": 1, "asked": 1, "wanted": 2, "needed": 2,
		"company": 3, "delivery": 4, "being": 2, "seeing": 2, "temperature": 4, "understand": 3, "don't": 1, "Fernhollow": 3, "rhythm": 1, "über": 1, "62": 1,
	} {
		if got := Syllables(word); got != want {
			t.Errorf("%s has %d syllables, want %d", word, got, want)
		}
	}
}

func TestMeasure(t *testing.T) {
	for _, c := range []struct {
		text string
		want Measures
	}{
		{"", Measures{}},
		{"Dear Ada,\n\nthank you. It fits.\n", Measures{6, 3, 6}},
		{"See https://fernhollow.example/rooms?for=ada now.", Measures{3, 1, 3}},
		{"12.5 m³ - 3 doors", Measures{4, 1, 4}},
	} {
		got := Measure(c.text)
		if got != c.want {
			t.Errorf("%q: %+v, want %+v", c.text, got, c.want)
		}
	}
}

func formatted(t *testing.T, text string) document.Document {
	t.Helper()
	d, err := markup.ParseMarkup(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

const fine = "Dear Ada,\n\nthank you for the call. You need a room for flowers that stays at three degrees, and it has to fit beside the door.\n\nMay I come on Monday to measure it?\n\nImre"

func TestWhatIsAdvised(t *testing.T) {
	words := strings.Repeat("The room is cold. ", 70)
	booking := document.NewPlain(strings.Repeat("The room is cold. ", 6) + "https://fernhollow.example/meet/imre")
	booking.Content[0].Content[0].Marks = []document.Mark{{Type: document.Merged, Attrs: &document.MarkAttrs{Path: "sender.booking_link"}}}
	for _, c := range []struct {
		name string
		in   Input
		want []string // code part line
	}{
		{"a good letter", Input{Subject: document.NewPlain("Your room"), Body: document.NewPlain(fine), First: true, Names: []string{"Ada Quill"}}, []string{"shortsubject subject 1"}},
		{"a long subject", Input{Subject: document.NewPlain(strings.Repeat("ab ", 21)), Body: document.NewPlain(fine)}, []string{"longsubject subject 1"}},
		{"sixty characters are fine", Input{Subject: document.NewPlain("The room for " + strings.Repeat("é", 40) + " is now"), Body: document.NewPlain(fine)}, nil},
		{"an answer to nothing", Input{Subject: document.NewPlain("Re: the room for your flowers"), Body: document.NewPlain(fine), First: true}, []string{"notananswer subject 1"}},
		{"an answer", Input{Subject: document.NewPlain("Re: the room for your flowers"), Body: document.NewPlain(fine)}, nil},
		{"loud", Input{Subject: document.NewPlain("COLD ROOMS FOR EVERYBODY NOW!"), Body: document.NewPlain(fine + "\nGREAT PRICES! Really!")},
			[]string{"exclaiming subject 1", "capitals subject 1", "capitals body 8", "exclaiming body 8"}},
		{"to another name", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(fine), Names: []string{"Berta Ohm", "B."}}, []string{"othername body 1"}},
		{"to the last name", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(strings.Replace(fine, "Ada", "Ms Quill", 1)), Names: []string{"Ada Quill"}}, nil},
		{"to all", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(strings.Replace(fine, "Ada", "All", 1)), Names: []string{"Ada Quill"}}, nil},
		{"a greeting that goes on", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain("Dear Berta and thank you for all that you wrote"), Names: []string{"Ada Quill"}}, nil},
		{"long", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(words + "Is it?")}, []string{"long body 0"}},
		{"asks for nothing", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(strings.Repeat("The room is cold. ", 6))}, []string{"norequest body 0"}},
		{"asks for too much", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain(strings.Repeat("Is the room cold? ", 6))}, []string{"questions body 0"}},
		{"a link is a request", Input{Subject: document.NewPlain("One two three four"), Body: formatted(t, "<p>"+strings.Repeat("The room is cold. ", 6)+`<a href="https://a.example/">Look</a></p>`)}, nil},
		{"an address from a record is a request", Input{Subject: document.NewPlain("One two three four"), Body: booking}, nil},
		{"hard to read", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain("Short.\nOrganisational implementation considerations notwithstanding, comprehensive refrigeration infrastructure necessitates interdisciplinary coordination, administrative authorisation, environmental certification and continuous documentation of temperature irregularities. Is it?")},
			[]string{"hard body 2"}},
		{"no advice on ease in another language", Input{Language: "de-DE", Subject: document.NewPlain("Eins zwei drei vier"), Body: document.NewPlain(strings.Repeat("Donaudampfschifffahrtsgesellschaft ", 25) + "?")}, nil},
		{"a bare address", Input{Subject: document.NewPlain("One two three four"), Body: formatted(t, `<p>Hello</p><p>See <b>https://fernhollow.example/rooms</b></p>`)}, []string{"bareaddress body 2"}},
		{"a linked address", Input{Subject: document.NewPlain("One two three four"), Body: formatted(t, `<p>See <a href="https://fernhollow.example/">https://fernhollow.example/</a></p>`)}, nil},
		{"pictures alone", Input{Subject: document.NewPlain("One two three four"), Body: formatted(t, `<img src="https://fernhollow.example/a.png">`)}, []string{"picturesonly body 0"}},
		{"more pictures than words", Input{Subject: document.NewPlain("One two three four"), Body: formatted(t, `<p>Look</p><img src="https://fernhollow.example/a.png" alt="A room"><img src="https://fernhollow.example/b.png">`)}, []string{"manypictures body 0"}},
		{"filter words", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain("Hello\nClick here, it is not urgently needed")}, []string{"filterwords body 2"}},
		{"a word within a word", Input{Subject: document.NewPlain("Insurgent breadwinners of the year"), Body: document.NewPlain("Hello")}, nil},
		{"nothing attached", Input{Subject: document.NewPlain("One two three four"), Body: document.NewPlain("Hello\nThe quote is attached.")}, []string{"noattachment body 2"}},
		{"nichts angehängt", Input{Language: "de", Subject: document.NewPlain("Eins zwei drei vier"), Body: document.NewPlain("Im Anhang finden Sie das Angebot")}, []string{"noattachment body 1"}},
		{"attached", Input{Attachments: 1, Subject: document.NewPlain("One two three four"), Body: document.NewPlain("The quote is attached.")}, nil},
		{"large", Input{Size: 103 << 10, Subject: document.NewPlain("One two three four"), Body: document.NewPlain("Hello")}, []string{"large body 0"}},
		{"nothing at all", Input{Subject: document.NewPlain(""), Body: document.NewPlain("")}, nil},
	} {
		var got []string
		for _, n := range Of(c.in).Notes {
			got = append(got, n.Code+" "+string(n.Part)+" "+string(rune('0'+n.Line)))
			if n.Message == "" || n.Reason == "" || n.Source == "" {
				t.Errorf("%s: %s says too little: %+v", c.name, n.Code, n)
			}
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}

func TestFigures(t *testing.T) {
	r := Of(Input{Subject: document.NewPlain("Your room"), Body: document.NewPlain(fine)})
	if r.Words != 35 || r.Seconds != 9 || r.Questions != 1 || r.Ease == nil || r.EaseWords == "" {
		t.Errorf("figures %+v", r)
	}
}
