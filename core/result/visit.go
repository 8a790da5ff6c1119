// Package result tells what came back of letters, and how sure that is.
//
// Opening is measured by a picture and following by redirected links, which
// programs fetch too: proxies that load every picture for their readers, scanners
// that follow every link, browsers that fetch ahead. What is surely none of a
// reader's is not counted, what may be a machine's is counted apart. The signs are
// common practice, no source; that of fetching ahead is the header Sec-Purpose of
// the Fetch standard (section "Sec-Purpose header"). Departure: a reader behind
// such a proxy counts as a machine, so that opens are told too low, not too high.
package result

import (
	"strings"
	"time"
)

// Weight is how a visit counts.
type Weight int

// The weights of visits.
const (
	Nothing Weight = iota // not counted
	Machine               // counted apart
	Reader
)

// AtOnce is how soon after delivery a visit is taken for a machine's.
const AtOnce = 8 * time.Second

// Burst is the time within which nobody follows two links of one letter.
const Burst = 3 * time.Second

// Visit is one request for what a letter holds.
type Visit struct {
	Method  string
	Agent   string        // the header User-Agent
	Purpose string        // the headers Sec-Purpose, Purpose, X-Purpose and X-Moz
	Since   time.Duration // since the letter was delivered; negative before that was heard
}

// scanners stand in the names of programs that read for nobody.
var scanners = []string{
	"bot", "crawl", "spider", "scan", "preview", "linkcheck", "link check", "curl/", "wget/", "python", "go-http-client", "java/", "okhttp", "libwww",
	"headless", "monitor", "antivirus", "anti-virus", "security",
}

// Weigh tells how a visit counts.
func Weigh(v Visit) Weight {
	agent := strings.ToLower(v.Agent)
	if v.Method != "GET" || strings.TrimSpace(agent) == "" {
		return Nothing
	}
	for _, s := range scanners {
		if strings.Contains(agent, s) {
			return Nothing
		}
	}
	purpose := strings.ToLower(v.Purpose)
	switch {
	case strings.Contains(purpose, "prefetch"), strings.Contains(purpose, "preview"), strings.Contains(purpose, "prerender"):
		return Machine
	case strings.Contains(agent, "proxy"), agent == "mozilla/5.0":
		// A bare name without a system is how proxies hide their readers' programs.
		return Machine
	case v.Since < AtOnce:
		return Machine
	}
	return Reader
}
