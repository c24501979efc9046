package account

import (
	"errors"
	"net/http"
	"time"

	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school"
	"cavix/web/ui"
)

// ownView is somebody's own account.
type ownView struct {
	Name, Login string
	Class       string // of a student
	Errors      map[string]text.Text
	Languages   []ui.OptionView
}

// ownHash finds who is signed in, with the hash of the passphrase.
func (h *Handler) ownHash(r *http.Request) (v ownView, account, hash string, err error) {
	u := ui.UserOf(r)
	switch {
	case u.Role == ui.Instructor:
		i, err := h.School.Roster.Instructor(r.Context(), u.ID)
		return ownView{Name: i.Name, Login: i.Login, Languages: ui.Languages(text.New("language.browser"), i.Language)},
			instructorAccount(i.Login), i.Hash, err
	case u.Role == ui.Student && !u.Guest:
		st, err := h.School.Roster.Student(r.Context(), u.ID)
		return ownView{Name: st.Name, Class: st.ClassName,
				Languages: ui.Languages(text.New("language.class-or-browser"), st.Language)},
			studentAccount(st.Class, st.Name), st.Hash, err
	}
	return v, "", "", school.ErrNotFound
}

func (h *Handler) own(w http.ResponseWriter, r *http.Request) error {
	v, _, _, err := h.ownHash(r)
	if err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "own", text.New("account.own.own"), v)
}

// ownPostForm is the form of ownPost.
type ownPostForm struct {
	Do  string `form:"do"`
	Old string `form:"old"`
	New string `form:"passphrase"`

	Language string `form:"language"`
}

func (h *Handler) ownPost(w http.ResponseWriter, r *http.Request, f ownPostForm) error {
	v, account, hash, err := h.ownHash(r)
	if err != nil {
		return err
	}
	u := ui.UserOf(r)
	teaches, role := u.Role == ui.Instructor, "student"
	if teaches {
		role = "instructor"
	}
	if f.Do == "language" {
		err := h.School.Roster.SetLanguage(r.Context(), teaches, u.ID, f.Language)
		if v.Errors = refusal.By(err); len(v.Errors) > 0 {
			return h.Render(w, r, http.StatusUnprocessableEntity, "own", text.New("account.own.your-account"), v)
		}
		return h.Redirect(w, r, "/account", text.New("account.own.language-kept"), err)
	}
	note := text.New("account.own.wherever-else-were-signed")
	var entry int64
	if f.Do == "end" {
		entry, err = h.School.Roster.EndOwn(r.Context(), teaches, u.ID)
	} else {
		note = text.New("account.own.own-notes")
		var bad ui.Faults
		checkPassphrase(&bad, f.New)
		if len(bad.Refusal) == 0 {
			var old ui.Faults
			_, err = h.passes(w, r, try{role, account, v.Class, u.Name, hash}, f.Old, text.New("account.own.own-post"),
				&old)
			for _, why := range old.By() {
				bad.Put("old", why)
			}
		}
		if err != nil {
			return err
		}
		if v.Errors = bad.By(); len(v.Errors) > 0 {
			return h.Render(w, r, http.StatusUnprocessableEntity, "own", text.New("account.own.your-account"), v)
		}
		if hash, err = h.hash(r, f.New); err == nil {
			entry, err = h.School.Roster.ChangeOwn(r.Context(), teaches, u.ID, hash)
		}
	}
	if err != nil {
		return err
	}
	return h.enter(w, r, u.Role, u.ID, entry, account, "/account", note)
}

// welcomeView is printed by the page on which an instructor chooses a passphrase with a link.
type welcomeView struct {
	Key, Name, Login string
	Errors           map[string]text.Text
}

// expired tells that a link is good no longer.
func (h *Handler) expired(w http.ResponseWriter, r *http.Request) error {
	return h.Render(w, r, http.StatusNotFound, "error", text.New("account.own.expired"), ui.ErrorView{
		Title: text.New("account.own.expired.title"),
		Text:  text.New("account.own.link-works-once-within")})
}

func (h *Handler) welcome(w http.ResponseWriter, r *http.Request) error {
	key := r.URL.Query().Get("key")
	i, err := h.School.Roster.ByLink(r.Context(), key, time.Now())
	if errors.Is(err, school.ErrNotFound) {
		return h.expired(w, r)
	}
	if err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "welcome", text.New("account.own.welcome"),
		welcomeView{Key: key, Name: i.Name, Login: i.Login})
}

func (h *Handler) welcomePost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	i, err := h.School.Roster.ByLink(r.Context(), f.Key, time.Now())
	if errors.Is(err, school.ErrNotFound) {
		return h.expired(w, r)
	}
	if err != nil {
		return err
	}
	var bad ui.Faults
	if checkPassphrase(&bad, f.Passphrase); len(bad.Refusal) > 0 {
		return h.Render(w, r, http.StatusUnprocessableEntity, "welcome", text.New("account.own.welcome-post"),
			welcomeView{f.Key, i.Name, i.Login, bad.By()})
	}
	hash, err := h.hash(r, f.Passphrase)
	if err != nil {
		return err
	}
	i, err = h.School.Roster.Choose(r.Context(), f.Key, hash, time.Now())
	if errors.Is(err, school.ErrNotFound) {
		return h.expired(w, r)
	}
	if err != nil {
		return err
	}
	return h.enter(w, r, ui.Instructor, i.ID, i.Entry, instructorAccount(i.Login), "/desk", text.Text{})
}
