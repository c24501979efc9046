package author

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/figure"
	"cavix/store"
	"cavix/web/ui"
)

// composerForm is the composer's form as it is sent: everything as typed.
type composerForm struct {
	Do       string        `form:"do"`
	Title    string        `form:"title"`
	Seed     int           `form:"seed"`
	HintCost string        `form:"hint_cost"`
	Method   ui.MethodForm `form:"method"`
	Blocks   []blockForm   `form:"blocks"`
	Add      string        `form:"add"`  // the kind of a new block
	Drop     string        `form:"drop"` // the number of a block to take out
}

// blockForm is one block. A setting that names several things holds them all; an empty one stands before
// what is ticked, so that nothing ticked is something too.
type blockForm struct {
	Kind        string              `form:"kind"`
	Cards       string              `form:"cards"`
	Instruments []int64             `form:"instruments"`
	Own         bool                `form:"own"` // it has instruments that have left the Rack
	Settings    map[string][]string `form:"settings"`
	Marks       map[string]string   `form:"marks"`
}

// composerView is what the composer prints.
type composerView struct {
	Action   string
	Kept     int64 // id; 0 for a new sheet
	Saved    bool
	Title    string
	Errors   map[string]string
	Classes  []store.Class
	Method   ui.MethodView
	HintCost []ui.OptionView
	Blocks   []blockView
	Kinds    []ui.OptionView

	Preview []previewCard
	Seed    int // of the preview
}

// blockView is one block of the composer.
type blockView struct {
	N           int // from 1
	Prefix      string
	Kind, Title string
	Cards       string
	Own         bool
	Instruments []instrumentChoice
	Settings    []blockSetting
	Errors      map[string]string
	Open        bool
	Single      bool // it is the only one
	Bare        bool // its cards show no instrument
}

type instrumentChoice struct {
	ID         int64
	Name, Made string
	LeastCount string
	On         bool
}

// blockSetting is one thing to choose about a block.
type blockSetting struct {
	exercise.Setting
	Field   string
	Value   string
	Options []settingOption
	Error   string
}

// settingOption is one choice, with the marks of its field where several are asked.
type settingOption struct {
	ui.OptionView
	Marks, MarksField, MarksError string
}

// previewCard is one real card, as some student would get it.
type previewCard struct {
	N       int
	Kind    string
	Name    string
	Task    string
	Drawing template.HTML
	Answers []part
	Try     string
}

// previewed is how many cards of a block the composer shows.
const previewed = 2

// hintCosts are what a rung of help may cost, in half marks.
var hintCosts = []string{"nothing", "½ a mark", "1 mark", "1½ marks", "2 marks"}

// newBlock is a block as it is added: the kind's defaults.
func newBlock(kind string, rack []classroom.Racked) (exercise.Block, []int64) {
	b := exercise.Block{Kind: kind, Cards: 4}
	var ids []int64
	if k, known := kinds.All.Find(kind); known {
		if _, bare := k.(exercise.Bare); bare {
			return b, ids
		}
	}
	for _, k := range rack {
		if k.Instrument != nil {
			b.Instruments, ids = append(b.Instruments, k.Instrument), append(ids, k.ID)
			break
		}
	}
	return b, ids
}

func (s Shop) composer(w http.ResponseWriter, r *http.Request) error {
	rack, err := s.Room.Rack(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	sh := classroom.Sheet{Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing}}
	if chi.URLParam(r, "sheet") != "" {
		if sh, err = s.named(r); err != nil {
			return err
		}
	} else {
		b, ids := newBlock(kinds.All[0].Name(), rack)
		b.Cards = 10
		sh.Definition.Blocks, sh.Racked = []exercise.Block{b}, [][]int64{ids}
	}
	return s.compose(w, r, sh, rack, composerView{Saved: r.URL.Query().Has("kept"), Seed: 1, Title: sh.Title}, 0)
}

