package class

import (
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"cavix/core/names"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/transfer"
	"cavix/web/ui"
)

// peopleView is the people of a class.
type peopleView struct {
	roster.Class
	ui.Turn
	In           int  // students in the class
	Long         bool // more than a page shows
	People, Gone []personView
	Waiting      []personView // have asked to join
	Groups       []string
	Twice        [][2]personView // records that may be of one student
	Staff        []roster.Colleague
	Roles        []access.Role // to choose from for a colleague
	Log          []access.Change
	Login        string // of who is to teach along, as typed
	Pasted       string // a list that cannot be read
	Errors       map[string]text.Text
}

// personView is a student in the list.
type personView struct {
	roster.Student
	Href  string
	Cards int
	Last  ui.Stamp
	New   bool // has not joined yet
}

// logSeen is the number of entries of a class's log that are shown.
const logSeen = 20

func (h Handler) people(w http.ResponseWriter, r *http.Request) error {
	v := peopleView{}
	return h.showPeople(w, r, v)
}

func (h Handler) showPeople(w http.ResponseWriter, r *http.Request, v peopleView) error {
	var err error
	v.Class = ui.ClassOf(r)
	all, err := h.School.Roster.AllStudents(r.Context(), ui.UserOf(r).ID, v.ID)
	if err != nil {
		return err
	}
	ui.ArrangeStudents(r, all)
	seats, err := h.School.Roster.Seats(r.Context(), ui.UserOf(r).ID, v.ID)
	if err != nil {
		return err
	}
	did := make(map[int64]roster.Seat, len(seats))
	for _, s := range seats {
		did[s.Student] = s
	}
	for _, s := range all {
		p := personView{Student: s, Href: fmt.Sprintf("/classes/%d/people/%d", v.ID, s.ID), Cards: did[s.ID].Cards,
			New: s.Hash == ""}
		if at := did[s.ID].Last; !at.IsZero() {
			p.Last = ui.Moment(at.In(roster.Clock(v.Zone)))
		}
		switch {
		case s.Waits:
			v.Waiting = append(v.Waiting, p)
		case s.Left.IsZero():
			v.People = append(v.People, p)
		default:
			v.Gone = append(v.Gone, p)
		}
	}
	v.Twice = twice(append(slices.Clone(v.People), v.Waiting...))
	v.In, v.Long = len(v.People), len(v.People) > peoplePage
	v.People, v.Turn = partOf(r, v.ID, v.People)
	v.Gone = v.Gone[:min(len(v.Gone), peoplePage)]
	v.Groups = groupsOf(all)
	v.Roles = access.Colleague
	if v.Staff, err = h.School.Roster.Staff(r.Context(), ui.UserOf(r).ID, v.ID); err != nil {
		return err
	}
	if v.Log, err = h.School.Access.PeopleLog(r.Context(), ui.UserOf(r).ID, v.ID, logSeen); err != nil {
		return err
	}
	return h.Render(w, r, ui.Status(v.Errors), "people", text.Row(text.Typed(v.Name), text.New("title.people")), v)
}

// mostTwice is the largest number of pairs of records that are pointed out.
const mostTwice = 5

// twice finds records that may be of one student, by their names.
func twice(all []personView) (out [][2]personView) {
	list := make([]string, len(all))
	for i, p := range all {
		list[i] = p.Name
	}
	for _, pair := range names.Doubles(list, mostTwice) {
		out = append(out, [2]personView{all[pair[0]], all[pair[1]]})
	}
	return out
}

// peoplePage is the number of people on a page.
const peoplePage = 60

// partOf is the part of the people of a class that the address asks for: whose name holds a text, some of them.
func partOf(r *http.Request, class int64, all []personView) ([]personView, ui.Turn) {
	skip, holds := ui.Skipped(r), ui.Sought(r)
	if holds != "" {
		all = slices.DeleteFunc(all,
			func(p personView) bool { return !strings.Contains(names.Fold(p.Name), names.Fold(holds)) })
	}
	turn := ui.TurnOf(fmt.Sprintf("/classes/%d/people", class), url.Values{"q": {holds}}, skip, peoplePage,
		len(all) > skip+peoplePage)
	return all[min(skip, len(all)):min(skip+peoplePage, len(all))], turn
}

