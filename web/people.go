package web

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"cavix/core/schema"
	"cavix/store"
)

// nobody's hash is compared when there is no such person, so that the answer takes as long.
var nobody = sync.OnceValue(func() string { return store.HashPassphrase("nobody at all") })

// hashed does work that hashes passphrases, waiting for its turn: each hash takes much memory.
func (s *Server) hashed(ctx context.Context, work func()) error {
	select {
	case s.hashing <- struct{}{}:
		defer func() { <-s.hashing }()
	case <-ctx.Done():
		return ctx.Err()
	}
	work()
	return nil
}

// verify checks a passphrase.
func (s *Server) verify(ctx context.Context, hash, passphrase string) (ok bool, err error) {
	err = s.hashed(ctx, func() {
		if hash == "" {
			store.CheckPassphrase(nobody(), passphrase)
			return
		}
		ok = store.CheckPassphrase(hash, passphrase)
	})
	return ok, err
}

// hash makes the hash of a new passphrase.
func (s *Server) hash(ctx context.Context, passphrase string) (hash string, err error) {
	err = s.hashed(ctx, func() { hash = store.HashPassphrase(passphrase) })
	return hash, err
}

// user is who a request comes from; both are nil for a stranger.
type user struct {
	instructor *store.Instructor
	student    *store.Student
}

type userKey struct{}

func userOf(r *http.Request) user {
	u, _ := r.Context().Value(userKey{}).(user)
	return u
}

// Keys of the session.
const (
	sessionInstructor = "instructor"
	sessionStudent    = "student"
)

// identify finds who is signed in.
func (s *Server) identify(r *http.Request) (user, error) {
	var u user
	if id := s.sessions.GetInt64(r.Context(), sessionInstructor); id != 0 {
		i, err := s.Store.Instructor(r.Context(), id)
		if err == nil {
			u.instructor = &i
		} else if !errors.Is(err, store.ErrNotFound) {
			return u, err
		}
	} else if id := s.sessions.GetInt64(r.Context(), sessionStudent); id != 0 {
		st, err := s.Store.Student(r.Context(), id)
		if err == nil {
			u.student = &st
		} else if !errors.Is(err, store.ErrNotFound) {
			return u, err
		}
	}
	return u, nil
}

// only lets through whom allowed accepts and sends others to sign in.
func (s *Server) only(allowed func(user) bool, signIn string) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return s.page(func(w http.ResponseWriter, r *http.Request) error {
			u, err := s.identify(r)
			if err != nil {
				return err
			}
			if !allowed(u) {
				http.Redirect(w, r, signIn, http.StatusSeeOther)
				return nil
			}
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), userKey{}, u)))
			return nil
		})
	}
}

func (s *Server) instructorsOnly(next http.Handler) http.Handler {
	return s.only(func(u user) bool { return u.instructor != nil }, "/signin")(next)
}

func (s *Server) studentsOnly(next http.Handler) http.Handler {
	return s.only(func(u user) bool { return u.student != nil }, "/join")(next)
}

// limited slows down guessing: tries are counted for each address together with the name that is tried,
// since a whole class may sit behind one address, and for each address alone with a wider limit.
func (s *Server) limited(next http.Handler) http.Handler {
	tooMany := httprate.WithLimitHandler(s.page(func(w http.ResponseWriter, r *http.Request) error {
		return s.render(w, r, http.StatusTooManyRequests, "error", "Too many tries",
			errorView{"Too many tries", "There were too many tries to sign in from here. Wait a minute, then try again."})
	}))
	address := func(r *http.Request) (string, error) {
		return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
	}
	tried := func(r *http.Request) (string, error) {
		return strings.ToLower(strings.Join([]string{r.URL.Path, r.PostFormValue("code"), r.PostFormValue("name")}, "\x00")), nil
	}
	byName := httprate.LimitBy(10, time.Minute, httprate.JoinKeys(address, tried), tooMany)
	byAddress := httprate.LimitBy(150, time.Minute, address, tooMany)
	return byAddress(byName(next))
}

// home sends everybody to where they begin.
func (s *Server) home(w http.ResponseWriter, r *http.Request) error {
	u, err := s.identify(r)
	if err != nil {
		return err
	}
	to := "/signin"
	if u.instructor != nil {
		to = "/desk"
	} else if u.student != nil {
		to = "/my"
	} else if has, err := s.Store.HasInstructors(r.Context()); err != nil {
		return err
	} else if !has {
		to = "/setup"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// enter signs somebody in under a fresh session.
func (s *Server) enter(w http.ResponseWriter, r *http.Request, key string, id int64, to string) error {
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Remove(r.Context(), sessionInstructor)
	s.sessions.Remove(r.Context(), sessionStudent)
	s.sessions.Put(r.Context(), key, id)
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

func (s *Server) signOut(w http.ResponseWriter, r *http.Request) error {
	if err := s.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
	return nil
}

// signView is what the set-up, sign-in and joining pages print.
type signView struct {
	Key, Code, Login, Name string // as typed
	Errors                 map[string]string
	Demo                   []DemoSignIn
	Class                  string
}

func faultsOf(err error) map[string]string {
	out := map[string]string{}
	var r schema.Refusal
	if errors.As(err, &r) {
		for _, f := range r {
			if _, has := out[f.Field]; !has {
				out[f.Field] = f.Reason
			}
		}
	}
	return out
}

const (
	maxPerson     = 60
	minPassphrase = 8
	maxPassphrase = 200
)

// checkName and checkNewPassphrase say what is wrong with what was typed, or "".
func checkName(name string) string {
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		return "Write a name."
	case n > maxPerson:
		return fmt.Sprintf("Use %d characters at the most; these are %d.", maxPerson, n)
	case !utf8.ValidString(name) || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || r == 0x7f }):
		return "Use letters, digits and signs only."
	}
	return ""
}

