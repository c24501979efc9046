package web

import (
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"cavix/core/marking"
	"cavix/store"
)

// codeLetters are those of joining codes: none that is taken for another on a board.
const codeLetters = "ACDEFGHJKMNPQRTUVWXY3479"

// newCode makes a joining code of six letters and digits.
func newCode() string {
	b := make([]byte, 6)
	rand.Read(b)
	for i := range b {
		b[i] = codeLetters[int(b[i])%len(codeLetters)]
	}
	return string(b)
}

func (s *Server) addClass(w http.ResponseWriter, r *http.Request) error {
	f := newForm(r)
	name := f.line("name")
	if bad := checkName(name); bad != "" {
		return s.showDesk(w, r, http.StatusUnprocessableEntity, deskView{Name: name, Errors: map[string]string{"name": bad}})
	}
	for {
		n, err := s.Store.AddClass(r.Context(), userOf(r).instructor.ID, name, newCode())
		if errors.Is(err, store.ErrTaken) {
			continue // another class has this code
		}
		if err != nil {
			return err
		}
		http.Redirect(w, r, fmt.Sprintf("/classes/%d", n), http.StatusSeeOther)
		return nil
	}
}

// classView is one class.
type classView struct {
	store.Class
	Address string // where students join
	Given   []givenView
	Free    []store.Sheet // sheets it has not been given
	People  []store.Student
	Note    string

	School       *marking.Method // as chosen, when it could not be kept
	SchoolErrors map[string]string
	Settings     []settingView
	Tolerance    string
}

func (s *Server) class(w http.ResponseWriter, r *http.Request) error {
	v := classView{}
	switch q := r.URL.Query(); {
	case q.Has("given"):
		v.Note = "The sheet is given. Students see it now; each gets values of their own."
	case q.Has("cleared"):
		v.Note = "The old passphrase is gone. The student joins once more with the code and the same name, and chooses a new one."
	case q.Has("school"):
		v.Note = "Sheets given from now on follow this school. Sheets given before keep theirs; they can be marked anew from the ledger."
	case q.Has("already"):
		v.Note = "This class has that sheet already; nothing was changed."
	}
	return s.showClass(w, r, v)
}

func (s *Server) showClass(w http.ResponseWriter, r *http.Request, v classView) error {
	ctx, owner := r.Context(), userOf(r).instructor.ID
	n, err := id(r, "class")
	if err != nil {
		return err
	}
	if v.Class, err = s.Store.Class(ctx, owner, n); err != nil {
		return err
	}
	school := v.Method
	if v.School != nil {
		school = *v.School
	}
	v.Settings, v.Tolerance = settingsOf(school, false, v.SchoolErrors), toleranceText(school)
	if v.People, err = s.Store.Students(ctx, owner, n); err != nil {
		return err
	}
	given, err := s.Store.Assignments(ctx, owner, n)
	if err != nil {
		return err
	}
	v.Given = newGiven(given)
	if v.Free, err = s.Store.SheetsNotGiven(ctx, owner, n); err != nil {
		return err
	}
	scheme := "http"
	if s.Secure {
		scheme = "https"
	}
	v.Address = fmt.Sprintf("%s://%s/join?code=%s", scheme, r.Host, v.Code)
	status := http.StatusOK
	if len(v.SchoolErrors) > 0 {
		status = http.StatusUnprocessableEntity
	}
	return s.render(w, r, status, "class", v.Name, v)
}

// giveSheet gives a sheet to a class, under a seed of its own.
func (s *Server) giveSheet(w http.ResponseWriter, r *http.Request) error {
	class, err := id(r, "class")
	if err != nil {
		return err
	}
	f := newForm(r)
	sheet, err := strconv.ParseInt(f.Text["sheet"], 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	var seed [8]byte
	rand.Read(seed[:])
	_, err = s.Store.Give(r.Context(), userOf(r).instructor.ID, class, sheet, binary.NativeEndian.Uint64(seed[:]), time.Now())
	said := "given"
	if errors.Is(err, store.ErrTaken) {
		said = "already"
	} else if err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/classes/%d?%s", class, said), http.StatusSeeOther)
	return nil
}

// clearPassphrase lets a student who has forgotten the passphrase choose another.
func (s *Server) clearPassphrase(w http.ResponseWriter, r *http.Request) error {
	class, err := id(r, "class")
	if err != nil {
		return err
	}
	student, err := strconv.ParseInt(r.PostFormValue("student"), 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	if err := s.Store.ClearPassphrase(r.Context(), userOf(r).instructor.ID, class, student); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/classes/%d?cleared", class), http.StatusSeeOther)
	return nil
}
