package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Source says what is put into a letter: a template, or a passage by its shortcut. Without
// is what of a template stays behind, since a letter greets and closes once.
type Source struct {
	TemplateID int64
	Passage    string
	Without    []sentence.Frame
}

// Piece is a template or a passage merged for the person of a letter, in the kind
// of body that the letter has.
type Piece struct {
	Name    string
	Subject document.Document
	Body    document.Document
	Without []sentence.Frame // what of it stayed behind
	source  Source
	extras  domain.LetterExtras
	version int
}

// PieceFor merges what is to be put into a letter. The greeting and the closing of a template
// stay behind where the letter has its own; Without of the piece says so.
func (a *Service) PieceFor(ctx context.Context, u domain.User, id int64, from Source) (Piece, error) {
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return Piece{}, err
	}
	if from.TemplateID != 0 {
		from.Without = sentence.FramesOf(l.Body)
		if l.Extras.Signature != nil && !slices.Contains(from.Without, sentence.Closing) && !letter.IsBlank(l.Written()) {
			from.Without = append(from.Without, sentence.Closing)
		}
	}
	return a.pieceFor(ctx, u, &l, from)
}

func (a *Service) pieceFor(ctx context.Context, u domain.User, l *domain.Letter, from Source) (Piece, error) {
	out := Piece{source: from}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return out, err
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return out, err
	}
	var t template.Template
	if from.TemplateID != 0 {
		stored, err := a.usable(ctx, u, from.TemplateID)
		if err != nil {
			return out, err
		}
		t, out.Name, out.version = b.Wording(&stored), stored.Name, stored.Version
		t.Text = nil // the letter's own follows its words
		if out.extras, err = a.compose.ExtrasFor(ctx, &stored, template.Letter{}); err != nil {
			return out, err
		}
	} else {
		passage := b.Find(u.ID, from.Passage)
		if passage == nil {
			return out, domain.Invalid("passage", "there is no passage with the shortcut %q; look among the passages", from.Passage)
		}
		t = template.Template{Subject: document.NewPlain(""), Body: passage.Body, Passages: b.Of(u.ID)}
		out.Name = passage.Name
	}
	if t.Body, err = library.InKind(t.Body, l.Body.Attrs.Body); err != nil {
		return out, err
	}
	program, notes := template.Compile(t, s.Cat)
	if document.Stopping(notes) {
		return out, &domain.StateError{Why: fmt.Sprintf("“%s” has errors; fix them first.", out.Name)}
	}
	if why := s.WhyNot(program); why != "" {
		return out, domain.Invalid("templateId", "“%s” %s", out.Name, why)
	}
	merged := program.Merge(s.Values, nil, s.ReaderFor(&t))
	out.Subject, out.Body = merged.Subject, merged.Body
	if l.Extras.Signature != nil { // a letter is signed once
		if out.Body, _ = letter.PlaceSignature(merged.Body, document.Document{}); len(out.Body.Content) == 0 {
			out.Body = document.NewPlain("")
		}
	}
	out.Body, out.Without = sentence.WithoutFrames(out.Body, from.Without...)
	return out, nil
}

// usable loads a template that the user may write with.
func (a *Service) usable(ctx context.Context, u domain.User, id int64) (domain.Template, error) {
	t, err := a.library.TemplateFor(ctx, u, access.UseTemplate, id)
	if errors.Is(err, domain.ErrDenied) {
		err = &domain.StateError{Why: fmt.Sprintf("The template “%s” isn’t ready to use; make it ready first.", t.Name)}
	}
	if err == nil {
		err = a.library.CheckFirst(ctx, &t)
	}
	return t, err
}

// Insert saves a wording that a piece was put into: its fixed words must stay, its
// documents are attached, and it can be taken out again.
func (a *Service) Insert(ctx context.Context, u domain.User, id int64, w Wording, from Source) (LetterSheet, error) {
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		p, err := a.pieceFor(ctx, u, l, from)
		if err != nil {
			return err
		}
		takePiece(l, &p)
		return nil
	})
}

