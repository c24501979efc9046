package class

import (
	"cmp"
	"errors"
	"fmt"
	"html"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"cavix/core/exercise"
	"cavix/core/ledger"
	"cavix/core/length"
	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/transfer"
	"cavix/web/ui"
)

// classLedger is the ledger of a class: students by sheets.
type classLedger struct {
	roster.Class
	Rule    text.Text
	Columns []termColumn
	Unread  []string   // titles of sheets that no total has
	Heads   []headView // name, group, total
	Rows    []termRow
	Shown   ui.Shown
	Kept    int // students that the filters leave
	All     int // students, before filters
	Groups  []ui.OptionView
	States  []ui.OptionView
	Search  string
	Sort    string // as the address has it
	PerCent bool
	InClass bool
	Query   string // of this view, for the other one and for the export
	Switch  string // the same, in the other unit
	Errors  map[string]text.Text
}

// termColumn is a sheet as the head of a column.
type termColumn struct {
	headView
	ID       int64
	Given    text.Text
	Weight   string    // as typed where it could not be kept
	Of       text.Math // most marks that anybody could have
	Field    string
	Error    text.Text
	Excuseds int
}

// headView is the head of a column that sorts by it.
type headView struct {
	Text   text.Text
	Href   string
	Sorted string // "ascending", "descending" or ""
}

// termRow is a student. The cells are written as one piece: there are thousands of them.
type termRow struct {
	Name, Href, Team string
	Tag              text.Text
	Cells            template.HTML
	Total            text.Math
	SoFar            text.Text // how many cards of open sheets the total has
	InClass          text.Text
	Next             text.Text // what to practise next
}

// termAsked holds the choices of a ledger page.
type termAsked struct {
	sort    string // "name", "group", "total" or a sheet's id; with "-" before it, the other way round
	group   string
	state   string
	search  string
	percent bool
	inClass bool
}

