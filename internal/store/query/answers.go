package query

// What counts as an answer, for every question about it. To a letter it is a reply, or an answer to a
// question in it; of a person it is also a letter of their own, whatever it answers.
const (
	AnswersLetter = `('replied', 'answered')`
	Wrote         = `('replied', 'received', 'answered')`
)
