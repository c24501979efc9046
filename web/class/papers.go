package class

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/figure/fonts"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// papersView is a given sheet on paper: what is printed of it, and what has come back.
type papersView struct {
	sitting.Given
	May      bool // print, and type back
	Students int
	Groups   bool
	Print    printForm
	Job      *printing // what is being printed, or waits to be taken
	Versions []paperRow
	Pasted   string
	Strange  text.Text // what holds letters that cannot be printed
	Errors   map[string]text.Text
}

// printForm says what is printed, as typed.
type printForm struct {
	Per      ledgers.Per `form:"per"`
	Versions string      `form:"versions"`
	Anew     bool        `form:"anew"`
	Final    bool        `form:"final"`
	Dense    bool        `form:"dense"`
	Size     string      `form:"size"`
}

// paperRow is a version in the list.
type paperRow struct {
	Version    int
	Label      string // as it stands on the pages
	For        string
	Made       ui.Stamp
	Has, Typed int
	Gone       bool // nobody has it any more
}

// mostStrange is the largest number of unprintable texts that are named.
const mostStrange = 5

func (h Handler) papers(w http.ResponseWriter, r *http.Request) error {
	v := papersView{}
	return h.showPapers(w, r, v)
}

func (o Handler) showPapers(w http.ResponseWriter, r *http.Request, v papersView) error {
	g := ui.SheetOf(r)
	me := ui.UserOf(r).ID
	people, err := o.School.Roster.Students(r.Context(), me, g.Class)
	if err != nil {
		return err
	}
	v.Given, v.May, v.Students = g, ui.Allows(r, access.MakePaper), len(people)
	task, err := ui.PlainMarkdown(g.Sheet.Delivery.Task)
	if err != nil {
		return err
	}
	printed := append(task, g.Title, g.ClassName)
	for _, p := range people {
		v.Groups = v.Groups || p.Team != ""
		printed = append(printed, p.Name, p.Team)
	}
	for _, own := range ui.WordsOf(r).Own {
		printed = append(printed, own)
	}
	var strange []text.Text
	for _, s := range fonts.Unprintable(printed, mostStrange) {
		strange = append(strange, text.Typed(s))
	}
	v.Strange = text.And(strange...)
	if v.Print.Per == "" {
		v.Print = printForm{Per: ledgers.PerStudent, Versions: "2", Dense: true}
	}
	v.Print.Size = cmp.Or(v.Print.Size, string(paper.A4))
	if job, ok := o.press.of(me, g.ID); ok {
		v.Job = job
	}
	list, err := o.School.Ledgers.Papers(r.Context(), me, g.ID)
	if err != nil {
		return err
	}
	for _, p := range list {
		row := paperRow{Version: p.Version, Label: paper.Version{Number: p.Version, For: p.For()}.Label(), For: p.For(),
			Made: ui.Day(p.Made.In(roster.Clock(g.Zone))), Has: len(p.Has), Gone: len(p.Has) == 0 && len(people) > 0}
		for _, h := range p.Has {
			if h.Typed {
				row.Typed++
			}
		}
		v.Versions = append(v.Versions, row)
	}
	return o.Render(w, r, ui.Status(v.Errors), "papers", text.New("class.papers.show-papers", "title", g.Title), v)
}

// print deals the versions that are wanted, and begins to set them as PDF.
func (h Handler) print(w http.ResponseWriter, r *http.Request, f printForm) error {
	g := ui.SheetOf(r)
	refused := func(why text.Text) error {
		return h.showPapers(w, r, papersView{Print: f, Errors: map[string]text.Text{"per": why}})
	}
	if !slices.Contains([]ledgers.Per{ledgers.PerStudent, ledgers.PerGroup, ledgers.PerVersion, ledgers.ForAll},
		f.Per) {
		return refused(text.New("class.typing.who-shares"))
	}
	want := ledgers.Printing{Per: f.Per, Anew: f.Anew, Final: f.Final}
	if f.Per == ledgers.PerVersion {
		n, err := strconv.Atoi(strings.TrimSpace(f.Versions))
		if want.Versions = n; err != nil || n < 1 || n > ledgers.MostVersions {
			return refused(text.New("class.papers.how-many", "most", ledgers.MostVersions))
		}
	}
	versions, err := h.School.Ledgers.MakeVersions(r.Context(), ui.ActorOf(r), g.ID, want)
	if errors.Is(err, ledgers.ErrPapers) {
		return refused(text.New("class.papers.no-more", "n", ledgers.MostPapers))
	}
	if err != nil {
		return err
	}
	sheet, err := h.sheetOf(r, g)
	if err != nil {
		return err
	}
	sheet.Dense, sheet.Size = f.Dense, paper.Size(f.Size)
	for _, n := range versions {
		v, err := h.versionOf(r, g, n)
		if err != nil {
			return err
		}
		sheet.Versions = append(sheet.Versions, v)
	}
	err = h.press.start(ui.UserOf(r).ID, g.ID, sheet)
	if errors.Is(err, errBusy) {
		return refused(text.New("print.busy"))
	}
	if err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d/paper", g.ID), text.Text{}, nil)
}

