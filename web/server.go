// Package web serves the places of Cavix as pages: it reads a request into the core's types, lets the
// core decide and the store keep, and prints a view. One file holds one place. No handler computes a
// reading and no template does arithmetic.
package web

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"runtime/debug"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"cavix/store"
)

// Config is what a server is made with.
type Config struct {
	Store    *store.Store
	Log      *slog.Logger
	SetupKey string       // must be known to set up the first instructor
	Demo     []DemoSignIn // offered on the sign-in pages of a demo
	Secure   bool         // the site is served over HTTPS: cookies are marked so
	Proxies  []string     // whose word on a client's address is taken, as 10.0.0.0/8; this machine's own always is
}

// DemoSignIn is a sign-in that a demo's own pages offer. Code is empty for an instructor.
type DemoSignIn struct {
	Who, Code, Name, Passphrase string
}

// Server answers the requests of the site.
type Server struct {
	Config
	sessions  *scs.SessionManager
	templates *templates
	assets    *assets
	hashing   chan struct{} // bounds how many passphrases are hashed at once: each takes much memory
}

// maxBody bounds what a form may send, in bytes.
const maxBody = 64 << 10

// New returns the handler of the whole site.
func New(c Config) (http.Handler, error) {
	a, err := loadAssets()
	if err != nil {
		return nil, err
	}
	t, err := loadTemplates(a)
	if err != nil {
		return nil, err
	}
	s := &Server{Config: c, templates: t, assets: a, hashing: make(chan struct{}, 4)}
	s.sessions = scs.New()
	s.sessions.Store = store.Sessions{Store: c.Store}
	s.sessions.HashTokenInStore = true
	s.sessions.Lifetime = 14 * 24 * time.Hour
	s.sessions.Cookie.Name = "cavix"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = c.Secure
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { s.fail(w, r, err) }
	return s.routes(), nil
}

func (s *Server) routes() http.Handler {
	r := chi.NewRouter()
	r.Use(s.logged, s.recovered, secured)
	r.Handle("/static/*", s.assets)
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") })

	r.Group(func(r chi.Router) {
		r.Use(
			middleware.Compress(5),
			middleware.Timeout(20*time.Second),
			http.NewCrossOriginProtection().Handler,
			middleware.ClientIPFromXFF(append([]string{"127.0.0.1/32", "::1/128"}, s.Proxies...)...),
			s.bounded,
			s.sessions.LoadAndSave,
		)
		r.NotFound(s.page(func(http.ResponseWriter, *http.Request) error { return store.ErrNotFound }))
		r.Get("/", s.page(s.home))
		r.Get("/help", s.page(s.help))
		r.Post("/theme", s.page(s.theme))
		r.Post("/signout", s.page(s.signOut))

		r.Get("/setup", s.page(s.setup))
		r.Get("/signin", s.page(s.signIn))
		r.Get("/join", s.page(s.join))
		r.Group(func(r chi.Router) {
			r.Use(s.limited)
			r.Post("/setup", s.page(s.setupPost))
			r.Post("/signin", s.page(s.signInPost))
			r.Post("/join", s.page(s.joinPost))
		})

		r.Group(func(r chi.Router) {
			r.Use(s.instructorsOnly)
			r.Get("/desk", s.page(s.desk))
			r.Get("/rack", s.page(s.rack))
			r.Get("/rack/import", s.page(s.importForm))
			r.Post("/rack/import", s.page(s.importDocument))
			r.Get("/rack/{instrument}/document", s.page(s.document))
			r.Post("/rack/{instrument}/drop", s.page(s.dropInstrument))
			r.Get("/workshop", s.page(s.workshop))
			r.Post("/workshop", s.page(s.workshopPost))
			r.Get("/workshop/{instrument}", s.page(s.workshop))
			r.Post("/workshop/{instrument}", s.page(s.workshopPost))
			r.Get("/bench/{instrument}", s.page(s.bench))
			r.Post("/bench/{instrument}", s.page(s.bench))
			r.Get("/sheets/new", s.page(s.sheet))
			r.Post("/sheets/new", s.page(s.sheetPost))
			r.Get("/sheets/{sheet}", s.page(s.sheet))
			r.Post("/sheets/{sheet}", s.page(s.sheetPost))
			r.Get("/sheets/{sheet}/try/{seed}/{n}", s.page(s.tryCard))
			r.Post("/sheets/{sheet}/try/{seed}/{n}", s.page(s.tryCard))
			r.Post("/classes", s.page(s.addClass))
			r.Get("/classes/{class}", s.page(s.class))
			r.Post("/classes/{class}/give", s.page(s.giveSheet))
			r.Post("/classes/{class}/method", s.page(s.setMethod))
			r.Get("/slips", s.page(s.slips))
			r.Post("/slips", s.page(s.setSlip))
			r.Get("/ledger/{assignment}/remark", s.page(s.remark))
			r.Post("/ledger/{assignment}/remark", s.page(s.remark))
			r.Post("/ledger/{assignment}/undo", s.page(s.undoRemark))
			r.Post("/ledger/{assignment}/{student}/{n}", s.page(s.ownMark))
			r.Post("/classes/{class}/clear", s.page(s.clearPassphrase))
			r.Get("/ledger/{assignment}/paper/{values}", s.page(s.paper))
			r.Get("/ledger/{assignment}/paper/{values}/cards", s.page(s.paperCards))
			r.Get("/ledger/{assignment}", s.page(s.ledger))
			r.Get("/ledger/{assignment}/{student}/{n}", s.page(s.ledgerCard))
		})
		r.Group(func(r chi.Router) {
			r.Use(s.studentsOnly)
			r.Get("/my", s.page(s.my))
			r.Get("/my/{assignment}", s.page(s.mySheet))
			r.Get("/my/{assignment}/{n}", s.page(s.card))
			r.Post("/my/{assignment}/{n}", s.page(s.cardPost))
			r.Post("/my/{assignment}/{n}/draft", s.page(s.cardDraft))
		})
	})
	return r
}

