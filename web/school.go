package web

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"cavix/core/marking"
	"cavix/store"
)

// settingView is one thing that schools settle differently, as a form offers it.
type settingView struct {
	Field, Name, Why string
	Choices          []choice
	Error            string
}

// settingsOf lists the settings as a method has them. A sheet may leave each to its class.
func settingsOf(m marking.Method, open bool, errs map[string]string) []settingView {
	var out []settingView
	for _, s := range marking.Settings {
		v := settingView{Field: "method." + s.Field, Name: s.Name, Why: s.Why, Error: errs["method."+s.Field]}
		now := s.Get(m)
		if open {
			v.Choices = append(v.Choices, choice{"", "as the class has it", now == ""})
		}
		for i, c := range s.Choices {
			v.Choices = append(v.Choices, choice{c.Value, c.Words, now == c.Value || !open && now == "" && i == 0})
		}
		out = append(out, v)
	}
	return out
}

// method reads the settings from a form.
func (f *form) method() marking.Method {
	var m marking.Method
	for _, s := range marking.Settings {
		if err := s.Set(&m, f.Text["method."+s.Field]); err != nil {
			f.refuse("method."+s.Field, "is none of the choices; take one of the list")
		}
	}
	if text := strings.TrimSpace(f.Text["method.tenths_tolerance"]); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 || n > 9 {
			f.refuse("method.tenths_tolerance", "must be from 0 to 9 tenths")
		} else {
			m.TenthsTolerance = &n
		}
	}
	return m
}

// toleranceText is the tolerance of tenths as a form shows it.
func toleranceText(m marking.Method) string {
	if m.TenthsTolerance == nil {
		return ""
	}
	return strconv.Itoa(*m.TenthsTolerance)
}

// setMethod settles the school of a class.
func (s *Server) setMethod(w http.ResponseWriter, r *http.Request) error {
	n, err := id(r, "class")
	if err != nil {
		return err
	}
	f := newForm(r)
	m := f.method()
	if errs := f.errors(); len(errs) > 0 {
		return s.showClass(w, r, classView{SchoolErrors: errs, School: &m})
	}
	if m.Tie == "unfavourable" {
		return s.showClass(w, r, classView{School: &m, SchoolErrors: map[string]string{"method.tie": "needs limits, which only a sheet has; choose it on the sheet."}})
	}
	if err := s.Store.SetMethod(r.Context(), userOf(r).instructor.ID, n, m); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/classes/%d?school", n), http.StatusSeeOther)
	return nil
}

// slipView is a slip with an instructor's own words for it.
type slipView struct {
	marking.Slip
	marking.Wording
}

const maxWords = 400

// slips lists the slips with the instructor's own words.
func (s *Server) slips(w http.ResponseWriter, r *http.Request) error {
	own, err := s.Store.Wordings(r.Context(), userOf(r).instructor.ID)
	if err != nil {
		return err
	}
	var list []slipView
	for _, sl := range marking.Slips() {
		list = append(list, slipView{sl, own[sl.Code]})
	}
	return s.render(w, r, http.StatusOK, "slips", "Slips", list)
}

// setSlip keeps an instructor's words for one slip.
func (s *Server) setSlip(w http.ResponseWriter, r *http.Request) error {
	f := newForm(r)
	code := marking.Code(f.Text["code"])
	known := false
	for _, sl := range marking.Slips() {
		known = known || sl.Code == code
	}
	if !known {
		return fmt.Errorf("no slip %q: %w", code, store.ErrNotFound)
	}
	words := marking.Wording{Off: f.Text["named"] == "", Advice: clip(f.line("advice"), maxWords), Note: clip(f.line("note"), maxWords)}
	if err := s.Store.SetWording(r.Context(), userOf(r).instructor.ID, code, words); err != nil {
		return err
	}
	http.Redirect(w, r, "/slips#"+string(code), http.StatusSeeOther)
	return nil
}
