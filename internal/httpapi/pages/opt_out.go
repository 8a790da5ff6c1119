package pages

import (
	"bytes"
	"errors"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"

	"lucidletter/internal/app/inbox"
	"lucidletter/internal/domain"
)

// optOutRoutes are the page on which the recipient of a letter opts out: one press, without
// signing in, or the request that a mail program sends by itself (RFC 8058 section 3.2). A
// look at the page changes nothing.
func (s *Pages) optOutRoutes(engine *gin.Engine) {
	engine.GET("/out/:token", s.optOutPage)
	engine.POST("/out/:token", s.optOut)
}

type optOutShown struct {
	inbox.OptOutPage
	Token   string
	Thanks  bool
	Gone    bool
	Problem string
}

func (s *Pages) optOutPage(c *gin.Context) {
	p, status := s.optOutOf(c)
	s.showOptOut(c, status, p)
}

func (s *Pages) optOut(c *gin.Context) {
	p, status := s.optOutOf(c)
	if status == http.StatusOK {
		if err := s.app.Inbox.OptOutBy(c.Request.Context(), p.Token); err != nil {
			s.log.Error("opt-out not taken", "error", err)
			p.Problem, status = "Something went wrong on our side. Press it again in a moment.", http.StatusInternalServerError
		} else {
			p.Thanks = true
		}
	}
	s.showOptOut(c, status, p)
}

func (s *Pages) optOutOf(c *gin.Context) (optOutShown, int) {
	p := optOutShown{Token: c.Param("token")}
	var err error
	p.OptOutPage, err = s.app.Inbox.OptOutPage(c.Request.Context(), p.Token)
	switch {
	case errors.Is(err, domain.ErrNotFound):
		p.Gone = true
		return p, http.StatusNotFound
	case err != nil:
		s.log.Error("opt-out not shown", "error", err)
		p.Gone = true
		return p, http.StatusInternalServerError
	}
	return p, http.StatusOK
}

func (s *Pages) showOptOut(c *gin.Context, status int, p optOutShown) {
	var b bytes.Buffer
	if err := optOutTemplate.Execute(&b, &p); err != nil {
		s.log.Error("opt-out not shown", "error", err)
		c.Status(http.StatusInternalServerError)
		return
	}
	publicPage(c, "")
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

var optOutTemplate = template.Must(template.New("page").Parse(pageHead + `<title>{{if .Thanks}}You’re unsubscribed{{else}}Unsubscribe{{end}}</title>
</head>
<body><main>
{{if .Gone}}<h1>This page doesn’t exist</h1>
<p>The address may have been cut off. Copy all of it from the email, or reply and ask to be unsubscribed.</p>
{{else if .Thanks}}<h1>You’re unsubscribed</h1>
<p>{{with .Team}}{{.}} won’t{{else}}We won’t{{end}} write to <b>{{.Email}}</b> again.</p>
{{else if .Out}}<h1>You’re unsubscribed</h1>
<p><b>{{.Email}}</b> was already unsubscribed.</p>
{{else}}<h1>Unsubscribe?</h1>
{{with .Problem}}<p class="bad" role="alert">{{.}}</p>{{end}}
<p>{{.Sender}}{{with .Team}}, {{.}},{{end}} wrote to <b>{{.Email}}</b>. Press the button and nobody there will write to this address again.</p>
<form method="post" action="/out/{{.Token}}"><button>Unsubscribe</button></form>
{{end}}
</main></body></html>
`))
