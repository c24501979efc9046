package student

import (
	"net/http"

	"cavix/core/text"
	"cavix/store"
	"cavix/transfer"
	"cavix/web/ui"
)

// wayPage is a student's whole way: weeks, sheets, slips.
type wayPage struct {
	ui.WayView
	Sheets []sheetLink
}

// way shows a student's whole way.
func (s Seat) way(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	read := s.Room.Store().Read(r.Context())
	who, err := read.Student(student)
	if err != nil {
		return err
	}
	v := wayPage{}
	if v.WayView, err = ui.Way(ui.Said(r), read, student, true, who.Zone); err != nil {
		return err
	}
	if v.Sheets, err = s.links(r, student); err != nil {
		return err
	}
	return s.Render(w, r, http.StatusOK, "way", text.New("student.way.way"), v)
}

// export hands a student all own answers as a table.
func (s Seat) export(w http.ResponseWriter, r *http.Request) error {
	return ui.SendAnswers(w, "my-answers.csv", transfer.CSV, func(each func(store.Answered) error) error {
		return s.Room.Store().Read(r.Context()).OwnAnswers(ui.UserOf(r).ID, each)
	})
}
