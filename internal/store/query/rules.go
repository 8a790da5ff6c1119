package query

// What counts as an answer, for every question about it. To a letter it is a reply, or an answer to a
// question in it; of a person it is also a letter of their own, whatever it answers.
const (
	AnswersLetter = `('replied', 'answered')`
	Wrote         = `('replied', 'received', 'answered')`
)

// OpenDeal is the condition of a deal d that is open, as domain.Deal.Open is; RunsNotOver are the states of
// runs of which something may still come.
const (
	OpenDeal    = `d.stage NOT IN ('won', 'lost')`
	RunsNotOver = `('going', 'waiting', 'paused')`
)
