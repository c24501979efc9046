package author

import (
	"encoding/base64"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school"
	"cavix/school/rack"
	"cavix/transfer"
	"cavix/web/ui"
)

// bookView is the logbook of an instrument.
type bookView struct {
	ID         int64
	Name, Unit string
	Zero       text.Math // error of the instrument as it is now
	Limit      string
	Warning    text.Text
	Found      text.Math // by the last check, where that is not the instrument's own
	Entries    []entryView
	Plot       template.HTML
	Form       bookForm
	Conditions []logbook.Condition
	Decisions  []logbook.Decision
	Errors     map[string]text.Text

	Damaged  []rack.LogEntry // entries that cannot be read
	BadLimit bool            // the limit cannot be read
}

// entryView is an entry in the list, the latest first.
type entryView struct {
	logbook.Entry
	Day       ui.Stamp
	Due       ui.Stamp
	Zero      text.Math
	Checks    []text.Text
	Corrected bool
}

// bookForm is an entry as it is typed.
type bookForm struct {
	Day       string         `form:"day"`
	Closed    string         `form:"closed"`
	Standards []standardForm `form:"standards"`
	Who       string         `form:"who"`
	Condition string         `form:"condition"`
	Decision  string         `form:"decision"`
	Due       string         `form:"due"`
	Note      string         `form:"note"`
	Corrects  int64          `form:"corrects"`
}

// standardForm is a standard as it is typed.
type standardForm struct {
	Size      string `form:"size"`
	Indicated string `form:"indicated"`
}

// bookRows is the number of standards that the form has room for.
const bookRows = 3

// opened finds the book that an address names.
func (h Handler) opened(r *http.Request) (rack.Book, error) {
	id, err := ui.ID(r, "instrument")
	if err != nil {
		return rack.Book{}, err
	}
	return h.School.Rack.Book(r.Context(), ui.UserOf(r).ID, id, time.Now())
}

func (h Handler) book(w http.ResponseWriter, r *http.Request) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	f := bookForm{Day: time.Now().Format(time.DateOnly), Who: ui.UserOf(r).Name}
	var q struct {
		Corrects int64 `form:"corrects"`
	}
	if err := ui.Asked(r, &q); err == nil {
		for _, e := range b.Entries {
			if e.ID == q.Corrects {
				f = bookFormOf(b, e)
			}
		}
	}
	return h.showBook(w, r, b, f, nil)
}

// bookFormOf fills the form with an entry that is to be corrected.
func bookFormOf(b rack.Book, e logbook.Entry) bookForm {
	f := bookForm{Day: e.At.Format(time.DateOnly), Who: e.Who, Condition: string(e.Condition),
		Decision: string(e.Decision), Note: e.Note, Corrects: e.ID}
	if e.Closed != nil {
		f.Closed = b.Instrument.Format(*e.Closed)
	}
	if !e.Due.IsZero() {
		f.Due = e.Due.Format(time.DateOnly)
	}
	f.Standards = make([]standardForm, len(e.Standards))
	for i, st := range e.Standards {
		f.Standards[i].Size, f.Standards[i].Indicated = b.Instrument.Format(st.Size), b.Instrument.Format(st.Indicated)
	}
	return f
}

func (h Handler) showBook(w http.ResponseWriter, r *http.Request, b rack.Book, f bookForm,
	errs map[string]text.Text) error {
	in := b.Instrument
	for len(f.Standards) < bookRows {
		f.Standards = append(f.Standards, standardForm{})
	}
	v := bookView{ID: b.ID, Name: in.Name(), Unit: string(in.Unit()), Zero: text.Math(in.Format(in.Spec().ZeroError)),
		Warning: b.State.Warning(), Form: f, Conditions: logbook.Conditions, Decisions: logbook.Decisions, Errors: errs,
		Damaged:  b.Damaged,
		BadLimit: b.BadLimit != ""}
	if b.Limit != nil {
		v.Limit = in.Format(*b.Limit)
	}
	corrected := map[int64]bool{}
	for _, e := range b.Entries {
		corrected[e.Corrects] = true
	}
	for i := len(b.Entries) - 1; i >= 0; i-- {
		e := b.Entries[i]
		v.Entries = append(v.Entries, newEntryView(b, e, corrected[e.ID]))
	}
	if b.State.Checked {
		if found := b.State.Last.Zero(in); !found.Equal(in.Spec().ZeroError) {
			v.Found = text.Math(in.Format(found))
		}
		v.Plot = zeroPlot(ui.Said(r), b)
	}
	return h.Render(w, r, ui.Status(errs), "book", text.Row(text.Typed(in.Name()), text.New("title.logbook")), v)
}

