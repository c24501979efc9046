// Package web serves Cavix as pages. It puts the places together and bounds what each group of addresses
// may take: time, size, and who may come in. The places themselves stand in folders of their own, by who
// visits them.
package web

import (
	"crypto/rand"
	"fmt"
	"log/slog"
	"net/http"
	"runtime"
	"runtime/debug"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"cavix/ops"
	"cavix/school"
	"cavix/web/account"
	"cavix/web/admin"
	"cavix/web/author"
	"cavix/web/bench"
	"cavix/web/board"
	"cavix/web/class"
	"cavix/web/handbook"
	"cavix/web/student"
	"cavix/web/survey"
	"cavix/web/ui"
)

// Config holds the parts that a server is made of.
type Config struct {
	School   *school.School
	Log      *slog.Logger
	SetupKey string           // must be known to set up the first instructor
	Demo     []account.SignIn // offered on the sign-in pages of a demo
	Secure   bool             // the site is served over HTTPS: cookies are marked so
	Reach    []string         // hosts with ports at which other computers reach it
	Proxies  []string         // whose word on a client's address is taken, as 10.0.0.0/8; this machine's own always is

	Supervisor *ops.Supervisor // looks after the file; nil where nobody does
	Version    string          // of the program
	Metrics    *ops.Metrics    // counts requests; nil where nobody does
	Jobs       *ops.Jobs       // runs work in the background; nil is a group that ends with the program
	FreeMemory func()          // called once a class has signed in; may be nil
}

// bounds limits the requests to a group of addresses.
type bounds struct {
	time time.Duration
	size int64 // of what is sent, in bytes
}

// The groups. Streams of events have one of their own, without an end.
var (
	forPages     = bounds{20 * time.Second, 160 << 10} // a sheet of many blocks with instruments of its own
	forUploads   = bounds{time.Minute, ui.MostForm}    // a file, as it goes on from its preview
	forDownloads = bounds{3 * time.Minute, 1 << 10}    // all answers of a large class, while others are at work
)

// The largest numbers of pages, and of files, that wait to be made.
const (
	mostBacklog   = 5000
	mostDownloads = 100
)

// gaugesPerMinute limits the requests of devices at one address.
const gaugesPerMinute = 600

// New returns the handler of the whole site.
func New(c Config) (http.Handler, error) {
	sessions := scs.New()
	sessions.Store = c.School.Roster.Sessions()
	sessions.Codec = ui.SessionCodec{}
	sessions.HashTokenInStore = true
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "cavix"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = c.Secure
	if c.Jobs == nil {
		c.Jobs = ops.NewJobs(c.Log)
	}
	site, err := ui.New(ui.Site{School: c.School, Log: c.Log, Sessions: sessions, Secure: c.Secure, Reach: c.Reach,
		Jobs: c.Jobs}, account.Files, admin.Files, author.Files, bench.Files, board.Files, class.Files, handbook.Files,
		student.Files,
		survey.Files)
	if err != nil {
		return nil, err
	}
	sessions.ErrorFunc = site.Fail
	return routes(site, c), nil
}

func routes(site *ui.Site, c Config) http.Handler {
	r := chi.NewRouter()
	r.Use(numbered, logged(c.Log))
	if c.Metrics != nil {
		r.Use(c.Metrics.Count)
	}
	r.Use(secured(c.Secure), headed)
	r.Handle("/static/*", site.Static())
	// a worker has to do with addresses below its own
	r.Get("/offline.js", func(w http.ResponseWriter, r *http.Request) {
		r.URL.Path = "/static/now/offline.js"
		site.Static().ServeHTTP(w, r)
	})
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") })
	r.With(middleware.Timeout(readyWithin)).Get("/readyz", ready(c))
	address := middleware.ClientIPFromXFF(append([]string{"127.0.0.1/32", "::1/128"}, c.Proxies...)...)
	// Everybody is known on every page, those of errors too.
	known := chi.Middlewares{
		middleware.Compress(5),
		http.NewCrossOriginProtection().Handler,
		address,
		site.Sessions.LoadAndSave,
		site.Known,
		recovered(site),
	}
	shop, office, surveys := author.New(site), class.New(site), survey.New(site)
	lodge := admin.New(site, c.Supervisor, c.Version)
	teaching := site.Only(ui.Instructor, "/signin")
	r.Group(func(r chi.Router) {
		r.Use(address, httprate.LimitBy(gaugesPerMinute, time.Minute, func(r *http.Request) (string, error) {
			return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
		}), middleware.Timeout(forPages.time))
		surveys.Device(r)
	})
	r.Group(func(r chi.Router) {
		// When a whole school looks at once, pages that wait to be made take no memory. What is sent in a form goes
		// ahead: it waits for the disk, together with others.
		pages := middleware.ThrottleBacklog(8*runtime.GOMAXPROCS(0), mostBacklog, forPages.time)
		r.Use(middleware.Maybe(pages, func(r *http.Request) bool { return r.Method == http.MethodGet }))
		r.Use(known...)
		r.Use(forPages.hold(site))
		r.NotFound(site.Page(func(http.ResponseWriter, *http.Request) error { return school.ErrNotFound }))
		handbook.Handler{Site: site}.Routes(r)
		account.New(site, c.SetupKey, c.Demo, c.FreeMemory).Routes(r)
		r.Group(func(r chi.Router) {
			r.Use(teaching)
			shop.Routes(r)
			office.Routes(r)
			board.Handler{Site: site}.Routes(r)
			surveys.Routes(r)
			lodge.Routes(r)
		})
		r.Group(func(r chi.Router) {
			r.Use(site.Only(ui.Student, "/join"))
			student.Handler{Site: site}.Routes(r)
			survey.StudentHandler{Site: site}.Routes(r)
		})
	})
	r.Group(func(r chi.Router) {
		r.Use(known...)
		r.Use(forUploads.hold(site), teaching)
		shop.Uploads(r)
		office.Uploads(r)
	})
	r.Group(func(r chi.Router) {
		// a download keeps a processor busy
		r.Use(middleware.ThrottleBacklog(runtime.GOMAXPROCS(0), mostDownloads, forDownloads.time))
		r.Use(known...)
		r.Use(forDownloads.hold(site), teaching)
		office.Downloads(r)
	})
	r.Group(func(r chi.Router) {
		r.Use(known...)
		r.Group(func(r chi.Router) {
			r.Use(teaching)
			board.Handler{Site: site}.Streams(r)
			lodge.Profiles(r)
			office.Streams(r)
			surveys.Streams(r)
		})
		r.Group(func(r chi.Router) {
			r.Use(site.Only(ui.Student, "/join"))
			student.Handler{Site: site}.Streams(r)
		})
	})
	return r
}

