// Package admin is where whoever keeps the server looks after it: copies and checks, the disk, who teaches here, who
// signed in, and what was changed. Everything stands behind the keeper's role; to others these pages are not there.
package admin

import (
	"context"
	"embed"
	"net/http"
	"net/http/pprof"
	"net/url"
	"runtime"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/text"
	"cavix/ops"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/marking"
	"cavix/school/roster"
	"cavix/school/server"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves the pages about the server.
type Handler struct {
	*ui.Site
	Supervisor *ops.Supervisor // looks after the file; nil where nobody does
	Version    string          // of the program
	began      time.Time
}

// New returns the keeper's place.
func New(s *ui.Site, a *ops.Supervisor, version string) Handler {
	return Handler{s, a, version, time.Now()}
}

// Routes adds the pages, for instructors who keep the server.
func (h Handler) Routes(r chi.Router) {
	r.Group(func(r chi.Router) {
		r.Use(h.keeper)
		r.Get("/keeping", h.Page(h.keeping))
		r.Post("/keeping/copy", h.Page(h.copyNow))
		r.Post("/keeping/check", h.Page(h.checkNow))
		r.Post("/keeping/remark", h.Page(h.remark))
		r.Get("/keeping/people", h.Page(h.people))
		r.Post("/keeping/people", ui.Form(h.Site, h.invite))
		r.Post("/keeping/people/{instructor}", h.Page(h.doWith))
		r.Get("/keeping/signins", h.Page(h.signIns))
		r.Get("/keeping/log", h.Page(h.log))
	})
}

// Profiles adds what the runtime tells of itself, which takes longer than a page may.
func (h Handler) Profiles(r chi.Router) {
	r.Group(func(r chi.Router) {
		r.Use(h.keeper)
		r.Get("/keeping/pprof/profile", pprof.Profile)
		r.Get("/keeping/pprof/trace", pprof.Trace)
		r.Get("/keeping/pprof/{name}", func(w http.ResponseWriter, r *http.Request) {
			pprof.Handler(chi.URLParam(r, "name")).ServeHTTP(w, r)
		})
	})
}

// keeper lets through who keeps the server; to others there is nothing here.
func (h Handler) keeper(next http.Handler) http.Handler {
	return h.Page(func(w http.ResponseWriter, r *http.Request) error {
		if !ui.UserOf(r).Keeps {
			return school.ErrNotFound
		}
		next.ServeHTTP(w, r)
		return nil
	})
}

// tabs are the keeper's pages, as each offers the others.
func tabs(now string) []tab {
	list := []tab{{Href: "/keeping", Text: text.New("admin.tabs.file-copies")},
		{Href: "/keeping/people", Text: text.New("admin.tabs.instructors")},
		{Href: "/keeping/signins", Text: text.New("title.sign-ins")},
		{Href: "/keeping/log", Text: text.New("admin.tabs.audit-log")}}
	for i := range list {
		list[i].On = list[i].Href == now
	}
	return list
}

type tab struct {
	Href string
	Text text.Text
	On   bool
}

// keepingView is the file, its copies and the program.
type keepingView struct {
	Tabs              []tab
	Wrong             text.Text
	File, Size, Left  string // Left is of the disk
	Scarce            bool   // little of the disk is left
	Form              int64
	Version, Go       string
	Since             time.Time
	server.Numbers    // what is kept
	Copies            []copyView
	Folder            string
	Keep              int
	CopyFailed        string    // why the last copy could not be made
	Late              bool      // the last copy is older than it should be
	Check             text.Text // what the last look through everything found
	CheckedAt         time.Time
	CheckBad, Looking bool
	ToRemark          []toRemark // sheets that are marked by an earlier version's rules
}

// toRemark is a sheet that is marked by an earlier version's rules.
type toRemark struct {
	marking.ToRemark
	Leads bool // the keeper leads its class, and can see the marks before they change
}

// copyView is a daily copy.
type copyView struct {
	Name, Size string
	At         time.Time
}

// scarce is the free space below which a warning is shown, late the age of the newest copy above which one is.
const (
	scarce = 1 << 30
	late   = 49 * time.Hour
)

func (h Handler) keeping(w http.ResponseWriter, r *http.Request) error {
	v := keepingView{}
	return h.show(w, r, v, http.StatusOK)
}

func (h Handler) show(w http.ResponseWriter, r *http.Request, v keepingView, status int) error {
	var err error
	me := ui.UserOf(r).ID
	if v.Numbers, err = h.School.Server.Numbers(r.Context(), me); err != nil {
		return err
	}
	if v.Form, err = h.School.Server.Schema(r.Context(), me); err != nil {
		return err
	}
	older, err := h.School.Marking.ToRemark(r.Context(), me, true)
	if err != nil {
		return err
	}
	for _, e := range older {
		_, err := h.School.Sitting.Assignment(r.Context(), me, e.Assignment)
		v.ToRemark = append(v.ToRemark, toRemark{e, err == nil})
	}
	v.Tabs, v.Version, v.Go, v.Since = tabs("/keeping"), h.Version, runtime.Version(), h.began
	if h.Supervisor == nil {
		return h.Render(w, r, status, "keeping", text.New("admin.show"), v)
	}
	if err := h.attended(r.Context(), me, &v); err != nil {
		return err
	}
	return h.Render(w, r, status, "keeping", text.New("admin.show"), v)
}

// attended fills in what the attendant knows.
func (h Handler) attended(ctx context.Context, me int64, v *keepingView) error {
	a := h.Supervisor
	v.File, v.Size, v.Folder, v.Keep = a.Path, ops.SizeText(a.Size()), a.Copies, a.Keep
	if left, err := a.DiskLeft(); err == nil {
		v.Left, v.Scarce = ops.SizeText(int64(min(left, 1<<62))), left < scarce
	}
	list, err := a.List()
	if err != nil {
		return err
	}
	for _, c := range list {
		v.Copies = append(v.Copies, copyView{c.Name(), ops.SizeText(c.Size), c.At})
	}
	v.Late = a.Keep > 0 && len(list) > 0 && time.Since(list[0].At) > late
	if v.CopyFailed, err = h.School.Server.LastCopy(ctx, me); err != nil {
		return err
	}
	found, at, err := h.School.Server.LastCheck(ctx, me)
	if found != "" {
		v.Check = text.ReadStored(found)
		v.CheckedAt, v.CheckBad = at, !ops.SaidSound(v.Check)
	}
	v.Looking = a.Looking()
	return err
}

func (h Handler) copyNow(w http.ResponseWriter, r *http.Request) error {
	if h.Supervisor == nil {
		return school.ErrNotFound
	}
	if _, err := h.Supervisor.CopyNow(r.Context()); err != nil {
		h.Log.Error("a copy could not be made", "err", err)
		return h.show(w, r, keepingView{Wrong: text.New("admin.copy-now.wrong", "err", err.Error())},
			http.StatusInternalServerError)
	}
	return h.Redirect(w, r, "/keeping", text.New("admin.notes"), nil)
}

// patience is the time that the page waits for a check of the database before it goes on in the background.
const patience = 4 * time.Second

func (h Handler) checkNow(w http.ResponseWriter, r *http.Request) error {
	if h.Supervisor == nil {
		return school.ErrNotFound
	}
	select {
	case <-h.Supervisor.Look().Ended():
		return h.Redirect(w, r, "/keeping", text.New("admin.everything-looked-through"), nil)
	case <-time.After(patience):
		return h.Redirect(w, r, "/keeping", text.New("admin.everything-being-looked-through"), nil)
	case <-r.Context().Done():
	}
	return nil
}

// remark brings a sheet that nobody leads to today's rules of marking.
func (h Handler) remark(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.FormID(r, "sheet")
	if err != nil {
		return err
	}
	if err := h.School.Marking.RemarkEarlier(r.Context(), ui.ActorOf(r), id); err != nil {
		return err
	}
	return h.Redirect(w, r, "/keeping", text.New("admin.sheet-marked-by-todays"), nil)
}

// perPage is the number of lines on a page of a list.
const perPage = 50

// signInsView lists who has come in of late.
type signInsView struct {
	Tabs []tab
	ui.Turn
	Role    string
	SignIns []roster.SignIn
}

func (h Handler) signIns(w http.ResponseWriter, r *http.Request) error {
	role, skip := r.URL.Query().Get("who"), ui.Skipped(r)
	if role != "instructor" && role != "student" {
		role = ""
	}
	list, err := h.School.Roster.SignIns(r.Context(), ui.UserOf(r).ID, role, skip, perPage+1)
	if err != nil {
		return err
	}
	v := signInsView{Tabs: tabs("/keeping/signins"), Role: role,
		Turn: ui.TurnOf("/keeping/signins", url.Values{"who": {role}}, skip, perPage, len(list) > perPage)}
	v.SignIns = list[:min(len(list), perPage)]
	return h.Render(w, r, http.StatusOK, "signins", text.New("title.sign-ins"), v)
}

// logView lists what was changed.
type logView struct {
	Tabs []tab
	ui.Turn
	Changes []access.Logged
}

func (h Handler) log(w http.ResponseWriter, r *http.Request) error {
	skip := ui.Skipped(r)
	list, err := h.School.Access.Log(r.Context(), ui.UserOf(r).ID, skip, perPage+1)
	if err != nil {
		return err
	}
	v := logView{Tabs: tabs("/keeping/log"), Turn: ui.TurnOf("/keeping/log", nil, skip, perPage, len(list) > perPage)}
	v.Changes = list[:min(len(list), perPage)]
	return h.Render(w, r, http.StatusOK, "changes", text.New("admin.log"), v)
}