func newEntryView(b rack.Book, e logbook.Entry, corrected bool) entryView {
	in := b.Instrument
	out := entryView{Entry: e, Day: ui.Date(e.At), Zero: text.Math(in.Format(e.Zero(in))), Corrected: corrected}
	if !e.Due.IsZero() {
		out.Due = ui.Date(e.Due)
	}
	if e.Closed != nil {
		out.Checks = append(out.Checks, text.Numbers("closed "+text.Math(in.Format(*e.Closed))))
	}
	for _, st := range e.Standards {
		out.Checks = append(out.Checks,
			text.Numbers(text.Math(fmt.Sprintf("%s on %s", text.Math(in.Format(st.Indicated)),
				text.Math(in.Format(st.Size))))))
	}
	return out
}

// plottedEntries is the number of the latest checks in a plot.
const plottedEntries = 24

// zeroPlot draws the zero errors that checks found over time, with the limit.
func zeroPlot(say *text.Printer, b rack.Book) template.HTML {
	in := b.Instrument
	list := logbook.Standing(b.Entries)
	list = list[max(0, len(list)-plottedEntries):]
	var l plot.Limits
	if b.Limit != nil {
		upper := b.Limit.Float()
		lower := -upper
		l = plot.Limits{Lower: &lower, Upper: &upper, LowerText: "-" + in.Format(*b.Limit),
			UpperText: in.Format(*b.Limit)}
	}
	groups := make([]plot.Group, len(list))
	for i, e := range list {
		groups[i] = plot.Group{Name: say.Print(ui.Day(e.At).Text()), Values: []float64{e.Zero(in).Float()}}
	}
	return ui.Readings(plot.Dots(say, groups, l, in.LeastCount().Float()), "zero")
}

// entry reads the form.
func (f bookForm) entry(unit length.Unit, bad *ui.Faults) logbook.Entry {
	day := func(field, says string) time.Time {
		t, err := time.Parse(time.DateOnly, strings.TrimSpace(says))
		if err != nil {
			bad.Add(field, "author.book.entry")
		}
		return t
	}
	e := logbook.Entry{At: day("day", f.Day), Who: ui.OneLine(f.Who), Condition: logbook.Condition(f.Condition),
		Decision: logbook.Decision(f.Decision), Note: ui.OneLine(f.Note), Corrects: f.Corrects}
	if strings.TrimSpace(f.Due) != "" {
		e.Due = day("due", f.Due)
	}
	if strings.TrimSpace(f.Closed) != "" {
		x := bad.Number("closed", f.Closed, unit).Value
		e.Closed = &x
	}
	for _, st := range f.Standards {
		if strings.TrimSpace(st.Size+st.Indicated) == "" {
			continue
		}
		if strings.TrimSpace(st.Size) == "" || strings.TrimSpace(st.Indicated) == "" {
			bad.Add("standards", "author.book.need-size-what-indicated")
			continue
		}
		e.Standards = append(e.Standards, logbook.Standard{Size: bad.Number("standards", st.Size, unit).Value,
			Indicated: bad.Number("standards", st.Indicated, unit).Value})
	}
	return e
}

func (h Handler) writeBook(w http.ResponseWriter, r *http.Request, f bookForm) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	if len(f.Standards) > logbook.MaxStandards {
		f.Standards = f.Standards[:logbook.MaxStandards]
	}
	var bad ui.Faults
	e := f.entry(b.Instrument.Unit(), &bad)
	if len(bad.Refusal) == 0 {
		if err := bad.Take("", h.School.Rack.WriteBook(r.Context(), ui.UserOf(r).ID, b.ID, e)); err != nil {
			return err
		}
	}
	if len(bad.Refusal) > 0 {
		return h.showBook(w, r, b, f, bad.By())
	}
	return h.toBook(w, r, b.ID)
}

func (h Handler) toBook(w http.ResponseWriter, r *http.Request, id int64) error {
	return h.Redirect(w, r, fmt.Sprintf("/rack/%d/book", id), text.New("author.book.show-book"), nil)
}

// removeDamaged deletes an entry that cannot be read.
func (h Handler) removeDamaged(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.ID(r, "instrument")
	if err != nil {
		return err
	}
	entry, err := ui.FormID(r, "entry")
	if err != nil {
		return err
	}
	if err := h.School.Rack.RemoveDamaged(r.Context(), ui.UserOf(r).ID, id, entry); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/rack/%d/book", id), http.StatusSeeOther)
	return nil
}

