package web

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"path"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/figure"
)

//go:embed templates/*.html
var templateFiles embed.FS

// templates holds each page's template, together with the layout and the parts that pages share.
type templates struct{ pages map[string]*template.Template }

func loadTemplates(a *assets) (*templates, error) {
	shared := template.New("").Funcs(template.FuncMap{
		"asset":     a.url,
		"show":      marking.Show,
		"did":       func(c marking.Code) string { return c.Did() },
		"field":     newField,
		"forms":     func() []string { return []string{"short", "long", "retrograde"} },
		"families":  func(v workshopView) []choice { return families(instrument.Family(v.Text["family"])) },
		"patterns":  func(v workshopView) []choice { return patterns(instrument.Family(v.Text["family"])) },
		"hintCosts": func() []string { return []string{"nothing", "½ a mark", "1 mark", "1½ marks", "2 marks"} },
		"secondBase": func(role string) string {
			return map[string]string{"inside": "Width of the nibs", "upright": "Offset of the tongue"}[role]
		},
		"kind":  func(v workshopView) string { return string(kindOf(instrument.Family(v.Text["family"]))) },
		"units": func() []length.Unit { return []length.Unit{length.Millimetre, length.Centimetre, length.Inch} },
	})
	shared, err := shared.ParseFS(templateFiles, "templates/layout.html", "templates/parts.html")
	if err != nil {
		return nil, err
	}
	t := &templates{pages: map[string]*template.Template{}}
	names, err := fs.Glob(templateFiles, "templates/*.html")
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		page := strings.TrimSuffix(path.Base(n), ".html")
		if page == "layout" || page == "parts" {
			continue
		}
		c, err := shared.Clone()
		if err != nil {
			return nil, err
		}
		if t.pages[page], err = c.ParseFS(templateFiles, n); err != nil {
			return nil, err
		}
	}
	return t, nil
}

// pageView is what the layout prints around a page.
type pageView struct {
	Page    string // the template, also the body's class
	Title   string
	Theme   string // light or dark
	Who     string // name of who is signed in
	Teaches bool   // an instructor is signed in
	Learns  bool   // a student is signed in
	Path    string
	View    any
}

// render prints a page. It is made whole before anything is sent.
func (s *Server) render(w http.ResponseWriter, r *http.Request, status int, page, title string, view any) error {
	t, ok := s.templates.pages[page]
	if !ok {
		return fmt.Errorf("no template %q", page)
	}
	v := pageView{Page: page, Title: title, Theme: themeOf(r), Path: r.URL.Path, View: view}
	if u := userOf(r); u.instructor != nil {
		v.Who, v.Teaches = u.instructor.Name, true
	} else if u.student != nil {
		v.Who, v.Learns = u.student.Name, true
	}
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, "layout", v); err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	_, err := b.WriteTo(w)
	return err
}

// drawing writes a scene for a page. The scene's own writer escapes what it holds.
func drawing(sc *figure.Scene, prefix, class string) template.HTML {
	return template.HTML(sc.SVG(prefix, `class="`+class+`"`)) //nolint:gosec // made by our own writer
}

const themeCookie = "cavix_theme"

func themeOf(r *http.Request) string {
	if c, err := r.Cookie(themeCookie); err == nil && c.Value == "dark" {
		return "dark"
	}
	return "light"
}

// theme changes between light and dark and goes back to where it was asked.
func (s *Server) theme(w http.ResponseWriter, r *http.Request) error {
	next := "dark"
	if themeOf(r) == "dark" {
		next = "light"
	}
	http.SetCookie(w, &http.Cookie{Name: themeCookie, Value: next, Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true, Secure: s.Secure, SameSite: http.SameSiteLaxMode})
	back := r.PostFormValue("back")
	if !strings.HasPrefix(back, "/") || strings.HasPrefix(back, "//") || strings.Contains(back, `\`) {
		back = "/"
	}
	http.Redirect(w, r, back, http.StatusSeeOther)
	return nil
}

func (s *Server) help(w http.ResponseWriter, r *http.Request) error {
	return s.render(w, r, http.StatusOK, "help", "Handbook", marking.Slips())
}
