package admin

import (
	"errors"
	"net/http"
	"time"

	"cavix/classroom"
	"cavix/core/names"
	"cavix/store"
	"cavix/web/ui"
)

// peopleView is who teaches here.
type peopleView struct {
	Tabs        []tab
	Instructors []instructorView
	Note        string
	OnlyHere    bool
	Link, For   string // with which somebody chooses a passphrase; it is shown once
	Until       string
	Name, Login string // of somebody new, as typed
	Errors      map[string]string
}

// instructorView is an instructor in the list.
type instructorView struct {
	store.Instructor
	State string
	Me    bool
	Out   bool // cannot sign in
}

// peopleNotes are what the page says after something was done.
var peopleNotes = map[string]string{
	"ended":  "They are signed out everywhere.",
	"kept":   "It is kept, and holds at once.",
	"last":   "Somebody must keep the server: have somebody else keep it first. Nothing was changed.",
	"barred": "They sign in no longer. Everything of theirs is kept.",
}

func (l Lodge) people(w http.ResponseWriter, r *http.Request) error {
	v := peopleView{}
	v.Note = ui.Said(r, peopleNotes)
	return l.showPeople(w, r, v)
}

func (l Lodge) showPeople(w http.ResponseWriter, r *http.Request, v peopleView) error {
	list, err := l.Room.Store().Read(r.Context()).Instructors(classroom.MostInstructors)
	if err != nil {
		return err
	}
	v.Tabs = tabs("/keeping/people")
	now := time.Now()
	for _, i := range list {
		out := instructorView{Instructor: i, Me: i.ID == ui.UserOf(r).ID, Out: !i.Barred.IsZero()}
		switch {
		case out.Out:
			out.State = "signs in no longer, since " + i.Barred.Format("2 Jan 2006")
		case i.Hash == "" && i.Until.After(now):
			out.State = "chooses a passphrase until " + i.Until.Format("2 Jan")
		case i.Hash == "":
			out.State = "has no passphrase; the link is good no longer"
		}
		v.Instructors = append(v.Instructors, out)
	}
	return l.Render(w, r, ui.Status(v.Errors), "instructors", "Instructors", v)
}

// linked shows the link with which somebody chooses a passphrase, once.
func (l Lodge) linked(w http.ResponseWriter, r *http.Request, name, key string) error {
	return l.showPeople(w, r, peopleView{For: name, Link: l.Address(r, "/welcome?key="+key), OnlyHere: l.OnlyHere(r),
		Until: time.Now().Add(classroom.LinkGood).Format("2 January")})
}

func (l Lodge) invite(w http.ResponseWriter, r *http.Request) error {
	var f struct {
		Name  string `form:"name"`
		Login string `form:"login"`
	}
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	v := peopleView{Name: names.Tidy(f.Name), Login: names.Tidy(f.Login)}
	var bad ui.Faults
	bad.Person("name", v.Name)
	bad.Person("login", v.Login)
	if len(bad.Refusal) == 0 {
		key, err := l.Room.Invite(r.Context(), ui.HandOf(r), v.Login, v.Name)
		if err == nil {
			return l.linked(w, r, v.Name, key)
		}
		if !errors.Is(err, store.ErrTaken) {
			return err
		}
		bad.Add("login", "Somebody signs in with this name already; choose another.")
	}
	v.Errors = bad.By()
	return l.showPeople(w, r, v)
}

// doWith does something about an instructor.
func (l Lodge) doWith(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.ID(r, "instructor")
	if err != nil {
		return err
	}
	ctx, by, note := r.Context(), ui.HandOf(r), "kept"
	switch r.PostForm.Get("do") {
	case "link":
		i, err := l.Room.Store().Read(ctx).Instructor(id)
		if err != nil {
			return err
		}
		key, err := l.Room.ResetPassphrase(ctx, by, id)
		if err != nil {
			return err
		}
		return l.linked(w, r, i.Name, key)
	case "end":
		note, err = "ended", l.Room.EndSessionsOf(ctx, by, id)
	case "bar":
		note, err = "barred", l.Room.SetBarred(ctx, by, id, false)
	case "unbar":
		err = l.Room.SetBarred(ctx, by, id, true)
	case "keeper":
		err = l.Room.SetKeeper(ctx, by, id, true)
	case "nokeeper":
		err = l.Room.SetKeeper(ctx, by, id, false)
	default:
		err = store.ErrNotFound
	}
	if errors.Is(err, classroom.ErrLastKeeper) {
		note, err = "last", nil
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/keeping/people?"+note, http.StatusSeeOther)
	return nil
}
