// Package pages is what the recipients of letters reach without signing in: the page where
// they opt out, questions that letters ask, links, documents, and the picture that tells
// that a letter was opened, each known by a token of its own; and the guide for users.
package pages

import (
	"log/slog"

	"github.com/gin-gonic/gin"

	"lucidletter/internal/app"
)

// Pages are these of a program. Make them with New.
type Pages struct {
	app *app.App
	log *slog.Logger
}

// New gives the pages of a program.
func New(a *app.App, log *slog.Logger) *Pages { return &Pages{a, log} }

// Routes adds the pages to an engine.
func (s *Pages) Routes(engine *gin.Engine) {
	s.answerRoutes(engine)
	s.optOutRoutes(engine)
	s.trackingRoutes(engine)
	s.guideRoutes(engine)
}
