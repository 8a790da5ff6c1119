package main

import (
	"context"
	"fmt"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// measurePlans measures plans: their dates beside bare date arithmetic, and how what is due is
// picked among very many steps that wait.
func measurePlans() {
	planDates()
	planDue()
}

const planRuns = 10_000

// planDates works out the dates of ten thousand runs of eight steps: working days, holidays,
// clocks of both sides. The bare way adds days to a date and puts an hour to it, in the zone.
func planDates() {
	zones := []string{"Europe/London", "Europe/Berlin", "America/New_York", "Australia/Sydney"}
	countries := []string{"GB", "DE", "US", "AU"}
	places := make([]plan.Place, len(zones))
	for i := range zones {
		places[i] = plan.Place{Zone: must(time.LoadLocation(zones[i])), Country: countries[i]}
	}
	steps := []plan.Timing{{}, {Days: 3, Working: true}, {Days: 2, Working: true, Clock: plan.Mine, At: "14:30"}, {Days: 5}, {Days: 4, Working: true, Free: plan.GoBefore}, {At: plan.AtOnce}, {Days: 10, Working: true}, {Days: 7, At: "08:15"}}
	begun := time.Date(2026, 1, 5, 10, 30, 0, 0, time.UTC)
	var sum int64
	sides := []side{
		{"bare date arithmetic", func(n int) {
			for range n {
				for run := range planRuns {
					zone, at := places[run%4].Zone, begun.Add(time.Duration(run)*time.Hour)
					for i := range steps {
						day := at.In(zone).AddDate(0, 0, steps[i].Days)
						at = time.Date(day.Year(), day.Month(), day.Day(), 9, 0, 0, 0, zone)
						sum += at.Unix()
					}
				}
			}
		}},
		{"dates of the plan", func(n int) {
			for range n {
				var s plan.Scheduler
				var slots []plan.Slot
				for run := range planRuns {
					w := &plan.Where{Theirs: places[run%4], Mine: places[0]}
					start := begun.Add(time.Duration(run) * time.Hour)
					slots = s.Dates(steps, w, start, start, slots[:0])
					for i := range slots {
						sum += slots[i].At.Unix()
					}
				}
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table(fmt.Sprintf("dates of %d runs of %d steps", planRuns, len(steps)), sides, ratio, nanos)
	aim("plan-dates-by-bare-arithmetic", ratio[1], "<=", 20)
}

// planDue picks fifty steps that are due among a million that wait, beside ten thousand.
func planDue() {
	small, large := newBed(), newBed()
	defer small.close()
	defer large.close()
	now := time.Now().UTC().Truncate(time.Millisecond)
	small.runsThatWait(10_000, now)
	large.runsThatWait(1_000_000, now)
	pick := func(b *bed) func(n int) {
		ctx := context.Background()
		return func(n int) {
			for range n {
				ids := must(b.s.ClaimRuns(ctx, now, time.Minute, 50))
				if len(ids) != 50 {
					panic(fmt.Sprint("picked ", len(ids)))
				}
				check(b.s.LetGo(ctx))
				if must(b.s.NextStepAt(ctx)) == nil {
					panic("nothing is next")
				}
			}
		}
	}
	sides := []side{{"50 due among 10,000 steps", pick(small)}, {"50 due among 1,000,000 steps", pick(large)}}
	ratio, nanos := ratios(sides...)
	table("picking what is due", sides, ratio, nanos)
	aim("plan-due-1M-by-10k", ratio[1], "<=", 2)
}

// runsThatWait stores so many runs, of which a hundred are due.
func (b *bed) runsThatWait(n int, now time.Time) {
	ctx := context.Background()
	people, _ := b.people(1000)
	id := must(b.s.AddPlan(ctx, domain.Plan{OwnerID: b.u.ID, Name: "P", State: domain.TemplateReady, Version: 1, CreatedAt: now, UpdatedAt: now, UpdatedBy: b.u.ID}))
	for done := 0; done < n; {
		check(b.s.Within(ctx, func(ctx context.Context) error {
			for range min(10_000, n-done) {
				at := now.Add(time.Hour + time.Duration(done)*time.Second)
				if done < 100 {
					at = now.Add(-time.Duration(done) * time.Second)
				}
				if _, err := b.s.AddRun(ctx, domain.Run{PlanID: id, PersonID: people[done%len(people)], OwnerID: b.u.ID, State: domain.RunGoing, StepKey: 1, StepAt: &at, FromAt: now, Version: 1, StartedAt: now}); err != nil {
					return err
				}
				done++
			}
			return nil
		}))
	}
}
