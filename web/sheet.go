package web

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/marking"
	"cavix/figure"
	"cavix/store"
)

// sheetView is what the composer prints.
type sheetView struct {
	Action  string
	Kept    int64 // id; 0 for a new sheet
	Saved   bool
	Title   string
	Cards   string // as typed
	Awkward int
	Zero    exercise.Zero
	Steps   []stepChoice
	Rack    []instrumentChoice
	Errors  map[string]string
	Classes []store.Class

	Settings     []settingView
	Tolerance    string
	HintCost     int
	Lower, Upper string // limits, as typed

	Preview []previewCard
	Seed    int // of the preview
	Stale   bool
}

type stepChoice struct {
	Step   marking.Step
	Name   string
	On     bool
	OfZero bool // asked only where there are zero errors
	Marks  string
	Error  string
}

type instrumentChoice struct {
	ID         int64
	Name, Made string
	LeastCount string
	On         bool
}

// previewCard is one real card, as some student would get it.
type previewCard struct {
	N       int
	Name    string
	Drawing template.HTML
	Answers []part
	Try     string
}

// previewed is how many cards the composer shows.
const previewed = 4

func (s *Server) sheet(w http.ResponseWriter, r *http.Request) error {
	v := sheetView{Saved: r.URL.Query().Has("kept"), Seed: 1}
	sh := store.Sheet{Definition: exercise.Sheet{
		Cards: 10, Zero: exercise.ZeroOwn, Awkward: 30,
		Ask: []marking.Step{marking.Main, marking.FineLine, marking.Observed, marking.ZeroError, marking.Corrected},
	}}
	if chi.URLParam(r, "sheet") != "" {
		var err error
		if sh, err = s.named(r); err != nil {
			return err
		}
	}
	v.Kept, v.Title, v.Cards = sh.ID, sh.Title, strconv.Itoa(sh.Definition.Cards)
	rack, err := s.Store.Rack(r.Context(), userOf(r).instructor.ID)
	if err != nil {
		return err
	}
	if sh.ID == 0 && len(rack) > 0 {
		sh.Racked = []int64{rack[0].ID}
		sh.Definition.Instruments = []*instrument.Instrument{rack[0].Instrument}
	}
	v.choices(rack, sh)
	if len(sh.Definition.Instruments) > 0 {
		if err := v.preview(&sh.Definition); err != nil {
			return err
		}
	}
	return s.showSheet(w, r, http.StatusOK, v)
}

// named finds the sheet that the address names.
func (s *Server) named(r *http.Request) (store.Sheet, error) {
	n, err := id(r, "sheet")
	if err != nil {
		return store.Sheet{}, err
	}
	return s.Store.Sheet(r.Context(), userOf(r).instructor.ID, n)
}

// choices fills in what can be chosen and what is.
func (v *sheetView) choices(rack []store.Racked, sh store.Sheet) {
	d := sh.Definition
	v.Awkward, v.Zero = d.Awkward, d.Zero
	for _, st := range marking.Steps {
		c := stepChoice{Step: st, Name: d.Method.Name(st), On: slices.Contains(d.Ask, st), OfZero: st == marking.ZeroError || st == marking.Corrected, Marks: "1", Error: v.Errors["marks."+string(st)]}
		if m, ok := d.Marks[st]; ok {
			c.Marks = strconv.Itoa(m)
		}
		v.Steps = append(v.Steps, c)
	}
	v.Settings, v.Tolerance, v.HintCost = settingsOf(d.Method, true, v.Errors), toleranceText(d.Method), d.HintCost
	if d.Limits != nil {
		v.Lower, v.Upper = d.Limits.Lower.String(), d.Limits.Upper.String()
	}
	for _, k := range rack {
		v.Rack = append(v.Rack, instrumentChoice{k.ID, k.Instrument.Name(), k.Instrument.Describe(),
			k.Instrument.FormatMain(k.Instrument.LeastCount()) + " " + string(k.Instrument.Unit()), slices.Contains(sh.Racked, k.ID)})
	}
}

// sheetPost previews the sheet as the form stands, and keeps it when it is asked to.
func (s *Server) sheetPost(w http.ResponseWriter, r *http.Request) error {
	owner := userOf(r).instructor.ID
	f := newForm(r)
	var sh store.Sheet
	if chi.URLParam(r, "sheet") != "" {
		var err error
		if sh, err = s.named(r); err != nil {
			return err
		}
	}
	rack, err := s.Store.Rack(r.Context(), owner)
	if err != nil {
		return err
	}
	kept := sh.Definition.Instruments
	sh = f.sheet(sh.ID, rack)
	if len(sh.Racked) == 0 && f.Text["own"] != "" {
		sh.Definition.Instruments = kept // those it was composed from have left the Rack since
	}
	if err := f.take(sh.Definition.Check()); err != nil {
		return err
	}
	keep := f.Text["do"] == "keep"
	if bad := checkName(sh.Title); keep && bad != "" {
		f.refuse("title", "%s", bad)
	}
	v := sheetView{Kept: sh.ID, Title: f.Text["title"], Cards: f.Text["cards"], Errors: f.errors()}
	v.Seed, _ = strconv.Atoi(f.Text["seed"])
	if f.Text["do"] == "others" {
		v.Seed++
	}
	if keep && len(v.Errors) == 0 {
		n, err := s.Store.KeepSheet(r.Context(), owner, sh)
		if err != nil {
			return err
		}
		http.Redirect(w, r, fmt.Sprintf("/sheets/%d?kept", n), http.StatusSeeOther)
		return nil
	}
	v.choices(rack, sh)
	if v.Lower == "" {
		v.Lower, v.Upper = f.Text["lower"], f.Text["upper"]
	}
	status := http.StatusOK
	if len(v.Errors) > 0 {
		status = http.StatusUnprocessableEntity
	}
	if sh.Definition.Check() == nil {
		if err := v.preview(&sh.Definition); err != nil {
			return err
		}
	}
	return s.showSheet(w, r, status, v)
}

