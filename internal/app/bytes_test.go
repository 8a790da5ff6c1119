package app_test

import (
	"bytes"
	"flag"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// go test ./internal/app -run TestBytes -write-bytes records the letters anew: only when what
// goes out is meant to be another.
var writeBytes = flag.Bool("write-bytes", false, "record the bytes of letters anew")

// loose is what differs between two letters that say the same: boundaries, days and numbers.
var loose = []struct {
	find *regexp.Regexp
	as   string
}{
	{regexp.MustCompile(`(?m)^Date: .*$`), "Date: (a day)"},
	{regexp.MustCompile(`[0-9a-f]{32,}`), "(boundary)"},
	{regexp.MustCompile(`\bid[0-9]+\b`), "(id)"},
}

func settled(letter []byte) []byte {
	letter = bytes.ReplaceAll(letter, []byte("\r\n"), []byte("\n"))
	letter = bytes.ReplaceAll(letter, []byte("=\n"), nil) // where lines are broken depends on how long the numbers are
	for _, l := range loose {
		letter = l.find.ReplaceAll(letter, []byte(l.as))
	}
	return letter
}

// bytesKinds are templates of each kind of body, with a value, a passage and a link.
var bytesKinds = map[string]library.Input{
	"plain":     {Subject: "Your room, {{person.first_name}}", Body: "Dear {{person.first_name}},\n\n{{>hours}}\n\nSee https://fernhollow.example/rooms.\n\n{{fixed}}Prices are net.{{/fixed}}"},
	"formatted": {Subject: "Your room, {{person.first_name}}", Kind: document.BodyFormatted, Body: `<p>Dear {{person.first_name}},</p><p>{{>hours}}</p><p>See <a href="https://fernhollow.example/rooms">our rooms</a>, <b>{{person.last_name}}</b>.</p>`},
	"page":      {Subject: "Your room, {{person.first_name}}", Kind: document.BodyHTML, Body: `<style>p{color:#123456}</style><p>Hello {{person.first_name}}</p><p><a href="https://fernhollow.example/rooms">Our rooms</a></p>`},
}

// bytesBed is a workspace in which a letter has all that stands around its words: a
// signature, stationery, the way out, the postal address, and opens and clicks are measured.
func bytesBed(t *testing.T) (*testbed.Bed, int64) {
	t.Helper()
	b, boss := signing(t)
	noGrounds(t, b)
	set, err := b.App.Team.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	set.OptOutLink, set.PostalAddress, set.Tracking, set.Grounds = true, true, true, []string{}
	if err := b.App.Team.SetSettings(ctx, boss, set); err != nil {
		t.Fatal(err)
	}
	team, err := b.Store.Team(ctx, *b.Rep.TeamID)
	if err != nil {
		t.Fatal(err)
	}
	team.PostalAddress = "Mill Lane 4\nHarrowmere"
	if err := b.Store.UpdateTeam(ctx, team); err != nil {
		t.Fatal(err)
	}
	sheet := library.StationeryInput{Name: "House", Header: formatted(t, "<p>Fernhollow for {{person.full_name|you}}</p>"), Footer: formatted(t, "<p>{{sender.email|}}</p>"), Ready: true, Default: true}
	if _, err := b.App.Library.AddStationery(ctx, b.Lead, sheet); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.AddPassage(ctx, b.Lead, library.PassageInput{Name: "Hours", Shortcut: "hours", Body: "We are open from 8 to 5, {{person.first_name}}."}); err != nil {
		t.Fatal(err)
	}
	return b, b.Person(t, "Ada", "Quill", "ada@quill.example")
}

// What goes out is what went out when it was recorded, by every way and in every kind of body:
// with the signature, the stationery, the quote, the foot and the measured links.
func TestBytes(t *testing.T) {
	for kind, in := range bytesKinds {
		for way, queue := range onItsWay {
			t.Run(kind+" "+way, func(t *testing.T) {
				b, ada := bytesBed(t)
				in := library.TemplateInput{Name: "T", Input: in}
				template := addTemplate(t, b, b.Lead, in)
				id := queue(t, b, ada, template)
				b.Pass(time.Second)
				if err := b.Deliver(ctx, id); err != nil {
					t.Fatal(err)
				}
				l := inState(t, b, id, domain.Sent)
				got, err := b.Store.Bytes(ctx, id)
				if err != nil {
					t.Fatal(err)
				}
				got = settled(got)
				if !l.Tracked && kind != "plain" || !bytes.Contains(got, []byte("Harrowmere")) {
					t.Errorf("tracked %v:\n%s", l.Tracked, got)
				}
				file := filepath.Join("testdata", "bytes", strings.ReplaceAll(kind+"-"+way, " ", "-")+".eml")
				if *writeBytes {
					if err := os.WriteFile(file, got, 0o600); err != nil {
						t.Fatal(err)
					}
				}
				want, err := os.ReadFile(file)
				if err != nil {
					t.Fatal(err)
				}
				if !bytes.Equal(got, want) {
					t.Errorf("another letter goes out:\n%s\nwant\n%s", got, want)
				}
			})
		}
	}
}
