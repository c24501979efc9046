package ui

import (
	"net/http"
	"time"

	"cavix/classroom"
	"cavix/store"
	"cavix/transfer"
)

// HandOf is who does something with people or sheets, now.
func HandOf(r *http.Request) classroom.Hand {
	u := UserOf(r)
	return classroom.Hand{ID: u.ID, Name: u.Name, At: time.Now()}
}

// ComingOf are the people of a list, as they are brought into a class.
func ComingOf(list []transfer.Person) []classroom.Coming {
	out := make([]classroom.Coming, len(list))
	for i, p := range list {
		out[i] = classroom.Coming{Name: p.Name, Group: p.Group, Extra: p.ExtraMinutes, Number: p.Number}
	}
	return out
}

// PeopleOf are the students of a class as a list that can be brought in again.
func PeopleOf(all []store.Student) []transfer.Person {
	list := make([]transfer.Person, len(all))
	for i, s := range all {
		list[i] = transfer.Person{Name: s.Name, Group: s.Team, ExtraMinutes: s.Extra, Number: s.Number}
	}
	return list
}
