// Package notice decides what an instructor should hear of without asking: a slip that many of a class make on one
// sheet, somebody who makes the same one again and again, somebody who reads right and loses marks for how it is
// written. It says what is worth a word, the weightiest first, and nothing else.
package notice

import (
	"cmp"
	"slices"

	"cavix/core/exercise"
)

// Made counts a student's recent slips of one sort on one sheet.
type Made struct {
	Student, Sheet int64
	Slip           exercise.Code
	Cards          int
	// cards of the sheet that the student answered on which the slip could be made; 0 where that is not known
	Could int
}

// Answered counts the students who answered a sheet recently.
type Answered struct {
	Sheet    int64
	Students int
}

// Lost counts the half marks that a student recently lost for form alone.
type Lost struct {
	Student int64
	Times   int
}

// Kind is the subject of a notice.
type Kind int

// The kinds.
const (
	Many  Kind = iota // many of a class make a slip on one sheet
	Again             // a student makes the same slip on several sheets
	Form              // a student reads right and writes it in the wrong form
	Habit             // a student makes the same slip on most cards of one sheet that could show it
)

// Notice is something worth a word.
type Notice struct {
	Kind     Kind
	Slip     exercise.Code // "" of Form
	Sheet    int64         // of Many and of Habit
	Students []int64       // who it is about
	Times    int           // cards, or half marks lost
	// students who have answered the sheet; sheets on which it was made again; cards that could show it
	Of int
}

// What is worth a word: a slip that a quarter of those who answered made, and four at least; one made five times on two
// sheets or more; one made on half of the cards of a sheet that could show it, and on three at least; five half marks
// lost for form.
const (
	manyShare   = 4
	manyLeast   = 4
	againTimes  = 5
	againSheets = 2
	formTimes   = 5

	// HabitLeast is the smallest number of cards of one sheet with the same slip that counts as a habit.
	HabitLeast = 3
)

// Notices tells what is worth a word, up to most: what many do first, then what is done most often.
func Notices(made []Made, answered []Answered, lost []Lost, most int) []Notice {
	often := again(made)
	out := slices.Concat(many(made, answered), often, habits(made, often), form(lost))
	slices.SortStableFunc(out, func(a, b Notice) int {
		if (a.Kind == Many) != (b.Kind == Many) {
			return cmp.Compare(a.Kind, b.Kind)
		}
		return cmp.Or(cmp.Compare(len(b.Students), len(a.Students)), cmp.Compare(b.Times, a.Times))
	})
	seen := map[exercise.Code]bool{}
	out = slices.DeleteFunc(out, func(n Notice) bool { // the same slip on another sheet is no other news
		twice := n.Kind == Many && seen[n.Slip]
		seen[n.Slip] = seen[n.Slip] || n.Kind == Many
		return twice
	})
	return out[:min(most, len(out))]
}

func many(made []Made, answered []Answered) (out []Notice) {
	type key struct {
		sheet int64
		slip  exercise.Code
	}
	of := map[int64]int{}
	for _, a := range answered {
		of[a.Sheet] = a.Students
	}
	by := map[key]*Notice{}
	var order []key
	for _, m := range made {
		k := key{m.Sheet, m.Slip}
		if by[k] == nil {
			by[k] = &Notice{Kind: Many, Slip: m.Slip, Sheet: m.Sheet, Of: of[m.Sheet]}
			order = append(order, k)
		}
		by[k].Students, by[k].Times = append(by[k].Students, m.Student), by[k].Times+m.Cards
	}
	for _, k := range order {
		if n := by[k]; len(n.Students) >= manyLeast && manyShare*len(n.Students) >= n.Of {
			out = append(out, *n)
		}
	}
	return out
}

func again(made []Made) (out []Notice) {
	type key struct {
		student int64
		slip    exercise.Code
	}
	by := map[key]*Notice{}
	var order []key
	for _, m := range made {
		k := key{m.Student, m.Slip}
		if by[k] == nil {
			by[k] = &Notice{Kind: Again, Slip: m.Slip, Students: []int64{m.Student}}
			order = append(order, k)
		}
		by[k].Times, by[k].Of = by[k].Times+m.Cards, by[k].Of+1
	}
	for _, k := range order {
		if n := by[k]; n.Times >= againTimes && n.Of >= againSheets {
			out = append(out, *n)
		}
	}
	return out
}

// habits tells of slips that a student made on half of the cards of one sheet that could show them, but for those that
// are told of already since they came again on another sheet. Of several sheets the first that is listed counts.
func habits(made []Made, told []Notice) (out []Notice) {
	for _, m := range made {
		same := func(n Notice) bool { return n.Slip == m.Slip && n.Students[0] == m.Student }
		if m.Cards < HabitLeast || m.Could == 0 || 2*m.Cards < m.Could || slices.ContainsFunc(told, same) ||
			slices.ContainsFunc(out, same) {
			continue
		}
		out = append(out, Notice{Kind: Habit, Slip: m.Slip, Sheet: m.Sheet, Students: []int64{m.Student},
			Times: m.Cards, Of: m.Could})
	}
	return out
}

func form(lost []Lost) (out []Notice) {
	for _, l := range lost {
		if l.Times >= formTimes {
			out = append(out, Notice{Kind: Form, Students: []int64{l.Student}, Times: l.Times})
		}
	}
	return out
}
