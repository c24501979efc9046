package class

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/merging"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/school/studies"
	"cavix/transfer"
	"cavix/web/ui"
)

// onePerson is a student of a class: the way so far, the sheets, and what can be done.
type onePerson struct {
	roster.Class
	ui.ProgressView
	Student roster.Student
	Name    string // as typed
	Team    string
	Extra   string
	Number  string           // the school's own, as typed
	Twins   []roster.Student // others of the class, those with a near name first
	Merged  []merging.Merge  // records that were merged with this one
	Groups  []string
	Sheets  []personSheet
	Others  []roster.Class // to which the student can be moved
	Errors  map[string]text.Text
}

// personSheet shows a student's result on a sheet.
type personSheet struct {
	Title, Href string
	Done, Cards int
	Marks       text.Math
	Of          text.Math // "" where the sheet was not begun
	Excused     string
	Late        bool
	Open        bool // more cards may still be answered
}

// longNumber is the largest number of characters in a student's number or e-mail address.
const longNumber = 80

// pupil finds the student that the address names.
func (h Handler) pupil(r *http.Request) (c roster.Class, st roster.Student, err error) {
	c = ui.ClassOf(r)
	n, err := ui.ID(r, "student")
	if err != nil {
		return c, st, err
	}
	st, err = h.School.Roster.ClassStudent(r.Context(), ui.UserOf(r).ID, c.ID, n)
	return c, st, err
}

func (h Handler) person(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.pupil(r)
	if err != nil {
		return err
	}
	v := onePerson{Class: c, Student: st, Name: st.Name, Team: st.Team, Extra: fmt.Sprint(st.Extra), Number: st.Number}
	return h.showPerson(w, r, v)
}

func (h Handler) showPerson(w http.ResponseWriter, r *http.Request, v onePerson) error {
	who := ui.UserOf(r).ID
	progress, err := h.School.Ledgers.StudentProgress(r.Context(), who, v.Student.ID, ui.Ahead(v.Zone), ui.WeeksSeen)
	if err != nil {
		return err
	}
	v.ProgressView = ui.NewProgress(ui.Said(r), progress)
	if v.Sheets, err = h.sheetsOf(r, v.Class, v.Student.ID); err != nil {
		return err
	}
	all, err := h.School.Roster.Students(r.Context(), who, v.ID)
	if err != nil {
		return err
	}
	v.Groups = groupsOf(all)
	for _, s := range all {
		if s.ID != v.Student.ID {
			v.Twins = append(v.Twins, s)
		}
	}
	slices.SortStableFunc(v.Twins, func(a, b roster.Student) int {
		near := func(s roster.Student) int {
			if names.Near(s.Name, v.Student.Name) {
				return 0
			}
			return 1
		}
		return near(a) - near(b)
	})
	if v.Merged, err = h.School.Merging.Merges(r.Context(), who, v.ID, v.Student.ID); err != nil {
		return err
	}
	classes, err := h.School.Roster.Classes(r.Context(), who)
	if err != nil {
		return err
	}
	for _, c := range classes {
		if c.ID != v.ID && c.Runs() && access.MoveStudent.Allows(c.Role) {
			v.Others = append(v.Others, c)
		}
	}
	return h.Render(w, r, ui.Status(v.Errors), "person", text.Typed(v.Student.Name), v)
}

// doWithPersonForm is the form of doWithPerson.
type doWithPersonForm struct {
	Do    string `form:"do"`
	Name  string `form:"name"`
	Team  string `form:"team"`
	Extra string `form:"extra"`
	To    int64  `form:"to"`
	Other int64  `form:"other"`

	Number string `form:"number"`
}

// doWithPerson changes something about a student.
func (h Handler) doWithPerson(w http.ResponseWriter, r *http.Request, f doWithPersonForm) error {
	c, st, err := h.pupil(r)
	if err != nil {
		return err
	}
	ctx, by := r.Context(), ui.ActorOf(r)
	here := fmt.Sprintf("/classes/%d/people/%d", c.ID, st.ID)
	switch f.Do {
	case "keep":
		return h.keepPerson(w, r, c, st, f.Name, f.Team, f.Extra, f.Number)
	case "merge":
		return h.Redirect(w, r, here, text.New("class.person.two-records-one-can"),
			h.School.Merging.Merge(ctx, by, c.ID, st.ID, f.Other))
	case "part":
		return h.Redirect(w, r, here, text.New("class.person.two-records-apart-again"),
			h.School.Merging.Unmerge(ctx, by, c.ID, st.ID, f.Other))
	case "clear":
		return h.Redirect(w, r, here, text.New("class.person.old-passphrase-no-longer"),
			h.School.Roster.ClearPassphrase(ctx, by, c.ID, st.ID))
	case "leave", "back":
		note := text.New("class.person.student-signs-no-longer")
		if f.Do == "back" {
			note = text.New("class.person.student-back-class")
		}
		return h.Redirect(w, r, here, note, h.School.Roster.SetLeft(ctx, by, c.ID, st.ID, f.Do == "back"))
	case "move":
		err := h.School.Roster.Move(ctx, by, c.ID, st.ID, f.To)
		if errors.Is(err, roster.ErrNameTaken) {
			v := onePerson{Class: c, Student: st, Name: st.Name, Team: st.Team, Extra: fmt.Sprint(st.Extra)}
			v.Errors = map[string]text.Text{"to": text.New("class.person.do-with-person")}
			return h.showPerson(w, r, v)
		}
		return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.student-other-class-now"), err)
	case "drop":
		return h.Redirect(w, r, "/bin", text.New("author.bin.bin-notes"), h.School.Roster.DropStudent(ctx, by, c.ID,
			st.ID))
	}
	return school.ErrNotFound
}

