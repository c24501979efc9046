package student

import (
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/text"
	"cavix/school/sitting"
	"cavix/web/bench"
	"cavix/web/ui"
)

// standView is an instrument that a student may move, in the list of them.
type standView struct {
	Key, Name string
	Made      text.Text
	From      string
	Picture   string // its address
}

// benchesView is a student's Bench.
type benchesView struct {
	List   []standView
	Closed []string // titles of the timed tests that close it for their instruments
	Unread []string // titles of sheets that cannot be read
}

// benches lists the instruments that a student may move.
func (h Handler) benches(w http.ResponseWriter, r *http.Request) error {
	list, err := h.School.Sitting.StudentBench(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	views := make([]standView, len(list))
	for i, st := range list {
		in := st.Instrument
		views[i] = standView{Key: st.Key, Name: in.Name(), Made: in.Describe(), From: st.From,
			Picture: "/my/bench/" + st.Key + "/hung?v=" + bench.Hung(in.Name()+in.Describe().String())}
	}
	test, err := h.School.Sitting.InTest(r.Context(), ui.UserOf(r).ID, time.Now())
	if err != nil {
		return err
	}
	unread, err := h.School.Sitting.UnreadSheets(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "benches", text.New("student.bench.benches"),
		benchesView{views, test.Titles, unread})
}

// hung sends the small picture of one of them.
func (h Handler) hung(w http.ResponseWriter, r *http.Request) error {
	st, err := h.School.Sitting.Stand(r.Context(), ui.UserOf(r).ID, chi.URLParam(r, "key"))
	if err != nil {
		return err
	}
	return bench.Hang(w, r, st.Instrument)
}

// bench stands one of them on the Bench.
func (h Handler) bench(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	st, err := h.School.Sitting.Stand(r.Context(), student, chi.URLParam(r, "key"))
	if err != nil {
		return err
	}
	return h.stand(w, r, st, student)
}

func (h Handler) stand(w http.ResponseWriter, r *http.Request, st sitting.Standing, student int64) error {
	school, err := h.School.Roster.StudentSchool(r.Context(), student)
	if err != nil {
		return err
	}
	if school.Tie == "unfavourable" { // needs limits, and there are none here
		school.Tie = ""
	}
	if st.Instrument.Traits().Digits {
		school.Between = ""
	}
	return bench.Serve(h.Site, w, r, bench.Stand{Instrument: st.Instrument, Method: school, Action: "/my/bench/" +
		st.Key, Back: ui.Link{Text: text.New("student.bench.bench"), Href: "/my/bench"}})
}
