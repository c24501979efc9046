package class

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/ledger"
	"cavix/core/length"
	"cavix/core/names"
	"cavix/core/words"
	"cavix/store"
	"cavix/transfer"
	"cavix/web/ui"
)

// classLedger is the ledger of a class: students by sheets.
type classLedger struct {
	store.Class
	Rule    string
	Columns []termColumn
	Unread  []string   // titles of sheets that no total has
	Heads   []headView // name, group, total
	Rows    []termRow
	All     int // students, before filters
	Groups  []ui.OptionView
	States  []ui.OptionView
	Search  string
	Sort    string // as the address has it
	PerCent bool
	InClass bool
	Query   string // of this view, for the other one and for the export
	Switch  string // the same, in the other unit
	Note    string
	Errors  map[string]string
}

// termColumn is a sheet as the head of a column.
type termColumn struct {
	headView
	ID       int64
	Given    string
	Weight   string // as typed where it could not be kept
	Of       string // most marks that anybody could have
	Field    string
	Error    string
	Excuseds int
}

// headView is the head of a column that sorts by it.
type headView struct {
	Text, Href string
	Sorted     string // "ascending", "descending" or ""
}

// termRow is a student. The cells are written as one piece: there are thousands of them.
type termRow struct {
	Name, Href, Team string
	Tag              string
	Cells            template.HTML
	Total            string
	SoFar            string // how many cards of open sheets the total has
	InClass          string
	Next             string // what to practise next
}

// termAsked is how a ledger is asked for.
type termAsked struct {
	sort    string // "name", "group", "total" or a sheet's id; with "-" before it, the other way round
	group   string
	state   string
	search  string
	percent bool
	inClass bool
}

func termOf(q url.Values) termAsked {
	return termAsked{sort: q.Get("sort"), group: ui.Clip(q.Get("group"), 60), state: q.Get("state"), search: ui.Clip(ui.OneLine(q.Get("q")), 60),
		percent: q.Get("in") == "percent", inClass: q.Get("with") == "class"}
}

// query writes it as an address has it.
func (a termAsked) query() url.Values {
	q := url.Values{}
	for name, v := range map[string]string{"sort": a.sort, "group": a.group, "state": a.state, "q": a.search} {
		if v != "" {
			q.Set(name, v)
		}
	}
	if a.percent {
		q.Set("in", "percent")
	}
	if a.inClass {
		q.Set("with", "class")
	}
	return q
}

// states are what students can be filtered by.
var states = []struct{ value, text string }{
	{"", "everybody"},
	{"missing", "with a sheet missing"},
	{"late", "with late work"},
	{"excused", "excused from a sheet"},
	{"left", "who have left or moved"},
}

// keeps reports whether a row stays in sight.
func (a termAsked) keeps(r classroom.LedgerRow) bool {
	has := func(what func(classroom.LedgerCell) bool) bool { return slices.ContainsFunc(r.Cells, what) }
	gone := !r.Student.Gone.IsZero() || r.Moved
	switch a.state {
	case "missing":
		if gone || !has(func(c classroom.LedgerCell) bool { return c.Missing }) {
			return false
		}
	case "late":
		if !has(func(c classroom.LedgerCell) bool { return c.Late }) {
			return false
		}
	case "excused":
		if !has(func(c classroom.LedgerCell) bool { return c.Excused }) {
			return false
		}
	default:
		if gone != (a.state == "left") {
			return false
		}
	}
	return (a.group == "" || r.Student.Team == a.group) &&
		strings.Contains(strings.ToLower(r.Student.Name), strings.ToLower(a.search))
}

// sorted brings rows in order.
func (a termAsked) sorted(rows []classroom.LedgerRow, sheets []classroom.Given) {
	by, down := strings.CutPrefix(a.sort, "-")
	id, _ := strconv.ParseInt(by, 10, 64)
	at := slices.IndexFunc(sheets, func(g classroom.Given) bool { return g.ID == id })
	share := func(r classroom.LedgerRow) length.Number { // what is not there yet stands below everything
		c := r.Cells[max(at, 0)]
		if share, ok := c.Share(); ok {
			return share
		}
		return length.Int(-1)
	}
	total := func(r classroom.LedgerRow) length.Number {
		if !r.Total.Counts {
			return length.Int(-1)
		}
		return r.Total.Share
	}
	slices.SortStableFunc(rows, func(x, y classroom.LedgerRow) int {
		order := 0
		switch {
		case by == "group":
			order = cmp.Compare(x.Student.Team, y.Student.Team)
		case by == "total":
			order = total(x).Cmp(total(y))
		case at >= 0:
			order = share(x).Cmp(share(y))
		case by == "name":
			order = names.Compare(x.Student.Name, y.Student.Name)
		}
		if down {
			order = -order
		}
		return order
	})
}

