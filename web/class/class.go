// Package class is where an instructor works with classes: the Desk, a class with its sheets and people,
// the Ledger, marking anew, own words for slips, and sheets on paper.
package class

import (
	"crypto/rand"
	"embed"
	"encoding/binary"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves the pages of classes: Desk, people, ledger, mistakes, paper.
type Handler struct {
	*ui.Site
	press *press
}

// New returns the pages for a site.
func New(site *ui.Site) Handler { return Handler{site, newPress(site)} }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	class, sheet := r.With(h.InClass(access.ViewClass)), r.With(h.OnSheet(access.ViewClass))
	names, answers := r.With(h.InClass(access.DownloadNames)), r.With(h.InClass(access.DownloadAnswers))
	marks := r.With(h.OnSheet(access.DownloadAnswers))
	r.Get("/desk", h.Page(h.desk))
	r.Post("/classes", ui.Form(h.Site, h.add))
	class.Get("/classes/{class}", h.Page(h.class))
	class.Post("/classes/{class}/give", ui.Form(h.Site, h.give))
	class.Get("/classes/{class}/settings", h.Page(h.settings))
	class.Post("/classes/{class}/settings", h.Page(h.settings))
	class.Post("/classes/{class}/code", h.Page(h.renewCode))
	class.Post("/classes/{class}/drop", h.Page(h.drop))
	class.Post("/classes/{class}/people/waiting", h.Page(h.letIn))
	class.Get("/classes/{class}/people", h.Page(h.people))
	names.Get("/classes/{class}/people/list", h.Page(h.peopleTable))
	names.Get("/classes/{class}/people/slips", h.Page(h.joiningSlips))
	class.Get("/classes/{class}/people/{student}", h.Page(h.person))
	class.Post("/classes/{class}/people/{student}", ui.Form(h.Site, h.doWithPerson))
	names.Get("/classes/{class}/people/{student}/data", h.Page(h.personData))
	class.Post("/classes/{class}/staff", ui.Form(h.Site, h.setStaff))
	class.Post("/classes/{class}/archive", h.Page(h.archive))
	class.Get("/classes/{class}/ledger", h.Page(h.term))
	answers.Get("/classes/{class}/ledger/table", h.Page(h.termTable))
	class.Post("/classes/{class}/changed-marks", h.Page(h.dismissChanged))
	class.Post("/classes/{class}/weights", ui.Form(h.Site, h.setWeights))
	sheet.Post("/ledger/{assignment}/excuse", ui.Form(h.Site, h.excuse))
	r.Get("/slips", h.Page(h.slips))
	r.Post("/slips", ui.Form(h.Site, h.setSlip))
	sheet.Get("/ledger/{assignment}", h.Page(h.ledger))
	sheet.Post("/ledger/{assignment}/times", ui.Form(h.Site, h.setTimes))
	sheet.Post("/ledger/{assignment}/dates", ui.Form(h.Site, h.setDates))
	sheet.Post("/ledger/{assignment}/more", ui.Form(h.Site, h.moreMinutes))
	sheet.Post("/ledger/{assignment}/release", h.Page(h.release))
	marks.Get("/ledger/{assignment}/remark", h.Page(h.remark))
	sheet.Post("/ledger/{assignment}/remark", h.Page(h.remark))
	sheet.Post("/ledger/{assignment}/undo", h.Page(h.undoRemark))
	sheet.Get("/ledger/{assignment}/paper/one", h.Page(h.pageOne))
	sheet.Get("/ledger/{assignment}/paper", h.Page(h.papers))
	sheet.Post("/ledger/{assignment}/paper", ui.Form(h.Site, h.print))
	marks.Get("/ledger/{assignment}/paper/printed", h.Page(h.printed))
	marks.Get("/ledger/{assignment}/paper/table", h.Page(h.writtenTable))
	marks.Get("/ledger/{assignment}/paper/type", h.Page(h.typing))
	sheet.Post("/ledger/{assignment}/paper/type", h.Page(h.typeBack))
	marks.Get("/ledger/{assignment}/paper/{version}", h.Page(h.paper))
	marks.Get("/ledger/{assignment}/paper/{version}/cards", h.Page(h.paperCards))
	sheet.Get("/ledger/{assignment}/{student}/{n}", h.Page(h.card))
	sheet.Get("/ledger/{assignment}/{student}/{n}/figure", h.Page(h.figure))
	sheet.Post("/ledger/{assignment}/{student}/{n}", ui.Form(h.Site, h.ownMark))
	h.wrongRoutes(r)
}