// takePiece notes in a letter what comes with a piece that stands in its body.
func takePiece(l *domain.Letter, p *Piece) {
	l.Fixed = compose.FixedWith(l.Fixed, letter.FixedWording(p.Body), l.Body)
	x := &l.Extras
	for _, at := range p.extras.Attachments {
		if !slices.ContainsFunc(x.Attachments, func(had domain.Attachment) bool { return had.DocumentID == at.DocumentID }) {
			x.Attachments = append(x.Attachments, at)
		}
	}
	// What was there before a rule is no addition, and what the piece brings neither.
	brings := interchange.InventoryOf(p.Body)
	switch {
	case len(x.MayNot) > 0:
		x.Had.Links += brings.Links
		x.Had.Pictures += brings.Pictures
		x.Had.Fields = append(x.Had.Fields, brings.Fields...)
	case len(p.extras.MayNot) > 0:
		x.Had = interchange.InventoryOf(l.Body)
	}
	for _, not := range p.extras.MayNot {
		if !slices.Contains(x.MayNot, not) {
			x.MayNot = append(x.MayNot, not)
		}
	}
	if x.Stationery == 0 {
		x.Stationery = p.extras.Stationery
	}
	if l.TemplateID == nil && p.source.TemplateID != 0 {
		l.TemplateID, l.TemplateVersion = &p.source.TemplateID, &p.version
	}
	x.Pieces = append(x.Pieces, domain.PutIn{Name: p.Name, Body: p.Body, TemplateID: p.source.TemplateID, Version: p.version})
}

// TakeOut takes what is left of a piece out of a letter, and puts another in its
// place where one is given. What was written around it and what was changed in it
// stay.
func (a *Service) TakeOut(ctx context.Context, u domain.User, id int64, w Wording, piece int, instead *Source) (LetterSheet, error) {
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if piece < 0 || piece >= len(l.Extras.Pieces) {
		return LetterSheet{}, domain.Invalid("piece", "is not in the letter any more")
	}
	had := l.Extras.Pieces[piece]
	var other Piece
	if instead != nil {
		if other, err = a.pieceFor(ctx, u, &l, *instead); err != nil {
			return LetterSheet{}, err
		}
	}
	w.Body, _, _ = letter.TakeOut(w.Body, had.Body, other.Body)
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		for _, stretch := range letter.FixedWording(had.Body) {
			if i := slices.Index(l.Fixed, stretch); i >= 0 {
				l.Fixed = slices.Delete(l.Fixed, i, i+1)
			}
		}
		if len(l.Extras.MayNot) > 0 {
			brought := interchange.InventoryOf(had.Body)
			l.Extras.Had.Links = max(0, l.Extras.Had.Links-brought.Links)
			l.Extras.Had.Pictures = max(0, l.Extras.Had.Pictures-brought.Pictures)
		}
		l.Extras.Pieces = slices.Delete(slices.Clone(l.Extras.Pieces), piece, piece+1)
		l.Credit(had)
		if instead != nil {
			takePiece(l, &other)
		}
		return nil
	})
}

// StartOver gives a draft the wording of a template instead of its own. Copies and
// what the writer attached stay.
func (a *Service) StartOver(ctx context.Context, u domain.User, id int64, version int, templateID int64) (LetterSheet, error) {
	l, err := a.draftOf(ctx, u, id)
	switch {
	case err != nil:
		return LetterSheet{}, err
	case l.Version != version:
		return LetterSheet{}, domain.ErrStale
	}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	had, was := l.Extras, l
	if err := a.begin(ctx, u, &l, s, templateID); err != nil {
		return LetterSheet{}, err
	}
	l.Extras.AlsoTo, l.Extras.Cc, l.Extras.Bcc, l.Extras.ReplyTo = had.AlsoTo, had.Cc, had.Bcc, had.ReplyTo
	if err := a.compose.Sign(ctx, u, &l, s); err != nil {
		return LetterSheet{}, err
	}
	for _, at := range had.Attachments {
		if at.DocumentID == 0 {
			l.Extras.Attachments = append(l.Extras.Attachments, at)
		}
	}
	l.SubjectLine, l.UpdatedAt, l.Seen = render.RenderText(l.Subject), a.now(), s.Snapshot()
	before := int64(0)
	if err := a.store.Within(ctx, func(ctx context.Context) (err error) {
		if before, err = a.keepDiscarded(ctx, was); err != nil {
			return err
		}
		return a.store.UpdateDraft(ctx, l)
	}); err != nil {
		return LetterSheet{}, err
	}
	out, err := a.Letter(ctx, u, id)
	out.Before = before
	return out, err
}