// term shows the ledger of a class.
func (o Office) term(w http.ResponseWriter, r *http.Request) error {
	v := classLedger{}
	if r.URL.Query().Has("weighed") {
		v.Note = "The weights are kept; totals follow them."
	}
	return o.showTerm(w, r, v)
}

func (o Office) showTerm(w http.ResponseWriter, r *http.Request, v classLedger) error {
	var err error
	if v.Class, err = o.ofClass(r); err != nil {
		return err
	}
	if err := o.Room.CloseBeside(r.Context(), time.Now()); err != nil { // what the clock has not handed in yet
		return err
	}
	l, err := o.Room.Ledger(r.Context(), ui.UserOf(r).ID, v.ID, time.Now())
	if err != nil {
		return err
	}
	a := termOf(r.URL.Query())
	v.fill(l, a)
	return o.Render(w, r, ui.Status(v.Errors), "term", v.Name+" · Ledger", v)
}

// fill lays a term out as it is asked for.
func (v *classLedger) fill(l classroom.Ledger, a termAsked) {
	v.Rule, v.Search, v.Sort, v.PerCent, v.InClass, v.All = ledger.Rule, a.search, a.sort, a.percent, a.inClass, len(l.Rows)
	v.Unread, v.Query = l.Unread, a.query().Encode()
	other := a
	other.percent = !a.percent
	v.Switch = other.query().Encode()
	head := func(text, by string) headView {
		h, next := headView{Text: text}, a
		next.sort = by
		switch a.sort {
		case by:
			h.Sorted, next.sort = "ascending", "-"+by
		case "-" + by:
			h.Sorted = "descending"
		}
		h.Href = "?" + next.query().Encode()
		return h
	}
	v.Heads = []headView{head("Student", "name"), head("Group", "group"), head("Total", "total")}
	for j, g := range l.Sheets {
		c := termColumn{headView: head(words.Typed(g.Title), fmt.Sprint(g.ID)), ID: g.ID, Weight: fmt.Sprint(g.Weight),
			Field: fmt.Sprintf("weight[%d]", g.ID), Given: g.Assignment.Given.In(classroom.Clock(v.Zone)).Format("2 Jan")}
		full := l.FullMarks(j)
		if c.Of = ui.Marks(full); full.Sign() == 0 {
			c.Of = "–"
		}
		c.Error = v.Errors[fmt.Sprintf("weight.%d", g.ID)]
		v.Columns = append(v.Columns, c)
	}
	teams := map[string]bool{}
	var rows []classroom.LedgerRow
	for _, r := range l.Rows {
		if r.Student.Team != "" {
			teams[r.Student.Team] = true
		}
		if a.keeps(r) {
			rows = append(rows, r)
		}
	}
	a.sorted(rows, l.Sheets)
	v.Groups = []ui.OptionView{{Text: "all groups", On: a.group == ""}}
	for _, team := range slices.Sorted(maps.Keys(teams)) {
		v.Groups = append(v.Groups, ui.OptionView{Value: team, Text: words.Typed(team), On: a.group == team})
	}
	for _, s := range states {
		v.States = append(v.States, ui.OptionView{Value: s.value, Text: s.text, On: a.state == s.value})
	}
	for _, r := range rows {
		v.Rows = append(v.Rows, newTermRow(v.ID, l.Sheets, r, a.percent))
	}
}

// newTermRow writes a student's row. Cells hold numbers and a sign each, and nothing that somebody typed.
func newTermRow(class int64, sheets []classroom.Given, r classroom.LedgerRow, percent bool) termRow {
	row := termRow{Name: r.Student.Name, Team: r.Student.Team, Href: fmt.Sprintf("/classes/%d/people/%d", class, r.Student.ID),
		Total: "–"}
	switch {
	case r.Moved:
		row.Tag, row.Href = "moved", fmt.Sprintf("/classes/%d/people/%d", r.Student.Class, r.Student.ID)
	case !r.Student.Gone.IsZero():
		row.Tag = "left"
	}
	if r.Total.Counts {
		row.Total = ui.PerCent(r.Total.Share, length.Int(1))
		row.SoFar = cardsSoFar(r.Total)
	}
	if r.InClass.Done > 0 {
		row.InClass = fmt.Sprintf("%s of %s", ui.Half(r.InClass.Half), ui.Half(r.InClass.Of))
	}
	if r.Next != "" {
		row.Next = kinds.Did(r.Next.Singles()[0])
	}
	b := make([]byte, 0, 70*len(r.Cells))
	for j, c := range r.Cells {
		b = appendCell(append(b, "<td>"...), sheets[j], r.Student.ID, c, percent)
		b = append(b, "</td>"...)
	}
	row.Cells = template.HTML(b) //nolint:gosec // numbers and signs alone
	return row
}