// hold keeps a group of addresses to its bounds, and reads the form that is sent.
func (b bounds) hold(site *ui.Site) func(http.Handler) http.Handler {
	timed := middleware.Timeout(b.time)
	return func(next http.Handler) http.Handler {
		return timed(site.Page(func(w http.ResponseWriter, r *http.Request) error {
			r.Body = http.MaxBytesReader(w, r.Body, b.size)
			if err := r.ParseForm(); err != nil {
				return ui.Unread(err)
			}
			next.ServeHTTP(w, r)
			return nil
		}))
	}
}

// readyWithin is the time limit for seeing whether the server can do its work.
const readyWithin = time.Second

// ready tells a load balancer whether the server can do its work, and nothing else: why it cannot stands in the log, on
// the keeper's page and at the address of the numbers.
func ready(c Config) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		err := c.School.Server.Ready(r.Context())
		if err == nil && c.Supervisor != nil {
			err = c.Supervisor.HasRoom()
		}
		if err != nil {
			c.Log.Error("not ready", "err", err)
			http.Error(w, "not ready", http.StatusServiceUnavailable)
			return
		}
		fmt.Fprintln(w, "ready")
	}
}

// headed answers HEAD as GET is answered, without the page. A stream, which has no end, ends at its first word: it
// cannot be flushed.
func headed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodHead {
			next.ServeHTTP(w, r)
			return
		}
		get := r.Clone(r.Context())
		get.Method = http.MethodGet
		next.ServeHTTP(bare{w}, get)
	})
}

// bare passes on everything of an answer but what stands in it.
type bare struct{ http.ResponseWriter }

func (bare) Write(b []byte) (int, error) { return len(b), nil }

// secured sets the headers that keep a page from running or loading what is not ours. Where the site is reached over
// HTTPS, browsers are told to use nothing else for a year.
func secured(https bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if https {
				w.Header().Set("Strict-Transport-Security", "max-age=31536000")
			}
			headers(w.Header())
			next.ServeHTTP(w, r)
		})
	}
}

func headers(h http.Header) {
	h.Set("Content-Security-Policy",
		"default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "+
			"font-src 'self'; connect-src 'self'; manifest-src 'self'; form-action 'self'; "+
			"base-uri 'none'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cache-Control", "no-store")
}

// numbered gives every request a number of its own, which stands in the log and on the page of an error. What a browser
// sends as one does not count.
func numbered(next http.Handler) http.Handler {
	given := middleware.RequestID(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r.Header.Set(middleware.RequestIDHeader, rand.Text()[:10]) // tells nothing of this machine
		given.ServeHTTP(w, r)
	})
}

// logged notes every request: no query, no form, no cookie.
func logged(log *slog.Logger) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			began := time.Now()
			ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(ww, r)
			log.Debug("request", "id", middleware.GetReqID(r.Context()), "method", r.Method, "path", r.URL.Path,
				"status", ww.Status(), "bytes", ww.BytesWritten(),
				"took", time.Since(began))
		})
	}
}

// recovered turns a panic into an error page and a line in the log.
func recovered(site *ui.Site) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			defer func() {
				if p := recover(); p != nil {
					if p == http.ErrAbortHandler {
						panic(p)
					}
					site.Fail(w, r, fmt.Errorf("panic: %v\n%s", p, debug.Stack()))
				}
			}()
			next.ServeHTTP(w, r)
		})
	}
}
