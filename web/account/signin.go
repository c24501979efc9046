package account

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/roster"
	"cavix/web/ui"
)

func (h *Handler) signIn(w http.ResponseWriter, r *http.Request) error {
	return h.Render(w, r, http.StatusOK, "signin", text.New("account.coming.sign-in"),
		signView{personForm: personForm{To: r.URL.Query().Get("to")}, Demo: h.Demo})
}

// try is somebody who wants to come in.
type try struct {
	role, account, class string // class is the name of a student's
	name                 string // as typed
	hash                 string // of the passphrase that is right; "" for nobody's
}

// passes checks a passphrase, in its turn and not too soon after others; what is wrong goes to bad. The answer and its
// time are the same for names that are known and those that are not.
func (h *Handler) passes(w http.ResponseWriter, r *http.Request, t try, passphrase string, wrong text.Text,
	bad *ui.Faults) (bool, error) {
	known, err := h.knownFor(r, t.account)
	if err != nil {
		return false, err
	}
	if wait := h.guard.try(t.account, address(r), known); wait > 0 {
		w.Header().Set("Retry-After", fmt.Sprint(int(wait/time.Second)+1))
		bad.Add("passphrase", "account.coming.passes", "said", said(wait))
		return false, nil
	}
	ok, err := h.verify(r, t.hash, passphrase, known)
	if err != nil {
		h.guard.takeBack(t.account, address(r), known) // it was not tried
		if errors.Is(err, ui.ErrBusy) {
			err = busy(w, bad)
		}
		return false, err
	}
	if ok {
		h.guard.right(t.account, address(r), known)
	} else {
		bad.Put("passphrase", wrong)
	}
	return ok, h.School.Roster.NoteSignIn(r.Context(), roster.SignIn{Role: t.role, Name: ui.Clip(t.name, names.Longest),
		Class: t.class, Address: address(r), Good: ok, At: time.Now()})
}

// busy tells that a passphrase was not tried.
func busy(w http.ResponseWriter, bad *ui.Faults) error {
	w.Header().Set("Retry-After", "3")
	bad.Add("passphrase", "account.coming.busy")
	return nil
}

// enter lets somebody in whose passphrase was right, or who has just chosen one.
func (h *Handler) enter(w http.ResponseWriter, r *http.Request, role ui.Role, id, entry int64, account, to string,
	note text.Text) error {
	if account != "" {
		if err := h.know(w, r, account); err != nil {
			return err
		}
	}
	if err := h.Enter(r, role, id, entry); err != nil {
		return err
	}
	return h.Redirect(w, r, to, note, nil)
}

func (h *Handler) signInPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	i, err := h.School.Roster.InstructorByLogin(r.Context(), f.Name)
	if err != nil && !errors.Is(err, school.ErrNotFound) {
		return err
	}
	if !i.Barred.IsZero() {
		i.Hash = ""
	}
	var bad ui.Faults
	account := instructorAccount(f.Name)
	ok, err := h.passes(w, r, try{role: "instructor", account: account, name: f.Name, hash: i.Hash}, f.Passphrase,
		text.New("account.coming.sign-in-post"), &bad)
	if err != nil {
		return err
	}
	if !ok {
		return h.again(w, r, "signin", text.New("account.coming.sign"), f, bad)
	}
	return h.enter(w, r, ui.Instructor, i.ID, i.Entry, account, f.next("/desk"), text.Text{})
}

func (h *Handler) join(w http.ResponseWriter, r *http.Request) error {
	f := personForm{Code: cleanCode(r.URL.Query().Get("code")), To: r.URL.Query().Get("to")}
	return h.Render(w, r, http.StatusOK, "join", text.New("account.coming.join"), signView{personForm: f, Demo: h.Demo,
		Known: len(seals(r)) > 0})
}

// cleanCode brings a joining code to the form in which it is kept.
func cleanCode(code string) string {
	return strings.ToUpper(strings.NewReplacer(" ", "", "-", "", "–", "").Replace(ui.Clip(code, 60)))
}

func (h *Handler) joinPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	var bad ui.Faults
	class, err := h.School.Roster.ClassByCode(r.Context(), f.Code)
	if errors.Is(err, school.ErrNotFound) {
		bad.Add("code", "account.coming.join-post")
		return h.again(w, r, "join", text.New("account.coming.join-class"), f, bad)
	}
	if err != nil {
		return err
	}
	bad.Person("name", f.Name)
	if len(bad.Refusal) > 0 {
		return h.again(w, r, "join", text.New("account.coming.join-class"), f, bad)
	}
	var st roster.Student
	switch f.Do {
	case "guest":
		st, err = h.guest(r, class, f, &bad)
	default:
		st, err = h.joining(w, r, class, &f, &bad)
	}
	if err != nil {
		return err
	}
	if len(bad.Refusal) > 0 || st.ID == 0 {
		return h.again(w, r, "join", text.New("account.coming.join-class"), f, bad)
	}
	account := ""
	if f.Do != "guest" {
		account = studentAccount(class.ID, st.Name)
	}
	// a guest is led on to the question
	return h.enter(w, r, ui.Student, st.ID, st.Entry, account, f.next("/my"), text.Text{})
}