// appendCell writes one cell of a ledger: what it came to, as a link to where it stands.
func appendCell(b []byte, g classroom.Given, student int64, c classroom.LedgerCell, percent bool) []byte {
	if !c.Excused && !c.Missing && c.Attempts == 0 {
		return b
	}
	b = strconv.AppendInt(append(b, `<a href="/ledger/`...), g.ID, 10)
	b = strconv.AppendInt(append(b, "#s"...), student, 10)
	switch {
	case c.Excused:
		return append(b, `" class="ex">exc.</a>`...)
	case c.Missing:
		return append(b, `" class="no">▲ 0</a>`...)
	}
	b = append(b, `">`...)
	share, counts := c.Share()
	switch {
	case !counts:
		b = append(b, "…"...)
	case percent:
		b = append(b, share.MulInt(100).Text(0)...)
	default:
		b = append(b, ui.Marks(c.Earned)...)
	}
	if c.Late {
		b = append(b, "<i>late</i>"...)
	}
	if all := g.Sheet.Cards(); c.Done < all {
		b = strconv.AppendInt(append(b, "<s>"...), int64(c.Done), 10)
		b = strconv.AppendInt(append(b, '/'), int64(all), 10)
		b = append(b, "</s>"...)
	}
	return append(b, "</a>"...)
}

// sheetsOf lists what a student came to on the sheets of a class, the newest first.
func (o Office) sheetsOf(r *http.Request, c store.Class, student int64) ([]personSheet, error) {
	l, err := o.Room.Ledger(r.Context(), ui.UserOf(r).ID, c.ID, time.Now())
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(l.Rows, func(row classroom.LedgerRow) bool { return row.Student.ID == student })
	if at < 0 {
		return nil, store.ErrNotFound
	}
	var out []personSheet
	for j, g := range slices.Backward(l.Sheets) {
		cell := l.Rows[at].Cells[j]
		p := personSheet{Title: g.Title, Href: fmt.Sprintf("/ledger/%d/%d/1", g.ID, student), Done: cell.Done, Cards: g.Sheet.Cards(),
			Excused: cell.Reason, Late: cell.Late}
		if cell.Begun() {
			p.Marks, p.Of, p.Open = ui.Marks(cell.Earned), ui.Marks(cell.Of()), cell.IsOpen()
		}
		out = append(out, p)
	}
	return out, nil
}

// setWeights keeps what the sheets weigh.
func (o Office) setWeights(w http.ResponseWriter, r *http.Request) error {
	c, err := o.ofClass(r)
	if err != nil {
		return err
	}
	var f struct {
		Weight map[int64]string `form:"weight"`
	}
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	weights := make(map[int64]int, len(f.Weight))
	var bad ui.Faults
	for id, text := range f.Weight {
		field := fmt.Sprintf("weight.%d", id)
		weights[id] = bad.Whole(field, text)
		if weights[id] < 0 || weights[id] > ledger.MaxWeight {
			bad.Add(field, "must be from 0 to %d", ledger.MaxWeight)
		}
	}
	if len(bad.Refusal) > 0 {
		return o.showTerm(w, r, classLedger{Errors: bad.By()})
	}
	return ui.Redirected(w, r, fmt.Sprintf("/classes/%d/ledger?weighed", c.ID), o.Room.SetWeights(r.Context(), ui.HandOf(r), c.ID, weights))
}

// excuse excuses a student from a sheet, or takes it back.
func (o Office) excuse(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	var f struct {
		Student int64  `form:"student"`
		Reason  string `form:"reason"`
		Do      string `form:"do"`
	}
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	reason := ui.OneLine(f.Reason)
	if f.Do == "back" {
		reason = ""
	} else if reason == "" || len([]rune(reason)) > 200 {
		a, err := o.given(r, n)
		if err != nil {
			return err
		}
		return o.showLedger(w, r, a, ledgerView{Excused: f.Student, Errors: map[string]string{
			"reason": "Say why, in 200 characters at the most."}})
	}
	err = o.Room.Excuse(r.Context(), ui.HandOf(r), store.Excuse{Assignment: n, Student: f.Student, Reason: reason})
	if err != nil {
		return err
	}
	return ledgerSays(w, r, n, "excused")
}

