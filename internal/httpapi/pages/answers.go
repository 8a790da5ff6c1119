package pages

import (
	"bytes"
	"errors"
	"html/template"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"lucidletter/core/question"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// MaxAnswers is the bytes that a page of questions takes in.
const MaxAnswers = 64 << 10

// answerRoutes are the pages of questions, for whoever has a letter. Nobody signs
// in; the token in the address is what opens them. A link only shows its page: what
// fetches links without a reader, such as a scanner, runs no script and sends no
// form, and so answers nothing.
func (s *Pages) answerRoutes(engine *gin.Engine) {
	engine.GET("/a/:token", s.askPage)
	engine.GET("/a/:token/:answer", s.askPage)
	engine.POST("/a/:token", s.takeAnswers)
}

// page is what the template of the pages shows.
type page struct {
	desk.AnswerPage
	Token   string
	Chosen  string   // the answer whose link was followed
	Given   []string // what was typed, after a mistake
	Problem string
	Thanks  bool
	Script  bool
	Gone    bool
}

// At gives what stands in the answer to a question.
func (p page) At(i int) string {
	if i < len(p.Given) {
		return p.Given[i]
	}
	if i < len(p.Answers) {
		return p.Answers[i]
	}
	return ""
}

func (s *Pages) askPage(c *gin.Context) {
	p, status := s.pageOf(c)
	if n, err := strconv.Atoi(c.Param("answer")); err == nil && status == http.StatusOK && p.Sheet.Clicked() {
		if answers := p.Sheet.Questions[0].Answers; n >= 1 && n <= len(answers) {
			p.Chosen, p.Script = answers[n-1], p.Open
		}
	}
	s.show(c, status, p)
}

func (s *Pages) takeAnswers(c *gin.Context) {
	p, status := s.pageOf(c)
	if status != http.StatusOK {
		s.show(c, status, p)
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, MaxAnswers)
	if err := c.Request.ParseForm(); err != nil {
		p.Problem = "That was too long to be taken. Shorten it and send it again."
		s.show(c, http.StatusRequestEntityTooLarge, p)
		return
	}
	for i := range p.Sheet.Questions {
		p.Given = append(p.Given, c.Request.PostForm.Get("q"+strconv.Itoa(i)))
	}
	err := s.app.Desk.Answer(c.Request.Context(), p.Token, p.Given)
	var bad *domain.InvalidError
	var state *domain.StateError
	switch {
	case err == nil:
		p.Thanks = true
		p.Answers, _ = question.Read(p.Sheet, p.Given) // they were read already
		s.show(c, http.StatusOK, p)
	case errors.As(err, &bad):
		p.Problem = bad.Error()
		s.show(c, http.StatusUnprocessableEntity, p)
	case errors.As(err, &state):
		p.Problem = state.Why
		s.show(c, http.StatusConflict, p)
	default:
		s.log.Error("answer not taken", "error", err)
		p.Problem = "Something went wrong on our side. Nothing was lost: send it again."
		s.show(c, http.StatusInternalServerError, p)
	}
}

func (s *Pages) pageOf(c *gin.Context) (page, int) {
	p := page{Token: c.Param("token")}
	var err error
	p.AnswerPage, err = s.app.Desk.AnswerPage(c.Request.Context(), p.Token)
	switch {
	case errors.Is(err, domain.ErrNotFound):
		p.Gone = true
		return p, http.StatusNotFound
	case err != nil:
		s.log.Error("question not shown", "error", err)
		p.Gone = true
		return p, http.StatusInternalServerError
	}
	return p, http.StatusOK
}

// SendAtOnce sends the answer whose link was followed: one click, as the reader
// expects of it. Its hash stands in the policy of the page.
const SendAtOnce = `document.querySelector("form").requestSubmit()`

// SendAtOnceHash is the hash of that, as a policy names it (CSP level 3, section 2.3.1).
const SendAtOnceHash = "'sha256-UwOjgOwZRc/46j1Vcws3IJUTjSroJmY7beGLx9O+49I='"

func (s *Pages) show(c *gin.Context, status int, p page) {
	var b bytes.Buffer
	if err := answerPage.Execute(&b, &p); err != nil {
		s.log.Error("question not shown", "error", err)
		c.Status(http.StatusInternalServerError)
		return
	}
	publicPage(c, SendAtOnceHash)
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

// pageHead begins the pages for recipients.
const pageHead = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<style>
body{margin:0;background:#f7f4ec;color:#22281f;font:17px/1.5 Georgia,serif}
main{max-width:34rem;margin:8vh auto;padding:2rem 2.25rem;background:#fff;border:1px solid #ddd6c6}
h1{font-size:1.5rem;line-height:1.25;margin:0 0 1rem}
fieldset{border:0;border-top:1px solid #ddd6c6;margin:0;padding:1rem 0}
legend{font-weight:bold;padding:0 .5rem 0 0}
label{display:block;padding:.3rem 0}
textarea{box-sizing:border-box;width:100%;min-height:4.5rem;font:inherit;color:inherit;border:1px solid #8d8672;padding:.4rem}
a{color:#1f4d3a}
object{display:block;width:100%;height:68vh;margin:0 0 1rem}img{max-width:100%}
.wide{max-width:58rem;margin-top:4vh}
button{font:inherit;color:#fff;background:#1f4d3a;border:0;border-radius:3px;padding:.55rem 1.4rem}
.from{color:#5d6256;font-size:.95rem;margin:1.5rem 0 0}
.bad{color:#9c3b2c}
dt{font-weight:bold}dd{margin:0 0 .75rem;white-space:pre-line}
@media (prefers-color-scheme:dark){body{background:#161a16;color:#e6e4da}main{background:#1e231e;border-color:#3a4038}fieldset{border-color:#3a4038}textarea{background:#161a16}a{color:#8fc3a6}button{background:#8fc3a6;color:#161a16}.from{color:#a9ac9f}.bad{color:#e0907f}}
@media (max-width:30rem){main{margin:0;min-height:100vh;box-sizing:border-box;border:0}}
</style>
`

// publicPage sets what holds for pages that recipients see; script is the hash of the
// only script that may run there.
func publicPage(c *gin.Context, script string) {
	if script == "" {
		script = "'none'"
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; script-src "+script+"; form-action 'self'; frame-ancestors 'none'; base-uri 'none'")
	h.Set("Cache-Control", "no-store")
	h.Set("X-Robots-Tag", "noindex")
}

var answerPage = template.Must(template.New("page").Parse(pageHead + `<title>{{if .Gone}}Page not found{{else if .Thanks}}Thank you{{else}}{{with .Sheet.Title}}{{.}}{{else}}{{(index .Sheet.Questions 0).Text}}{{end}}{{end}}</title>
</head>
<body><main>
{{if .Gone}}<h1>This page doesn’t exist</h1>
<p>The address may have been cut off. Copy all of it from the email, or reply to the email instead.</p>
{{else if .Thanks}}<h1>Thank you</h1>
<p>Your answer has reached {{.Sender}}:</p>
<dl>{{$p := .}}{{range $i, $q := .Sheet.Questions}}{{with $p.At $i}}<dt>{{$q.Text}}</dt><dd>{{.}}</dd>{{end}}{{end}}</dl>
<p class="from">You can close this page. To change your answer, click the link in the email again.</p>
{{else}}<h1>{{with .Sheet.Title}}{{.}}{{else}}{{(index .Sheet.Questions 0).Text}}{{end}}</h1>
{{with .Problem}}<p class="bad" role="alert">{{.}}</p>{{end}}
{{if not .Open}}<p>The email with this question hasn’t been sent yet. This is how the page will look.</p>{{end}}
<form method="post" action="/a/{{.Token}}">
{{$p := .}}{{range $i, $q := .Sheet.Questions}}<fieldset>{{if $p.Sheet.Clicked}}<legend hidden>{{$q.Text}}</legend>{{else}}<legend>{{$q.Text}}</legend>{{end}}
{{if $q.Answers}}{{range $q.Answers}}<label><input type="radio" name="q{{$i}}" value="{{.}}"{{if or (eq . $p.Chosen) (and (eq $p.Chosen "") (eq . ($p.At $i)))}} checked{{end}}> {{.}}</label>
{{end}}{{else}}<textarea name="q{{$i}}" aria-label="{{$q.Text}}" maxlength="2000">{{$p.At $i}}</textarea>{{end}}</fieldset>
{{end}}<button{{if not .Open}} disabled{{end}}>Send my answer</button>
</form>
{{if .Script}}<script>` + SendAtOnce + `</script>{{end}}
{{end}}{{if not .Gone}}<p class="from">{{.Sender}}{{with .Team}}, {{.}}{{end}}</p>{{end}}
</main></body></html>
`))
