package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"runtime"
	"slices"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/preflight"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
	writing "lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
)

// measureRounds measures rounds: the check of one recipient beside the bare merge, a round of ten
// thousand, its list, and how fast its letters go beside letters that wait already.
func measureRounds() {
	preflightByMerge()
	roundOfTenThousand()
	roundSending()
}

const roundBody = "Dear {{person.first_name}},\n\nthank you for the talk about the cold room in {{person.city}}. The quote holds until the end of the month.\n\nKind regards"

func preflightByMerge() {
	cat := field.New(nil)
	p, _ := template.Compile(template.Template{Subject: markup.Parse("For {{person.first_name}}"), Body: markup.Parse(roundBody)}, cat)
	r := field.NewReader("en-GB")
	v := cat.NewValues()
	v.Kind = field.Lead
	v.Set("person.first_name", field.Of("Ada"))
	v.Set("person.city", field.Of("Leeds"))
	var c preflight.Checker
	f := eligibility.Facts{Email: "ada@quill.example", Basis: "Asked us", NeedsBasis: true}
	var buf []byte
	sides := []side{
		{"merge of subject and body", func(n int) {
			for range n {
				buf, _ = p.AppendSubject(buf[:0], v, nil, r)
				buf, _ = p.AppendBody(buf, v, nil, r, safehtml.AsText)
			}
		}},
		{"preflight of one recipient", func(n int) {
			for range n {
				c.Look(&f, p, v, nil, r)
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table("preflight, per recipient", sides, ratio, nanos)
	aim("preflight-by-merge", ratio[1], "<=", 3)
}

// people adds so many and a ready template.
func (b *bed) people(n int) (ids []int64, templateID int64) {
	ctx := context.Background()
	now := time.Now().UTC()
	list := make([]domain.Person, n)
	for i := range list {
		list[i] = domain.Person{Kind: field.Lead, FirstName: "Ada", LastName: fmt.Sprintf("Quill%d", i), Email: fmt.Sprintf("p%d@quill.example", i), City: "Leeds", Basis: "Asked us", OwnerID: &b.u.ID, CreatedAt: now, UpdatedAt: now}
		if i%50 == 0 {
			list[i].City = ""
		}
	}
	ids, err := b.s.AddPeople(ctx, list)
	check(err)
	templateID, err = b.s.AddTemplate(ctx, domain.Template{
		Name: "T", Subject: document.NewPlain("The cold room"), Body: render.Formatted(markup.Parse(roundBody)), State: domain.TemplateReady, Version: 1, OwnerID: b.u.ID, CreatedAt: now, UpdatedAt: now, UpdatedBy: b.u.ID,
	})
	check(err)
	return ids, templateID
}

// checked checks a round of so many and gives how long the first results took, all of them,
// and the most memory that was in use meanwhile.
func (b *bed) checked(n int) (id int64, first, all time.Duration, heap uint64) {
	ctx, done := context.WithCancel(context.Background())
	defer done()
	ids, templateID := b.people(n)
	runtime.GC()
	began := time.Now()
	go b.a.Rounds.Run(ctx, check)
	id, err := b.a.Rounds.StartRound(ctx, b.u, writing.Start{People: ids, TemplateID: &templateID})
	check(err)
	ids = nil
	var mem, before runtime.MemStats
	runtime.ReadMemStats(&before)
	for {
		g, err := b.s.Groups(ctx, id)
		check(err)
		if first == 0 && g.Unknown < n {
			first = time.Since(began)
		}
		runtime.ReadMemStats(&mem)
		heap = max(heap, mem.HeapAlloc)
		if g.Unknown == 0 {
			return id, first, time.Since(began), heap
		}
		time.Sleep(5 * time.Millisecond)
	}
}

func roundOfTenThousand() {
	ctx := context.Background()
	small := newBed()
	_, _, _, less := small.checked(1000)
	small.close()
	b := newBed()
	defer b.close()
	id, first, all, more := b.checked(10_000)
	fmt.Printf("\na round of 10,000: first results after %v, all after %v; memory at most %d MiB, of 1,000 %d MiB\n", first.Round(time.Millisecond), all.Round(time.Millisecond), more>>20, less>>20)
	aim("round-first-by-second", first.Seconds(), "<=", 1)
	aim("round-memory-10k-by-1k", float64(more)/float64(less), "<=", 1.5)
	r := rand.New(rand.NewPCG(16, 1))
	var took []float64
	for range 300 {
		q := domain.MembersQuery{RoundID: id, Offset: r.IntN(98) * 100, Limit: 100, Hardest: r.IntN(2) == 0, Group: []string{"", "", "ready", "gap", "open"}[r.IntN(5)]}
		began := time.Now()
		_, _, err := b.a.Rounds.People(ctx, b.u, q)
		check(err)
		took = append(took, time.Since(began).Seconds())
	}
	slices.Sort(took)
	fmt.Printf("its list, 300 windows of 100 anywhere in it: median %.1f ms, 95th percentile %.1f ms\n", 1000*took[150], 1000*took[285])
	aim("round-list-p95-by-100ms", took[285]/0.1, "<=", 1)
}

// roundSending sends letters of a round beside as many that wait already; and merges and
// stores them alone, without anybody who sends.
func roundSending() {
	const n = 3000
	ctx := context.Background()
	server, stop := sink()
	defer stop()
	var whole, alone []float64
	for range 3 {
		plain := newBed()
		plain.waiting(n)
		bare := n / plain.send(server, n, 4).Seconds()
		plain.close()

		b := newBed()
		_, ready := b.sendRound(n)
		running, done := context.WithCancel(ctx)
		took := float64(ready) / b.sendWith(server, ready, 4, func() { go b.a.Rounds.Run(running, check) }).Seconds()
		done()
		b.close()

		b = newBed()
		id, ready := b.sendRound(n)
		made := float64(ready) / b.released(id, ready).Seconds()
		b.close()
		fmt.Printf("letters a second: %.0f that waited were sent; %.0f of a round were merged and stored; %.0f did both\n", bare, made, took)
		whole, alone = append(whole, took/bare), append(alone, made/bare)
	}
	aim("round-composing-by-sending", median(alone), ">=", 1)
	aim("round-whole-by-sending", median(whole), ">=", 0.5) // both share the store and two processors
}

// sendRound begins to send a round, and gives how many letters are ready.
func (b *bed) sendRound(n int) (id int64, ready int) {
	ctx := context.Background()
	id, _, _, _ = b.checked(n)
	check(b.s.SetHold(ctx, b.u.ID, 0))
	b.u.HoldSeconds = 0
	sheet, err := b.a.Rounds.Round(ctx, b.u, id)
	check(err)
	ready = sheet.Groups.Ready
	_, err = b.a.Rounds.Send(ctx, b.u, id, sheet.Version, ready, domain.RoundWhen{All: true})
	check(err)
	return id, ready
}

// released puts the letters of a round into the outbox; what stands there is taken away
// meanwhile, which does not count.
func (b *bed) released(id int64, n int) (took time.Duration) {
	ctx := context.Background()
	for left := n; left > 0; {
		began := time.Now()
		_, err := b.a.Rounds.Work(ctx)
		took += time.Since(began)
		check(err)
		r, err := b.s.DB().Exec(`UPDATE letters SET state = 'cancelled' WHERE round_id = ? AND state = 'waiting'`, id)
		check(err)
		gone, err := r.RowsAffected()
		check(err)
		left -= int(gone)
	}
	return took
}