func (h Handler) keepPerson(w http.ResponseWriter, r *http.Request, c roster.Class, st roster.Student, name, team,
	extra, number string) error {
	v := onePerson{Class: c, Student: st, Name: ui.OneLine(name), Team: ui.OneLine(team),
		Extra: strings.TrimSpace(extra), Number: ui.OneLine(number)}
	var bad ui.Faults
	bad.Name("name", v.Name)
	if v.Team != "" {
		bad.Name("team", v.Team)
	}
	st.Extra = bad.Whole("extra", extra)
	if st.Extra < 0 || st.Extra > maxExtra {
		bad.Add("extra", "class.person.keep-person", "max_extra", maxExtra)
	}
	if len([]rune(v.Number)) > longNumber {
		bad.Add("number", "class.person.use-characters-most", "long_number", longNumber)
	}
	if len(bad.Refusal) == 0 {
		st.Name, st.Team, st.Number = v.Name, v.Team, v.Number
		err := h.School.Roster.ChangeStudent(r.Context(), ui.ActorOf(r), st)
		if !errors.Is(err, roster.ErrNameTaken) {
			return h.Redirect(w, r, fmt.Sprintf("/classes/%d/people/%d", c.ID, st.ID),
				text.New("class.person.person-notes"), err)
		}
		bad.Add("name", "class.person.somebody-class-name-already")
	}
	v.Errors = bad.By()
	return h.showPerson(w, r, v)
}

// personData sends all that is kept of a student, and says so in the log.
func (h Handler) personData(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.pupil(r)
	if err != nil {
		return err
	}
	if err := h.School.Roster.NoteExport(r.Context(), ui.ActorOf(r), c.ID, st.ID); err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	replies, err := h.School.Rounds.RepliesOf(r.Context(), me, c.ID, st.ID)
	if err != nil {
		return err
	}
	observed, err := h.School.Studies.SurveyReadings(r.Context(), me, c.ID, st.ID)
	if err != nil {
		return err
	}
	return ui.Spooled(w, st.Name+" data.zip", "application/zip", func(to io.Writer) error {
		out := transfer.NewBundle(to)
		person := map[string]any{"name": st.Name, "class": c.Name, "group": st.Team, "extra_minutes": st.Extra,
			"left": !st.Left.IsZero(), "number": st.Number}
		if err := out.JSON("person.json", person); err != nil {
			return err
		}
		answers, err := out.File("answers.csv")
		if err != nil {
			return err
		}
		if err := ui.WriteAnswers(answers, transfer.CSV, func(each func(ledgers.Answered) error) error {
			return h.School.Ledgers.StudentAnswers(r.Context(), me, c.ID, st.ID, each)
		}); err != nil {
			return err
		}
		if err := writeReplies(out, replies); err != nil {
			return err
		}
		if err := writeObserved(out, observed); err != nil {
			return err
		}
		return out.Close()
	})
}

// writeObserved adds what a student read in surveys, and said of their parts.
func writeObserved(out *transfer.Bundle, list []studies.SurveyReading) error {
	w, err := out.File("readings.csv")
	if err != nil {
		return err
	}
	t, err := transfer.NewTable(transfer.CSV, w, "Readings", "survey", "reading", "given", "value", "right", "slip",
		"read_at")
	if err != nil {
		return err
	}
	for _, g := range list {
		if err := t.Row(g.Title, g.Cell+1, g.Given, g.Value, g.Right, g.Slip, g.At); err != nil {
			return err
		}
	}
	return t.Close()
}

// writeReplies adds what a student answered to questions that the whole class was asked.
func writeReplies(out *transfer.Bundle, list []rounds.Replied) error {
	w, err := out.File("questions.csv")
	if err != nil {
		return err
	}
	t, err := transfer.NewTable(transfer.CSV, w, "Questions", "answered_at", "answer", "marks", "of", "slip", "item")
	if err != nil {
		return err
	}
	for _, p := range list {
		if err := t.Row(p.Answered.Format(time.RFC3339), p.Answer, ui.Halves(p.Half), ui.Halves(p.Of), p.Slip,
			p.Item); err != nil {
			return err
		}
	}
	return t.Close()
}