// named finds the sheet that the address names.
func (s Shop) named(r *http.Request) (classroom.Sheet, error) {
	n, err := ui.ID(r, "sheet")
	if err != nil {
		return classroom.Sheet{}, err
	}
	sh, err := s.Room.Sheet(r.Context(), ui.UserOf(r).ID, n)
	if err == nil && sh.Err != nil {
		s.Log.Error("a sheet cannot be read", "err", sh.Err)
		err = store.ErrNotFound
	}
	return sh, err
}

// composerPost previews the sheet as the form stands, and keeps it when it is asked to.
func (s Shop) composerPost(w http.ResponseWriter, r *http.Request) error {
	owner := ui.UserOf(r).ID
	var f composerForm
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	var kept classroom.Sheet
	if chi.URLParam(r, "sheet") != "" {
		var err error
		if kept, err = s.named(r); err != nil {
			return err
		}
	}
	rack, err := s.Room.Rack(r.Context(), owner)
	if err != nil {
		return err
	}
	var bad ui.Faults
	sh := f.sheet(kept, rack, &bad)
	open := max(0, len(sh.Definition.Blocks)-1)
	if f.Add == "" && f.Drop == "" {
		open = -1
	}
	if err := bad.Take("", sh.Definition.Check(kinds.All)); err != nil {
		return err
	}
	v := composerView{Title: f.Title, Seed: f.Seed}
	if f.Do == "keep" {
		bad.Name("title", sh.Title)
		if len(bad.Refusal) == 0 {
			n, err := s.Room.KeepSheet(r.Context(), owner, sh)
			if err == nil {
				http.Redirect(w, r, fmt.Sprintf("/sheets/%d?kept", n), http.StatusSeeOther)
			}
			return err
		}
	}
	if f.Do == "others" {
		v.Seed = (v.Seed + 1) % 1_000_000
	}
	v.Errors = bad.By()
	return s.compose(w, r, sh, rack, v, open)
}

// sheet reads the form.
func (f composerForm) sheet(kept classroom.Sheet, rack []classroom.Racked, bad *ui.Faults) classroom.Sheet {
	sh := classroom.Sheet{ID: kept.ID, Title: ui.OneLine(f.Title)}
	d := &sh.Definition
	d.Dealer = exercise.Dealing
	d.Method, d.HintCost = f.Method.Method(bad), bad.Whole("hint_cost", f.HintCost)
	drop, _ := strconv.Atoi(f.Drop)
	for i, b := range f.Blocks {
		if i == drop-1 || len(d.Blocks) >= exercise.MaxBlocks {
			continue
		}
		block, ids := b.block(fmt.Sprintf("blocks.%d", len(d.Blocks)), rack, bad)
		if len(ids) == 0 && b.Own && i < len(kept.Definition.Blocks) {
			// those it was composed from have left the Rack since
			block.Instruments = kept.Definition.Blocks[i].Instruments
		}
		d.Blocks, sh.Racked = append(d.Blocks, block), append(sh.Racked, ids)
	}
	if f.Add != "" {
		b, ids := newBlock(f.Add, rack)
		d.Blocks, sh.Racked = append(d.Blocks, b), append(sh.Racked, ids)
	}
	return sh
}

// block reads one block of the form. Settings of another kind, left from before it was changed, are
// passed over.
func (b blockForm) block(path string, rack []classroom.Racked, bad *ui.Faults) (exercise.Block, []int64) {
	out := exercise.Block{Kind: b.Kind, Cards: bad.Whole(path+".cards", b.Cards), Settings: map[string]string{}}
	var ids []int64
	for _, k := range rack {
		if k.Instrument != nil && slices.Contains(b.Instruments, k.ID) {
			out.Instruments, ids = append(out.Instruments, k.Instrument), append(ids, k.ID)
		}
	}
	kind, known := kinds.All.Find(b.Kind)
	if !known {
		return out, ids
	}
	for _, s := range kind.Settings() {
		if typed, ok := b.Settings[s.Name]; ok {
			out.Settings[s.Name] = ui.Clip(ui.OneLine(strings.Join(typed, " ")), 400)
		}
		for _, c := range s.Choices {
			text := strings.TrimSpace(b.Marks[c.Value])
			if s.Input != exercise.AnyOf || text == "" || text == "1" {
				continue
			}
			if out.Marks == nil {
				out.Marks = map[string]int{}
			}
			out.Marks[c.Value] = bad.Whole(path+".marks."+c.Value, text)
		}
	}
	return out, ids
}