// Downloads adds what takes its time.
func (h Handler) Downloads(r chi.Router) {
	r.With(h.InClass(access.DownloadAnswers)).Get("/classes/{class}/answers", h.Page(h.classAnswers))
	r.With(h.OnSheet(access.DownloadAnswers)).Get("/ledger/{assignment}/answers", h.Page(h.sheetAnswers))
}

// Uploads adds what takes files.
func (h Handler) Uploads(r chi.Router) {
	people, answers := r.With(h.InClass(access.ImportPeople)), r.With(h.OnSheet(access.EnterAnswers))
	people.Post("/classes/{class}/people/preview", ui.Form(h.Site, h.previewPeople))
	people.Post("/classes/{class}/people/bring", ui.Form(h.Site, h.bring))
	answers.Post("/ledger/{assignment}/paper/preview", h.Page(h.previewWritten))
	answers.Post("/ledger/{assignment}/paper/bring", h.Page(h.bringWritten))
}

// givenView is a sheet given to a class, with how far the class is.
type givenView struct {
	sitting.Given
	Cards  int // of all students together
	Share  text.Math
	When   text.Text // it can be taken; "" for any time
	Unread bool
}

func (h Handler) newGiven(list []sitting.Given) []givenView {
	out := make([]givenView, len(list))
	for i, a := range list {
		if a.Err != nil {
			h.Log.Error("a given sheet cannot be read", "err", a.Err)
		}
		out[i] = givenView{Given: a, Cards: a.Students * a.Sheet.Cards(), Share: ui.PerCent(a.Marks, a.Of),
			Unread: a.Err != nil}
		if !a.Opens.IsZero() || !a.Closes.IsZero() {
			out[i].When = whenTaken(a)
		}
	}
	return out
}

// addForm is the form of add.
type addForm struct {
	Name  string `form:"name"`
	Like  int64  `form:"like"` // the class whose settings, colleagues and sheets it takes; 0 for none
	Start string `form:"start"`
}

func (h Handler) add(w http.ResponseWriter, r *http.Request, f addForm) error {
	name, start := ui.OneLine(f.Name), time.Now()
	var bad ui.Faults
	bad.Name("name", name)
	if says := strings.TrimSpace(f.Start); says != "" && f.Like != 0 {
		day, err := time.ParseInLocation(time.DateOnly, says, time.Local)
		if start = day; err != nil || day.Year() < 2000 || day.Year() > 2199 {
			bad.Add("start", "class.add")
		}
	}
	if len(bad.Refusal) > 0 {
		return h.showDesk(w, r, deskView{Name: name, Like: f.Like, Start: f.Start, Errors: bad.By()})
	}
	if f.Like != 0 {
		n, err := h.School.Sitting.AddClassLike(r.Context(), ui.ActorOf(r), name, f.Like, start)
		if err != nil {
			return err
		}
		return h.Redirect(w, r, classPath(n), text.New("class.class-settings-colleagues-sheets"), nil)
	}
	n, err := h.School.Roster.AddClass(r.Context(), ui.UserOf(r).ID, name, "")
	if err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/classes/%d", n), http.StatusSeeOther)
	return nil
}

// classView is one class.
type classView struct {
	roster.Class
	Address  string // where students join
	OnlyHere bool
	Given    []givenView
	Shown    ui.Shown       // of the sheets given
	Free     []ui.SheetView // sheets it has not been given
	People   []roster.Student

	Times timesView
	Sheet int64 // that was to be given, when it could not be

	Settings  []summaryLine // in a few lines
	Practised practiceView
	Errors    map[string]text.Text
}

func (h Handler) class(w http.ResponseWriter, r *http.Request) error {
	v := classView{}
	return h.showClass(w, r, v)
}

