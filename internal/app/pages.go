package app

import (
	"context"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// PageSheet is a page as it is changed part by part. Shown is the page with its
// parts named; a part's Shown is its text as it stands there.
type PageSheet struct {
	Body    string
	Shown   string
	Parts   []PagePart
	Removed []interchange.Removed
}

// PagePart is a part of a page.
type PagePart struct {
	interchange.PagePart
	Shown string
}

// ReadPage makes a page safe for letters and finds its parts.
func (a *LibraryService) ReadPage(ctx context.Context, src string) (PageSheet, error) {
	d, removed, _, err := readPage(src)
	if err != nil {
		return PageSheet{}, err
	}
	return a.pageSheet(ctx, d, removed)
}

func readPage(src string) (d document.Document, removed []interchange.Removed, wrong []document.Note, err error) {
	t, removed, wrong, err := Input{Body: src, Kind: document.BodyHTML}.read()
	return t.Body, removed, wrong, err
}

// SetPagePart changes one part of a page that ReadPage gave.
func (a *LibraryService) SetPagePart(ctx context.Context, src string, part int, text string) (PageSheet, error) {
	d, removed, _, err := readPage(src)
	if err != nil {
		return PageSheet{}, err
	}
	if d, err = interchange.SetPagePart(d, part, text); err != nil {
		return PageSheet{}, domain.Invalid("part", "%d is not in the page; load it again", part)
	}
	return a.pageSheet(ctx, d, removed)
}

func (a *LibraryService) pageSheet(ctx context.Context, d document.Document, removed []interchange.Removed) (PageSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return PageSheet{}, err
	}
	label := labelIn(cat)
	out := PageSheet{Body: markup.Print(d), Shown: letter.ShowPictures(interchange.ShowParts(d, label), PicturePath), Removed: removed}
	for _, p := range interchange.PageParts(d) {
		out.Parts = append(out.Parts, PagePart{p, interchange.ShownText(p.Text, label)})
	}
	return out, nil
}

// TextPartOf gives the plain-text part of wording as it is made by itself, in the
// text form.
func (a *LibraryService) TextPartOf(w Input) (string, error) {
	t, _, wrong, err := w.read()
	if err != nil {
		return "", err
	}
	if len(wrong) > 0 {
		return "", domain.Invalid("body", "%s", wrong[0].Message)
	}
	return render.PlainPart(t.Body), nil
}

// SetLetterPart saves the wording of a letter that is a page with other words in one
// of its parts.
func (a *DeskService) SetLetterPart(ctx context.Context, u domain.User, id int64, w Wording, part int, text string) (LetterSheet, error) {
	if w.Body.Attrs.Body != document.BodyHTML {
		return LetterSheet{}, &domain.StateError{Why: "The letter is no page; write in it."}
	}
	body, err := interchange.SetLetterPart(w.Body, part, text)
	if err != nil {
		return LetterSheet{}, domain.Invalid("part", "%d is not in the letter; load it again", part)
	}
	w.Body = body
	return a.SaveDraft(ctx, u, id, w)
}