// compose prints the composer with a preview of real cards.
func (s Shop) compose(w http.ResponseWriter, r *http.Request, sh classroom.Sheet, rack []classroom.Racked,
	v composerView, open int) error {
	d := sh.Definition
	v.Kept, v.Action = sh.ID, "/sheets/new"
	v.Method = ui.MethodOf(d.Method, true, v.Errors)
	for i, text := range hintCosts {
		v.HintCost = append(v.HintCost, ui.OptionView{Value: strconv.Itoa(i), Text: text, On: i == d.HintCost})
	}
	for _, k := range kinds.All {
		v.Kinds = append(v.Kinds, ui.OptionView{Value: k.Name(), Text: k.Title()})
	}
	for i, b := range d.Blocks {
		v.Blocks = append(v.Blocks, newBlockView(i, b, sh.Racked[i], rack, v))
	}
	if open >= 0 && open < len(v.Blocks) {
		v.Blocks[open].Open = true
	}
	if d.Check(kinds.All) == nil {
		if err := v.preview(&d); err != nil {
			return err
		}
	}
	if v.Kept != 0 {
		v.Action = fmt.Sprintf("/sheets/%d", v.Kept)
		var err error
		if v.Classes, err = s.Room.Store().Read(r.Context()).Classes(ui.UserOf(r).ID); err != nil {
			return err
		}
	}
	title := v.Title
	if title == "" {
		title = "New sheet"
	}
	return s.Render(w, r, ui.Status(v.Errors), "sheet", title, v)
}

// newBlockView fills in what can be chosen about a block and what is.
func newBlockView(i int, b exercise.Block, ids []int64, rack []classroom.Racked, v composerView) blockView {
	path := fmt.Sprintf("blocks.%d.", i)
	out := blockView{N: i + 1, Prefix: fmt.Sprintf("blocks[%d].", i), Kind: b.Kind, Cards: strconv.Itoa(b.Cards),
		Errors: map[string]string{}, Own: len(ids) == 0 && len(b.Instruments) > 0}
	for field, reason := range v.Errors {
		if own, ok := strings.CutPrefix(field, path); ok {
			out.Errors[own] = reason
		}
	}
	out.Open = len(out.Errors) > 0
	for _, k := range rack {
		if in := k.Instrument; in != nil {
			out.Instruments = append(out.Instruments, instrumentChoice{k.ID, in.Name(), in.Describe(),
				in.FormatMain(in.LeastCount()) + " " + string(in.Unit()), slices.Contains(ids, k.ID)})
		}
	}
	kind, known := kinds.All.Find(b.Kind)
	if !known {
		return out
	}
	out.Title = kind.Title()
	_, out.Bare = kind.(exercise.Bare)
	for _, s := range kind.Settings() {
		bs := blockSetting{Setting: s, Field: out.Prefix + "settings[" + s.Name + "]", Value: b.Get(s),
			Error: out.Errors[s.Name]}
		for _, c := range s.Choices {
			o := settingOption{OptionView: ui.OptionView{Value: c.Value, Text: c.Words, On: bs.Value == c.Value},
				Marks:      "1",
				MarksField: out.Prefix + "marks[" + c.Value + "]", MarksError: out.Errors["marks."+c.Value]}
			if s.Input == exercise.AnyOf {
				o.On = slices.Contains(strings.Fields(bs.Value), c.Value)
			}
			if m, ok := b.Marks[c.Value]; ok {
				o.Marks = strconv.Itoa(m)
			}
			bs.Options = append(bs.Options, o)
		}
		out.Settings = append(out.Settings, bs)
	}
	return out
}

// preview deals real cards and shows the first of each block with their answers.
func (v *composerView) preview(d *exercise.Sheet) error {
	items, err := d.Deal(kinds.All, ui.TrySeed(v.Seed))
	if err != nil {
		return err
	}
	first := 0
	for _, b := range d.Blocks {
		for i := range min(b.Cards, previewed) {
			p, err := newPreview(first+i+1, items[first+i])
			if err != nil {
				return err
			}
			if v.Kept != 0 {
				p.Try = fmt.Sprintf("/sheets/%d/try/%d/%d", v.Kept, v.Seed, p.N)
			}
			v.Preview = append(v.Preview, p)
		}
		first += b.Cards
	}
	return nil
}

