package ui

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/core/watch"
	"cavix/school/sitting"
)

// AtWork is a class at work on a sheet.
type AtWork struct {
	Rows, Stuck []AtWorkRow
	Spreading   []watch.Spread // slips that several made of late
	Names       map[int64]string
	Cards       []sitting.CardState
	Done, Of    int // cards
	Working     int // students who have begun
	Ready       int // students who have answered every card
}

// AtWorkRow is a student: the cards as a rule, and whether one of them holds the student up.
type AtWorkRow struct {
	ID   int64
	Name string
	Rule []RuleMark
	Done int
	Here int       // the card the student is on; 0 where that is not known
	Wait text.Text // "card 4 for 6 minutes; most took 2"
}

// spreadsFor is the period in which a spreading slip is looked for.
const spreadsFor = 15 * time.Minute

// AtWork looks at a class as it works on a sheet.
func (s *Site) AtWork(r *http.Request, g sitting.Given, nameless bool, now time.Time) (v AtWork, err error) {
	owner := UserOf(r).ID
	students, err := s.School.Roster.Students(r.Context(), owner, g.Class)
	if err != nil {
		return v, err
	}
	ArrangeStudents(r, students)
	if v.Cards, err = s.School.Ledgers.Watched(r.Context(), owner, g.ID); err != nil {
		return v, err
	}
	marks := map[int64][]sitting.Mark{}
	sights := make([]watch.CardState, len(v.Cards))
	here := map[int64]int{}
	for i, c := range v.Cards {
		marks[c.Student] = append(marks[c.Student], c.Mark)
		sights[i] = watch.CardState{Student: c.Student, Card: c.N, Seen: c.Seen, Answered: c.Answered,
			Slip: exercise.Code(c.Slip)}
		if !c.Done && !c.Seen.IsZero() {
			here[c.Student] = c.N
		}
	}
	stuck := watch.Stuck(sights, now)
	v.Names = map[int64]string{}
	for i, st := range students {
		name := st.Name
		if nameless {
			name = Said(r).Say("watch.seat", "n", i+1)
		}
		v.Names[st.ID] = name
		row := newAtWorkRow(g, st.ID, name, marks[st.ID], here[st.ID])
		if wait, on := stuck[st.ID]; on {
			row.Wait = waits(wait)
			v.Stuck = append(v.Stuck, row)
		}
		v.Done, v.Of = v.Done+row.Done, v.Of+g.Sheet.Cards()
		if len(marks[st.ID]) > 0 {
			v.Working++
		}
		if row.Done == g.Sheet.Cards() {
			v.Ready++
		}
		v.Rows = append(v.Rows, row)
	}
	v.Spreading = watch.Spreading(sights, now.Add(-spreadsFor))
	return v, nil
}

func newAtWorkRow(g sitting.Given, student int64, name string, marks []sitting.Mark, here int) AtWorkRow {
	row := AtWorkRow{ID: student, Name: name, Here: here}
	for len(marks) < g.Sheet.Cards() { // not begun
		marks = append(marks, sitting.Mark{N: len(marks) + 1})
	}
	at := fmt.Sprintf("/ledger/%d/%d/", g.ID, student)
	row.Rule = NewRule(marks, here, func(n int) string { return at + strconv.Itoa(n) })
	for _, m := range marks {
		if m.Done {
			row.Done++
		}
	}
	return row
}

// waits says what holds somebody up.
func waits(w watch.Wait) text.Text {
	if w.Median > 0 {
		return text.New("watch.waits-median", "card", w.Card, "minutes", int(w.For.Minutes()), "most",
			minutes(w.Median))
	}
	return text.New("watch.waits", "card", w.Card, "minutes", int(w.For.Minutes()))
}

func minutes(d time.Duration) text.Text {
	if d < time.Minute {
		return text.New("time.seconds", "n", int(d.Seconds()))
	}
	return text.New("time.minutes", "n", int(d.Minutes()))
}

// Listed names a few students.
func Listed(students []int64, names map[int64]string) text.Text {
	const few = 4
	var out []string
	for _, st := range students {
		out = append(out, names[st])
	}
	slices.Sort(out)
	if len(out) > few {
		return text.New("story.and-more", "names", text.List(typed(out[:few-1])...), "n", len(out)-few+1)
	}
	return text.List(typed(out)...)
}

// typed are names as texts.
func typed(names []string) []text.Text {
	out := make([]text.Text, len(names))
	for i, name := range names {
		out[i] = text.Typed(name)
	}
	return out
}
