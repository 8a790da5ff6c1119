package walk

import (
	"maps"
	"slices"
)

// acts are what can be done. Those whose name begins with a dot are one use case, of which nothing
// is left when it is refused.
var acts = map[string]func(w *walker) error{
	"· add a person":           (*walker).addPerson,
	"· add another person":     (*walker).addPerson,
	"· change a person":        (*walker).changePerson,
	"· change their address":   (*walker).changeAddress,
	"delete a record":          (*walker).deleteRecord,
	"put a record back":        (*walker).putBackRecord,
	"merge":                    (*walker).merge,
	"split":                    (*walker).split,
	"add a deal":               (*walker).addDeal,
	"· move a deal":            (*walker).moveDeal,
	"add a template":           (*walker).addTemplate,
	"change a template":        (*walker).changeTemplate,
	"add a German wording":     (*walker).addWording,
	"delete a template":        (*walker).deleteTemplate,
	"start a letter":           (*walker).startLetter,
	"start another letter":     (*walker).startLetter,
	"type":                     (*walker).typeWords,
	"fill a gap":               (*walker).fillGap,
	"change the recipient":     (*walker).changeRecipient,
	"take what changed":        (*walker).takeNews,
	"say that it fits":         (*walker).settleKept,
	"send":                     (*walker).send,
	"send again and again":     (*walker).send,
	"write and send":           (*walker).writeAndSend,
	"write and send another":   (*walker).writeAndSend,
	"· discard":                (*walker).discard,
	"restore":                  (*walker).restore,
	"take back":                (*walker).takeBack,
	"retry or cancel":          (*walker).retry,
	"start a round":            (*walker).startRound,
	"work on a round":          (*walker).workOnRound,
	"send a round":             (*walker).sendRound,
	"pause, go on, stop":       (*walker).moveRound,
	"add a plan":               (*walker).addPlan,
	"start a plan":             (*walker).startPlan,
	"act on a run":             (*walker).actOnRun,
	"order":                    (*walker).order,
	"a reply comes":            (*walker).reply,
	"a bounce comes":           (*walker).bounce,
	"somebody unsubscribes":    (*walker).unsubscribe,
	"answer a letter":          (*walker).answer,
	"a task":                   (*walker).task,
	"import":                   (*walker).importPeople,
	"undo an import":           (*walker).undoImport,
	"time passes":              (*walker).pass,
	"more time passes":         (*walker).pass,
	"the program is restarted": (*walker).restart,
	"the program is killed":    (*walker).kill,
	"folders":                  (*walker).foldersAct,
	"a passage":                (*walker).passage,
	"stationery":               (*walker).stationery,
	"a document":               (*walker).documentAct,
	"ask and be answered":      (*walker).ask,
	"a list":                   (*walker).list,
	"a recipe":                 (*walker).recipe,
	"do and undo":              (*walker).doAndUndo,
	"do and undo again":        (*walker).doAndUndo,
	"· people of a deal":       (*walker).dealPeople,
	"change many":              (*walker).changeMany,
	"make a contact":           (*walker).makeContact,
	"a note":                   (*walker).note,
	"· change the company":     (*walker).setCompany,
	"the workers work":         (*walker).rest,
}

// rare are acts after which there is less to write to, or nobody.
var rare = map[string]bool{
	"delete a record": true, "delete a template": true, "somebody unsubscribes": true, "a bounce comes": true, "· discard": true, "merge": true, "change a template": true, "more time passes": true, "· change their address": true,
}

// beginning is what every walk begins with.
var beginning = slices.Concat(slices.Repeat([]string{"· add a person"}, 14), slices.Repeat([]string{"add a template"}, 5), []string{"a passage", "stationery", "folders", "a list", "a document", "add a German wording", "add a deal", "add a plan", "add a plan", "order", "start a plan", "start a round"})

var actNames = slices.Sorted(maps.Keys(acts))
