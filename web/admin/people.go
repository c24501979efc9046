package admin

import (
	"errors"
	"net/http"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/roster"
	"cavix/web/ui"
)

// peopleView lists the instructors of the school.
type peopleView struct {
	Tabs        []tab
	Instructors []instructorView
	OnlyHere    bool
	Link, For   string // with which somebody chooses a passphrase; it is shown once
	Until       text.Text
	Name, Login string // of somebody new, as typed
	Errors      map[string]text.Text
}

// instructorView is an instructor in the list.
type instructorView struct {
	roster.Instructor
	State text.Text
	Me    bool
	Out   bool // cannot sign in
}

func (h Handler) people(w http.ResponseWriter, r *http.Request) error {
	v := peopleView{}
	return h.showPeople(w, r, v)
}

func (h Handler) showPeople(w http.ResponseWriter, r *http.Request, v peopleView) error {
	list, err := h.School.Roster.Instructors(r.Context(), ui.UserOf(r).ID, roster.MostInstructors)
	if err != nil {
		return err
	}
	v.Tabs = tabs("/keeping/people")
	now := time.Now()
	for _, i := range list {
		out := instructorView{Instructor: i, Me: i.ID == ui.UserOf(r).ID, Out: !i.Barred.IsZero()}
		switch {
		case out.Out:
			out.State = text.New("admin.people.show-people", "x", ui.Date(i.Barred).Text())
		case i.Hash == "" && i.Until.After(now):
			out.State = text.New("admin.people.chooses-passphrase-until", "x", ui.Day(i.Until).Text())
		case i.Hash == "":
			out.State = text.New("admin.people.no-passphrase-link-good")
		}
		v.Instructors = append(v.Instructors, out)
	}
	return h.Render(w, r, ui.Status(v.Errors), "instructors", text.New("admin.people.instructors"), v)
}

// linked shows the link with which somebody chooses a passphrase, once.
func (h Handler) linked(w http.ResponseWriter, r *http.Request, name, key string) error {
	return h.showPeople(w, r, peopleView{For: name, Link: h.Address(r, "/welcome?key="+key), OnlyHere: h.OnlyHere(r),
		Until: ui.Day(time.Now().Add(roster.LinkGood)).Text()})
}

// inviteForm is the form of invite.
type inviteForm struct {
	Name  string `form:"name"`
	Login string `form:"login"`
}

func (h Handler) invite(w http.ResponseWriter, r *http.Request, f inviteForm) error {
	v := peopleView{Name: names.Tidy(f.Name), Login: names.Tidy(f.Login)}
	var bad ui.Faults
	bad.Person("name", v.Name)
	bad.Person("login", v.Login)
	if len(bad.Refusal) == 0 {
		key, err := h.School.Roster.Invite(r.Context(), ui.ActorOf(r), v.Login, v.Name)
		if err == nil {
			return h.linked(w, r, v.Name, key)
		}
		if !errors.Is(err, roster.ErrLoginTaken) {
			return err
		}
		bad.Add("login", "admin.people.invite")
	}
	v.Errors = bad.By()
	return h.showPeople(w, r, v)
}

// doWith does something about an instructor.
func (h Handler) doWith(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.ID(r, "instructor")
	if err != nil {
		return err
	}
	ctx, by, note := r.Context(), ui.ActorOf(r), text.New("admin.people.kept-holds-once")
	switch r.PostForm.Get("do") {
	case "link":
		i, err := h.School.Roster.Instructor(ctx, id)
		if err != nil {
			return err
		}
		key, err := h.School.Roster.ResetPassphrase(ctx, by, id)
		if err != nil {
			return err
		}
		return h.linked(w, r, i.Name, key)
	case "end":
		note, err = text.New("admin.people.people-notes"), h.School.Roster.EndSessionsOf(ctx, by, id)
	case "bar":
		note, err = text.New("admin.people.they-sign-no-longer"), h.School.Roster.SetBarred(ctx, by, id, false)
	case "unbar":
		err = h.School.Roster.SetBarred(ctx, by, id, true)
	case "keeper":
		err = h.School.Roster.SetKeeper(ctx, by, id, true)
	case "nokeeper":
		err = h.School.Roster.SetKeeper(ctx, by, id, false)
	default:
		err = school.ErrNotFound
	}
	if errors.Is(err, roster.ErrLastKeeper) {
		note, err = text.New("admin.people.somebody-keep-server-somebody"), nil
	}
	return h.Redirect(w, r, "/keeping/people", note, err)
}
