// Package access says who may see, use and edit what. It is one place on
// purpose: every use case asks May, and nothing else decides.
package access

// Role is what a user is in the workspace.
type Role string

// The roles.
const (
	Representative Role = "representative"
	TeamLead       Role = "lead"
	Administrator  Role = "administrator"
)

// Action is what somebody wants to do.
type Action string

// The actions.
const (
	EditTemplate Action = "edit template" // change, make ready, withdraw
	UseTemplate  Action = "use template"  // pick it for a letter
	EditRecord   Action = "edit record"   // change a person, company or deal
	ImportPeople Action = "import people"
	EditLetter   Action = "edit letter" // change, send, cancel, throw away
	SeeLetter    Action = "see letter"
)

// User is who asks.
type User struct {
	ID   int64
	Role Role
}

// Thing is what it is about. OwnerID is 0 where nobody owns it; Draft tells
// that it is not finished: a draft template, a letter that was not sent.
type Thing struct {
	OwnerID int64
	Draft   bool
}

// May tells whether the user may do this. A user without a role may nothing.
func May(u User, a Action, t Thing) bool {
	if u.ID == 0 || (u.Role != Representative && u.Role != TeamLead && u.Role != Administrator) {
		return false
	}
	mine := t.OwnerID == u.ID
	switch a {
	case EditTemplate:
		return mine || u.Role != Representative
	case UseTemplate:
		return !t.Draft
	case EditRecord, ImportPeople:
		return true
	case EditLetter:
		return mine
	case SeeLetter:
		return mine || !t.Draft
	}
	return false
}
