package class

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"strings"

	"cavix/core/exercise"
	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/transfer"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// writtenTable sends a table of all boxes of all versions, with what is typed already, to be filled in elsewhere.
func (o Handler) writtenTable(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	me := ui.UserOf(r).ID
	list, err := o.School.Ledgers.Papers(r.Context(), me, g.ID)
	if err != nil {
		return err
	}
	var rows []transfer.WrittenRow
	for _, head := range list {
		if len(head.Has) == 0 {
			continue
		}
		p, err := o.School.Ledgers.Paper(r.Context(), me, g.ID, head.Version)
		if err != nil {
			return err
		}
		for _, h := range p.Has {
			typed, err := o.School.Ledgers.EnteredAnswers(r.Context(), me, g.ID, h.ID, p.Version)
			if err != nil {
				return err
			}
			for i, it := range p.Items {
				for _, f := range it.Fields() {
					given := typed[i+1][f.Name]
					if shown, ok := paper.Shown(it, f, given); ok && f.Input == exercise.Position {
						given = shown
					}
					rows = append(rows, transfer.WrittenRow{Version: p.Version, Student: h.Name, Card: i + 1,
						Field: f.Name, Given: given})
				}
			}
		}
		if len(rows) > transfer.MostWritten {
			return ui.Unread(fmt.Errorf("this table would have more than %d rows", transfer.MostWritten))
		}
	}
	f := ui.FormatOf(r)
	ui.Download(w, g.Title+" paper."+string(f), f.Type())
	return transfer.WriteWritten(f, w, rows)
}

// writtenView shows what importing a table of boxes would do.
type writtenView struct {
	sitting.Given
	Rows   []writtenRow
	More   int // rows that are not shown
	Counts map[roster.Difference]int
	Bad    int
	// Rounded are the entries that a spreadsheet held as numbers: noughts at their end are lost.
	Rounded int
	Table   string
	People  int
}

type writtenRow struct {
	transfer.WrittenRow
	What roster.Difference
}

// rowsShown is the number of rows of a table in its preview, those at fault first.
const rowsShown = 200

// incoming is a table of boxes while it is read: whose each row is, and what it would change.
type incoming struct {
	o      Handler
	r      *http.Request
	g      sitting.Given
	byName map[string]int64
	papers map[int]ledgers.Paper // by version; the zero value where there is none
	place  map[holder]int        // in all
	kept   map[holder]map[int]exercise.Answer
	all    []ledgers.EnteredPaper
}

// holder is somebody who has a version.
type holder struct {
	student int64
	version int
}

// written reads a table of boxes: what each row would do, and what is to be kept when it does.
func (h Handler) written(r *http.Request, g sitting.Given, data []byte) ([]writtenRow, []ledgers.EnteredPaper, error) {
	rows, err := transfer.ReadWritten(data)
	if err != nil {
		return nil, nil, err
	}
	if len(rows) == 0 {
		return nil, nil, errors.New("has no box that is filled in")
	}
	people, err := h.School.Roster.Students(r.Context(), ui.UserOf(r).ID, g.Class)
	if err != nil {
		return nil, nil, err
	}
	in := incoming{o: h, r: r, g: g, byName: make(map[string]int64, len(people)), papers: map[int]ledgers.Paper{},
		place: map[holder]int{}, kept: map[holder]map[int]exercise.Answer{}}
	for _, st := range people {
		in.byName[names.Fold(st.Name)] = st.ID
	}
	if rows, err = transfer.Apart(rows, func(version int) ([]exercise.Item, error) {
		p, err := in.paper(version)
		return p.Items, err
	}); err != nil {
		return nil, nil, err
	}
	out := make([]writtenRow, len(rows))
	for i, row := range rows {
		out[i] = writtenRow{WrittenRow: row, What: roster.Refused}
		if err := in.row(&out[i]); err != nil {
			return nil, nil, err
		}
	}
	return out, in.all, nil
}

// row takes one row in, or says what is wrong with it.
func (in *incoming) row(row *writtenRow) error {
	p, err := in.paper(row.Version)
	if err != nil {
		return err
	}
	who := in.whose(&row.WrittenRow, p)
	given := onPaper(&row.WrittenRow, p.Items)
	if !row.Bad.IsZero() {
		return nil
	}
	n, err := in.answers(holder{who, row.Version})
	if err != nil {
		return err
	}
	answers := in.all[n].Answers
	if answers[row.Card] == nil {
		answers[row.Card] = exercise.Answer{}
	}
	switch was, is := in.kept[holder{who, row.Version}][row.Card][row.Field]; {
	case !is:
		row.What = roster.Added
	case was == given:
		row.What = roster.Same
	default:
		row.What = roster.Changed
	}
	answers[row.Card][row.Field] = given
	return nil
}

