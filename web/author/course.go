package author

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"net/http"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/transfer"
	"cavix/transfer/platform"
	"cavix/web/ui"
)

// courseView is the page on which an instructor's work goes out and comes in.
type courseView struct {
	Classes     []roster.Class
	Sheets      []ui.SheetView
	Instruments []rackedLine
	Pasted      string
	Errors      map[string]text.Text
}

type rackedLine struct {
	ID   int64
	Name string
}

func (h Handler) course(w http.ResponseWriter, r *http.Request) error {
	return h.showCourse(w, r, courseView{})
}

func (h Handler) showCourse(w http.ResponseWriter, r *http.Request, v courseView) error {
	me := ui.UserOf(r).ID
	var err error
	if v.Classes, err = h.School.Roster.Classes(r.Context(), me); err != nil {
		return err
	}
	sheets, err := h.School.Rack.Sheets(r.Context(), me)
	if err != nil {
		return err
	}
	for _, sh := range sheets {
		v.Sheets = append(v.Sheets, ui.NewSheetView(sh))
	}
	rack, err := h.School.Rack.Rack(r.Context(), me)
	if err != nil {
		return err
	}
	for _, k := range rack {
		v.Instruments = append(v.Instruments, rackedLine{k.ID, k.Name})
	}
	return h.Render(w, r, ui.Status(v.Errors), "course", text.New("author.course.show-course"), v)
}

// courseFile sends a course as one file: what was ticked, of a class that the instructor teaches.
func (h Handler) courseFile(w http.ResponseWriter, r *http.Request) error {
	var f struct {
		Class       int64   `form:"class"`
		Instruments []int64 `form:"instrument"`
		Sheets      []int64 `form:"sheet"`
		Some        bool    `form:"some"` // only what is ticked
		People      bool    `form:"people"`
		Answers     bool    `form:"answers"`
	}
	if err := ui.Asked(r, &f); err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	class, err := h.School.Roster.Class(r.Context(), me, f.Class)
	if err != nil {
		return err
	}
	if f.People && !access.DownloadNames.Allows(class.Role) || f.Answers && !access.DownloadAnswers.Allows(class.Role) {
		return access.ErrForbidden
	}
	take := rack.Taking{Class: class.ID}
	if f.Some {
		take.Instruments, take.Sheets = ticked(f.Instruments), ticked(f.Sheets)
	}
	c, _, err := h.School.Rack.Course(r.Context(), me, take)
	if err != nil {
		return err
	}
	var people []transfer.Person
	if f.People {
		if people, err = h.peopleOf(r, class); err != nil {
			return err
		}
	}
	var answers func(io.Writer) error
	if f.Answers {
		answers = func(w io.Writer) error {
			return ui.WriteAnswers(w, transfer.CSV, func(each func(ledgers.Answered) error) error {
				return h.School.Ledgers.ClassAnswers(r.Context(), me, class.ID, each)
			})
		}
	}
	return ui.Spooled(w, class.Name+".cavix", "application/zip", func(to io.Writer) error {
		return transfer.WriteCourse(to, c, people, answers)
	})
}

func ticked(ids []int64) map[int64]bool {
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out
}

// peopleOf lists the people of a class for a course.
func (h Handler) peopleOf(r *http.Request, class roster.Class) ([]transfer.Person, error) {
	list, err := h.School.Roster.NameList(r.Context(), ui.UserOf(r).ID, class.ID)
	return ui.PeopleOf(list), err
}

// sheetDocument sends a sheet as its document.
func (h Handler) sheetDocument(w http.ResponseWriter, r *http.Request) error {
	sh, err := h.named(r)
	if err != nil {
		return err
	}
	ui.Download(w, sh.Title+".json", "application/json; charset=utf-8")
	return transfer.Document(w, exercise.TitledSheet{Title: sh.Title, Sheet: sh.Definition})
}

// incomingView is a course about to be brought in, thing by thing.
type incomingView struct {
	Name    string
	Things  []rack.ImportEffect
	Refused []transfer.BadFile
	Left    []text.Text
	Counts  map[roster.Difference]int
	File    string // as it goes on to be brought in
}

// previewCourse reads a course file or a document, and shows what bringing it in would do.
func (h Handler) previewCourse(w http.ResponseWriter, r *http.Request) error {
	data, err := ui.Upload(r, "file", "document")
	if err != nil {
		return err
	}
	f, err := transfer.ReadCourse(data)
	if err != nil {
		pasted := ui.Clip(r.PostFormValue("document"), 100_000)
		return h.showCourse(w, r, courseView{Pasted: pasted,
			Errors: map[string]text.Text{"file": text.New("author.course.preview-course.errors", "err", err)}})
	}
	v := incomingView{Name: f.Name, Refused: f.Refused, Left: f.Left, Counts: map[roster.Difference]int{},
		File: base64.StdEncoding.EncodeToString(data)}
	if v.Things, err = h.School.Rack.PreviewCourse(r.Context(), ui.UserOf(r).ID, f.Course,
		ui.ImportOf(f.People)); err != nil {
		return err
	}
	for _, t := range v.Things {
		v.Counts[t.Difference]++
	}
	if n := len(f.Refused); n > 0 {
		v.Counts[roster.Refused] = n
	}
	return h.Render(w, r, http.StatusOK, "incoming", text.New("author.course.preview-course"), v)
}

// bringCourse brings a course in that was looked at, whole or not at all.
func (h Handler) bringCourse(w http.ResponseWriter, r *http.Request) error {
	data, err := base64.StdEncoding.DecodeString(r.PostFormValue("file"))
	if err != nil {
		return ui.Unread(err)
	}
	f, err := transfer.ReadCourse(data)
	if err == nil && len(f.Refused) > 0 {
		err = &text.Problem{Text: f.Refused[0].Reason}
	}
	if err != nil {
		return ui.Unread(err)
	}
	_, err = h.School.Rack.ImportCourse(r.Context(), ui.ActorOf(r), f.Course, ui.ImportOf(f.People))
	var refused refusal.Refusal
	if errors.Is(err, rack.ErrBankFull) || errors.Is(err, roster.ErrNameTaken) || errors.As(err, &refused) {
		return ui.Unread(err)
	}
	if err != nil {
		return err
	}
	return h.Redirect(w, r, "/course", text.New("author.course.course"), nil)
}

// platformPackage sends cards of a sheet as a package for learning platforms.
func (h Handler) platformPackage(w http.ResponseWriter, r *http.Request) error {
	sh, items, seed, err := h.cardsOf(r)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	pack := platform.Sheet{Title: sh.Title, Number: seed, Said: ui.Said(r), Items: items}
	if _, err := pack.Write(&b); err != nil {
		return err
	}
	ui.Download(w, fmt.Sprintf("%s qti %d.zip", sh.Title, seed), "application/zip")
	_, err = b.WriteTo(w)
	return err
}