// sheet reads the composer's form.
func (f *form) sheet(kept int64, rack []store.Racked) store.Sheet {
	sh := store.Sheet{ID: kept, Title: f.line("title")}
	d := &sh.Definition
	d.Cards, d.Awkward, d.Zero = f.whole("cards"), f.whole("awkward"), exercise.Zero(f.Text["zero"])
	d.Method, d.HintCost = f.method(), f.whole("hint_cost")
	if f.Text["lower"] != "" || f.Text["upper"] != "" {
		d.Limits = &marking.Limits{Lower: f.number("lower", "").Value, Upper: f.number("upper", "").Value}
	}
	for _, st := range marking.Steps {
		if slices.Contains(f.r.PostForm["ask"], string(st)) {
			d.Ask = append(d.Ask, st)
		}
		if text := f.Text["marks."+string(st)]; text != "" && text != "1" {
			if d.Marks == nil {
				d.Marks = map[marking.Step]int{}
			}
			d.Marks[st] = f.whole("marks." + string(st))
		}
	}
	for _, k := range rack {
		if slices.Contains(f.r.PostForm["instruments"], strconv.FormatInt(k.ID, 10)) {
			sh.Racked = append(sh.Racked, k.ID)
			d.Instruments = append(d.Instruments, k.Instrument)
		}
	}
	return sh
}

// preview deals real cards and shows the first of them with their answers.
func (v *sheetView) preview(d *exercise.Sheet) error {
	cards, err := d.Deal(trySeed(v.Seed))
	if err != nil {
		return err
	}
	for i, c := range cards[:min(len(cards), previewed)] {
		solutions, err := c.Solutions()
		if err != nil {
			return err
		}
		lay, err := figure.Lay(c.Instrument, c.Position(), figure.Narrow)
		if err != nil {
			return err
		}
		p := previewCard{N: i + 1, Name: c.Instrument.Name(), Drawing: drawing(lay.Scene(figure.Options{}), fmt.Sprintf("p%d", i), "fig")}
		for _, st := range c.Ask {
			p.Answers = append(p.Answers, part{Name: c.Method.Name(st), Value: marking.Show(c.Text(st, solutions[0].Value(st)))})
		}
		if v.Kept != 0 {
			p.Try = fmt.Sprintf("/sheets/%d/try/%d/%d", v.Kept, v.Seed, i+1)
		}
		v.Preview = append(v.Preview, p)
	}
	return nil
}

// trySeed keeps the seeds of previews apart from each other; students' own seeds are spread over all numbers.
func trySeed(n int) uint64 { return store.StudentSeed(0x70726576_69657773, int64(n)) }

func (s *Server) showSheet(w http.ResponseWriter, r *http.Request, status int, v sheetView) error {
	v.Action = "/sheets/new"
	if v.Kept != 0 {
		v.Action = fmt.Sprintf("/sheets/%d", v.Kept)
		var err error
		if v.Classes, err = s.Store.Classes(r.Context(), userOf(r).instructor.ID); err != nil {
			return err
		}
	}
	title := v.Title
	if title == "" {
		title = "New sheet"
	}
	return s.render(w, r, status, "sheet", title, v)
}

// tryCard lets an instructor work a card of a sheet as a student would; nothing of it is kept.
func (s *Server) tryCard(w http.ResponseWriter, r *http.Request) error {
	sh, err := s.named(r)
	if err != nil {
		return err
	}
	seed, err := id(r, "seed")
	if err != nil {
		return err
	}
	i, err := id(r, "n")
	if err != nil {
		return err
	}
	cards, err := sh.Definition.Deal(trySeed(int(seed)))
	if err != nil {
		return err
	}
	if i > int64(len(cards)) {
		return store.ErrNotFound
	}
	c := cards[i-1]
	at := func(n int) string { return fmt.Sprintf("/sheets/%d/try/%d/%d", sh.ID, seed, n) }
	v := cardView{Title: sh.Title, Sub: "as a student sees it; nothing is kept", N: int(i), Of: len(cards), Action: at(int(i)),
		Next: link{"Back to the sheet", fmt.Sprintf("/sheets/%d", sh.ID)}}
	if int(i) < len(cards) {
		v.Next = link{"Next card", at(int(i) + 1)}
	}
	marks := make([]store.Mark, len(cards))
	for k := range marks {
		marks[k].N = k + 1
	}
	v.Rule = newRule(marks, int(i), at)
	status := http.StatusOK
	var a marking.Answer
	var result *marking.Result
	var errs map[string]string
	if r.Method == http.MethodPost {
		a = written(r, c)
		if result, errs, err = v.check(r, c, a); err != nil {
			return err
		}
		if result == nil {
			status = http.StatusUnprocessableEntity
		}
	}
	if err := v.fill(c, a, result, errs); err != nil {
		return err
	}
	return s.render(w, r, status, "card", sh.Title, v)
}
