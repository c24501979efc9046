// Package account is where people come in: setting up the first instructor, signing in, joining a class,
// signing out, and what everybody may read.
package account

import (
	"context"
	"crypto/subtle"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"cavix/classroom"
	"cavix/store"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// SignIn is a way in that a demo's own pages offer. Code is empty for an instructor.
type SignIn struct {
	Who, Code, Name, Passphrase string
}

// Door lets people in.
type Door struct {
	*ui.Site
	SetupKey string   // must be known to set up the first instructor
	Demo     []SignIn // offered on the pages of a demo
	hashing  chan struct{}
}

// New returns a door. Passphrases are hashed a few at a time: each takes much memory.
func New(s *ui.Site, key string, demo []SignIn) *Door {
	return &Door{s, key, demo, make(chan struct{}, 4)}
}

// Routes adds the pages.
func (d *Door) Routes(r chi.Router) {
	r.Get("/", d.Page(d.home))
	r.Post("/theme", d.Page(d.Theme))
	r.Post("/signout", d.Page(d.signOut))
	r.Get("/setup", d.Page(d.setup))
	r.Get("/signin", d.Page(d.signIn))
	r.Get("/join", d.Page(d.join))
	r.Group(func(r chi.Router) {
		r.Use(d.limited)
		r.Post("/setup", d.Page(d.setupPost))
		r.Post("/signin", d.Page(d.signInPost))
		r.Post("/join", d.Page(d.joinPost))
	})
}

// limited slows down guessing: tries are counted for each address together with the name that is tried,
// since a whole class may sit behind one address, and for each address alone with a wider limit.
func (d *Door) limited(next http.Handler) http.Handler {
	tooMany := httprate.WithLimitHandler(d.Page(func(w http.ResponseWriter, r *http.Request) error {
		return d.Render(w, r, http.StatusTooManyRequests, "error", "Too many tries",
			ui.ErrorView{Title: "Too many tries",
				Text: "There were too many tries to sign in from here. Wait a minute, then try again."})
	}))
	address := func(r *http.Request) (string, error) {
		return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
	}
	tried := func(r *http.Request) (string, error) {
		return strings.ToLower(strings.Join([]string{r.URL.Path, r.PostFormValue("code"), r.PostFormValue("name")},
			"\x00")), nil
	}
	byName := httprate.LimitBy(10, time.Minute, httprate.JoinKeys(address, tried), tooMany)
	byAddress := httprate.LimitBy(150, time.Minute, address, tooMany)
	return byAddress(byName(next))
}

// hashed does work that hashes passphrases, waiting for its turn.
func (d *Door) hashed(ctx context.Context, work func()) error {
	select {
	case d.hashing <- struct{}{}:
		defer func() { <-d.hashing }()
	case <-ctx.Done():
		return ctx.Err()
	}
	work()
	return nil
}

// nobody's hash is compared when there is no such person, so that the answer takes as long.
var nobody = sync.OnceValues(func() (string, error) { return classroom.HashPassphrase("nobody at all") })

// verify checks a passphrase.
func (d *Door) verify(ctx context.Context, hash, passphrase string) (ok bool, err error) {
	somebody := hash != ""
	if !somebody {
		if hash, err = nobody(); err != nil {
			return false, err
		}
	}
	err = d.hashed(ctx, func() { ok = classroom.CheckPassphrase(hash, passphrase) && somebody })
	return ok, err
}

// hash makes the hash of a new passphrase.
func (d *Door) hash(ctx context.Context, passphrase string) (hash string, err error) {
	waited := d.hashed(ctx, func() { hash, err = classroom.HashPassphrase(passphrase) })
	return hash, errors.Join(waited, err)
}

// home sends everybody to where they begin.
func (d *Door) home(w http.ResponseWriter, r *http.Request) error {
	to := "/signin"
	switch ui.UserOf(r).Role {
	case ui.Instructor:
		to = "/desk"
	case ui.Student:
		to = "/my"
	case ui.Stranger:
		has, err := d.Room.Store().Read(r.Context()).HasInstructors()
		if err != nil {
			return err
		}
		if !has {
			to = "/setup"
		}
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

func (d *Door) signOut(w http.ResponseWriter, r *http.Request) error {
	if err := d.Sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
	return nil
}

// personForm is what the set-up, sign-in and joining pages send.
type personForm struct {
	Key        string `form:"key"`
	Code       string `form:"code"`
	Login      string `form:"login"`
	Name       string `form:"name"`
	Passphrase string `form:"passphrase"`
	Do         string `form:"do"`
}

// signView is what the set-up, sign-in and joining pages print.
type signView struct {
	personForm // as typed; the passphrase is never printed
	Errors     map[string]string
	Demo       []SignIn
}

const (
	minPassphrase = 8
	maxPassphrase = 200
)

// read takes a form, with names on one line.
func read(r *http.Request) (f personForm, err error) {
	err = ui.Decode(r, &f)
	f.Key, f.Login = strings.TrimSpace(f.Key), strings.TrimSpace(f.Login)
	f.Code, f.Name = cleanCode(f.Code), ui.OneLine(f.Name)
	return f, err
}

// checkPassphrase refuses a new passphrase that is too short or too long.
func checkPassphrase(bad *ui.Faults, p string) {
	if n := utf8.RuneCountInString(p); n < minPassphrase || n > maxPassphrase {
		bad.Add("passphrase", "Use %d to %d characters; a few words are easy to keep in mind.", minPassphrase,
			maxPassphrase)
	}
}

// again prints a page once more with what is wrong.
func (d *Door) again(w http.ResponseWriter, r *http.Request, page, title string, f personForm, bad ui.Faults) error {
	return d.Render(w, r, http.StatusUnprocessableEntity, page, title, signView{f, bad.By(), d.Demo})
}

func (d *Door) setup(w http.ResponseWriter, r *http.Request) error {
	has, err := d.Room.Store().Read(r.Context()).HasInstructors()
	if err != nil {
		return err
	}
	if has {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	return d.Render(w, r, http.StatusOK, "setup", "Set up",
		signView{personForm: personForm{Key: r.URL.Query().Get("key")}})
}

func (d *Door) setupPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	var bad ui.Faults
	if d.SetupKey == "" || subtle.ConstantTimeCompare([]byte(f.Key), []byte(d.SetupKey)) != 1 {
		bad.Add("key", "This is not the set-up key. The server printed it when it was started.")
	}
	bad.Name("name", f.Name)
	bad.Name("login", f.Login)
	checkPassphrase(&bad, f.Passphrase)
	if len(bad.Refusal) > 0 {
		return d.again(w, r, "setup", "Set up", f, bad)
	}
	hash, err := d.hash(r.Context(), f.Passphrase)
	if err != nil {
		return err
	}
	id, err := d.Room.SetUp(r.Context(), store.Instructor{Login: f.Login, Name: f.Name, Hash: hash})
	if errors.Is(err, store.ErrTaken) {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	if err != nil {
		return err
	}
	return d.Enter(w, r, ui.Instructor, id, "/desk")
}

func (d *Door) signIn(w http.ResponseWriter, r *http.Request) error {
	return d.Render(w, r, http.StatusOK, "signin", "Sign in", signView{Demo: d.Demo})
}

func (d *Door) signInPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	i, err := d.Room.Store().Read(r.Context()).InstructorByLogin(f.Name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	ok, err := d.verify(r.Context(), i.Hash, f.Passphrase)
	if err != nil {
		return err
	}
	if !ok {
		var bad ui.Faults
		bad.Add("passphrase", "This name and passphrase do not belong together. Check both; nothing was changed.")
		return d.again(w, r, "signin", "Sign in", f, bad)
	}
	return d.Enter(w, r, ui.Instructor, i.ID, "/desk")
}

func (d *Door) join(w http.ResponseWriter, r *http.Request) error {
	f := personForm{Code: cleanCode(r.URL.Query().Get("code"))}
	return d.Render(w, r, http.StatusOK, "join", "Join a class", signView{personForm: f, Demo: d.Demo})
}

// cleanCode brings a joining code to the form in which it is kept.
func cleanCode(code string) string {
	return strings.ToUpper(strings.NewReplacer(" ", "", "-", "", "–", "").Replace(ui.Clip(code, 60)))
}

func (d *Door) joinPost(w http.ResponseWriter, r *http.Request) error {
	f, err := read(r)
	if err != nil {
		return err
	}
	var bad ui.Faults
	class, err := d.Room.Store().Read(r.Context()).ClassByCode(f.Code)
	if errors.Is(err, store.ErrNotFound) {
		bad.Add("code", "No class has this code. Check it with your instructor: six letters and digits.")
		return d.again(w, r, "join", "Join a class", f, bad)
	}
	if err != nil {
		return err
	}
	bad.Name("name", f.Name)
	if f.Do == "first" {
		checkPassphrase(&bad, f.Passphrase)
	}
	if len(bad.Refusal) > 0 {
		return d.again(w, r, "join", "Join a class", f, bad)
	}
	id, err := d.member(r.Context(), class.ID, f, &bad)
	if f.Do == "guest" {
		id, err = d.guest(r.Context(), f, &bad)
	}
	if err != nil {
		return err
	}
	if len(bad.Refusal) > 0 {
		return d.again(w, r, "join", "Join a class", f, bad)
	}
	return d.Enter(w, r, ui.Student, id, "/my") // a guest is led on to the question
}

// guest lets somebody in who is here for a question only, with a handle and no passphrase.
func (d *Door) guest(ctx context.Context, f personForm, bad *ui.Faults) (int64, error) {
	id, err := d.Room.JoinAsGuest(ctx, f.Code, f.Name)
	switch {
	case errors.Is(err, store.ErrNotFound):
		bad.Add("code", "This class takes no guests. Join it with a passphrase of your own.")
		return 0, nil
	case errors.Is(err, store.ErrTaken):
		bad.Add("name", "Somebody in this class has this name already; add an initial.")
		return 0, nil
	}
	return id, err
}

// member finds a student who comes back, or adds one who joins for the first time.
func (d *Door) member(ctx context.Context, class int64, f personForm, bad *ui.Faults) (int64, error) {
	if f.Do == "guest" {
		return 0, nil
	}
	if f.Do == "first" {
		hash, err := d.hash(ctx, f.Passphrase)
		if err != nil {
			return 0, err
		}
		id, err := d.Room.Join(ctx, class, f.Name, hash)
		if errors.Is(err, store.ErrTaken) {
			bad.Add("name", "Somebody in this class has this name already. If it is you, come back with your passphrase; else add an initial.")
			return 0, nil
		}
		return id, err
	}
	st, err := d.Room.Store().Read(ctx).StudentByName(class, f.Name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return 0, err
	}
	ok, err := d.verify(ctx, st.Hash, f.Passphrase)
	if err == nil && ok && !st.Here() {
		bad.Add("name", "You are not in this class any more. Your answers are kept; ask your instructor.")
	}
	if err == nil && !ok {
		bad.Add("passphrase", "%s",
			fmt.Sprintf("This name and passphrase do not belong together in this class. If you are new here, choose “%s”.",
				"Join for the first time"))
	}
	return st.ID, err
}
