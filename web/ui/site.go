// Package ui is what all places of the site share: the layout and its parts, forms, the figure with its
// lens, the card, and who is signed in. A place adds its pages and handlers; none computes a reading.
package ui

import (
	"embed"
	"fmt"
	"hash/maphash"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/alexedwards/scs/v2"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
	"cavix/locale"
	"cavix/ops"
	"cavix/school"
)

//go:embed *.html
var files embed.FS

// Site holds what all handlers share.
type Site struct {
	School   *school.School
	Log      *slog.Logger
	Sessions *scs.SessionManager
	Secure   bool // the site is served over HTTPS: cookies are marked so
	// hosts with ports at which other computers reach the server; none where they do not, or a proxy stands before it
	Reach []string
	Jobs  *ops.Jobs

	streams *streams
	assets  *assets
	presses presses
	pages   map[string]*page
}

// New returns a site with the pages of all places.
func New(s Site, places ...fs.FS) (*Site, error) {
	var err error
	s.presses, s.streams = newPresses(), &streams{}
	if s.assets, err = loadAssets(); err != nil {
		return nil, err
	}
	shared, err := template.New("").Funcs(s.functions(&copied{})).ParseFS(files, "layout.html", "parts.html")
	if err != nil {
		return nil, err
	}
	s.pages = map[string]*page{}
	for _, place := range append([]fs.FS{files}, places...) {
		if err := s.add(shared, place); err != nil {
			return nil, err
		}
	}
	return &s, nil
}

// page is a page of the site, parsed when it is first asked for.
type page struct {
	parsed func() (*template.Template, error)
	copies sync.Pool // of *copied, with their functions bound
}

// copied is a copy of a page's templates: its functions print for one request at a time.
type copied struct {
	template *template.Template
	said     *text.Printer
	told     map[outcome]string // of cards on rules, for the request that is printed
}

// take returns a copy of the page that prints with a printer. It is given back after use.
func (p *page) take(s *Site, said *text.Printer) (*copied, error) {
	if c, ok := p.copies.Get().(*copied); ok {
		c.said, c.told = said, nil
		return c, nil
	}
	parsed, err := p.parsed()
	if err != nil {
		return nil, err
	}
	c := &copied{said: said}
	if c.template, err = parsed.Clone(); err != nil {
		return nil, err
	}
	c.template.Funcs(s.functions(c))
	return c, nil
}

// functions returns the functions that templates call: "t" and "rich" print a text of the catalogues, plain or with its
// spans as elements; "text" is one that a view or another text takes. What a view holds is printed by "say", which
// stands in every pipeline; see sayAll.
func (s *Site) functions(c *copied) template.FuncMap {
	return template.FuncMap{
		"asset": s.assets.url,
		"say":   func(v any) any { return say(c.said, v) },
		"t":     func(key string, pairs ...any) string { return c.said.Print(textOf(key, pairs...)) },
		"rich": func(key string, pairs ...any) template.HTML {
			return template.HTML(c.said.HTML(textOf(key, pairs...))) //nolint:gosec // the printer escapes
		},
		"rule":   func(marks []RuleMark) template.HTML { return c.rule(marks) },
		"text":   textOf,
		"option": option,
		"slip":   func(code any) text.Text { return exercise.Code(fmt.Sprint(code)).Name() },
		"made":   func(code any) text.Text { return exercise.Code(fmt.Sprint(code)).You() },
		"lang":   func() string { return c.said.Tag().String() },
		"day":    Day,
		"date":   Date,
		"when":   Here,
		"place": func(page, href string, says text.Text, now string) placeView {
			return placeView{href, says, page == now}
		},
		"trains":  func(class int64, slip string) trainsView { return trainsView{class, slip} },
		"partial": func(name string, view any) (template.HTML, error) { return partial(c.template, name, view) },
		"part":    func(name string, view any) (template.HTML, error) { return part(c.template, name, view) },
	}
}

// option returns the name of an option of documents, as "scrap"; a name that a person gave stays as it is.
func option(value any) text.Text {
	name := fmt.Sprint(value)
	if key := "option." + strings.ReplaceAll(name, " ", "-"); locale.Of("en").Has(key) {
		return text.New(key)
	}
	return text.Typed(name)
}

// textOf is a text of a template. Its moments become texts.
func textOf(key string, pairs ...any) text.Text {
	for i, v := range pairs {
		if at, ok := v.(Stamp); ok {
			pairs[i] = at.Text()
		}
	}
	return text.New(key, pairs...)
}

// say prints a text or number for a page; what is none stays as it is.
func say(p *text.Printer, v any) any {
	switch v := v.(type) {
	case text.Text:
		return p.Print(v)
	case text.Math:
		return p.Math(v)
	case text.Term:
		return p.Print(text.Word(v))
	case Stamp:
		return v.html(p)
	case length.Number:
		return p.Math(text.Math(v.String()))
	}
	return v
}