// newPreview draws a card and lists what it should hold.
func newPreview(n int, it exercise.Item) (previewCard, error) {
	p := previewCard{N: n, Task: it.Facts().Task}
	if figures := it.Figures(); len(figures) > 0 {
		lay, err := figure.Lay(figures[0].Instrument, figures[0].At, figure.Narrow)
		if err != nil {
			return p, err
		}
		p.Name = figures[0].Instrument.Name()
		p.Drawing = ui.Drawing(lay.Scene(figure.Options{}), fmt.Sprintf("p%d", n), "fig")
	}
	if kind, known := kinds.All.Find(it.Kind()); known {
		p.Kind = kind.Title()
	}
	empty, err := it.Mark(nil)
	if err != nil {
		return p, err
	}
	for i, f := range it.Fields() {
		if f.Input != exercise.Position {
			p.Answers = append(p.Answers, part{Name: f.Term, Value: exercise.Show(empty.Fields[i].Expected)})
		}
	}
	return p, nil
}

// tried finds the card of a sheet that a request tries, and how it is shown; nothing of it is kept.
func (s Shop) tried(r *http.Request) (v ui.CardView, st ui.CardState, err error) {
	sh, err := s.named(r)
	if err != nil {
		return v, st, err
	}
	seed, err := ui.ID(r, "seed")
	if err != nil {
		return v, st, err
	}
	n, err := ui.ID(r, "n")
	if err != nil {
		return v, st, err
	}
	items, err := sh.Definition.Deal(kinds.All, ui.TrySeed(int(seed)))
	if err != nil {
		return v, st, err
	}
	if n > int64(len(items)) {
		return v, st, store.ErrNotFound
	}
	at := func(n int) string { return fmt.Sprintf("/sheets/%d/try/%d/%d", sh.ID, seed, n) }
	v = ui.CardView{Title: sh.Title, Sub: "as a student sees it; nothing is kept", N: int(n), Of: len(items),
		Action: at(int(n)),
		Next:   ui.Link{Text: "Back to the sheet", Href: fmt.Sprintf("/sheets/%d", sh.ID)}}
	if int(n) < len(items) {
		v.Next = ui.Link{Text: "Next card", Href: at(int(n) + 1)}
	}
	marks := make([]store.Mark, len(items))
	for k := range marks {
		marks[k].N = k + 1
	}
	v.Rule = ui.NewRule(marks, int(n), at)
	st = ui.CardState{Item: items[n-1], Answer: exercise.Answer{}, Figure: r.FormValue("figure"), At: at(int(n)) +
		"/figure"}
	if r.Method == http.MethodPost {
		st.Answer = ui.Written(r, st.Item)
		ui.Move(st.Item, st.Answer, r.PostForm.Get("moved"))
	}
	return v, st, nil
}

// try lets an instructor work a card of a sheet as a student would.
func (s Shop) try(w http.ResponseWriter, r *http.Request) error {
	v, st, err := s.tried(r)
	if err != nil {
		return err
	}
	status := http.StatusOK
	if r.Method == http.MethodPost && r.PostForm.Get("moved") == "" {
		ready, err := v.Ready(r, st.Item, st.Answer)
		if err != nil {
			return err
		}
		if ready {
			result, err := st.Item.Mark(st.Answer)
			if err != nil {
				return err
			}
			st.Result = &result
		} else {
			status = http.StatusUnprocessableEntity
		}
	}
	if err := v.Fill(st); err != nil {
		return err
	}
	return s.Render(w, r, status, "card", v.Title, v)
}

// tryFigure brings another figure of a tried card in sight, or moves it.
func (s Shop) tryFigure(w http.ResponseWriter, r *http.Request) error {
	_, st, err := s.tried(r)
	if err != nil {
		return err
	}
	return s.Figures(w, st)
}
