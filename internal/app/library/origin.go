package library

import (
	"context"
	"errors"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/internal/domain"
)

// Origin tells how a copy stands to the template that it was made of. Version is
// the one that the copy last looked at, Now the latest.
type Origin struct {
	ID      int64              `json:"id"`
	Name    string             `json:"name"`
	Version int                `json:"version"`
	Now     int                `json:"now"`
	Gone    bool               `json:"gone" doc:"It was deleted, or you may not see it any more"`
	Moved   bool               `json:"moved" doc:"It has changed since"`
	Subject []Stretch          `json:"subject" doc:"What it changed in the subject, by words"`
	Changes []OriginDifference `json:"changes" doc:"What it changed in the body, by paragraph"`
	Whole   bool               `json:"whole" doc:"The kinds of body differ, so that it can be taken over only as a whole"`
}

// OriginDifference is a place at which the original changed.
type OriginDifference struct {
	Words    []Stretch `json:"words" doc:"What the original changed"`
	Mine     string    `json:"mine" doc:"What the copy says there"`
	Conflict bool      `json:"conflict" doc:"The copy was changed there too"`
}

// threeOf loads the original as the copy knew it and as it is now, and the copy.
func (a *Service) threeOf(ctx context.Context, u domain.User, id int64, what access.Action) (base, theirs, mine domain.Template, err error) {
	if mine, err = a.TemplateFor(ctx, u, what, id); err != nil {
		return base, theirs, mine, err
	}
	if mine.OriginID == nil {
		return base, theirs, mine, &domain.StateError{Why: "This template doesn’t follow another one."}
	}
	if theirs, err = a.TemplateFor(ctx, u, access.SeeTemplate, *mine.OriginID); err != nil {
		return base, theirs, mine, err
	}
	base, err = a.store.TemplateVersion(ctx, theirs.ID, mine.OriginVer)
	return base, theirs, mine, err
}

// sameWording tells whether two versions say the same.
func sameWording(a, b *domain.Template) bool {
	return markup.Print(a.Subject) == markup.Print(b.Subject) && markup.Print(a.Body) == markup.Print(b.Body) && a.Body.Attrs == b.Body.Attrs
}

// OriginOf tells what changed in the original of a copy, or ErrNotFound when it
// follows none.
func (a *Service) OriginOf(ctx context.Context, u domain.User, id int64) (Origin, error) {
	base, theirs, mine, err := a.threeOf(ctx, u, id, access.SeeTemplate)
	out := Origin{Subject: []Stretch{}, Changes: []OriginDifference{}}
	switch {
	case mine.OriginID != nil && errors.Is(err, domain.ErrNotFound):
		t, err := a.store.Template(ctx, *mine.OriginID)
		out.ID, out.Name, out.Gone = *mine.OriginID, t.Name, true
		return out, err
	case err != nil:
		return out, err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	out.ID, out.Name, out.Version, out.Now = theirs.ID, theirs.Name, mine.OriginVer, theirs.Version
	// What is being tried out in a draft is not offered.
	if out.Moved = theirs.State == domain.TemplateReady && !sameWording(&base, &theirs); !out.Moved {
		return out, nil
	}
	if s := CompareWords(markup.Print(base.Subject), markup.Print(theirs.Subject)); slices.ContainsFunc(s, func(s Stretch) bool { return s.Kind != "same" }) {
		out.Subject = s
	}
	if out.Whole = theirs.Body.Attrs.Body != mine.Body.Attrs.Body || base.Body.Attrs.Body != mine.Body.Attrs.Body; out.Whole {
		return out, nil
	}
	words := func(nodes []document.Node) string {
		return readable(cat, document.Document{Type: document.Doc, Attrs: mine.Body.Attrs, Content: nodes})
	}
	for _, d := range letter.Differences(base.Body, theirs.Body, mine.Body) {
		out.Changes = append(out.Changes, OriginDifference{CompareWords(words(d.Base), words(d.Theirs)), words(d.Mine), d.Conflict})
	}
	return out, nil
}

// Follow is what the owner of a copy does about a change of its original.
type Follow struct {
	Now     int  // the version of the original that was looked at
	Whole   bool // take all of its wording
	Subject bool
	Take    []int // of the changes of the body
	End     bool  // follow it no longer
}

// FollowOrigin takes over what was chosen of the changes of an original and
// remembers that they were looked at. The copy gets a new version when its wording
// changes.
func (a *Service) FollowOrigin(ctx context.Context, u domain.User, id int64, f Follow) (TemplateSheet, error) {
	if f.End {
		if _, err := a.TemplateFor(ctx, u, access.EditTemplate, id); err != nil {
			return TemplateSheet{}, err
		}
		if err := a.store.SetOrigin(ctx, id, nil, 0); err != nil {
			return TemplateSheet{}, err
		}
		return a.Template(ctx, u, id)
	}
	base, theirs, mine, err := a.threeOf(ctx, u, id, access.EditTemplate)
	if err != nil {
		return TemplateSheet{}, err
	}
	if theirs.Version != f.Now {
		return TemplateSheet{}, domain.ErrStale
	}
	changed := mine
	switch {
	case f.Whole:
		changed.Subject, changed.Body, changed.Extras = theirs.Subject, theirs.Body, theirs.Extras
	case len(f.Take) > 0 && theirs.Body.Attrs.Body != mine.Body.Attrs.Body:
		return TemplateSheet{}, domain.Invalid("take", "the kinds of body differ; take the whole wording or keep yours")
	case len(f.Take) > 0:
		changed.Body = letter.TakeOver(base.Body, theirs.Body, mine.Body, f.Take)
	}
	if f.Subject {
		changed.Subject = theirs.Subject
	}
	changed.UpdatedAt, changed.UpdatedBy = a.now(), u.ID
	err = a.store.Within(ctx, func(ctx context.Context) error {
		if !sameWording(&changed, &mine) || f.Whole {
			if err := a.store.UpdateTemplate(ctx, changed); err != nil {
				return err
			}
		}
		return a.store.SetOrigin(ctx, id, &theirs.ID, theirs.Version)
	})
	if err != nil {
		return TemplateSheet{}, err
	}
	return a.Template(ctx, u, id)
}
