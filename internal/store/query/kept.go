package query

import (
	"encoding/json"
	"sync"
	"time"
)

// Places remembers where in the sorted list of people every PlacesApart-th stands, so that
// a page from the middle of very many is read from near by. It holds as long as nobody is
// added or changed.
type Places struct {
	mu      sync.Mutex
	edition int64
	busy    map[string]bool // lists that somebody is finding out about
	total   map[string]int  // by column and kind, as the marks
	marks   map[string][]Place
}

// Of gives what is remembered of a list. When it is not known, marks are nil while somebody
// finds it out, and empty for who is to find out and to call Keep.
func (p *Places) Of(edition int64, list string) (marks []Place, total int, known bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.edition != edition {
		p.edition, p.total, p.marks, p.busy = edition, map[string]int{}, map[string][]Place{}, map[string]bool{}
	}
	if marks, known = p.marks[list]; !known {
		if p.busy[list] {
			return nil, 0, false
		}
		p.busy[list] = true
		return []Place{}, 0, false
	}
	return marks, p.total[list], true
}

// Known gives what is remembered of a list, if it is.
func (p *Places) Known(edition int64, list string) (marks []Place, total int, known bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if marks, known = p.marks[list]; !known || p.edition != edition {
		return nil, 0, false
	}
	return marks, p.total[list], true
}

// Keep remembers what was found out, unless people changed meanwhile; nil that it could
// not be.
func (p *Places) Keep(edition int64, list string, marks []Place, total int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.edition != edition {
		return
	}
	if p.busy[list] = false; marks != nil {
		p.marks[list], p.total[list] = marks, total
	}
}

// Place is a person in a sorted list, by what it is sorted by.
type Place struct {
	Key string `db:"key"`
	ID  int64  `db:"id"`
}

// PlacesApart is how far two places are apart.
const PlacesApart = 500

// FoundLists keeps the ids of lists that were found a moment ago, so that somebody who goes
// through one does not have it found for every page. A list holds as long as nobody is added
// or changed, and keptFor at most: what came back changes lists too.
type FoundLists struct {
	mu      sync.Mutex
	edition int64
	lists   map[string]foundList
	held    int // ids in all
}

type foundList struct {
	ids []int64
	at  time.Time
}

const keptFor, mostHeld = 10 * time.Second, 3_000_000

func foundKey(query string, args []any) string {
	text, _ := json.Marshal(args) // of strings, numbers and times
	return query + string(text)
}

// Of gives the ids of a list that was found a moment ago.
func (f *FoundLists) Of(edition int64, query string, args []any) ([]int64, bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	l, ok := f.lists[foundKey(query, args)]
	return l.ids, ok && f.edition == edition && time.Since(l.at) < keptFor
}

// Keep keeps the ids of a list.
func (f *FoundLists) Keep(edition int64, query string, args []any, ids []int64) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.edition != edition || f.lists == nil || f.held+len(ids) > mostHeld {
		f.edition, f.lists, f.held = edition, map[string]foundList{}, 0
	}
	if len(ids) > mostHeld {
		return
	}
	key := foundKey(query, args)
	f.held += len(ids) + 1 - len(f.lists[key].ids) // also many that are empty come to an end
	f.lists[key] = foundList{ids, time.Now()}
}
