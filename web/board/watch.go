package board

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// watchRoutes adds the pages of the Watch.
func (h Handler) watchRoutes(r chi.Router) {
	sheet := r.With(h.OnSheet(access.ViewClass))
	sheet.Get("/watch/{assignment}", h.Page(h.watch))
	sheet.Post("/watch/{assignment}/round", h.Page(h.askSpread))
}

// watchView is a class at work on a sheet.
type watchView struct {
	ID           int64 // of the sheet
	Title, Class string
	ClassID      int64
	ui.AtWork
	Long    string // how long the rows are: "", medium or long
	Spreads []spreadView
	Hidden  bool // names
	Toggle  string
	Rule    template.HTML // slips, by how far they lead astray
	Shown   ui.Shown
}

// spreadView is a slip that spreads.
type spreadView struct {
	Code     string
	Slip     text.Text
	Students int
	Names    text.Text
	Can      bool // it can be asked of everybody
}

func (h Handler) watch(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	v, err := h.newWatch(r, g, time.Now())
	if err != nil {
		return err
	}
	if ui.Continues(r) {
		return h.Fragment(w, r, "watch", "watchrows", v)
	}
	return h.Render(w, r, http.StatusOK, "watch", text.Row(text.Typed(g.Title), text.New("title.watch")), v)
}

func (h Handler) newWatch(r *http.Request, g sitting.Given, now time.Time) (watchView, error) {
	v := watchView{ID: g.ID, Title: g.Title, Class: g.ClassName, ClassID: g.Class,
		Hidden: r.URL.Query().Has("nameless"), Toggle: fmt.Sprintf("/watch/%d?nameless", g.ID)}
	if v.Hidden {
		v.Toggle = fmt.Sprintf("/watch/%d", g.ID)
	}
	at, err := h.AtWork(r, g, v.Hidden, now)
	if err != nil {
		return v, err
	}
	v.AtWork, v.Shown = at, ui.ShownOf(r, len(at.Rows), 0, 1, ui.RowsOf(g.Sheet.Cards()))
	v.Rows = v.Rows[v.Shown.From:v.Shown.To]
	switch cards := g.Sheet.Cards(); {
	case cards > 24:
		v.Long = "long"
	case cards > 12:
		v.Long = "medium"
	}
	for _, sp := range at.Spreading {
		_, _, err := h.spreadValue(g, sp.Slip)
		v.Spreads = append(v.Spreads, spreadView{string(sp.Slip), sp.Slip.Name(), len(sp.Students),
			ui.Listed(sp.Students, at.Names), err == nil})
	}
	v.Spreads = v.Spreads[:min(3, len(v.Spreads))]
	v.Rule = slipRule(ui.Said(r), at.Cards)
	return v, nil
}

// slipRule draws the slips of a sheet by how far they lead astray, on the mean; "" while there are none.
func slipRule(say *text.Printer, cards []sitting.CardState) template.HTML {
	right, by := 0, map[string]*plot.Astray{}
	known := map[string]int{}
	for _, c := range cards {
		if c.Done && c.Half == c.Of {
			right++
		}
		if c.Slip == "" {
			continue
		}
		if by[c.Slip] == nil {
			by[c.Slip] = &plot.Astray{Text: say.Print(exercise.Code(c.Slip).Short())}
		}
		by[c.Slip].Count++
		if c.Led != nil {
			by[c.Slip].By += *c.Led
			known[c.Slip]++
		}
	}
	if len(by) == 0 {
		return ""
	}
	var out []plot.Astray
	for _, code := range slices.Sorted(maps.Keys(by)) {
		a := *by[code]
		a.By /= float64(max(known[code], 1))
		out = append(out, a)
	}
	return ui.Plot(plot.SlipRule(say, right, out, plot.Wide), "slips")
}

// errNoValue says that no value of a sheet's instruments shows a slip.
var errNoValue = errors.New("no value shows the slip")

// spreadValue finds an instrument of a sheet, and a value of it, at which a slip shows.
func (h Handler) spreadValue(g sitting.Given, slip exercise.Code) (*instrument.Instrument, length.Number, error) {
	for _, b := range g.Sheet.Blocks {
		for _, in := range b.Instruments {
			if in.Check() != nil || in.Definition().Paired {
				continue
			}
			steps := kinds.RoundSteps(in)
			for _, st := range steps {
				y, found, err := kinds.SlipValue(in, st, g.Sheet.Method, slip.Singles()[0], uint64(g.ID))
				if err == nil && found {
					return in, y, nil
				}
			}
		}
	}
	return nil, length.Number{}, errNoValue
}

// askSpread makes a question to everybody from a slip that spreads, on the class's Board.
func (h Handler) askSpread(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	slip := exercise.Code(ui.Clip(r.PostForm.Get("slip"), 80))
	in, y, err := h.spreadValue(g, slip)
	if errors.Is(err, errNoValue) {
		return school.ErrNotFound
	}
	if err != nil {
		return err
	}
	b := standing{shown: shown{Instrument: in, Asking: true}}
	if b.class, err = h.School.Roster.Class(r.Context(), ui.UserOf(r).ID, g.Class); err != nil {
		return err
	}
	b.method = g.Sheet.Method
	for i, steps := range kinds.RoundSteps(in) {
		if _, found, err := kinds.SlipValue(in, steps, b.method, slip.Singles()[0], uint64(g.ID)); err == nil && found {
			b.Set = i
			break
		}
	}
	b.at(y)
	if err := h.ask(r, &b, time.Now()); err != nil {
		return err
	}
	if err := h.keep(r, &b); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/board/%d", g.Class), http.StatusSeeOther)
	return nil
}

// watchEvents tells a Watch that somebody has moved on.
func (h Handler) watchEvents(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	return h.Stream(w, r, hub.Topic{Class: g.Class, What: hub.SheetNews}, func(context.Context) (ui.Snapshot, error) {
		now := cmp.Or(time.Now().UnixMilli(), 1)
		return ui.Snapshot{ID: fmt.Sprint(now), Data: fmt.Sprint(now)}, nil
	})
}
