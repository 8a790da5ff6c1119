package transfer

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// What a row that asks can be besides one of the people.
const (
	AsNew    = "new"
	LeaveOut = "skip"
)

// seenRow is a row with an address; of its name the hash.
type seenRow struct {
	line int32
	name uint64
}

// sees remembers a row with an address.
func (r *importRun) sees(key string, line int, name string) {
	at, row := r.hash(key), seenRow{int32(min(line, math.MaxInt32)), r.hash(field.PlainWords(name))}
	if _, there := r.seen[at]; there {
		r.again[at] = append(r.again[at], row)
	} else {
		r.seen[at] = row
	}
}

// before gives the rows before this one with an address.
func (r *importRun) before(key string) []seenRow {
	at := r.hash(key)
	first, there := r.seen[at]
	if !there {
		return nil
	}
	return append([]seenRow{first}, r.again[at]...)
}

// matched says what a row is about.
type matched int

const (
	isNew matched = iota
	isThere
	isOther // new although others have the address
	skipped // asked, or left out
)

// match finds the person that a row is about: who has its address, and of several the
// one who has its name. When that does not tell, the row asks.
func (r *importRun) match(ctx context.Context, cells map[string]string, line int) (domain.Person, matched, error) {
	email := cells["person.email"]
	if email == "" {
		return domain.Person{}, isNew, nil
	}
	if err := field.CheckEmail(email); err != nil {
		return domain.Person{}, skipped, domain.Invalid("person.email", "%v", err)
	}
	key, name := field.EmailKey(email), domain.JoinName(cells["person.first_name"], cells["person.last_name"])
	found, looked := r.there[key]
	if !looked { // the cell was tidied
		var err error
		if found, err = r.s.PeopleByEmail(ctx, key); err != nil {
			return domain.Person{}, skipped, err
		}
	}
	ask := domain.ImportAsk{Key: key, Line: line, Who: name, Email: email, People: []domain.ImportPerson{}}
	if before := r.before(key); len(before) > 0 {
		ask.Key = fmt.Sprintf("%s line %d", key, line)
		ask.Why = fmt.Sprintf("%s stands in line %d already", email, before[0].line)
		if i := slices.IndexFunc(before, func(s seenRow) bool { return s.name == r.hash(field.PlainWords(name)) }); i >= 0 {
			return domain.Person{}, skipped, domain.Invalid("person.email", "%s stands in line %d already, with the same name; keep one of the two rows", email, before[i].line)
		}
	} else {
		named := slices.DeleteFunc(slices.Clone(found), func(p domain.Person) bool { return !sameName(domain.JoinName(p.FirstName, p.LastName), name) })
		switch {
		case len(found) == 0:
			return domain.Person{}, isNew, nil
		case len(found) == 1 && mayBe(&found[0], cells):
			return found[0], isThere, nil
		case len(named) == 1 && name != "":
			return named[0], isThere, nil
		}
		if ask.Why = fmt.Sprintf("%s belongs to %d people", email, len(found)); len(found) == 1 {
			ask.Why = fmt.Sprintf("%s belongs to %s, who has another name", email, found[0].Name())
		}
	}
	for _, p := range found {
		ask.People = append(ask.People, domain.ImportPerson{ID: p.ID, Name: p.Name(), About: strings.Join(slices.DeleteFunc([]string{p.JobTitle, p.CompanyName, p.City, string(p.Kind)}, func(s string) bool { return s == "" }), ", ")})
	}
	ask.Answer = r.o.Answers[ask.Key]
	if len(r.report.Asks) < maxRefusals {
		r.report.Asks = append(r.report.Asks, ask)
	}
	switch ask.Answer {
	case "":
		r.report.Asked++
		return domain.Person{}, skipped, nil
	case LeaveOut:
		r.report.Skipped++
		return domain.Person{}, skipped, nil
	case AsNew:
		return domain.Person{}, isOther, nil
	}
	for _, p := range found {
		if ask.Answer == strconv.FormatInt(p.ID, 10) {
			return p, isThere, nil
		}
	}
	return domain.Person{}, skipped, domain.Invalid("person.email", "nobody with the address %s is number %s any more; choose again", email, ask.Answer)
}

// mayBe reports whether a row may be about somebody who has its address: they share a first or a
// last name, or one of the two has none. Somebody with another name is never guessed to be them.
func mayBe(p *domain.Person, cells map[string]string) bool {
	said := func(path, s string) string {
		if field.Junk(field.Def{Path: path}, field.Of(s)) {
			return ""
		}
		return field.PlainWords(s)
	}
	var have, new []string
	for path, s := range map[string]string{"person.first_name": p.FirstName, "person.last_name": p.LastName} {
		have, new = append(have, strings.Fields(said(path, s))...), append(new, strings.Fields(said(path, cells[path]))...)
	}
	return len(have) == 0 || len(new) == 0 || slices.ContainsFunc(new, func(w string) bool {
		return slices.ContainsFunc(have, func(h string) bool {
			return h == w || len(w) == 1 && strings.HasPrefix(h, w) || len(h) == 1 && strings.HasPrefix(w, h)
		})
	})
}

func sameName(a, b string) bool { return field.PlainWords(a) == field.PlainWords(b) }
