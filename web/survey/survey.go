// Package survey is where a class measures made-up parts again and again: the plan, the table that grows while it is
// read, what the readings come to, and how good the readers are.
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

// Handler serves an instructor's pages of studies.
type Handler struct {
	*ui.Site
	devices *devices // made-up ones that send just now
}

// New returns the pages for a site.
func New(site *ui.Site) Handler { return Handler{site, newDevices(site.Jobs)} }

// Routes adds the pages of instructors.
func (h Handler) Routes(r chi.Router) {
	study, marks := r.With(h.OnStudy(access.ViewClass)), r.With(h.OnStudy(access.DownloadAnswers))
	r.Get("/surveys", h.Page(h.surveys))
	r.Get("/surveys/new", h.Page(h.planForm))
	r.Post("/surveys/new", ui.Form(h.Site, h.give))
	study.Get("/surveys/{survey}", h.Page(h.survey))
	study.Post("/surveys/{survey}", h.Page(h.change))
	r.Post("/surveys/{survey}/drop", h.Page(h.drop))
	marks.Get("/surveys/{survey}/table", h.Page(h.table))
	marks.Get("/surveys/{survey}/report", h.Page(h.report))
	marks.Get("/surveys/{survey}/plot/{plot}", h.Page(h.picture))
	study.Get("/surveys/{survey}/students/{student}", h.Page(h.student))
	marks.Get("/surveys/{survey}/students/{student}/report", h.Page(h.studentReport))
	r.Get("/gauges", h.Page(h.gauges))
	h.comparatorRoutes(r)
}

// StudentHandler serves a student's pages of studies.
type StudentHandler struct{ *ui.Site }

// Routes adds the pages of students.
func (h StudentHandler) Routes(r chi.Router) {
	r.Get("/my/surveys", h.Page(h.surveys))
	r.Get("/my/surveys/{survey}", h.Page(h.survey))
	r.Post("/my/surveys/{survey}", ui.Form(h.Site, h.write))
	r.Get("/my/surveys/{survey}/report", h.Page(h.report))
}
