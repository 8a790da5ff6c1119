package plan

// Ending is what something that happened does to a run.
type Ending struct {
	Stops  bool
	Delays bool   // until the day that is stated
	Why    string // for people
}

// endings are by the kinds of the history (internal/domain).
var endings = map[string]Ending{
	"replied":    {Stops: true, Why: "They replied"},
	"received":   {Stops: true, Why: "They wrote to you"},
	"answered":   {Stops: true, Why: "They answered the question in a letter"},
	"bounced":    {Stops: true, Why: "A letter bounced"},
	"complained": {Stops: true, Why: "They reported a letter as unwanted"},
	"opted out":  {Stops: true, Why: "They unsubscribed"},
	"deleted":    {Stops: true, Why: "Their record was deleted"},
	"away":       {Delays: true, Why: "They are out of the office"},
}

// OnEvent tells what an event of the history does to the runs of its person.
func OnEvent(kind string) Ending { return endings[kind] }

// StoppingEvents are the kinds that do anything.
func StoppingEvents() []string {
	out := make([]string, 0, len(endings))
	for kind := range endings {
		out = append(out, kind)
	}
	return out
}