// setLimitForm is the form of setLimit.
type setLimitForm struct {
	Limit string `form:"limit"`
}

// setLimit keeps how large the zero error may be.
func (h Handler) setLimit(w http.ResponseWriter, r *http.Request, f setLimitForm) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	var limit *length.Number
	var bad ui.Faults
	if strings.TrimSpace(f.Limit) != "" {
		x := bad.Number("limit", f.Limit, b.Instrument.Unit()).Value
		if limit = &x; x.Sign() < 0 {
			bad.Add("limit", "author.book.set-limit")
		}
	}
	if len(bad.Refusal) > 0 {
		return h.showBook(w, r, b, bookForm{Day: time.Now().Format(time.DateOnly), Who: ui.UserOf(r).Name}, bad.By())
	}
	if err := h.School.Rack.SetZeroLimit(r.Context(), ui.UserOf(r).ID, b.ID, limit); err != nil {
		return err
	}
	return h.toBook(w, r, b.ID)
}

// takeOver makes what the last check found the instrument's zero error.
func (h Handler) takeOver(w http.ResponseWriter, r *http.Request) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	err = h.School.Rack.TakeOver(r.Context(), ui.UserOf(r).ID, b.ID)
	var refused refusal.Refusal
	if errors.As(err, &refused) {
		return h.showBook(w, r, b, bookForm{Day: time.Now().Format(time.DateOnly), Who: ui.UserOf(r).Name},
			map[string]text.Text{"takeover": text.New("author.book.takeover", "why", refused[0].Reason)})
	}
	if err != nil {
		return err
	}
	return h.toBook(w, r, b.ID)
}

func (h Handler) bookTable(w http.ResponseWriter, r *http.Request) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	f := ui.FormatOf(r)
	ui.Download(w, b.Instrument.Name()+" logbook."+string(f), f.Type())
	return transfer.WriteBook(f, w, b.Instrument, logbook.Standing(b.Entries))
}

// incomingBook is a table of checks about to be brought into a book.
type incomingBook struct {
	ID     int64
	Name   string
	Rows   []incomingCheck
	Counts map[logbook.Differs]int
	Table  string // as it goes on to be brought in
}

// incomingCheck is one check of it.
type incomingCheck struct {
	entryView
	What logbook.Differs
}

// previewBook shows what bringing the checks of a table in would do.
func (h Handler) previewBook(w http.ResponseWriter, r *http.Request) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	data, err := ui.Upload(r, "file", "table")
	if err != nil {
		return err
	}
	list, err := transfer.ReadBook(data)
	for i, e := range list {
		if err == nil {
			err = refusal.Within(fmt.Sprint(i+1), e.Check(b.Instrument))
		}
	}
	if err != nil {
		return h.refuseBook(w, r, b, err)
	}
	v := incomingBook{ID: b.ID, Name: b.Instrument.Name(), Counts: map[logbook.Differs]int{},
		Table: base64.StdEncoding.EncodeToString(data)}
	for i, what := range logbook.Compare(b.Entries, list) {
		v.Counts[what]++
		v.Rows = append(v.Rows, incomingCheck{newEntryView(b, list[i], false), what})
	}
	return h.Render(w, r, http.StatusOK, "incomingbook", text.New("author.book.preview-book", "instrument",
		b.Instrument.Name()), v)
}

// refuseBook says why a table of checks cannot be brought in.
func (h Handler) refuseBook(w http.ResponseWriter, r *http.Request, b rack.Book, err error) error {
	return h.showBook(w, r, b, bookForm{Day: time.Now().Format(time.DateOnly), Who: ui.UserOf(r).Name},
		map[string]text.Text{"table": text.New("author.book.refuse-book", "why", refusal.Says(err))})
}

// importBook adds the checks of a table that was previewed, whole or not at all.
func (h Handler) importBook(w http.ResponseWriter, r *http.Request) error {
	b, err := h.opened(r)
	if err != nil {
		return err
	}
	data, err := base64.StdEncoding.DecodeString(r.PostFormValue("table"))
	if err != nil {
		return ui.Unread(err)
	}
	list, err := transfer.ReadBook(data)
	if err == nil {
		_, err = h.School.Rack.ImportBook(r.Context(), ui.UserOf(r).ID, b.ID, list)
	}
	var refused refusal.Refusal
	if err != nil && !errors.As(err, &refused) && errors.Is(err, school.ErrNotFound) {
		return err
	}
	if err != nil {
		return h.refuseBook(w, r, b, err)
	}
	return h.toBook(w, r, b.ID)
}