func (h Handler) showClass(w http.ResponseWriter, r *http.Request, v classView) error {
	ctx, owner := r.Context(), ui.UserOf(r).ID
	var err error
	v.Class = ui.ClassOf(r)
	settings, err := roster.SettingsOf(v.Class)
	if err != nil {
		return err
	}
	v.Settings = summary(v.Class, settings)
	if v.Practised, err = h.practised(r, v.Class); err != nil {
		return err
	}
	if v.People, err = h.School.Roster.Students(ctx, owner, v.Class.ID); err != nil {
		return err
	}
	given, err := h.School.Sitting.GivenTo(ctx, owner, v.Class.ID)
	if err != nil {
		return err
	}
	v.Shown = ui.ShownOf(r, len(given), 0, 5, 2*ui.TallRows)
	v.Given = h.newGiven(given[v.Shown.From:v.Shown.To])
	if ui.Continues(r) {
		return h.Fragment(w, r, "class", "givenrows", v)
	}
	free, err := h.School.Rack.SheetsNotGiven(ctx, owner, v.Class.ID)
	if err != nil {
		return err
	}
	for _, sh := range free {
		v.Free = append(v.Free, ui.NewSheetView(sh))
	}
	if v.Times.Zone = zoneName(v.Zone); v.Times.Errors == nil {
		v.Times.Errors = map[string]text.Text{}
	}
	v.Address, v.OnlyHere = h.Address(r, "/join?code="+v.Code), h.OnlyHere(r)
	return h.Render(w, r, ui.Status(v.Errors), "class", text.Typed(v.Name), v)
}

// classPath is the address of a class.
func classPath(class int64) string { return fmt.Sprintf("/classes/%d", class) }

// giveForm is the form of give.
type giveForm struct {
	Sheet int64 `form:"sheet"`
	timesForm
}

// give gives a sheet to a class, under a seed of its own.
func (h Handler) give(w http.ResponseWriter, r *http.Request, f giveForm) error {
	class := ui.ClassOf(r).ID
	owner := ui.UserOf(r).ID
	c, err := h.School.Roster.Class(r.Context(), owner, class)
	if err != nil {
		return err
	}
	var bad ui.Faults
	opens, closes := f.times(c.Zone, &bad)
	if len(bad.Refusal) > 0 {
		return h.showClass(w, r, classView{Sheet: f.Sheet, Errors: bad.By(),
			Times: timesView{Opens: f.Opens, Closes: f.Closes, Errors: bad.By()}})
	}
	var seed [8]byte
	rand.Read(seed[:])
	n, err := h.School.Sitting.Give(r.Context(), owner, class, f.Sheet, binary.NativeEndian.Uint64(seed[:]), time.Now())
	if err == nil && !(opens.IsZero() && closes.IsZero()) {
		err = h.School.Sitting.SetDates(r.Context(), owner, n, opens, closes)
	}
	switch {
	case errors.Is(err, sitting.ErrGiven):
		return h.Redirect(w, r, classPath(class), text.New("class.class-sheet-already-nothing"), nil)
	case err != nil:
		return err
	}
	return h.Redirect(w, r, classPath(class), text.New("class.notes"), nil)
}

// methodForm is a form with the settings of a school.
type methodForm struct {
	Method ui.MethodForm `form:"method"`
	Do     string        `form:"do"`
	Lower  string        `form:"lower"` // marks are lowered too, of cards that were right as they were asked
}

// slipView is a slip with an instructor's own words for it.
type slipView struct {
	exercise.Slip
	exercise.SlipWording
}

const maxWords = 400

// slips lists the slips with the instructor's own words.
func (h Handler) slips(w http.ResponseWriter, r *http.Request) error {
	own, err := h.School.Rack.Wordings(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	var list []slipView
	for _, sl := range kinds.Slips() {
		list = append(list, slipView{sl, own[sl.Code]})
	}
	return h.Render(w, r, http.StatusOK, "slips", text.New("class.slips"), list)
}

// setSlipForm is the form of setSlip.
type setSlipForm struct {
	Code   string `form:"code"`
	Named  string `form:"named"`
	Advice string `form:"advice"`
	Note   string `form:"note"`
}

// setSlip keeps an instructor's words for one slip.
func (h Handler) setSlip(w http.ResponseWriter, r *http.Request, f setSlipForm) error {
	code := exercise.Code(f.Code)
	if code.IsPair() || !kinds.Known(code) {
		return fmt.Errorf("no slip %q: %w", ui.Clip(f.Code, 60), school.ErrNotFound)
	}
	words := exercise.SlipWording{Off: f.Named == "", Advice: ui.Clip(ui.OneLine(f.Advice), maxWords),
		Note: ui.Clip(ui.OneLine(f.Note), maxWords)}
	if err := h.School.Rack.SetWording(r.Context(), ui.UserOf(r).ID, code, words); err != nil {
		return err
	}
	http.Redirect(w, r, "/slips#"+string(code), http.StatusSeeOther)
	return nil
}