// joining lets a student in: one who comes back, one who is on the class's list and chooses a passphrase now, or one
// who is new. A new name that is near to one of the class is asked about first: the form then names that, and nobody is
// let in yet.
func (h *Handler) joining(w http.ResponseWriter, r *http.Request, class roster.Class, f *personForm,
	bad *ui.Faults) (roster.Student, error) {
	if f.Do == "near" {
		f.Name = f.Near
	}
	if checkPassphrase(bad, f.Passphrase); len(bad.Refusal) > 0 { // before the name is looked up
		return roster.Student{}, nil
	}
	known, err := h.School.Roster.StudentByName(r.Context(), class.ID, f.Name)
	switch {
	case err == nil && (known.Hash != "" || !known.Here()):
		return h.member(w, r, class, *f, bad)
	case err != nil && !errors.Is(err, school.ErrNotFound):
		return known, err
	case err != nil && f.Do != "new":
		near, is, err := h.School.Roster.NearName(r.Context(), class.ID, f.Name)
		if err != nil {
			return near, err
		}
		if is {
			f.Near = near.Name
			return roster.Student{}, nil
		}
	}
	return h.newcomer(w, r, class, *f, bad)
}

// refusedToJoin tells why somebody cannot join, where it is nobody's fault.
func refusedToJoin(err error, bad *ui.Faults) error {
	switch {
	case errors.Is(err, roster.ErrShut):
		bad.Add("code", "account.coming.refused-to-join")
	case errors.Is(err, roster.ErrCrowded):
		bad.Add("code", "account.coming.very-many-joined-class")
	case errors.Is(err, roster.ErrWaits):
		bad.Add("code", "account.coming.asked-join-when-your")
	default:
		return err
	}
	return nil
}

// guest lets somebody in who is here for a question only, with a handle and no passphrase.
func (h *Handler) guest(r *http.Request, class roster.Class, f personForm, bad *ui.Faults) (roster.Student, error) {
	id, err := h.School.Roster.JoinAsGuest(r.Context(), class.Code, f.Name, time.Now())
	switch {
	case errors.Is(err, school.ErrNotFound):
		bad.Add("code", "account.coming.guest")
		err = nil
	case errors.Is(err, roster.ErrNameTaken):
		bad.Add("name", "account.coming.somebody-class-name-already")
		err = nil
	}
	return roster.Student{ID: id}, refusedToJoin(err, bad)
}

// newcomer adds a student who joins for the first time.
func (h *Handler) newcomer(w http.ResponseWriter, r *http.Request, class roster.Class, f personForm,
	bad *ui.Faults) (roster.Student, error) {
	hash, err := h.hash(r, f.Passphrase)
	if errors.Is(err, ui.ErrBusy) {
		return roster.Student{}, busy(w, bad)
	}
	if err != nil {
		return roster.Student{}, err
	}
	id, err := h.School.Roster.Join(r.Context(), class.ID, f.Name, hash, time.Now())
	if errors.Is(err, roster.ErrNameTaken) || errors.Is(err, roster.ErrHasPassphrase) ||
		errors.Is(err, roster.ErrNotHere) {
		bad.Add("name", "account.coming.newcomer")
		return roster.Student{}, nil
	}
	if err := refusedToJoin(err, bad); err != nil || len(bad.Refusal) > 0 {
		return roster.Student{}, err
	}
	return h.School.Roster.Student(r.Context(), id)
}

// member finds a student who comes back.
func (h *Handler) member(w http.ResponseWriter, r *http.Request, class roster.Class, f personForm,
	bad *ui.Faults) (roster.Student, error) {
	st, err := h.School.Roster.StudentByName(r.Context(), class.ID, f.Name)
	if err != nil && !errors.Is(err, school.ErrNotFound) {
		return st, err
	}
	ok, err := h.passes(w, r, try{"student", studentAccount(class.ID, f.Name), class.Name, f.Name, st.Hash},
		f.Passphrase, text.New("account.coming.member"), bad)
	if err != nil || !ok {
		return st, err
	}
	switch {
	case st.Waits:
		bad.Add("name", "account.coming.your-instructor-not-let")
	case !st.Here():
		bad.Add("name", "account.coming.not-class-any-more")
	}
	return st, nil
}