func checkNewPassphrase(p string) string {
	if n := utf8.RuneCountInString(p); n < minPassphrase || n > maxPassphrase {
		return fmt.Sprintf("Use %d to %d characters; a few words are easy to keep in mind.", minPassphrase, maxPassphrase)
	}
	return ""
}

// note keeps a message for a field, if there is one.
func note(errs map[string]string, field, message string) {
	if message != "" {
		errs[field] = message
	}
}

func (s *Server) setup(w http.ResponseWriter, r *http.Request) error {
	has, err := s.Store.HasInstructors(r.Context())
	if err != nil {
		return err
	}
	if has {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	return s.render(w, r, http.StatusOK, "setup", "Set up", signView{Key: r.URL.Query().Get("key")})
}

func (s *Server) setupPost(w http.ResponseWriter, r *http.Request) error {
	v := signView{Key: strings.TrimSpace(r.PostFormValue("key")), Login: strings.TrimSpace(r.PostFormValue("login")),
		Name: strings.Join(strings.Fields(r.PostFormValue("name")), " "), Errors: map[string]string{}}
	pass := r.PostFormValue("passphrase")
	if s.SetupKey == "" || subtle.ConstantTimeCompare([]byte(v.Key), []byte(s.SetupKey)) != 1 {
		v.Errors["key"] = "This is not the set-up key. The server printed it when it was started."
	}
	note(v.Errors, "name", checkName(v.Name))
	note(v.Errors, "login", checkName(v.Login))
	note(v.Errors, "passphrase", checkNewPassphrase(pass))
	if len(v.Errors) > 0 {
		return s.render(w, r, http.StatusUnprocessableEntity, "setup", "Set up", v)
	}
	hash, err := s.hash(r.Context(), pass)
	if err != nil {
		return err
	}
	id, err := s.Store.AddFirstInstructor(r.Context(), store.Instructor{Login: v.Login, Name: v.Name, Hash: hash})
	if errors.Is(err, store.ErrTaken) {
		http.Redirect(w, r, "/signin", http.StatusSeeOther)
		return nil
	}
	if err != nil {
		return err
	}
	return s.enter(w, r, sessionInstructor, id, "/desk")
}

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) error {
	return s.render(w, r, http.StatusOK, "signin", "Sign in", signView{Demo: s.Demo})
}

func (s *Server) signInPost(w http.ResponseWriter, r *http.Request) error {
	v := signView{Login: strings.TrimSpace(r.PostFormValue("name")), Demo: s.Demo, Errors: map[string]string{}}
	i, err := s.Store.InstructorByLogin(r.Context(), v.Login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	ok, err := s.verify(r.Context(), i.Hash, r.PostFormValue("passphrase"))
	if err != nil {
		return err
	}
	if !ok {
		v.Errors["passphrase"] = "This name and passphrase do not belong together. Check both; nothing was changed."
		return s.render(w, r, http.StatusUnprocessableEntity, "signin", "Sign in", v)
	}
	return s.enter(w, r, sessionInstructor, i.ID, "/desk")
}

func (s *Server) join(w http.ResponseWriter, r *http.Request) error {
	v := signView{Code: cleanCode(r.URL.Query().Get("code")), Demo: s.Demo}
	return s.render(w, r, http.StatusOK, "join", "Join a class", v)
}

// cleanCode brings a joining code to the form in which it is kept.
func cleanCode(code string) string {
	return strings.ToUpper(strings.NewReplacer(" ", "", "-", "", "–", "").Replace(code))
}

func (s *Server) joinPost(w http.ResponseWriter, r *http.Request) error {
	v := signView{Code: cleanCode(r.PostFormValue("code")), Name: strings.Join(strings.Fields(r.PostFormValue("name")), " "), Demo: s.Demo, Errors: map[string]string{}}
	pass, first := r.PostFormValue("passphrase"), r.PostFormValue("do") == "first"
	again := func() error { return s.render(w, r, http.StatusUnprocessableEntity, "join", "Join a class", v) }
	class, err := s.Store.ClassByCode(r.Context(), v.Code)
	if errors.Is(err, store.ErrNotFound) {
		v.Errors["code"] = "No class has this code. Check it with your instructor: six letters and digits."
		return again()
	}
	if err != nil {
		return err
	}
	note(v.Errors, "name", checkName(v.Name))
	if first {
		note(v.Errors, "passphrase", checkNewPassphrase(pass))
	}
	if len(v.Errors) > 0 {
		return again()
	}
	if first {
		hash, err := s.hash(r.Context(), pass)
		if err != nil {
			return err
		}
		id, err := s.Store.AddStudent(r.Context(), class.ID, v.Name, hash)
		if errors.Is(err, store.ErrTaken) { // perhaps the instructor lets this student choose a new passphrase
			var st store.Student
			if st, err = s.Store.StudentByName(r.Context(), class.ID, v.Name); err == nil {
				id, err = st.ID, s.Store.ChoosePassphrase(r.Context(), st.ID, hash)
			}
		}
		if errors.Is(err, store.ErrTaken) {
			v.Errors["name"] = "Somebody in this class has this name already. If it is you, come back with your passphrase; else add an initial."
			return again()
		}
		if err != nil {
			return err
		}
		return s.enter(w, r, sessionStudent, id, "/my")
	}
	st, err := s.Store.StudentByName(r.Context(), class.ID, v.Name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	ok, err := s.verify(r.Context(), st.Hash, pass)
	if err != nil {
		return err
	}
	if !ok {
		v.Errors["passphrase"] = "This name and passphrase do not belong together in this class. If you are new here, choose “Join for the first time”."
		return again()
	}
	return s.enter(w, r, sessionStudent, st.ID, "/my")
}