// groupsOf lists the groups of a class, each once, in the order of names.
func groupsOf(list []roster.Student) []string {
	known := map[string]bool{}
	for _, s := range list {
		if s.Team != "" && s.Left.IsZero() {
			known[s.Team] = true
		}
	}
	return slices.Sorted(maps.Keys(known))
}

// bringView is a list of people about to be imported into a class, row by row.
type bringView struct {
	roster.Class
	Rows    []bringRow
	List    string // as it goes on to be imported
	Columns []columnView
	Headed  bool // the first row holds the heads of the columns
	Counts  map[roster.Difference]int
	Bad     int
	Closes  bool // others will wait to be let in from then on
}

// columnView is a column of the list, with what it can be.
type columnView struct {
	Head    string // as it is typed; "" where the list has none
	Nth     int    // from 1
	Sample  []string
	Options []ui.OptionView
	As      transfer.Column
}

// bringRow is somebody on the list.
type bringRow struct {
	transfer.Person
	What roster.Difference
	Near string // somebody in the class whose name is near to it, where it is new
}

// listForm says which list is meant and what its columns are.
type listForm struct {
	List    string   `form:"list"`
	Columns []string `form:"column"`
	Headed  string   `form:"headed"` // "yes" or "no"; "" where that was not asked yet
}

// table reads a list and what its columns are: as the form says, as it was told for the class before, or by their
// heads.
func (h Handler) table(r *http.Request, class int64, data []byte, f listForm) (t transfer.PeopleTable,
	columns []transfer.Column, err error) {
	if t, err = transfer.ReadPeopleTable(data); err != nil {
		return t, nil, err
	}
	if f.Headed != "" {
		t = t.Headed(f.Headed == "yes")
	}
	if len(f.Columns) > 0 {
		for _, c := range f.Columns[:min(len(f.Columns), t.Width())] {
			columns = append(columns, transfer.Column(c))
		}
		return t, columns, nil
	}
	told, err := h.School.Roster.ListColumns(r.Context(), ui.UserOf(r).ID, class)
	return t, t.Guess(told), err
}

// previewPeople reads a list and shows, row by row, what importing it would do.
func (h Handler) previewPeople(w http.ResponseWriter, r *http.Request, f listForm) error {
	c := ui.ClassOf(r)
	data, err := ui.Upload(r, "file", "list")
	if err != nil {
		return err
	}
	t, columns, err := h.table(r, c.ID, data, f)
	if err == nil && t.Width() == 0 {
		err = errors.New("names nobody; write one name a line, or choose a CSV or XLSX file")
	}
	if err != nil {
		pasted := ui.Clip(r.PostFormValue("list"), 100_000)
		return h.showPeople(w, r, peopleView{Pasted: pasted,
			Errors: map[string]text.Text{"list": text.New("class.people.preview-people.errors", "err", err.Error())}})
	}
	return h.showBring(w, r, c, t, columns)
}

// showBring shows a list of people row by row. It is at fault where a row cannot be imported.
func (h Handler) showBring(w http.ResponseWriter, r *http.Request, c roster.Class, t transfer.PeopleTable,
	columns []transfer.Column) error {
	v := bringView{Class: c, Counts: map[roster.Difference]int{}, List: t.CSV(), Headed: t.Head != nil}
	list := t.People(columns)
	what, err := h.School.Roster.PreviewImport(r.Context(), ui.UserOf(r).ID, c.ID, ui.ImportOf(list))
	if err != nil {
		return err
	}
	there, err := h.School.Roster.AllStudents(r.Context(), ui.UserOf(r).ID, c.ID)
	if err != nil {
		return err
	}
	for i, p := range list {
		row := bringRow{Person: p, What: what[i].Difference}
		if at := slices.IndexFunc(there, func(s roster.Student) bool { return names.Near(s.Name, p.Name) }); at >= 0 &&
			row.What == roster.Added {
			row.Near = there[at].Name
		}
		if row.What == roster.Refused && p.Bad.IsZero() {
			row.Bad = text.New("class.people.show-bring", "like", what[i].Like)
		}
		if !row.Bad.IsZero() {
			v.Bad++
			row.What = roster.Refused
		}
		v.Counts[row.What]++
		v.Rows = append(v.Rows, row)
	}
	for i := range t.Width() {
		col := columnView{Nth: i + 1, Sample: t.Sample(i),
			Options: []ui.OptionView{{Value: "", Text: text.New("word.ignored")}}}
		if i < len(columns) {
			col.As = columns[i]
		}
		if i < len(t.Head) {
			col.Head = t.Head[i]
		}
		for _, k := range transfer.Columns {
			col.Options = append(col.Options, ui.OptionView{Value: string(k.Column), Text: k.Title,
				On: k.Column == col.As})
		}
		v.Columns = append(v.Columns, col)
	}
	v.Closes = c.Joining == roster.JoinOpen && v.Counts[roster.Added] > 0
	return h.Render(w, r, http.StatusOK, "bring", text.Row(text.Typed(v.Name), text.New("title.people")), v)
}