func termOf(q url.Values) termAsked {
	return termAsked{sort: q.Get("sort"), group: ui.Clip(q.Get("group"), 60), state: q.Get("state"),
		search: ui.Clip(ui.OneLine(q.Get("q")), 60), percent: q.Get("in") == "percent",
		inClass: q.Get("with") == "class"}
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

// states lists the filters for students.
var states = []struct {
	value string
	text  text.Text
}{
	{"", text.New("word.everybody")},
	{"missing", text.New("class.term.states")},
	{"late", text.New("class.term.late-work")},
	{"excused", text.New("class.term.excused-from-sheet")},
	{"left", text.New("class.term.who-left-moved")},
}

// keeps reports whether a row stays in sight.
func (a termAsked) keeps(r ledgers.LedgerRow) bool {
	has := func(what func(ledgers.LedgerCell) bool) bool { return slices.ContainsFunc(r.Cells, what) }
	gone := !r.Student.Left.IsZero() || r.Moved
	switch a.state {
	case "missing":
		if gone || !has(func(c ledgers.LedgerCell) bool { return c.Missing }) {
			return false
		}
	case "late":
		if !has(func(c ledgers.LedgerCell) bool { return c.Late }) {
			return false
		}
	case "excused":
		if !has(func(c ledgers.LedgerCell) bool { return c.Excused }) {
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
func (a termAsked) sorted(say *text.Printer, rows []ledgers.LedgerRow, sheets []sitting.Given) {
	by, down := strings.CutPrefix(a.sort, "-")
	id, _ := strconv.ParseInt(by, 10, 64)
	at := slices.IndexFunc(sheets, func(g sitting.Given) bool { return g.ID == id })
	share := func(r ledgers.LedgerRow) length.Number { // what is not there yet stands below everything
		c := r.Cells[max(at, 0)]
		if share, ok := c.Share(); ok {
			return share
		}
		return length.Int(-1)
	}
	total := func(r ledgers.LedgerRow) length.Number {
		if !r.Total.Counts {
			return length.Int(-1)
		}
		return r.Total.Share
	}
	compare := names.CompareIn(say.Tag())
	slices.SortStableFunc(rows, func(x, y ledgers.LedgerRow) int {
		order := 0
		switch {
		case by == "group":
			order = cmp.Compare(x.Student.Team, y.Student.Team)
		case by == "total":
			order = total(x).Cmp(total(y))
		case at >= 0:
			order = share(x).Cmp(share(y))
		case by == "name":
			order = compare(x.Student.Name, y.Student.Name)
		}
		if down {
			order = -order
		}
		return order
	})
}

// term shows the ledger of a class.
func (h Handler) term(w http.ResponseWriter, r *http.Request) error {
	return h.showTerm(w, r, classLedger{})
}

func (h Handler) showTerm(w http.ResponseWriter, r *http.Request, v classLedger) error {
	var err error
	v.Class = ui.ClassOf(r)
	// what the clock has not handed in yet
	if err := h.School.Sitting.CloseBeside(r.Context(), time.Now()); err != nil {
		return err
	}
	l, err := h.School.Ledgers.Ledger(r.Context(), ui.UserOf(r).ID, v.ID, time.Now())
	if err != nil {
		return err
	}
	a := termOf(r.URL.Query())
	v.fill(r, l, a)
	if ui.Continues(r) {
		return h.Fragment(w, r, "term", "termrows", v)
	}
	return h.Render(w, r, ui.Status(v.Errors), "term", text.Row(text.Typed(v.Name), text.New("title.ledger")), v)
}

// fill lays a term out as it is asked for.
func (v *classLedger) fill(r *http.Request, l ledgers.Ledger, a termAsked) {
	say := ui.Said(r)
	v.Rule, v.Search, v.Sort, v.PerCent, v.InClass, v.All = ledger.Rule, a.search, a.sort, a.percent, a.inClass,
		len(l.Rows)
	v.Unread, v.Query = l.Unread, a.query().Encode()
	other := a
	other.percent = !a.percent
	v.Switch = other.query().Encode()
	head := func(says text.Text, by string) headView {
		h, next := headView{Text: says}, a
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
	v.Heads = []headView{head(text.New("class.term.fill"), "name"), head(text.New("class.term.group"), "group"),
		head(text.New("class.term.total"), "total")}
	for j, g := range l.Sheets {
		c := termColumn{headView: head(text.Typed(g.Title), fmt.Sprint(g.ID)), ID: g.ID, Weight: fmt.Sprint(g.Weight),
			Field: fmt.Sprintf("weight[%d]", g.ID), Given: ui.Day(g.Assignment.Given.In(roster.Clock(v.Zone))).Text()}
		full := l.FullMarks(j)
		if c.Of = ui.Marks(full); full.Sign() == 0 {
			c.Of = "–"
		}
		c.Error = v.Errors[fmt.Sprintf("weight.%d", g.ID)]
		v.Columns = append(v.Columns, c)
	}
	teams := map[string]bool{}
	var rows []ledgers.LedgerRow
	for _, r := range l.Rows {
		if r.Student.Team != "" {
			teams[r.Student.Team] = true
		}
		if a.keeps(r) {
			rows = append(rows, r)
		}
	}
	a.sorted(say, rows, l.Sheets)
	v.Groups = []ui.OptionView{{Text: text.New("class.term.all-groups"), On: a.group == ""}}
	for _, team := range slices.Sorted(maps.Keys(teams)) {
		v.Groups = append(v.Groups, ui.OptionView{Value: team, Text: text.Typed(team), On: a.group == team})
	}
	for _, s := range states {
		v.States = append(v.States, ui.OptionView{Value: s.value, Text: s.text, On: a.state == s.value})
	}
	marks := newCellWriter(say, a.percent)
	columns := len(l.Sheets) + len(v.Heads) + 1
	v.Kept, v.Shown = len(rows), ui.ShownOf(r, len(rows), 0, columns, ui.RowsOf(columns))
	for _, r := range rows[v.Shown.From:v.Shown.To] {
		v.Rows = append(v.Rows, newTermRow(marks, v.ID, l.Sheets, r))
	}
}

// newTermRow writes a student's row. Cells hold numbers and a sign each, and nothing that somebody typed.
func newTermRow(marks cellWriter, class int64, sheets []sitting.Given, r ledgers.LedgerRow) termRow {
	row := termRow{Name: r.Student.Name, Team: r.Student.Team, Href: fmt.Sprintf("/classes/%d/people/%d", class,
		r.Student.ID), Total: "–"}
	switch {
	case r.Moved:
		row.Tag = text.New("class.term.moved")
		row.Href = fmt.Sprintf("/classes/%d/people/%d", r.Student.Class, r.Student.ID)
	case !r.Student.Left.IsZero():
		row.Tag = text.New("class.term.left-class")
	}
	if r.Total.Counts {
		row.Total = ui.PerCent(r.Total.Share, length.Int(1))
		row.SoFar = cardsSoFar(r.Total)
	}
	if r.InClass.Done > 0 {
		row.InClass = text.New("count.of", "n", ui.Half(r.InClass.Half), "of", ui.Half(r.InClass.Of))
	}
	if r.Next != "" {
		row.Next = r.Next.Singles()[0].Name()
	}
	b := make([]byte, 0, 70*len(r.Cells))
	for j, c := range r.Cells {
		b = marks.append(append(b, "<td>"...), sheets[j], r.Student.ID, c)
		b = append(b, "</td>"...)
	}
	row.Cells = template.HTML(b) //nolint:gosec // numbers and signs alone
	return row
}

// cellWriter writes the cells of a ledger, in which few words stand.
type cellWriter struct {
	excused, late string // in HTML
	percent       bool
}

func newCellWriter(say *text.Printer, percent bool) cellWriter {
	return cellWriter{html.EscapeString(say.Say("class.term.exc")), html.EscapeString(say.Say("common.late")), percent}
}

// append writes one cell: what it came to, as a link to where it stands.
func (t cellWriter) append(b []byte, g sitting.Given, student int64, c ledgers.LedgerCell) []byte {
	if !c.Excused && !c.Missing && c.Attempts == 0 {
		return b
	}
	b = strconv.AppendInt(append(b, `<a href="/ledger/`...), g.ID, 10)
	b = strconv.AppendInt(append(b, "?at="...), student, 10)
	b = strconv.AppendInt(append(b, "#s"...), student, 10)
	switch {
	case c.Excused:
		return append(append(append(b, `" class="ex">`...), t.excused...), "</a>"...)
	case c.Missing:
		return append(b, `" class="no">▲ 0</a>`...)
	}
	b = append(b, `">`...)
	share, counts := c.Share()
	switch {
	case !counts:
		b = append(b, "…"...)
	case t.percent:
		b = append(b, share.MulInt(100).Text(0)...)
	default:
		b = append(b, ui.Marks(c.Earned)...)
	}
	if c.Late {
		b = append(append(append(b, "<i>"...), t.late...), "</i>"...)
	}
	if all := g.Sheet.Cards(); c.Done < all {
		b = strconv.AppendInt(append(b, "<s>"...), int64(c.Done), 10)
		b = strconv.AppendInt(append(b, '/'), int64(all), 10)
		b = append(b, "</s>"...)
	}
	return append(b, "</a>"...)
}

// sheetsOf lists what a student came to on the sheets of a class, the newest first.
func (h Handler) sheetsOf(r *http.Request, c roster.Class, student int64) ([]personSheet, error) {
	l, err := h.School.Ledgers.LedgerFor(r.Context(), ui.UserOf(r).ID, c.ID, student, time.Now())
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(l.Rows, func(row ledgers.LedgerRow) bool { return row.Student.ID == student })
	if at < 0 {
		return nil, school.ErrNotFound
	}
	var out []personSheet
	for j, g := range slices.Backward(l.Sheets) {
		cell := l.Rows[at].Cells[j]
		p := personSheet{Title: g.Title, Href: fmt.Sprintf("/ledger/%d/%d/1", g.ID, student), Done: cell.Done,
			Cards: g.Sheet.Cards(), Excused: cell.Reason, Late: cell.Late}
		if cell.Begun() {
			p.Marks, p.Of, p.Open = ui.Marks(cell.Earned), ui.Marks(cell.Of()), cell.IsOpen()
		}
		out = append(out, p)
	}
	return out, nil
}

// setWeightsForm is the form of setWeights.
type setWeightsForm struct {
	Weight map[int64]string `form:"weight"`
}

// setWeights keeps what the sheets weigh.
func (h Handler) setWeights(w http.ResponseWriter, r *http.Request, f setWeightsForm) error {
	c := ui.ClassOf(r)
	weights := make(map[int64]int, len(f.Weight))
	var bad ui.Faults
	for id, says := range f.Weight {
		field := fmt.Sprintf("weight.%d", id)
		weights[id] = bad.Whole(field, says)
		if weights[id] < 0 || weights[id] > ledger.MaxWeight {
			bad.Add(field, "class.term.set-weights", "max_weight", ledger.MaxWeight)
		}
	}
	if len(bad.Refusal) > 0 {
		return h.showTerm(w, r, classLedger{Errors: bad.By()})
	}
	return h.Redirect(w, r, fmt.Sprintf("/classes/%d/ledger", c.ID), text.New("class.term.term"),
		h.School.Ledgers.SetWeights(r.Context(), ui.ActorOf(r), c.ID, weights))
}

// excuseForm is the form of excuse.
type excuseForm struct {
	Student int64  `form:"student"`
	Reason  string `form:"reason"`
	Do      string `form:"do"`
}

// excuse excuses a student from a sheet, or takes it back.
func (h Handler) excuse(w http.ResponseWriter, r *http.Request, f excuseForm) error {
	n := ui.SheetOf(r).ID
	reason := ui.OneLine(f.Reason)
	if f.Do == "back" {
		reason = ""
	} else if reason == "" || len([]rune(reason)) > 200 {
		return h.showLedger(w, r, ui.SheetOf(r), ledgerView{Excused: f.Student, Errors: map[string]text.Text{
			"reason": text.New("class.term.excuse.errors")}})
	}
	err := h.School.Ledgers.Excuse(r.Context(), ui.ActorOf(r), ledgers.Excuse{Assignment: n, Student: f.Student,
		Reason: reason})
	if err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.kept-totals-follow"), nil)
}

// termTable sends the ledger of a class as a table: a row a student, a column a sheet, then the total.
func (h Handler) termTable(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	l, err := h.School.Ledgers.Ledger(r.Context(), ui.UserOf(r).ID, c.ID, time.Now())
	if err != nil {
		return err
	}
	a, f := termOf(r.URL.Query()), ui.FormatOf(r)
	ui.Download(w, c.Name+" ledger."+string(f), f.Type())
	header := []text.Text{text.New("word.student"), text.New("word.group")}
	numbered := slices.ContainsFunc(l.Rows, func(row ledgers.LedgerRow) bool { return row.Student.Number != "" })
	if numbered {
		header = append(header, text.New("word.number"))
	}
	for j, g := range l.Sheets {
		header = append(header, headerOf(g.Title, l.FullMarks(j), a.percent))
	}
	header = append(header, text.New("word.total"), text.New("class.term.term-table"))
	for _, title := range l.Unread {
		header = append(header, text.New("class.term.cannot-read-not-included", "title", title))
	}
	say := ui.Said(r)
	t, err := transfer.NewTable(f, w, c.Name, printed(say, header)...)
	if err != nil {
		return err
	}
	a.sorted(say, l.Rows, l.Sheets)
	for _, row := range l.Rows {
		if !a.keeps(row) {
			continue
		}
		if err := t.Row(termCells(say, row, a.percent, numbered)...); err != nil {
			return err
		}
	}
	return t.Close()
}

// headerOf is the head of a sheet's column in a table: its title, and what the numbers are out of.
func headerOf(title string, full length.Number, percent bool) text.Text {
	switch {
	case percent:
		return text.New("class.term.title-percent", "title", title)
	case full.Sign() == 0:
		return text.New("class.term.title-marks", "title", title)
	}
	return text.New("class.term.header-of", "title", title, "marks", ui.Marks(full))
}

// cardsSoFar says how many cards of open sheets a total has: "6 of 10 cards"; "" where all its sheets have ended.
func cardsSoFar(sum ledger.Sum) text.Text {
	if sum.Cards == 0 {
		return text.Text{}
	}
	return text.New("class.term.cards-so-far", "done", sum.Done, "cards", sum.Cards)
}

// termCells are a student's row of the table; the total is in per cent.
func termCells(say *text.Printer, r ledgers.LedgerRow, percent, numbered bool) []any {
	cells := []any{r.Student.Name, r.Student.Team}
	if numbered {
		cells = append(cells, r.Student.Number)
	}
	for _, c := range r.Cells {
		share, counts := c.Share()
		switch {
		case c.Excused:
			cells = append(cells, say.Say("common.excused"))
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
	return append(cells, r.Total.Share.MulInt(100).Round(1), say.Print(cardsSoFar(r.Total)))
}

// classAnswers sends all answers of a class, and sheetAnswers those on one sheet, as tidy tables.
func (h Handler) classAnswers(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	f := ui.FormatOf(r)
	return ui.SendAnswers(w, c.Name+" answers."+string(f), f, func(each func(ledgers.Answered) error) error {
		return h.School.Ledgers.ClassAnswers(r.Context(), ui.UserOf(r).ID, c.ID, each)
	})
}

func (h Handler) sheetAnswers(w http.ResponseWriter, r *http.Request) error {
	n := ui.SheetOf(r).ID
	a := ui.SheetOf(r)
	f := ui.FormatOf(r)
	return ui.SendAnswers(w, a.Title+" answers."+string(f), f, func(each func(ledgers.Answered) error) error {
		return h.School.Ledgers.SheetAnswers(r.Context(), ui.UserOf(r).ID, n, each)
	})
}

// train composes a sheet that trains a slip, of the instruments on which the class has made it, and opens it.
func (h Handler) train(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	slip := exercise.Code(ui.Clip(r.PostFormValue("slip"), 80))
	id, err := h.School.Ledgers.TrainingSheet(r.Context(), ui.UserOf(r).ID, c.ID, slip, ui.Said(r))
	if errors.Is(err, ledgers.ErrUntrained) {
		return h.Render(w, r, http.StatusUnprocessableEntity, "error", text.New("class.term.train"),
			ui.ErrorView{Title: text.New("class.term.train.title"),
				Text: text.New("class.term.none-instruments-class-reads")})
	}
	return h.Redirect(w, r, fmt.Sprintf("/sheets/%d?kept", id), text.Text{}, err)
}

// printed are texts in a reader's language.
func printed(say *text.Printer, list []text.Text) []string {
	out := make([]string, len(list))
	for i, t := range list {
		out[i] = say.Print(t)
	}
	return out
}
