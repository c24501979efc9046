// Package survey is where a class measures made-up parts again and again: the plan, the table that grows while it is read,
// what the readings come to, and how good the readers are.
package survey

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"cavix/school/access"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Room is where surveys are planned and looked at.
type Room struct {
	*ui.Site
	devices *devices // made-up ones that send just now
}

// New returns the pages for a site.
func New(site *ui.Site) Room { return Room{site, newDevices(site.Jobs)} }

// Routes adds the pages of instructors.
func (s Room) Routes(r chi.Router) {
	marks := r.With(s.Needs(access.DownloadAnswers))
	r.Get("/surveys", s.Page(s.surveys))
	r.Get("/surveys/new", s.Page(s.planForm))
	r.Post("/surveys/new", s.Page(s.give))
	r.Get("/surveys/{survey}", s.Page(s.survey))
	r.Post("/surveys/{survey}", s.Page(s.change))
	r.Post("/surveys/{survey}/drop", s.Page(s.drop))
	marks.Get("/surveys/{survey}/table", s.Page(s.table))
	marks.Get("/surveys/{survey}/report", s.Page(s.report))
	marks.Get("/surveys/{survey}/plot/{plot}", s.Page(s.picture))
	r.Get("/surveys/{survey}/students/{student}", s.Page(s.student))
	marks.Get("/surveys/{survey}/students/{student}/report", s.Page(s.studentReport))
	r.Get("/gauges", s.Page(s.gauges))
	s.comparatorRoutes(r)
}

// Desk is where a student reads.
type Desk struct{ *ui.Site }

// Routes adds the pages of students.
func (s Desk) Routes(r chi.Router) {
	r.Get("/my/surveys", s.Page(s.surveys))
	r.Get("/my/surveys/{survey}", s.Page(s.survey))
	r.Post("/my/surveys/{survey}", s.Page(s.write))
	r.Get("/my/surveys/{survey}/report", s.Page(s.report))
}