// page turns a handler that may fail into a plain one.
func (s *Server) page(h func(http.ResponseWriter, *http.Request) error) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.fail(w, r, err)
		}
	}
}

// fail answers a request that could not be done: what happened, what is kept, what to do.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	status, view := http.StatusInternalServerError, errorView{
		"That did not work", "Something failed on our side. What you had saved is kept; please try again in a moment."}
	var tooLarge *http.MaxBytesError
	var unread badForm
	switch {
	case errors.Is(err, store.ErrNotFound):
		status, view = http.StatusNotFound, errorView{"Not here", "There is no such page, or it is not yours to see. Nothing is lost; go back to the start."}
	case errors.As(err, &tooLarge):
		status, view = http.StatusRequestEntityTooLarge, errorView{"Too much at once", fmt.Sprintf("A form may send %d KB at the most. Nothing was saved; please shorten what you sent.", maxBody>>10)}
	case errors.As(err, &unread):
		status, view = http.StatusBadRequest, errorView{"That form cannot be read", "What was sent is no form of this site. Nothing was saved; go back and send it again."}
	case errors.Is(err, context.Canceled):
		return // nobody is there to be told
	default:
		s.Log.Error("request failed", "method", r.Method, "path", r.URL.Path, "err", err)
	}
	if err := s.render(w, r, status, "error", view.Title, view); err != nil {
		http.Error(w, view.Title, status)
	}
}

type errorView struct{ Title, Text string }

// secured sets the headers that keep a page from running or loading what is not ours.
func secured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cache-Control", "no-store")
		next.ServeHTTP(w, r)
	})
}

// bounded limits the size of what a request may send, and reads the form it sends.
func (s *Server) bounded(next http.Handler) http.Handler {
	return s.page(func(w http.ResponseWriter, r *http.Request) error {
		r.Body = http.MaxBytesReader(w, r.Body, maxBody)
		if err := r.ParseForm(); err != nil {
			return badForm{err}
		}
		next.ServeHTTP(w, r)
		return nil
	})
}

// badForm is a form that cannot be read.
type badForm struct{ error }

func (e badForm) Unwrap() error { return e.error }

// logged notes every request but those for static files: no query, no form, no cookie.
func (s *Server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		s.Log.Debug("request", "method", r.Method, "path", r.URL.Path, "status", ww.Status(), "bytes", ww.BytesWritten(), "took", time.Since(began))
	})
}

// recovered turns a panic into an error page and a line in the log.
func (s *Server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil {
				if p == http.ErrAbortHandler {
					panic(p)
				}
				s.Log.Error("panic", "path", r.URL.Path, "panic", p, "stack", string(debug.Stack()))
				http.Error(w, "Something failed on our side. What you had saved is kept; please try again.", http.StatusInternalServerError)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