// termTable sends the ledger of a class as a table: a row a student, a column a sheet, then the total.
func (o Office) termTable(w http.ResponseWriter, r *http.Request) error {
	c, err := o.ofClass(r)
	if err != nil {
		return err
	}
	l, err := o.Room.Ledger(r.Context(), ui.UserOf(r).ID, c.ID, time.Now())
	if err != nil {
		return err
	}
	a, f := termOf(r.URL.Query()), ui.FormatOf(r)
	ui.Download(w, c.Name+" ledger."+string(f), f.Type())
	header := []string{"student", "group"}
	numbered := slices.ContainsFunc(l.Rows, func(row classroom.LedgerRow) bool { return row.Student.Number != "" })
	if numbered {
		header = append(header, "number")
	}
	for j, g := range l.Sheets {
		header = append(header, headerOf(g.Title, l.FullMarks(j), a.percent))
	}
	header = append(header, "total (%)", "cards answered of open sheets")
	for _, title := range l.Unread {
		header = append(header, title+" (cannot be read, not included in the total)")
	}
	t, err := transfer.NewTable(f, w, c.Name, header...)
	if err != nil {
		return err
	}
	a.sorted(l.Rows, l.Sheets)
	for _, row := range l.Rows {
		if !a.keeps(row) {
			continue
		}
		if err := t.Row(termCells(row, a.percent, numbered)...); err != nil {
			return err
		}
	}
	return t.Close()
}

// headerOf is the head of a sheet's column in a table: its title, and what the numbers are out of.
func headerOf(title string, full length.Number, percent bool) string {
	switch {
	case percent:
		return title + " (%)"
	case full.Sign() == 0:
		return title + " (marks)"
	}
	return fmt.Sprintf("%s (marks out of %s)", title, ui.Marks(full))
}

// cardsSoFar says how many cards of open sheets a total has: "6 of 10 cards"; "" where all its sheets have ended.
func cardsSoFar(sum ledger.Sum) string {
	if sum.Cards == 0 {
		return ""
	}
	return fmt.Sprintf("%d of %d cards", sum.Done, sum.Cards)
}

// termCells are a student's row of the table; the total is in per cent.
func termCells(r classroom.LedgerRow, percent, numbered bool) []any {
	cells := []any{r.Student.Name, r.Student.Team}
	if numbered {
		cells = append(cells, r.Student.Number)
	}
	for _, c := range r.Cells {
		share, counts := c.Share()
		switch {
		case c.Excused:
			cells = append(cells, "excused")
		case c.Missing:
			cells = append(cells, 0)
		case !counts:
			cells = append(cells, "")
		case percent:
			cells = append(cells, share.MulInt(100).Round(0))
		default:
			cells = append(cells, c.Earned.Round(2))
		}
	}
	if !r.Total.Counts {
		return append(cells, "", "")
	}
	return append(cells, r.Total.Share.MulInt(100).Round(1), cardsSoFar(r.Total))
}

// classAnswers sends all answers of a class, and sheetAnswers those on one sheet, as tidy tables.
func (o Office) classAnswers(w http.ResponseWriter, r *http.Request) error {
	c, err := o.ofClass(r)
	if err != nil {
		return err
	}
	f := ui.FormatOf(r)
	return ui.SendAnswers(w, c.Name+" answers."+string(f), f, func(each func(store.Answered) error) error {
		return o.Room.Store().Read(r.Context()).ClassAnswers(ui.UserOf(r).ID, c.ID, each)
	})
}

func (o Office) sheetAnswers(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	a, err := o.given(r, n)
	if err != nil {
		return err
	}
	f := ui.FormatOf(r)
	return ui.SendAnswers(w, a.Title+" answers."+string(f), f, func(each func(store.Answered) error) error {
		return o.Room.Store().Read(r.Context()).SheetAnswers(ui.UserOf(r).ID, n, each)
	})
}

// train composes a sheet that trains a slip, of the instruments on which the class has made it, and opens it.
func (o Office) train(w http.ResponseWriter, r *http.Request) error {
	c, err := o.ofClass(r)
	if err != nil {
		return err
	}
	slip := exercise.Code(ui.Clip(r.PostFormValue("slip"), 80))
	id, err := o.Room.TrainingSheet(r.Context(), ui.UserOf(r).ID, c.ID, slip)
	if errors.Is(err, classroom.ErrUntrained) {
		return o.Render(w, r, http.StatusUnprocessableEntity, "error", "No sheet for this", ui.ErrorView{Title: "No sheet for this",
			Text: "None of the instruments that this class reads can show this slip by itself. Compose a sheet by hand."})
	}
	return ui.Redirected(w, r, fmt.Sprintf("/sheets/%d?kept", id), err)
}