// sheetOf returns what all versions of a sheet have in common.
func (h Handler) sheetOf(r *http.Request, g sitting.Given) (paper.Sheet, error) {
	task, err := ui.PlainMarkdown(g.Sheet.Delivery.Task)
	ui.SpeakToClass(r, ui.WordsOf(r))
	return paper.Sheet{Title: g.Title, Class: g.ClassName, Task: task, Said: ui.Said(r)}, err
}

func (h Handler) versionOf(r *http.Request, g sitting.Given, version int) (paper.Version, error) {
	p, err := h.School.Ledgers.Paper(r.Context(), ui.UserOf(r).ID, g.ID, version)
	return paper.Version{Number: version, For: p.For(), Items: p.Items}, err
}

// pageOne shows the first page as it would be printed: of a version that there is, or else of the sheet as a student
// gets it.
func (h Handler) pageOne(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	var f printForm
	if err := ui.Asked(r, &f); err != nil {
		return err
	}
	sheet, err := h.sheetOf(r, g)
	if err != nil {
		return err
	}
	items, err := g.Sheet.Deal(kinds.All, ui.TrySeed(1))
	if err != nil {
		return err
	}
	if f.Final {
		for i := range items {
			items[i] = kinds.FinalOnly(items[i])
		}
	}
	sheet.Dense, sheet.Size = f.Dense, paper.Size(f.Size)
	sheet.Versions = []paper.Version{{Number: 1, Items: items}}
	page, err := sheet.Preview()
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	w.Header().Set("Cache-Control", "private, no-store")
	_, err = w.Write(page)
	return err
}

// printed sends what was printed: the sheets, or with ?key the key.
func (h Handler) printed(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	job, ok := h.press.of(ui.UserOf(r).ID, g.ID)
	if !ok || !job.Ready() {
		return school.ErrNotFound
	}
	file, name := job.sheets, g.Title+" paper.pdf"
	if r.URL.Query().Has("key") {
		file, name = job.key, g.Title+" key.pdf"
	}
	data, err := os.Open(file)
	if errors.Is(err, fs.ErrNotExist) { // it was let go since
		return school.ErrNotFound
	} else if err != nil {
		return err
	}
	defer data.Close()
	ui.Download(w, name, "application/pdf")
	_, err = io.Copy(w, data)
	return err
}

// ofVersion is the given sheet, and the number of a version of it, that an address names.
func (h Handler) ofVersion(r *http.Request) (g sitting.Given, version int, err error) {
	g = ui.SheetOf(r)
	n, err := ui.ID(r, "version")
	return g, int(n), err
}

// paper sends one version, with ?key its key, or with ?flash its cards to be cut out.
func (h Handler) paper(w http.ResponseWriter, r *http.Request) error {
	g, n, err := h.ofVersion(r)
	if err != nil {
		return err
	}
	sheet, err := h.sheetOf(r, g)
	if err != nil {
		return err
	}
	v, err := h.versionOf(r, g, n)
	if err != nil {
		return err
	}
	sheet.Versions = []paper.Version{v}
	sheet.Dense, sheet.Size = r.URL.Query().Has("dense"), paper.Size(r.URL.Query().Get("size"))
	write, name := sheet.Write, "paper"
	switch q := r.URL.Query(); {
	case q.Has("key"):
		write, name = sheet.WriteKey, "key"
	case q.Has("flash"):
		write, name = sheet.WriteFlash, "flash cards"
	}
	var b strings.Builder
	if err := write(&b, func(int) error { return r.Context().Err() }); err != nil {
		return err
	}
	ui.Download(w, fmt.Sprintf("%s %s %d.pdf", g.Title, name, n), "application/pdf")
	_, err = w.Write([]byte(b.String()))
	return err
}

// paperCards gives the cards of a version as a document, by which its answers are marked as a batch.
func (h Handler) paperCards(w http.ResponseWriter, r *http.Request) error {
	g, n, err := h.ofVersion(r)
	if err != nil {
		return err
	}
	p, err := h.School.Ledgers.Paper(r.Context(), ui.UserOf(r).ID, g.ID, n)
	if err != nil {
		return err
	}
	out := exercise.Cards{}
	for i, it := range p.Items {
		out[strconv.Itoa(i+1)] = it
	}
	ui.Download(w, fmt.Sprintf("cards-%d-%d.json", g.ID, n), "application/json; charset=utf-8")
	return json.NewEncoder(w).Encode(out)
}
