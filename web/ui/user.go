package ui

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"

	"cavix/school"
	"cavix/school/roster"
)

// Role says whether a visitor is a stranger, a student or an instructor.
type Role int

// The roles.
const (
	Stranger Role = iota
	Student
	Instructor
)

// User is the person behind a request.
type User struct {
	Role  Role
	ID    int64
	Name  string
	Class int64 // of a student
	Guest bool  // a student who is here for a round only
	Keeps bool  // an instructor who keeps the server too
}

// Teaches and Learns tell the roles apart for pages.
func (u User) Teaches() bool { return u.Role == Instructor }
func (u User) Learns() bool  { return u.Role == Student }

type userKey struct{}

// UserOf returns who a request comes from; a stranger where nobody is signed in.
func UserOf(r *http.Request) User {
	u, _ := r.Context().Value(userKey{}).(User)
	return u
}

// Keys of the session.
const (
	sessionInstructor = "instructor"
	sessionStudent    = "student"
	sessionEntry      = "entry"
)

// sessionKey returns the key of a role's id in the session.
func sessionKey(r Role) string {
	if r == Instructor {
		return sessionInstructor
	}
	return sessionStudent
}

// Known finds who is signed in, for every page.
func (s *Site) Known(next http.Handler) http.Handler {
	return s.Page(func(w http.ResponseWriter, r *http.Request) error {
		r = speaking(r)
		u, err := s.identify(r)
		if err != nil {
			return err
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), userKey{}, u)))
		return nil
	})
}

func (s *Site) identify(r *http.Request) (User, error) {
	if id := s.Sessions.GetInt64(r.Context(), sessionInstructor); id != 0 {
		i, err := s.School.Roster.Instructor(r.Context(), id)
		if err == nil && i.Barred.IsZero() && i.Entry == s.entry(r) {
			speakTo(r, i.Language)
			return User{Role: Instructor, ID: i.ID, Name: i.Name, Keeps: i.Keeper}, nil
		}
		return User{}, but(err)
	}
	if id := s.Sessions.GetInt64(r.Context(), sessionStudent); id != 0 {
		st, err := s.School.Roster.Student(r.Context(), id)
		if err == nil && st.Here() && st.Entry == s.entry(r) {
			set, err := roster.Words(st.Words)
			if err != nil {
				return User{}, err
			}
			Speak(r, set)
			speakTo(r, st.Language)
			return User{Role: Student, ID: st.ID, Name: st.Name, Class: st.Class, Guest: st.Guest}, nil
		}
		return User{}, but(err)
	}
	return User{}, nil
}

// still reports whether a request that has been under way for long still comes from somebody who may make it: signed in
// by the same session, in the same class, and with a role in the class that its address names.
func (s *Site) still(r *http.Request) bool {
	// the session is read anew, not as the request began with it
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	ctx, err := s.Sessions.Load(ctx, s.Sessions.Token(r.Context()))
	if err != nil {
		return unsure(err)
	}
	was, fresh := UserOf(r), speaking(r.WithContext(ctx))
	now, err := s.identify(fresh)
	if err != nil {
		return unsure(err)
	}
	if now.Role != was.Role || now.ID != was.ID || now.Class != was.Class {
		return false
	}
	if was.Role != Instructor {
		return true
	}
	class := withinOf(r).classID()
	if class == 0 {
		return true
	}
	_, err = s.School.Access.RoleIn(ctx, now.ID, class)
	return err == nil || unsure(err)
}

// unsure reports whether an error says nothing of a right: it could not be asked just now.
func unsure(err error) bool { return !errors.Is(err, school.ErrNotFound) }

// entry is the number under which the session began: when somebody's sessions are ended, their number moves on.
func (s *Site) entry(r *http.Request) int64 { return s.Sessions.GetInt64(r.Context(), sessionEntry) }

// but is an error other than that somebody is no longer there.
func but(err error) error {
	if errors.Is(err, school.ErrNotFound) {
		return nil
	}
	return err
}

// Only lets through those of a role and sends others to sign in.
func (s *Site) Only(role Role, signIn string) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			switch u := UserOf(r); {
			case u.Role != role:
				http.Redirect(w, r, signInURL(signIn, r), http.StatusSeeOther)
				return
			case u.Guest && !strings.HasPrefix(r.URL.Path, "/round"): // a guest is here for that alone
				http.Redirect(w, r, "/round", http.StatusSeeOther)
				return
			}
			next.ServeHTTP(w, r)
		})
	}
}

// signInURL is the page for signing in, which then leads to the page that was asked for.
func signInURL(signIn string, r *http.Request) string {
	asked := r.URL.RequestURI()
	if r.Method != http.MethodGet { // back to the page with the form, whose browser has kept what was typed
		from, err := url.Parse(r.Referer())
		if err != nil || from.Host != r.Host {
			return signIn
		}
		asked = from.RequestURI()
	}
	// a script's is no page
	if Local(asked) != asked || r.Header.Get("Sec-Fetch-Dest") == "empty" {
		return signIn
	}
	return signIn + "?to=" + url.QueryEscape(asked)
}

// Enter signs somebody in under a fresh session, which is good as long as their number of entry stays.
func (s *Site) Enter(r *http.Request, role Role, id, entry int64) error {
	if err := s.Sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.Sessions.Remove(r.Context(), sessionInstructor)
	s.Sessions.Remove(r.Context(), sessionStudent)
	s.Sessions.Put(r.Context(), sessionKey(role), id)
	s.Sessions.Put(r.Context(), sessionEntry, entry)
	return nil
}
