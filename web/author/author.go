// Package author is where an instructor builds: the Rack with its instruments, the Workshop, the Bench,
// and the composer of sheets.
package author

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html workshop
var Files embed.FS

// Handler serves the Rack, the Workshop, the composer, and import and export.
type Handler struct {
	*ui.Site
	deals *dealCache // of the composer
}

// New returns the handler of an instructor's own pages.
func New(s *ui.Site) Handler { return Handler{Site: s, deals: &dealCache{}} }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	r.Get("/rack", h.Page(h.rack))
	r.Get("/rack/import", h.Page(h.importForm))
	r.Get("/rack/{instrument}/hung", h.Page(h.hung))
	r.Get("/rack/{instrument}/document", h.Page(h.document))
	r.Get("/rack/{instrument}/earlier", h.Page(h.earlierInstruments))
	r.Post("/rack/{instrument}/earlier", h.Page(h.restoreInstrument))
	r.Post("/rack/{instrument}/alike", ui.Form(h.Site, h.makeAlike))
	r.Get("/rack/{instrument}/send", h.Page(h.sendInstrument))
	r.Post("/rack/{instrument}/send", h.Page(h.sendInstrument))
	r.Get("/sheets/{sheet}/send", h.Page(h.sendSheet))
	r.Post("/sheets/{sheet}/send", h.Page(h.sendSheet))
	r.Get("/received/{copy}", h.Page(h.copy))
	r.Post("/received/{copy}", h.Page(h.answerCopy))
	r.Get("/received/{copy}/picture/{n}", h.Page(h.copyPicture))
	r.Get("/sheets/{sheet}/earlier", h.Page(h.earlierSheets))
	r.Post("/sheets/{sheet}/earlier", h.Page(h.restoreSheet))
	r.Post("/rack/{instrument}/drop", h.Page(h.dropInstrument))
	r.Post("/sheets/{sheet}/drop", h.Page(h.dropSheet))
	r.Get("/bin", h.Page(h.bin))
	r.Post("/bin", ui.Form(h.Site, h.fromBin))
	r.Get("/workshop", h.Page(h.workshop))
	r.Post("/workshop", h.Page(h.workshopPost))
	r.Get("/workshop/{instrument}", h.Page(h.workshop))
	r.Post("/workshop/{instrument}", h.Page(h.workshopPost))
	r.Get("/bench/{instrument}", h.Page(h.bench))
	r.Post("/bench/{instrument}", h.Page(h.bench))
	r.Get("/rack/{instrument}/book", h.Page(h.book))
	r.Post("/rack/{instrument}/book", ui.Form(h.Site, h.writeBook))
	r.Post("/rack/{instrument}/book/damaged", h.Page(h.removeDamaged))
	r.Post("/rack/{instrument}/limit", ui.Form(h.Site, h.setLimit))
	r.Post("/rack/{instrument}/takeover", h.Page(h.takeOver))
	r.Get("/rack/{instrument}/book/table", h.Page(h.bookTable))
	r.Get("/bench/{instrument}/picture", h.Page(h.picture))
	r.Post("/rack/{instrument}/share", h.Page(h.share))
	r.Get("/bank/{kind}", h.Page(h.bank))
	r.Get("/bank/{kind}/{item}", h.Page(h.bankItem))
	r.Post("/bank/{kind}/{item}", h.Page(h.bankPost))
	r.Get("/sheets", h.Page(h.sheets))
	r.Get("/sheets/new", h.Page(h.composer))
	r.Post("/sheets/new", ui.Form(h.Site, h.composerPost))
	r.Get("/sheets/{sheet}", h.Page(h.composer))
	r.Post("/sheets/{sheet}", ui.Form(h.Site, h.composerPost))
	r.Get("/course", h.Page(h.course))
	r.Get("/course/file", h.Page(h.courseFile))
	r.Get("/sheets/{sheet}/document", h.Page(h.sheetDocument))
	r.Get("/sheets/{sheet}/package/{seed}", h.Page(h.platformPackage))
	r.Get("/sheets/{sheet}/flash/{seed}", h.Page(h.flash))
	r.Get("/sheets/{sheet}/try/{seed}/{n}", h.Page(h.try))
	r.Post("/sheets/{sheet}/try/{seed}/{n}", h.Page(h.try))
	r.Get("/sheets/{sheet}/try/{seed}/{n}/figure", h.Page(h.tryFigure))
	r.Post("/sheets/{sheet}/try/{seed}/{n}/figure", h.Page(h.tryFigure))
}

// Uploads adds the pages that take files.
func (h Handler) Uploads(r chi.Router) {
	r.Post("/rack/import", h.Page(h.importDocument))
	r.Post("/rack/{instrument}/book/preview", h.Page(h.previewBook))
	r.Post("/rack/{instrument}/book/import", h.Page(h.importBook))
	r.Post("/course/preview", h.Page(h.previewCourse))
	r.Post("/course/bring", h.Page(h.bringCourse))
}