// add takes the pages of a place: each file is one page, called by its name. What they share stands in its parts.html;
// partials of which a page chooses one stand in a folder of its name. A page has a copy of all that is shared; a school
// at work asks for a few of them.
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
		s.pages[strings.TrimSuffix(n, ".html")] = &page{parsed: sync.OnceValues(func() (*template.Template, error) {
			c, err := shared.Clone()
			if err != nil {
				return nil, err
			}
			if c, err = c.ParseFS(place, n); err != nil {
				return nil, err
			}
			// the pattern is sound
			if partials, _ := fs.Glob(place, strings.TrimSuffix(n, ".html")+"/*.html"); len(partials) > 0 {
				if c, err = c.ParseFS(place, partials...); err != nil {
					return nil, err
				}
			}
			sayAll(c)
			return c, nil
		})}
	}
	return nil
}

// partial prints the partial of a name; nothing where the page has none.
func partial(page *template.Template, name string, view any) (template.HTML, error) {
	if name == "" || page == nil || page.Lookup(name) == nil {
		return "", nil
	}
	var b strings.Builder
	err := page.ExecuteTemplate(&b, name, view)
	return template.HTML(b.String()), err //nolint:gosec // a template of the page has escaped it
}

// seed is the seed of the fingerprints of parts.
var seed = maphash.MakeSeed()

// part prints a partial that is one element, with a fingerprint of what is in it: a script that has the same part
// already leaves it out before it parses an answer.
func part(page *template.Template, name string, view any) (template.HTML, error) {
	html, err := partial(page, name, view)
	if err != nil {
		return "", err
	}
	s := strings.TrimSpace(string(html))
	begin, end := strings.IndexByte(s, '>'), strings.LastIndex(s, "</")
	if begin < 0 || end <= begin {
		return "", fmt.Errorf("the part %q is no element", name)
	}
	mark := strconv.FormatUint(maphash.String(seed, s), 36)
	return template.HTML(s[:begin] + ` data-part="` + mark + `"><!--part ` + mark + "-->" + //nolint:gosec // as above
		s[begin+1:end] + "<!--end-->" + s[end:]), nil
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

// placeView is a place in the navigation.
type placeView struct {
	Href string
	Text text.Text
	On   bool
}

// trainsView is a slip of a class that a sheet is to train.
type trainsView struct {
	Class int64
	Slip  string
}

// layoutView is printed by the layout around a page.
type layoutView struct {
	Page  string // the template, also the body's class
	Title text.Text
	Theme string // "light", "dark", or "" for the system's
	Next  string // the theme that the button changes to
	User  User
	Path  string
	Flash text.Text // says what was done
	View  any
}

// Render prints a page. It is made whole before anything is sent.
func (s *Site) Render(w http.ResponseWriter, r *http.Request, status int, page string, title text.Text,
	view any) error {
	theme := ThemeOf(r)
	return s.print(w, r, status, page, "layout", layoutView{Page: page, Title: title, Theme: theme,
		Next: nextTheme[theme],
		User: UserOf(r), Path: r.URL.Path, Flash: s.flashOf(r), View: view})
}

// Project prints a page for the projector: without the frame of the application.
func (s *Site) Project(w http.ResponseWriter, r *http.Request, status int, page string, title text.Text,
	view any) error {
	return s.print(w, r, status, page, "projector", layoutView{Page: page, Title: title, Theme: ThemeOf(r),
		Path: r.URL.Path, View: view})
}

// Fragment prints one part of a page, for a script that puts it in place.
func (s *Site) Fragment(w http.ResponseWriter, r *http.Request, page, part string, view any) error {
	return s.print(w, r, http.StatusOK, page, part, view)
}

// Drawing writes a scene for a page. The scene's own writer escapes what it holds.
func Drawing(sc *figure.Scene, prefix, class string) template.HTML {
	return template.HTML(sc.SVG(prefix, `x-ignore class="`+class+`"`)) //nolint:gosec // made by our own writer
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

// nextTheme maps a theme to the one that the button changes it to: the system's, dark, light, and round again.
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

// Local is an address of this site, as it was sent, or "/" where it is none. Browsers pass over tabs and line ends, and
// take a backslash for a slash: what they would make of it is what is looked at.
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
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || u.Opaque != "" ||
		!strings.HasPrefix(cleaned, "/") ||
		strings.HasPrefix(cleaned, "//") || cleaned != back {
		return "/"
	}
	return cleaned
}

// flash is the name under which a session keeps what the next page says.
const flash = "flash"

// Redirect leads on to another page after something was done, which then says a note; the zero Text says nothing. Where
// it was not done Redirect returns the error.
func (s *Site) Redirect(w http.ResponseWriter, r *http.Request, to string, note text.Text, err error) error {
	if err != nil {
		return err
	}
	if !note.IsZero() {
		s.Sessions.Put(r.Context(), flash, text.Stored(note))
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// flashOf takes what a page says of what was done before it.
func (s *Site) flashOf(r *http.Request) text.Text {
	if !s.Sessions.Exists(r.Context(), flash) {
		return text.Text{}
	}
	return text.ReadStored(s.Sessions.PopString(r.Context(), flash))
}
