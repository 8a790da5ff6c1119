package desk

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Envelope is who gets copies of a letter, and where answers go; "" the sender.
type Envelope struct {
	Cc      []domain.Address
	Bcc     []domain.Address
	ReplyTo string
}

// MaxCopies is how many get copies of one letter.
const MaxCopies = 50

// SetEnvelope saves the wording with other copies and another address for answers.
func (a *Service) SetEnvelope(ctx context.Context, u domain.User, id int64, w Wording, e Envelope) (LetterSheet, error) {
	if len(e.Cc)+len(e.Bcc) > MaxCopies {
		return LetterSheet{}, domain.Invalid("cc", "has more than %d addresses with Bcc; remove some", MaxCopies)
	}
	if err := cmp.Or(checkAddresses("cc", e.Cc), checkAddresses("bcc", e.Bcc)); err != nil {
		return LetterSheet{}, err
	}
	if e.ReplyTo = strings.TrimSpace(e.ReplyTo); e.ReplyTo != "" {
		if err := field.CheckEmail(e.ReplyTo); err != nil {
			return LetterSheet{}, domain.Invalid("replyTo", "%v", err)
		}
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		seen := []string{field.EmailKey(l.ToEmail)}
		for _, one := range l.Extras.AlsoTo {
			seen = append(seen, field.EmailKey(one.Email))
		}
		once := func(list []domain.Address) []domain.Address {
			var out []domain.Address
			for _, one := range list {
				if key := field.EmailKey(one.Email); !slices.Contains(seen, key) {
					seen, out = append(seen, key), append(out, one)
				}
			}
			return out
		}
		if field.EmailKey(e.ReplyTo) == field.EmailKey(l.FromEmail) {
			e.ReplyTo = "" // replies go there anyway
		}
		l.Extras.Cc, l.Extras.Bcc, l.Extras.ReplyTo = once(e.Cc), once(e.Bcc), e.ReplyTo
		return nil
	})
}

// checkAddresses tidies a list of addresses and says what is wrong with it.
func checkAddresses(name string, list []domain.Address) error {
	for i := range list {
		list[i].Name, list[i].Email = strings.TrimSpace(list[i].Name), strings.TrimSpace(list[i].Email)
		if err := field.CheckEmail(list[i].Email); err != nil {
			return domain.Invalid(name, "%v", err)
		}
		if strings.ContainsAny(list[i].Name, "\r\n\x00") || len(list[i].Name) > 200 {
			return domain.Invalid(name, "the name of %s is no name; write it on one line", list[i].Email)
		}
		if field.Junk(field.Def{Path: "person.full_name"}, field.Of(list[i].Name)) {
			list[i].Name = "" // the address stands alone
		}
	}
	return nil
}

// SaveWith saves the wording of a draft, and with it what change does.
func (a *Service) SaveWith(ctx context.Context, u domain.User, id int64, w Wording, change func(*domain.Letter) error) (LetterSheet, error) {
	if _, err := a.saveDraft(ctx, u, id, w, change); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

// KnownAddress is an address to be completed.
type KnownAddress struct {
	domain.Address
	Who      string `json:"who"` // contact, lead, colleague
	PersonID int64  `json:"personId,omitempty"`
}

// CompleteAddress offers people and colleagues whose name or address a text begins.
func (a *Service) CompleteAddress(ctx context.Context, text string) ([]KnownAddress, error) {
	out := []KnownAddress{}
	text = strings.ToLower(strings.TrimSpace(text))
	if text == "" {
		return out, nil
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	for i := range users {
		if u := &users[i]; strings.HasPrefix(strings.ToLower(u.Email), text) || strings.Contains(" "+strings.ToLower(u.Name()), " "+text) {
			out = append(out, KnownAddress{domain.Address{Name: u.Name(), Email: u.Email}, "colleague", 0})
		}
	}
	rows, err := a.store.PeopleBeginning(ctx, text, 8)
	for i := range rows {
		if r := &rows[i]; r.Email != "" && !r.OptedOut {
			out = append(out, KnownAddress{domain.Address{Name: domain.JoinName(r.FirstName, r.LastName), Email: r.Email}, string(r.Kind), r.ID})
		}
	}
	return out[:min(len(out), 8)], err
}

// MaxAttachments is how many files go with one letter.
const MaxAttachments = 30

// SetAttachments saves the wording with other attachments: uploaded ones by their
// SHA-256, approved documents by their id.
func (a *Service) SetAttachments(ctx context.Context, u domain.User, id int64, w Wording, list []domain.Attachment) (LetterSheet, error) {
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) (err error) {
		l.Extras.Attachments, err = a.CheckAttachments(ctx, u, l.Extras.Attachments, list)
		return err
	})
}

// CheckAttachments gives what is to be attached as it is stored: files that were had before,
// approved documents, and files that the user brought in. The sum of a file is no right to it.
func (a *Service) CheckAttachments(ctx context.Context, u domain.User, before, list []domain.Attachment) ([]domain.Attachment, error) {
	if len(list) > MaxAttachments {
		return nil, domain.Invalid("attachments", "are more than %d; put them into one archive", MaxAttachments)
	}
	var out []domain.Attachment
	for _, at := range list {
		had := slices.IndexFunc(before, func(x domain.Attachment) bool { return x.SHA == at.SHA && x.DocumentID == at.DocumentID })
		switch {
		case had >= 0:
			out = append(out, before[had])
		case at.DocumentID != 0:
			d, err := a.library.DocumentFor(ctx, u, at.DocumentID)
			if err != nil || d.DeletedAt != nil {
				return nil, domain.Invalid("attachments", "one of the documents is not on the shelf any more; choose another")
			}
			out = append(out, domain.Attachment{Name: d.FileName, SHA: d.SHA, Type: d.Type, Size: d.Size, DocumentID: d.ID, Version: d.Version})
		default:
			mine, err := a.store.Uploaded(ctx, at.SHA, u.ID)
			if err != nil {
				return nil, err
			}
			f, err := a.store.File(ctx, at.SHA)
			if err != nil || !mine {
				return nil, domain.Invalid("attachments", "%s is not here; add it again", at.Name)
			}
			if at.Name = library.CleanFileName(at.Name); at.Name == "" {
				at.Name = "attachment"
			}
			out = append(out, domain.Attachment{Name: at.Name, SHA: f.SHA, Type: f.Type, Size: len(f.Bytes)})
		}
	}
	return out, nil
}
