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

// Shop is where an instructor builds.
type Shop struct{ *ui.Site }

// Routes adds the pages.
func (s Shop) Routes(r chi.Router) {
	r.Get("/rack", s.Page(s.rack))
	r.Get("/rack/import", s.Page(s.importForm))
	r.Get("/rack/{instrument}/hung", s.Page(s.hung))
	r.Get("/rack/{instrument}/document", s.Page(s.document))
	r.Get("/rack/{instrument}/earlier", s.Page(s.earlierInstruments))
	r.Post("/rack/{instrument}/earlier", s.Page(s.restoreInstrument))
	r.Post("/rack/{instrument}/alike", s.Page(s.makeAlike))
	r.Get("/rack/{instrument}/send", s.Page(s.sendInstrument))
	r.Post("/rack/{instrument}/send", s.Page(s.sendInstrument))
	r.Get("/sheets/{sheet}/send", s.Page(s.sendSheet))
	r.Post("/sheets/{sheet}/send", s.Page(s.sendSheet))
	r.Get("/received/{copy}", s.Page(s.copy))
	r.Post("/received/{copy}", s.Page(s.answerCopy))
	r.Get("/received/{copy}/picture/{n}", s.Page(s.copyPicture))
	r.Get("/sheets/{sheet}/earlier", s.Page(s.earlierSheets))
	r.Post("/sheets/{sheet}/earlier", s.Page(s.restoreSheet))
	r.Post("/rack/{instrument}/drop", s.Page(s.dropInstrument))
	r.Post("/sheets/{sheet}/drop", s.Page(s.dropSheet))
	r.Get("/bin", s.Page(s.bin))
	r.Post("/bin", s.Page(s.fromBin))
	r.Get("/workshop", s.Page(s.workshop))
	r.Post("/workshop", s.Page(s.workshopPost))
	r.Get("/workshop/{instrument}", s.Page(s.workshop))
	r.Post("/workshop/{instrument}", s.Page(s.workshopPost))
	r.Get("/bench/{instrument}", s.Page(s.bench))
	r.Post("/bench/{instrument}", s.Page(s.bench))
	r.Get("/rack/{instrument}/book", s.Page(s.book))
	r.Post("/rack/{instrument}/book", s.Page(s.writeBook))
	r.Post("/rack/{instrument}/book/damaged", s.Page(s.removeDamaged))
	r.Post("/rack/{instrument}/limit", s.Page(s.setLimit))
	r.Post("/rack/{instrument}/takeover", s.Page(s.takeOver))
	r.Get("/rack/{instrument}/book/table", s.Page(s.bookTable))
	r.Get("/bench/{instrument}/picture", s.Page(s.picture))
	r.Post("/rack/{instrument}/share", s.Page(s.share))
	r.Get("/bank/{kind}", s.Page(s.bank))
	r.Get("/bank/{kind}/{item}", s.Page(s.bankItem))
	r.Post("/bank/{kind}/{item}", s.Page(s.bankPost))
	r.Get("/sheets", s.Page(s.sheets))
	r.Get("/sheets/new", s.Page(s.composer))
	r.Post("/sheets/new", s.Page(s.composerPost))
	r.Get("/sheets/{sheet}", s.Page(s.composer))
	r.Post("/sheets/{sheet}", s.Page(s.composerPost))
	r.Get("/course", s.Page(s.course))
	r.Get("/course/file", s.Page(s.courseFile))
	r.Get("/sheets/{sheet}/document", s.Page(s.sheetDocument))
	r.Get("/sheets/{sheet}/package/{seed}", s.Page(s.platformPackage))
	r.Get("/sheets/{sheet}/flash/{seed}", s.Page(s.flash))
	r.Get("/sheets/{sheet}/try/{seed}/{n}", s.Page(s.try))
	r.Post("/sheets/{sheet}/try/{seed}/{n}", s.Page(s.try))
	r.Get("/sheets/{sheet}/try/{seed}/{n}/figure", s.Page(s.tryFigure))
	r.Post("/sheets/{sheet}/try/{seed}/{n}/figure", s.Page(s.tryFigure))
}

// Uploads adds the pages that take files.
func (s Shop) Uploads(r chi.Router) {
	r.Post("/rack/import", s.Page(s.importDocument))
	r.Post("/rack/{instrument}/book/preview", s.Page(s.previewBook))
	r.Post("/rack/{instrument}/book/import", s.Page(s.importBook))
	r.Post("/course/preview", s.Page(s.previewCourse))
	r.Post("/course/bring", s.Page(s.bringCourse))
}
