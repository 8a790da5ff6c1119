package postoffice

import (
	"hash/fnv"
	"math/rand/v2"
	"time"

	"lucidletter/internal/app/postbox"
)

// The characters of recipients. The first is everybody's when nothing is drawn.
const (
	quiet    = "quiet"
	prompt   = "prompt"
	slow     = "slow"
	never    = "never"
	yes      = "yes"
	no       = "no"
	asks     = "asks"
	away     = "away"
	full     = "full"
	unknown  = "unknown"
	returns  = "returns"
	greylist = "greylist"
	proxy    = "proxy"
	scanner  = "scanner"
	optsOut  = "opts-out"
	complain = "complains"
)

// characters as people read them, in the order of a list.
func characters() []postbox.Character {
	return []postbox.Character{
		{Key: quiet, Name: "Quiet", Does: "keeps letters and does nothing"},
		{Key: prompt, Name: "Prompt", Does: "opens within minutes and follows a link"},
		{Key: slow, Name: "Slow", Does: "opens after a day or two and asks something days later"},
		{Key: never, Name: "Never", Does: "never opens a letter"},
		{Key: yes, Name: "Says yes", Does: "opens and agrees within an hour or two"},
		{Key: no, Name: "Says no", Does: "opens and declines within an hour or two"},
		{Key: asks, Name: "Asks", Does: "opens and asks a question within an hour or two"},
		{Key: away, Name: "Away", Does: "answers automatically, back in a week"},
		{Key: full, Name: "Mailbox full", Does: "the server has no room now"},
		{Key: unknown, Name: "Unknown", Does: "the server knows no such mailbox"},
		{Key: returns, Name: "Comes back", Does: "the server takes the letter and returns it later"},
		{Key: greylist, Name: "Greylisting", Does: "the server takes letters only when they come again after a minute"},
		{Key: proxy, Name: "Picture proxy", Does: "a proxy fetches all pictures at once, whoever reads"},
		{Key: scanner, Name: "Link scanner", Does: "a scanner follows every link at once"},
		{Key: optsOut, Name: "Opts out", Does: "opens and wants no more letters"},
		{Key: complain, Name: "Complains", Does: "reports the letter to the mail server"},
	}
}

// shares is how many of a hundred mailboxes have a character; the rest are quiet.
var shares = []struct {
	key   string
	share uint64
}{
	{prompt, 16}, {slow, 14}, {never, 16}, {yes, 10}, {no, 8}, {asks, 8}, {away, 5}, {full, 2}, {unknown, 3}, {returns, 2}, {greylist, 4}, {proxy, 6}, {scanner, 3}, {optsOut, 2}, {complain, 1},
}

// drawn is the character of a mailbox by the seed; the same for the same seed.
func drawn(seed uint64, mailbox string) string {
	if seed == 0 {
		return quiet
	}
	at := rand.New(rand.NewPCG(seed, sum(mailbox))).Uint64N(100)
	for _, s := range shares {
		if at < s.share {
			return s.key
		}
		at -= s.share
	}
	return quiet
}

func sum(s string) uint64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(s)) // never fails
	return h.Sum64()
}

// errand is what is done so long after a letter arrived.
type errand struct {
	kind  string
	after time.Duration
}

// The errands.
const (
	open       = "open"
	click      = "follow a link"
	clickAll   = "follow all links"
	fetch      = "fetch the pictures"
	sayYes     = "say yes"
	sayNo      = "say no"
	ask        = "ask something"
	sayAway    = "answer automatically"
	sendBack   = "return the letter"
	stopIt     = "opt out"
	complainOf = "complain"
)

// errands are what a character does about a letter.
func errands(character string, r *rand.Rand) []errand {
	between := func(from, to time.Duration) time.Duration {
		return from + time.Duration(r.Int64N(int64(to-from))).Truncate(time.Second)
	}
	soon := between(2*time.Minute, 12*time.Minute)
	answer := soon + between(20*time.Minute, 100*time.Minute)
	switch character {
	case prompt:
		return []errand{{open, soon}, {click, soon + between(20*time.Second, 2*time.Minute)}}
	case slow:
		later := between(26*time.Hour, 50*time.Hour)
		return []errand{{open, later}, {ask, later + between(24*time.Hour, 60*time.Hour)}}
	case yes:
		return []errand{{open, soon}, {sayYes, answer}}
	case no:
		return []errand{{open, soon}, {sayNo, answer}}
	case asks:
		return []errand{{open, soon}, {ask, answer}}
	case away:
		return []errand{{sayAway, between(5*time.Second, 40*time.Second)}}
	case returns:
		return []errand{{sendBack, between(time.Minute, 5*time.Minute)}}
	case proxy:
		return []errand{{fetch, between(time.Second, 5*time.Second)}}
	case scanner:
		return []errand{{clickAll, between(time.Second, 5*time.Second)}}
	case optsOut:
		return []errand{{open, soon}, {stopIt, soon + time.Minute}}
	case complain:
		return []errand{{open, soon}, {complainOf, soon + time.Minute}}
	}
	return nil
}
