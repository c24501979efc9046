// Package ui is what all places of the site share: the layout and its parts, forms, the figure with its
// lens, the card, and who is signed in. A place adds its pages and handlers; none computes a reading.
package ui

import (
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"sync"

	"github.com/alexedwards/scs/v2"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/words"
	"cavix/figure"
	"cavix/ops"
)

//go:embed *.html
var files embed.FS

// Site is what handlers answer with.
type Site struct {
	Room     *classroom.Room
	Log      *slog.Logger
	Sessions *scs.SessionManager
	Secure   bool     // the site is served over HTTPS: cookies are marked so
	Reach    []string // hosts with ports at which other computers reach the server; none where they do not, or a proxy stands before it
	Jobs     *ops.Jobs

	streams *streams
	assets  *assets
	presses presses
	pages   map[string]func() (*template.Template, error) // each is made when it is first asked for
}

// New returns a site with the pages of all places.
func New(s Site, places ...fs.FS) (*Site, error) {
	var err error
	s.presses, s.streams = newPresses(), &streams{}
	if s.assets, err = loadAssets(); err != nil {
		return nil, err
	}
	shared, err := template.New("").Funcs(template.FuncMap{
		"asset":   s.assets.url,
		"show":    exercise.Show,
		"typed":   typed,
		"day":     Day,
		"date":    Date,
		"place":   func(page, href, text, now string) placeView { return placeView{href, text, page == now} },
		"trains":  func(class int64, slip string) trainsView { return trainsView{class, slip} },
		"partial": func(string, any) (template.HTML, error) { return "", errors.New("stands in no page") },
		"did":     func(c string) string { return kinds.Did(exercise.Code(c)) },
	}).ParseFS(files, "layout.html", "parts.html")
	if err != nil {
		return nil, err
	}
	s.pages = map[string]func() (*template.Template, error){}
	for _, place := range append([]fs.FS{files}, places...) {
		if err := s.add(shared, place); err != nil {
			return nil, err
		}
	}
	return &s, nil
}

// add takes the pages of a place: each file is one page, called by its name. What they share stands in its parts.html; partials of
// which a page chooses one stand in a folder of its name.
// A page has a copy of all that is shared; a school at work asks for a few of them.
func (s *Site) add(shared *template.Template, place fs.FS) error {
	names, err := fs.Glob(place, "*.html")
	if err != nil {
		return err
	}
	const parts = "parts.html"
	if slices.Contains(names, parts) {
		if shared, err = shared.Clone(); err != nil {
			return err
		}
		if shared, err = shared.ParseFS(place, parts); err != nil {
			return err
		}
	}
	for _, n := range names {
		s.pages[strings.TrimSuffix(n, ".html")] = sync.OnceValues(func() (*template.Template, error) {
			c, err := shared.Clone()
			if err != nil {
				return nil, err
			}
			if c, err = c.ParseFS(place, n); err != nil {
				return nil, err
			}
			if partials, _ := fs.Glob(place, strings.TrimSuffix(n, ".html")+"/*.html"); len(partials) > 0 { // the pattern is sound
				if c, err = c.ParseFS(place, partials...); err != nil {
					return nil, err
				}
			}
			return c.Funcs(template.FuncMap{"partial": func(name string, view any) (template.HTML, error) { return partial(c, name, view) }}), nil
		})
	}
	return nil
}

// partial prints the partial of a name; nothing where the page has none.
func partial(page *template.Template, name string, view any) (template.HTML, error) {
	if name == "" || page.Lookup(name) == nil {
		return "", nil
	}
	var b strings.Builder
	err := page.ExecuteTemplate(&b, name, view)
	return template.HTML(b.String()), err //nolint:gosec // a template of the page has escaped it
}

// Static serves the files that pages load.
func (s *Site) Static() http.Handler { return s.assets }

// Page turns a handler that may fail into a plain one.
func (s *Site) Page(h func(http.ResponseWriter, *http.Request) error) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.Fail(w, r, err)
		}
	}
}

// typed marks what a person typed, so that it is shown as typed. What is no text stays as it is.
func typed(v any) any {
	if v := reflect.ValueOf(v); v.Kind() == reflect.String && v.Type() != reflect.TypeFor[template.HTML]() {
		return words.Typed(v.String())
	}
	return v
}