// keepDiscarded keeps the words that a draft had as a discarded draft, which can be restored.
func (a *Service) keepDiscarded(ctx context.Context, l domain.Letter) (int64, error) {
	l.ID, l.Version, l.RoundID, l.RunID, l.OrderID = 0, 1, nil, nil, nil
	id, err := a.store.AddLetter(ctx, l)
	if err == nil {
		err = a.store.DeleteDraft(ctx, id, new(a.now()))
	}
	return id, err
}

// Format saves a plain letter as a formatted one, which holds pictures, links and
// looks; it goes in the default stationery.
func (a *Service) Format(ctx context.Context, u domain.User, id int64, w Wording) (LetterSheet, error) {
	if w.Body.Attrs.Body != document.BodyPlain {
		return LetterSheet{}, &domain.StateError{Why: "The letter is already formatted."}
	}
	st, err := a.library.StationeryOf(ctx, 0, document.BodyFormatted)
	if err != nil {
		return LetterSheet{}, err
	}
	w.Body = render.Formatted(w.Body)
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		for i := range l.Extras.Pieces {
			l.Extras.Pieces[i].Body = render.Formatted(l.Extras.Pieces[i].Body)
		}
		if sig := l.Extras.Signature; sig != nil {
			l.Extras.Signature = new(render.Formatted(*sig))
		}
		if len(letter.CheckFixed(l.Fixed, l.Body)) == 0 {
			l.Fixed = letter.FixedWording(l.Body)
		}
		if st != nil && l.Extras.Stationery == 0 {
			l.Extras.Stationery = st.ID
		}
		return nil
	})
}

// Unformat undoes Format: w is the plain wording as it was before. It must be saved on
// the version that Format stored, so that nothing that was written since is lost.
func (a *Service) Unformat(ctx context.Context, u domain.User, id int64, w Wording) (LetterSheet, error) {
	if w.Body.Attrs.Body != document.BodyPlain {
		return LetterSheet{}, &domain.StateError{Why: "Only a plain wording can be brought back."}
	}
	l, err := a.draftOf(ctx, u, id)
	switch {
	case err != nil:
		return LetterSheet{}, err
	case l.Body.Attrs.Body != document.BodyFormatted:
		return LetterSheet{}, &domain.StateError{Why: "The letter isn’t formatted any more."}
	case l.Version != w.Version:
		return LetterSheet{}, domain.ErrStale
	case len(letter.CheckFixed(l.Fixed, render.Formatted(w.Body))) > 0:
		return LetterSheet{}, &domain.StateError{Why: "The wording lacks words that the template fixes."}
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		plain := func(d document.Document) (document.Document, error) { return library.InKind(d, document.BodyPlain) }
		for i := range l.Extras.Pieces {
			if l.Extras.Pieces[i].Body, err = plain(l.Extras.Pieces[i].Body); err != nil {
				return err
			}
		}
		if sig := l.Extras.Signature; sig != nil {
			d, err := plain(*sig)
			if err != nil {
				return err
			}
			l.Extras.Signature = &d
		}
		l.Fixed, l.Extras.Stationery = letter.FixedWording(l.Body), 0
		return nil
	})
}

// begin gives a letter the wording of a template.
func (a *Service) begin(ctx context.Context, u domain.User, l *domain.Letter, s *library.Setting, templateID int64) error {
	t, err := a.usable(ctx, u, templateID)
	if err != nil {
		return err
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return err
	}
	tmpl := b.Wording(&t)
	program := a.library.Program(s.Cat, b, &t)
	if why := a.library.Broken(s.Cat, b, &t); why != "" {
		return &domain.StateError{Why: fmt.Sprintf("The template “%s” %s.", t.Name, why)}
	}
	if why := s.WhyNot(program); why != "" {
		return domain.Invalid("templateId", "the template “%s” %s", t.Name, why)
	}
	return a.compose.BeginWith(ctx, l, &t, program.Merge(s.Values, nil, s.ReaderFor(&tmpl)))
}
