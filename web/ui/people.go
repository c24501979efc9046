package ui

import (
	"net/http"
	"time"

	"cavix/core/names"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/transfer"
)

// ActorOf returns the signed-in instructor as the actor of a use case, now.
func ActorOf(r *http.Request) access.Actor {
	u := UserOf(r)
	return access.Actor{ID: u.ID, Name: u.Name, At: time.Now()}
}

// ImportOf are the people of a list, as they are brought into a class.
func ImportOf(list []transfer.Person) []roster.ImportedPerson {
	out := make([]roster.ImportedPerson, len(list))
	for i, p := range list {
		out[i] = roster.ImportedPerson{Name: p.Name, Group: p.Group, Extra: p.ExtraMinutes, Number: p.Number}
	}
	return out
}

// PeopleOf are the students of a class as a list that can be brought in again.
func PeopleOf(all []roster.Student) []transfer.Person {
	list := make([]transfer.Person, len(all))
	for i, s := range all {
		list[i] = transfer.Person{Name: s.Name, Group: s.Team, ExtraMinutes: s.Extra, Number: s.Number}
	}
	return list
}

// ArrangeStudents brings a class into the order of the reader's language, those who have left after the others.
func ArrangeStudents(r *http.Request, list []roster.Student) {
	here := 0
	for here < len(list) && list[here].Left.IsZero() {
		here++
	}
	for _, part := range [][]roster.Student{list[:here], list[here:]} {
		names.Arrange(part, Said(r).Tag(), func(s roster.Student) string { return s.Name })
	}
}
