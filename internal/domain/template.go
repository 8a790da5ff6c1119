package domain

import (
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/markup"
)

// Key gives what rights are decided on of a whole template.
func (t *Template) Key() *TemplateKey {
	return &TemplateKey{ID: t.ID, OwnerID: t.OwnerID, State: t.State, FolderID: t.FolderID, Version: t.Version, Rights: t.Rights}
}

// Head is the lines before a text or a Markdown file that name the template.
func (t *Template) Head() string {
	lines := []string{"---", "name: " + t.Name}
	if t.WhenToUse != "" {
		lines = append(lines, "when: "+t.WhenToUse)
	}
	if s := markup.Print(t.Subject); s != "" {
		lines = append(lines, "subject: "+s)
	}
	return strings.Join(append(lines, "---", "", ""), "\n")
}

// VersionRow is one version of a template in their list.
type VersionRow struct {
	Version  int           `json:"version" db:"version"`
	Name     string        `json:"name" db:"name"`
	State    TemplateState `json:"state" db:"state" enum:"draft,ready,withdrawn"`
	StoredAt time.Time     `json:"storedAt" db:"stored_at"`
	By       string        `json:"by" db:"by_name"`
	Sent     int           `json:"sent" db:"sent" doc:"Letters that went out of this version"`
}

// First gives the template whose settings count for t.
func (t *Template) First() int64 {
	if t.SisterOf != nil {
		return *t.SisterOf
	}
	return t.ID
}

// TemplateKey is what rights are decided on.
type TemplateKey struct {
	ID       int64         `db:"id"`
	OwnerID  int64         `db:"owner_id"`
	State    TemplateState `db:"state"`
	FolderID *int64        `db:"folder_id"`
	Version  int           `db:"version"`
	Rights   access.Rights `db:"-"`
}