// bring imports a list that was previewed, whole or not at all.
func (h Handler) bring(w http.ResponseWriter, r *http.Request, f listForm) error {
	c := ui.ClassOf(r)
	t, columns, err := h.table(r, c.ID, []byte(f.List), f)
	if err != nil {
		return ui.Unread(err)
	}
	list := t.People(columns)
	for _, p := range list {
		if !p.Bad.IsZero() {
			return ui.Unread(&text.Problem{Text: p.Bad})
		}
	}
	_, err = h.School.Roster.ImportPeople(r.Context(), ui.ActorOf(r), c.ID, ui.ImportOf(list), t.Told(columns))
	var refused refusal.Refusal
	if errors.As(err, &refused) { // somebody has joined since the preview
		return h.showBring(w, r, c, t, columns)
	}
	if err != nil {
		return err
	}
	return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.people-notes"), nil)
}

// peopleTable sends the people of a class as a list that can be brought in again.
func (h Handler) peopleTable(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	all, err := h.School.Roster.Students(r.Context(), ui.UserOf(r).ID, c.ID)
	if err != nil {
		return err
	}
	f := ui.FormatOf(r)
	ui.Download(w, c.Name+" people."+string(f), f.Type())
	return transfer.WritePeople(f, w, ui.PeopleOf(all))
}

// slipsView are joining slips, to be printed and cut apart.
type slipsView struct {
	roster.Class
	Address  string
	OnlyHere bool
	QR       template.HTML // of the address, with the code
	People   []roster.Student
}

func (h Handler) joiningSlips(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	var err error
	v := slipsView{Class: c, Address: h.Address(r, "/join"), OnlyHere: h.OnlyHere(r)}
	if v.People, err = h.School.Roster.Students(r.Context(), ui.UserOf(r).ID, c.ID); err != nil {
		return err
	}
	if v.QR, err = ui.QR(ui.Said(r), v.Address+"?code="+c.Code); err != nil {
		return err
	}
	ui.SpeakToClass(r, ui.WordsOf(r))
	return h.Render(w, r, http.StatusOK, "joiningslips", text.New("class.people.joining-slips", "name", c.Name), v)
}

// setStaffForm is the form of setStaff.
type setStaffForm struct {
	Login string      `form:"login"`
	Role  access.Role `form:"role"`
}

// setStaff has another instructor teach a class, or no longer.
func (h Handler) setStaff(w http.ResponseWriter, r *http.Request, f setStaffForm) error {
	c := ui.ClassOf(r)
	err := h.School.Roster.SetRole(r.Context(), ui.ActorOf(r), c.ID, ui.Clip(f.Login, 60), f.Role)
	switch {
	case errors.Is(err, school.ErrNotFound):
		return h.showPeople(w, r, peopleView{Login: ui.Clip(f.Login, 60), Errors: map[string]text.Text{
			"login": text.New("class.people.set-staff.errors")}})
	case errors.Is(err, roster.ErrOwner):
		return h.showPeople(w, r, peopleView{Login: ui.Clip(f.Login, 60), Errors: map[string]text.Text{
			"login": text.New("class.people.set-staff.choose-what-they-may")}})
	case err != nil:
		return err
	}
	return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.kept-holds-once"), nil)
}

// archive puts a class away, or brings it back.
func (h Handler) archive(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	if err := h.School.Roster.Archive(r.Context(), ui.ActorOf(r), c.ID, !c.Runs()); err != nil {
		return err
	}
	if c.Runs() {
		return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.class-archived-nobody-can"), nil)
	}
	return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.class-back"), nil)
}
