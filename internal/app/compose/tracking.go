package compose

import (
	"context"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/internal/domain"
)

// Where recipients reach pictures, links and documents of letters.
const (
	OpenPath     = "/o/"
	LinkPath     = "/l/"
	DocumentPath = "/d/"
)

// PublicURL is where recipients, and users, reach the pages of the program.
func (a *Service) PublicURL() string { return a.publicURL }

// Public is where recipients reach a path of the program.
func (a *Service) Public(path string) string { return strings.TrimSuffix(a.publicURL, "/") + path }

// Tracking says whether opens and clicks of a letter are measured.
type Tracking struct {
	On     bool   `json:"on"`
	Fixed  bool   `json:"fixed" doc:"The writer cannot change it for this letter"`
	Reason string `json:"reason,omitempty" doc:"Why not, when it is fixed and somebody decided it"`
}

// Tracking gives that: unless a letter is plain, for colleagues, or somebody switched it
// off for it, its template, its reader or everywhere.
func (a *Service) Tracking(ctx context.Context, l *domain.Letter, p *domain.Person) (Tracking, error) {
	s, err := a.team.Settings(ctx)
	switch {
	case err != nil:
		return Tracking{}, err
	case l.Internal || l.Body.Attrs.Body == document.BodyPlain:
		return Tracking{Fixed: true}, nil
	case !s.Tracking:
		return Tracking{Fixed: true, Reason: "Your team doesn’t track opens and clicks."}, nil
	case p.Untracked:
		return Tracking{Fixed: true, Reason: "Tracking is switched off on this person’s record."}, nil
	}
	return Tracking{On: !l.Extras.Untracked}, nil
}

// Track puts our addresses into the HTML of a letter, and gives where they lead. One
// address has one link, wherever it stands.
func (a *Service) Track(m *domain.Mail, l *domain.Letter) []domain.Link {
	var links []domain.Link
	m.HTML = letter.Track(m.HTML, func(href string) string {
		if strings.HasPrefix(href, a.Public("/")) {
			return "" // pages of our own
		}
		for _, had := range links {
			if had.URL == href {
				return a.Public(LinkPath + had.Token)
			}
		}
		links = append(links, domain.Link{LetterID: l.ID, Token: a.newID(), URL: href, CreatedAt: a.now()})
		return a.Public(LinkPath + links[len(links)-1].Token)
	}, a.Public(OpenPath+l.Token))
	return links
}

// Untracked gives the page of a letter that went out without what its reader's look
// and clicks are known by, so that ours do not count.
func (a *Service) Untracked(ctx context.Context, l *domain.Letter, page string) (string, error) {
	if !l.Tracked {
		return page, nil
	}
	links, err := a.store.LinksOf(ctx, l.ID)
	if err != nil {
		return page, err
	}
	page = letter.Track(page, func(href string) string {
		for _, link := range links {
			if link.URL != "" && href == a.Public(LinkPath+link.Token) {
				return link.URL
			}
		}
		return ""
	}, "")
	return strings.Replace(page, letter.TrackPicture(a.Public(OpenPath+l.Token)), "", 1), nil
}

// linkBlocker says that a letter holds the link to a document of another one, whose reader
// it would count for, or "".
func (a *Service) linkBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	link := regexp.MustCompile(regexp.QuoteMeta(a.Public(DocumentPath)) + `([0-9A-Za-z]+)`)
	hits := link.FindAllStringSubmatch(markup.Print(l.Body), -1)
	if len(hits) == 0 {
		return "", nil
	}
	own, err := a.store.LinksOf(ctx, l.ID)
	if err != nil {
		return "", err
	}
	for _, hit := range hits {
		if !slices.ContainsFunc(own, func(one domain.Link) bool { return one.Token == hit[1] }) {
			return "A link to a document was copied from another letter, whose reader it would count for; take it out and put it in here under Attach.", nil
		}
	}
	return "", nil
}
