package library

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
func (a *Service) ReadPage(ctx context.Context, src string) (PageSheet, error) {
	d, removed, _, err := readPage(src)
	if err != nil {
		return PageSheet{}, err
	}
	return a.pageSheet(ctx, d, removed)
}

func readPage(src string) (d document.Document, removed []interchange.Removed, wrong []document.Note, err error) {
	t, removed, wrong, err := Input{Body: src, Kind: document.BodyHTML}.Read()
	return t.Body, removed, wrong, err
}

// SetPagePart changes one part of a page that ReadPage gave.
func (a *Service) SetPagePart(ctx context.Context, src string, part int, text string) (PageSheet, error) {
	d, removed, _, err := readPage(src)
	if err != nil {
		return PageSheet{}, err
	}
	if d, err = interchange.SetPagePart(d, part, text); err != nil {
		return PageSheet{}, domain.Invalid("part", "%d is not in the page; load it again", part)
	}
	return a.pageSheet(ctx, d, removed)
}

func (a *Service) pageSheet(ctx context.Context, d document.Document, removed []interchange.Removed) (PageSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return PageSheet{}, err
	}
	label := LabelIn(cat)
	out := PageSheet{Body: markup.Print(d), Shown: letter.ShowPictures(interchange.ShowParts(d, label), PicturePath), Removed: removed}
	for _, p := range interchange.PageParts(d) {
		out.Parts = append(out.Parts, PagePart{p, interchange.ShownText(p.Text, label)})
	}
	return out, nil
}

// TextPartOf gives the plain-text part of wording as it is made by itself, in the
// text form.
func (a *Service) TextPartOf(w Input) (string, error) {
	t, _, wrong, err := w.Read()
	if err != nil {
		return "", err
	}
	if len(wrong) > 0 {
		return "", domain.Invalid("body", "%s", wrong[0].Message)
	}
	return render.PlainPart(t.Body), nil
}
