// Package account is where people come in: setting up the first instructor, signing in, joining a class,
// signing out, and what everybody may read.
package account

import (
	"crypto/subtle"
	"embed"
	"errors"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school/roster"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// SignIn is a way in that a demo's own pages offer. Code is empty for an instructor.
type SignIn struct {
	Who                    text.Text
	Code, Name, Passphrase string
}

// Handler lets people in.
type Handler struct {
	*ui.Site
	SetupKey string   // must be known to set up the first instructor
	Demo     []SignIn // offered on the pages of a demo
	hashing  *hashing
	guard    guard
}

// New returns the handler of the pages for signing in and joining. It calls freeMemory, which may be nil, once no
// passphrases have been hashed for a few seconds.
func New(s *ui.Site, key string, demo []SignIn, freeMemory func()) *Handler {
	return &Handler{Site: s, SetupKey: key, Demo: demo, hashing: newHashing(freeMemory)}
}

// Routes adds the pages.
func (h *Handler) Routes(r chi.Router) {
	r.Get("/", h.Page(h.home))
	r.Post("/theme", h.Page(h.Theme))
	r.Post("/signout", h.Page(h.signOut))
	r.Get("/setup", h.Page(h.setup))
	r.Get("/signin", h.Page(h.signIn))
	r.Get("/join", h.Page(h.join))
	r.Get("/welcome", h.Page(h.welcome))
	r.Get("/account", h.Page(h.own))
	r.Group(func(r chi.Router) {
		r.Use(h.limited)
		r.Post("/setup", h.Page(h.setupPost))
		r.Post("/signin", h.Page(h.signInPost))
		r.Post("/join", h.Page(h.joinPost))
		r.Post("/welcome", h.Page(h.welcomePost))
		r.Post("/account", ui.Form(h.Site, h.ownPost))
	})
}

// triesPerMinute limits the passphrases sent from one address: a whole class may sit behind one.
const triesPerMinute = 150

// limited bounds what comes from one address, whatever it tries.
func (h *Handler) limited(next http.Handler) http.Handler {
	return httprate.LimitBy(triesPerMinute, time.Minute, func(r *http.Request) (string, error) {
		return address(r),
			nil
	}, httprate.WithLimitHandler(h.Page(func(w http.ResponseWriter, r *http.Request) error {
		return h.Render(w, r, http.StatusTooManyRequests, "error", text.New("account.limited"),
			ui.ErrorView{Title: text.New("account.limited.title"),
				Text: text.New("account.limited.there-were-too-many")})
	})))(next)
}

// address returns the network address of a request's sender.
func address(r *http.Request) string {
	if ip := middleware.GetClientIP(r.Context()); ip != "" {
		return httprate.CanonicalizeIP(ip)
	}
	return "this machine"
}

// home sends everybody to where they begin, and asks who is not signed in which of the two doors is theirs.
func (h *Handler) home(w http.ResponseWriter, r *http.Request) error {
	to := "/setup"
	switch ui.UserOf(r).Role {
	case ui.Instructor:
		to = "/desk"
	case ui.Student:
		to = "/my"
	case ui.Stranger:
		has, err := h.School.Roster.HasInstructors(r.Context())
		if err != nil {
			return err
		}
		if has {
			return h.Render(w, r, http.StatusOK, "home", text.New("account.home"), signView{Demo: h.Demo})
		}
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

func (h *Handler) signOut(w http.ResponseWriter, r *http.Request) error {
	if err := h.Sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
	return nil
}

// personForm holds the fields of the set-up, sign-in and joining pages.
type personForm struct {
	Key        string `form:"key"`
	Code       string `form:"code"`
	Login      string `form:"login"`
	Name       string `form:"name"`
	Passphrase string `form:"passphrase"`
	Do         string `form:"do"`
	Near       string `form:"near"` // the near name that was asked about; "" where none was
	To         string `form:"to"`   // the page that was asked for before signing in; "" for where one begins
}

// next is the page to go to after signing in: the one that was asked for, or where one begins.
func (f personForm) next(begins string) string {
	if to := ui.Local(ui.Clip(f.To, maxReturnURL)); to != "/" {
		return to
	}
	return begins
}

// maxReturnURL is the largest number of characters in the address of a page to return to.
const maxReturnURL = 1000

// signView is printed by the set-up, sign-in and joining pages.
type signView struct {
	personForm // as typed; the passphrase is never printed
	Errors     map[string]text.Text
	Demo       []SignIn
	Known      bool // somebody has signed in with this browser before
}

const (
	minPassphrase = 8
	maxPassphrase = 200
)

// read takes a form, with names on one line.
func read(r *http.Request) (f personForm, err error) {
	err = ui.Decode(r, &f)
	f.Key, f.Login = strings.TrimSpace(f.Key), strings.TrimSpace(f.Login)
	f.Code, f.Name, f.Near = cleanCode(f.Code), names.Tidy(f.Name), names.Tidy(f.Near)
	return f, err
}

// checkPassphrase refuses a new passphrase that is too short or too long. Spaces at its ends or in a row do not count:
// they are not seen, and not typed again.
func checkPassphrase(bad *ui.Faults, p string) {
	if n := utf8.RuneCountInString(ui.OneLine(p)); n < minPassphrase || len(p) > maxPassphrase*utf8.UTFMax {
		bad.Add("passphrase", "account.check-passphrase", "min_passphrase", minPassphrase, "max_passphrase",
			maxPassphrase)
	}
}

// again prints a page once more with what is wrong.
func (h *Handler) again(w http.ResponseWriter, r *http.Request, page string, title text.Text, f personForm,
	bad ui.Faults) error {
	status := http.StatusUnprocessableEntity
	if w.Header().Get("Retry-After") != "" { // nothing is wrong with it; it comes too soon
		status = http.StatusTooManyRequests
	}
	return h.Render(w, r, status, page, title, signView{f, bad.By(), h.Demo, len(seals(r)) > 0})
}

func (h *Handler) setup(w http.ResponseWriter, r *http.Request) error {
	has, err := h.School.Roster.HasInstructors(r.Context())
	if err != nil {
		return err
	}
	if has {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	return h.Render(w, r, http.StatusOK, "setup", text.New("account.setup"),
		signView{personForm: personForm{Key: r.URL.Query().Get("key")}})
}

func (h *Handler) setupPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	var bad ui.Faults
	if h.SetupKey == "" || subtle.ConstantTimeCompare([]byte(f.Key), []byte(h.SetupKey)) != 1 {
		bad.Add("key", "account.setup-post")
	}
	bad.Person("name", f.Name)
	bad.Person("login", f.Login)
	checkPassphrase(&bad, f.Passphrase)
	if len(bad.Refusal) > 0 {
		return h.again(w, r, "setup", text.New("account.set-up"), f, bad)
	}
	hash, err := h.hash(r, f.Passphrase)
	if err != nil {
		return err
	}
	id, err := h.School.Roster.SetUp(r.Context(), roster.Instructor{Login: f.Login, Name: f.Name, Hash: hash})
	if errors.Is(err, roster.ErrSetUp) {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	if err != nil {
		return err
	}
	if err := h.Enter(r, ui.Instructor, id, 0); err != nil {
		return err
	}
	http.Redirect(w, r, "/desk", http.StatusSeeOther)
	return nil
}