// paper finds a version; the zero value where it was not printed.
func (in *incoming) paper(version int) (ledgers.Paper, error) {
	if p, known := in.papers[version]; known || version == 0 {
		return p, nil
	}
	p, err := in.o.School.Ledgers.Paper(in.r.Context(), ui.UserOf(in.r).ID, in.g.ID, version)
	if err != nil && !errors.Is(err, school.ErrNotFound) {
		return p, err
	}
	in.papers[version] = p
	return p, nil
}

// whose says which student a row is of, or what is wrong with that.
func (in *incoming) whose(w *transfer.WrittenRow, p ledgers.Paper) int64 {
	student := in.byName[names.Fold(w.Student)]
	switch {
	case !w.Bad.IsZero():
	case p.Version == 0:
		w.Bad = text.New("class.written.whose", "version", w.Version)
	case w.Student == "" && len(p.Has) == 1:
		student, w.Student = p.Has[0].ID, p.Has[0].Name
	case w.Student == "":
		w.Bad = text.New("class.written.students-version-say-whose", "has", len(p.Has), "version", w.Version)
	case student == 0:
		w.Bad = text.New("class.written.nobody-name-class")
	}
	return student
}

// answers finds the place of what is to be kept of a student, which begins with what stands: a box that is not in the
// table stays as it is.
func (in *incoming) answers(h holder) (int, error) {
	if n, there := in.place[h]; there {
		return n, nil
	}
	kept, err := in.o.School.Ledgers.EnteredAnswers(in.r.Context(), ui.UserOf(in.r).ID, in.g.ID, h.student, h.version)
	if err != nil {
		return 0, err
	}
	answers := make(map[int]exercise.Answer, len(kept))
	for card, a := range kept {
		answers[card] = maps.Clone(a)
	}
	in.kept[h], in.place[h] = kept, len(in.all)
	in.all = append(in.all, ledgers.EnteredPaper{Student: h.student, Version: h.version, Answers: answers})
	return in.place[h], nil
}

// onPaper is the entry that a row stands for; what is wrong with the row it says there. A reading that was drawn
// becomes the movement that leads there.
func onPaper(w *transfer.WrittenRow, items []exercise.Item) string {
	if w.Bad.IsZero() && w.Card <= len(items) {
		for _, f := range items[w.Card-1].Fields() {
			if f.Name != w.Field || f.Input != exercise.Position {
				continue
			}
			moved, err := movedTo(items[w.Card-1], f, w.Given)
			if err != nil {
				w.Bad = text.Says(err)
			}
			return moved
		}
	}
	w.Check(items)
	return w.Given
}

// previewWritten shows what bringing a table of boxes in would do.
func (h Handler) previewWritten(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	data, err := ui.Upload(r, "file", "table")
	if err != nil {
		return err
	}
	rows, all, err := h.written(r, g, data)
	if err != nil {
		return h.showPapers(w, r, papersView{Pasted: ui.Clip(string(data), 100_000),
			Errors: map[string]text.Text{"table": text.New("class.written.preview-written.errors", "err",
				err.Error())}})
	}
	v := writtenView{Given: g, Counts: map[roster.Difference]int{}, People: len(all)}
	list := make([]transfer.WrittenRow, len(rows))
	for i, row := range rows {
		if row.Rounded {
			v.Rounded++
		}
		list[i] = row.WrittenRow
		v.Counts[row.What]++
		if !row.Bad.IsZero() {
			v.Bad++
		}
	}
	for _, row := range rows {
		if v.Bad > 0 && row.Bad.IsZero() {
			continue
		}
		if len(v.Rows) == rowsShown {
			v.More++
			continue
		}
		v.Rows = append(v.Rows, row)
	}
	var b strings.Builder
	if err := transfer.WriteWritten(transfer.CSV, &b, list); err != nil {
		return err
	}
	if v.Table = b.String(); !ui.GoesOn(v.Table) {
		return h.showPapers(w, r, papersView{
			Errors: map[string]text.Text{"table": text.New("class.written.preview-written.table-too-long-import")}})
	}
	return h.Render(w, r, http.StatusOK, "written", text.New("class.written.preview-written", "title", g.Title), v)
}

// bringWritten keeps a table of boxes that was looked at, whole or not at all.
func (h Handler) bringWritten(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	rows, all, err := h.written(r, g, []byte(r.PostFormValue("table")))
	if err != nil {
		return ui.Unread(err)
	}
	for _, row := range rows {
		if !row.Bad.IsZero() {
			return ui.Unread(fmt.Errorf("row %d: %s", row.Line, row.Bad))
		}
	}
	if err := h.School.Ledgers.EnterAnswers(r.Context(), ui.ActorOf(r), g.ID, all); err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d/paper", g.ID), text.New("class.papers.table-marked-kept-as"), nil)
}
