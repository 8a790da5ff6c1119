package sentence_test

import (
	"slices"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/core/sentence"
)

func TestWithoutFrames(t *testing.T) {
	both := []sentence.Frame{sentence.Greeting, sentence.Closing}
	for _, c := range []struct {
		in, want string
		gone     []sentence.Frame
	}{
		{"Dear Ada,\n\nThe room is ready.\n\nKind regards,\nImre", "The room is ready.", both},
		{"Hallo Eva,\n\nder Raum ist fertig.\n\nViele Grüße\n\nImre", "der Raum ist fertig.", both},
		{"Bonjour Ada,\n\nLa chambre est prête.\n\nBien cordialement,", "La chambre est prête.", both},
		{"Estimada Ada:\n\nLa cámara está lista.\n\nUn cordial saludo,\nImre\nFernhollow", "La cámara está lista.", both},
		{"Gentile Ada,\n\nLa cella è pronta.\n\nCordiali saluti\nImre", "La cella è pronta.", both},
		{"Olá Ada,\n\nA câmara está pronta.\n\nCom os melhores cumprimentos,\nImre", "A câmara está pronta.", both},
		{"Beste Ada,\n\nDe cel is klaar.\n\nMet vriendelijke groet,\nImre", "De cel is klaar.", both},
		{"Hej Ada!\n\nRummet är klart.\n\nVänliga hälsningar\nImre", "Rummet är klart.", both},
		{"The room is ready.\n\nDear is the word for it, she said.", "The room is ready.\n\nDear is the word for it, she said.", nil},
		{"Dear Ada,\n\nThe room is ready.", "The room is ready.", both[:1]},
		{"Dear Ada,\n\nKind regards,", "Dear Ada,\n\nKind regards,", nil}, // nothing would be left
		{"Best,\nwe think, is the large room.\na\nb\nc\nd\ne\nf\ng\nh", "Best,\nwe think, is the large room.\na\nb\nc\nd\ne\nf\ng\nh", nil},
	} {
		in := document.NewPlain(c.in)
		out, gone := sentence.WithoutFrames(in, both...)
		if got := render.RenderText(out); got != c.want || !slices.Equal(gone, c.gone) {
			t.Errorf("%q: %q, %v", c.in, got, gone)
		}
		if render.RenderText(in) != c.in {
			t.Errorf("%q was changed", c.in)
		}
	}
}

func TestFrameLines(t *testing.T) {
	greetings, closings := sentence.FrameLines(document.NewPlain("Dear Ada,\n\nWe met.\n\nHello Ada,\n\nAgain.\n\nKind regards,\n\nBest wishes,\nImre"))
	if !slices.Equal(greetings, []int{1, 5}) || !slices.Equal(closings, []int{9, 11}) {
		t.Error(greetings, closings)
	}
	if greetings, closings = sentence.FrameLines(document.NewPlain("Beste is a word.\nHi there. It is I\nBest we wait")); len(greetings)+len(closings) > 0 {
		t.Error(greetings, closings)
	}
}
