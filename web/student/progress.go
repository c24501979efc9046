package student

import (
	"net/http"

	"cavix/core/text"
	"cavix/school/ledgers"
	"cavix/transfer"
	"cavix/web/ui"
)

// wayPage is a student's whole way: weeks, sheets, slips.
type wayPage struct {
	ui.ProgressView
	Sheets []sheetLink
}

// way shows a student's whole way.
func (h Handler) way(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	who, err := h.School.Roster.Student(r.Context(), student)
	if err != nil {
		return err
	}
	v := wayPage{}
	progress, err := h.School.Ledgers.OwnProgress(r.Context(), student, ui.Ahead(who.Zone), ui.WeeksSeen)
	if err != nil {
		return err
	}
	v.ProgressView = ui.NewProgress(ui.Said(r), progress)
	if v.Sheets, err = h.links(r, student); err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "way", text.New("student.way.way"), v)
}

// export hands a student all own answers as a table.
func (h Handler) export(w http.ResponseWriter, r *http.Request) error {
	return ui.SendAnswers(w, "my-answers.csv", transfer.CSV, func(each func(ledgers.Answered) error) error {
		return h.School.Ledgers.OwnAnswers(r.Context(), ui.UserOf(r).ID, each)
	})
}