// placeView is a place in the navigation.
type placeView struct {
	Href, Text string
	On         bool
}

// trainsView is a slip of a class that a sheet is to train.
type trainsView struct {
	Class int64
	Slip  string
}

// layoutView is what the layout prints around a page.
type layoutView struct {
	Page  string // the template, also the body's class
	Title string
	Theme string // "light", "dark", or "" for the system's
	Next  string // the theme that the button changes to
	User  User
	Path  string
	View  any
}

// Render prints a page. It is made whole before anything is sent.
func (s *Site) Render(w http.ResponseWriter, r *http.Request, status int, page, title string, view any) error {
	theme := ThemeOf(r)
	return s.print(w, r, status, page, "layout", layoutView{Page: page, Title: title, Theme: theme,
		Next: nextTheme[theme],
		User: UserOf(r), Path: r.URL.Path, View: view})
}

// Project prints a page for the projector: without the frame of the application.
func (s *Site) Project(w http.ResponseWriter, r *http.Request, status int, page, title string, view any) error {
	return s.print(w, r, status, page, "projector", layoutView{Page: page, Title: title, Theme: ThemeOf(r), Path: r.URL.Path,
		View: view})
}

// Fragment prints one part of a page, for a script that puts it in place.
func (s *Site) Fragment(w http.ResponseWriter, r *http.Request, page, part string, view any) error {
	return s.print(w, r, http.StatusOK, page, part, view)
}

// Drawing writes a scene for a page. The scene's own writer escapes what it holds.
func Drawing(sc *figure.Scene, prefix, class string) template.HTML {
	return template.HTML(sc.SVG(prefix, `class="`+class+`"`)) //nolint:gosec // made by our own writer
}

// Plot writes a plot for a page, in its own size.
func Plot(sc *figure.Scene, prefix string) template.HTML {
	size := fmt.Sprintf(`class="plot" width="%.0f" height="%.0f"`, sc.Width, sc.Height)
	return template.HTML(sc.SVG(prefix, size)) //nolint:gosec // made by our own writer
}

// Readings writes a plot of readings for a page. It is as wide as its place; on a phone it keeps a size at which its
// numbers are read, and is moved sideways.
func Readings(sc *figure.Scene, prefix string) template.HTML {
	return `<div class="plotted">` + Drawing(sc, prefix, "plot readingplot") + `</div>`
}

const themeCookie = "cavix_theme"

// nextTheme is what the button changes a theme to: the system's, dark, light, and round again.
var nextTheme = map[string]string{"": "dark", "dark": "light", "light": ""}

// ThemeOf is the theme that a visitor has chosen; "" follows the system.
func ThemeOf(r *http.Request) string {
	if c, err := r.Cookie(themeCookie); err == nil && (c.Value == "dark" || c.Value == "light") {
		return c.Value
	}
	return ""
}

// Theme changes between the system's theme, dark and light, and goes back to where it was asked.
func (s *Site) Theme(w http.ResponseWriter, r *http.Request) error {
	next := r.PostFormValue("theme")
	age := 365 * 24 * 3600
	if next != "dark" && next != "light" {
		next, age = "", -1
	}
	http.SetCookie(w, &http.Cookie{Name: themeCookie, Value: next, Path: "/", MaxAge: age, HttpOnly: true,
		Secure: s.Secure, SameSite: http.SameSiteLaxMode})
	http.Redirect(w, r, Local(r.PostFormValue("back")), http.StatusSeeOther)
	return nil
}

// Local is an address of this site, as it was sent, or "/" where it is none. Browsers pass over tabs and line ends, and take
// a backslash for a slash: what they would make of it is what is looked at.
func Local(back string) string {
	cleaned := strings.Map(func(r rune) rune {
		switch {
		case r <= ' ' || r == 0x7f:
			return -1
		case r == '\\':
			return '/'
		}
		return r
	}, back)
	u, err := url.Parse(cleaned)
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || u.Opaque != "" || !strings.HasPrefix(cleaned, "/") ||
		strings.HasPrefix(cleaned, "//") || cleaned != back {
		return "/"
	}
	return cleaned
}

// Redirected leads on to another page after something was done, or returns the error where it was not.
func Redirected(w http.ResponseWriter, r *http.Request, to string, err error) error {
	if err == nil {
		http.Redirect(w, r, to, http.StatusSeeOther)
	}
	return err
}
