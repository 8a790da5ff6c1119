// Package access says who may see, use and edit what. It is one place on
// purpose: every use case asks May, and nothing else decides.
//
// Of the library (folders, templates, passages) and of plans:
//
//	see   the owner, an administrator, the audience, whoever may edit
//	use   whoever may see, when it is ready
//	edit  the owner, an administrator, the editors; leads among the audience
//	      when no editors are named; nobody else of what is for its owner only
//
// Of what is a draft nobody but those who may edit it knows. Audience and
// editors are those of the thing itself, or else of the nearest folder around it
// that says any; when none does, everybody is the audience and leads edit.
package access

import "slices"

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
	SeeTemplate  Action = "see template"
	EditTemplate Action = "edit template" // change, make ready, withdraw, delete
	UseTemplate  Action = "use template"  // pick it for a letter
	SeeFolder    Action = "see folder"
	EditFolder   Action = "edit folder"   // rename, move, order, delete, put something in
	EditShared   Action = "edit shared"   // stationery, approved documents
	EditSenders  Action = "edit senders"  // which addresses others write from
	EditSettings Action = "edit settings" // what holds for the workspace, and how its letters go
	EditRecord   Action = "edit record"   // change a person, company or deal
	ImportPeople Action = "import people"
	EditLetter   Action = "edit letter" // change, send, cancel, throw away
	SeeLetter    Action = "see letter"
	EditRound    Action = "edit round"  // see it, change it, send it, look at what came of it
	EditRecipe   Action = "edit recipe" // keep a round for others to run
	SeePlan      Action = "see plan"
	EditPlan     Action = "edit plan"   // change, make ready, withdraw, delete
	UsePlan      Action = "use plan"    // start people on it
	EditRun      Action = "edit run"    // stop, pause, delay somebody on a plan
	SeeOrder     Action = "see order"   // a standing order, and what it did
	EditOrder    Action = "edit order"  // change it, switch it on
	HaltOrder    Action = "halt order"  // switch it off
	HaltOrders   Action = "halt orders" // stop all of them, and let them act again
)

// User is who asks. TeamID is 0 without a team.
type User struct {
	ID     int64
	Role   Role
	TeamID int64
}

// Who is the kind of an audience.
type Who string

// The kinds of audience. Inherit leaves it to the folder.
const (
	Inherit   Who = ""
	OnlyOwner Who = "owner"
	Some      Who = "some"
	Everybody Who = "everybody"
)

// Audience is a group of users: of the kind Some everybody who is named, is in
// one of the teams or has one of the roles.
type Audience struct {
	Who   Who     `json:"who" enum:",owner,some,everybody"`
	Users []int64 `json:"users,omitempty"`
	Teams []int64 `json:"teams,omitempty"`
	Roles []Role  `json:"roles,omitempty"`
}

// Holds tells whether the user is in the audience. Owners are not looked at.
func (a Audience) Holds(u User) bool {
	switch a.Who {
	case Everybody:
		return true
	case Some:
		return slices.Contains(a.Users, u.ID) || u.TeamID != 0 && slices.Contains(a.Teams, u.TeamID) || slices.Contains(a.Roles, u.Role)
	}
	return false
}

// Rights is what one level says: who may use what is in it, and who may edit it.
type Rights struct {
	Audience Audience `json:"audience"`
	Editors  Audience `json:"editors"`
}

// Nearest gives what counts of levels from the thing itself outwards.
func Nearest(levels ...Rights) Rights {
	var out Rights
	for _, l := range levels {
		if out.Audience.Who == Inherit {
			out.Audience = l.Audience
		}
		if out.Editors.Who == Inherit {
			out.Editors = l.Editors
		}
	}
	return out
}

// Thing is what it is about. OwnerID is 0 where nobody owns it; Draft tells
// that it is not finished: a template that is not ready, a letter that was not
// sent. Rights are those of Nearest.
type Thing struct {
	OwnerID int64
	Draft   bool
	Rights
}

// May tells whether the user may do this. A user without a role may nothing.
func May(u User, a Action, t Thing) bool {
	if u.ID == 0 || (u.Role != Representative && u.Role != TeamLead && u.Role != Administrator) {
		return false
	}
	mine := t.OwnerID == u.ID
	switch a {
	case EditTemplate, EditFolder, EditPlan:
		return edits(u, t)
	case SeeTemplate, SeePlan:
		return edits(u, t) || !t.Draft && inAudience(u, t)
	case UseTemplate, UsePlan:
		return !t.Draft && (edits(u, t) || inAudience(u, t))
	case SeeFolder:
		return edits(u, t) || inAudience(u, t)
	case EditShared, EditRecipe, HaltOrders:
		return u.Role != Representative
	case EditSenders, EditSettings:
		return u.Role == Administrator
	case EditRecord, ImportPeople:
		return true
	case EditLetter, EditRound, EditRun, EditOrder:
		return mine
	case SeeOrder, HaltOrder:
		return mine || u.Role != Representative
	case SeeLetter:
		return mine || !t.Draft
	}
	return false
}

func inAudience(u User, t Thing) bool {
	return t.Audience.Who == Inherit || t.Audience.Holds(u)
}

func edits(u User, t Thing) bool {
	switch {
	case t.OwnerID == u.ID, u.Role == Administrator:
		return true
	case t.Audience.Who == OnlyOwner:
		return false
	case t.Editors.Who == Inherit:
		return u.Role == TeamLead && inAudience(u, t)
	}
	return t.Editors.Holds(u)
}
