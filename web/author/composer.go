package author

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school"
	"cavix/school/rack"
	"cavix/web/ui"
)

// composerForm is the composer's form as it is sent: everything as typed.
type composerForm struct {
	Do       string        `form:"do"` // what is to be done: "keep", "add.NAME", "up.2"
	Open     int           `form:"open"`
	Title    string        `form:"title"`
	Seed     int           `form:"seed"`
	Effort   int           `form:"effort"`
	HintCost string        `form:"hint_cost"`
	Method   ui.MethodForm `form:"method"`
	Blocks   []blockForm   `form:"blocks"`
	With     []int64       `form:"with"`     // the instruments that new blocks take
	WasWith  string        `form:"was_with"` // those before
	Stamp    string        `form:"stamp"`

	Task     string `form:"task"`
	Picture  int64  `form:"picture"`
	OwnShown string `form:"own_picture"` // the document of a picture that is not on the Rack
	Mode     string `form:"mode"`
	Help     string `form:"help"`
	Attempts string `form:"attempts"`
	Counts   string `form:"counts"`
	Shuffled bool   `form:"shuffled"`
	Minutes  string `form:"minutes"`
	Late     bool   `form:"late"`
	Spoken   bool   `form:"spoken"`
	Release  string `form:"release"`
	Aids     string `form:"aids"`
	Undo     bool   `form:"undo"`
	Figures  string `form:"figures"`
	Words    string `form:"words"`
}

// blockForm is one block. A setting that names several things holds them all; an empty one stands before
// what is ticked, so that nothing ticked is something too.
type blockForm struct {
	Kind        string              `form:"kind"`
	Cards       string              `form:"cards"`
	Instruments []int64             `form:"instruments"`
	Own         string              `form:"own"` // documents of instruments that are not on the Rack, as a JSON list
	Settings    map[string][]string `form:"settings"`
	Marks       map[string]string   `form:"marks"`
}

// composed is a sheet in the composer.
type composed struct {
	rack.Sheet
	open  int     // the block that is open; −1 for none
	with  []int64 // instruments of the Rack that new blocks take
	focus string
}

// newBlock is a block as it is added: the kind's defaults, with those of the chosen instruments that it can take, or
// else others of the Rack.
func newBlock(kind string, with []int64, instruments []rack.Racked) (exercise.Block, []int64) {
	b := exercise.Block{Kind: kind, Cards: 4}
	var ids []int64
	b.Instruments, ids = fitting(kind, with, instruments)
	return b, ids
}

// fitting are the instruments that a kind takes, and their ids: chosen ones first.
func fitting(kind string, with []int64, instruments []rack.Racked) (list []*instrument.Instrument, ids []int64) {
	k, known := kinds.All.Find(kind)
	if !known {
		return nil, nil
	}
	first, rest := chosen(with, instruments)
	all := append(first, rest...)
	candidates := make([]*instrument.Instrument, len(all))
	for i, one := range all {
		candidates[i] = one.Instrument
	}
	for _, i := range kinds.Fit(k, candidates, len(first)) {
		list, ids = append(list, all[i].Instrument), append(ids, all[i].ID)
	}
	return list, ids
}

// chosen parts the readable instruments of a Rack into those with the ids and the others.
func chosen(ids []int64, instruments []rack.Racked) (first, rest []rack.Racked) {
	for _, k := range instruments {
		switch {
		case k.Instrument == nil:
		case slices.Contains(ids, k.ID):
			first = append(first, k)
		default:
			rest = append(rest, k)
		}
	}
	return first, rest
}

// inherit has the blocks that took the instruments chosen before take those chosen now.
func (c *composed) inherit(was []int64, instruments []rack.Racked) {
	if slices.Equal(was, c.with) {
		return
	}
	for i := range c.Definition.Blocks {
		b := &c.Definition.Blocks[i]
		if _, before := fitting(b.Kind, was, instruments); slices.Equal(before, c.Racked[i]) &&
			len(b.Instruments) == len(before) {
			b.Instruments, c.Racked[i] = fitting(b.Kind, c.with, instruments)
		}
	}
}

func (h Handler) composer(w http.ResponseWriter, r *http.Request) error {
	instruments, err := h.School.Rack.Rack(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	c := composed{Sheet: rack.Sheet{Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing, Effort: 1,
		Delivery: exercise.Delivery{Help: exercise.HelpWorked}}}}
	if chi.URLParam(r, "sheet") != "" {
		if c.Sheet, err = h.named(r); err != nil {
			return err
		}
		c.open = -1
		if len(c.Definition.Blocks) == 1 {
			c.open = 0
		}
		for _, ids := range c.Racked {
			for _, id := range ids {
				if !slices.Contains(c.with, id) {
					c.with = append(c.with, id)
				}
			}
		}
		slices.Sort(c.with)
	} else {
		var b exercise.Block
		var ids []int64
		b, ids, c.with = firstBlock(instruments)
		c.Definition.Blocks, c.Racked = []exercise.Block{b}, [][]int64{ids}
	}
	q := r.URL.Query()
	return h.compose(w, r, c, instruments, composerView{Saved: q.Has("kept"), Restored: q.Has("restored"), Seed: 1,
		Stamp: c.Stamp})
}

// firstBlock returns the block of a new sheet, ten cards on the instrument that was used last, with the ids of its
// instruments and of those that are chosen for further blocks.
func firstBlock(instruments []rack.Racked) (b exercise.Block, ids, with []int64) {
	if _, rest := chosen(nil, instruments); len(rest) > 0 {
		with = []int64{rest[0].ID}
	}
	b, ids = newBlock(kinds.All[0].Name(), with, instruments)
	b.Cards = 10
	return b, ids, with
}

// untouched reports whether a new sheet still has its first block alone, unchanged. Its title does not matter.
func (c *composed) untouched(instruments []rack.Racked) bool {
	if c.ID != 0 || len(c.Definition.Blocks) != 1 {
		return false
	}
	b, ids, _ := firstBlock(instruments)
	now := c.Definition.Blocks[0]
	changed := func(s exercise.Setting) bool { return now.Get(s) != b.Get(s) }
	return !slices.ContainsFunc(kinds.All[0].Settings(), changed) && now.Kind == b.Kind && now.Cards == b.Cards &&
		len(now.Marks)+len(now.Bank) == 0 && slices.Equal(c.Racked[0], ids)
}

// named finds the sheet that the address names.
func (h Handler) named(r *http.Request) (rack.Sheet, error) {
	n, err := ui.ID(r, "sheet")
	if err != nil {
		return rack.Sheet{}, err
	}
	sh, err := h.School.Rack.Sheet(r.Context(), ui.UserOf(r).ID, n)
	if err == nil && sh.Err != nil {
		h.Log.Error("a sheet cannot be read", "err", sh.Err)
		err = school.ErrNotFound
	}
	return sh, err
}

// composerPost does what is asked of the sheet as the form stands, shows it, and keeps it when it is asked to.
func (h Handler) composerPost(w http.ResponseWriter, r *http.Request, f composerForm) error {
	owner := ui.UserOf(r).ID
	var kept rack.Sheet
	if chi.URLParam(r, "sheet") != "" {
		var err error
		if kept, err = h.named(r); err != nil {
			return err
		}
	}
	instruments, err := h.School.Rack.Rack(r.Context(), owner)
	if err != nil {
		return err
	}
	var bad ui.Faults
	c := f.sheet(kept, instruments, &bad)
	c.inherit(splitIDs(f.WasWith), instruments)
	if err := c.do(ui.Said(r), f.Do, instruments); err != nil {
		return err
	}
	if err := h.School.Rack.FillBanks(r.Context(), owner, &c.Definition); err != nil {
		return err
	}
	if err := bad.Take("", c.Definition.Check(kinds.All)); err != nil {
		return err
	}
	v := composerView{Seed: max(1, f.Seed), Stamp: f.Stamp}
	if f.Do == "keep" || f.Do == "overwrite" || f.Do == "another" {
		bad.Name("title", c.Title)
		if len(bad.Refusal) == 0 {
			n, err := h.keepSheet(r, f, c.Sheet)
			if !errors.Is(err, rack.ErrChangedMeanwhile) {
				return h.Redirect(w, r, fmt.Sprintf("/sheets/%d?kept", n), text.Text{}, err)
			}
			v.Clash = &sheetClash{Title: kept.Title, Blocks: blocksOf(kept.Definition), Mine: blocksOf(c.Definition)}
		}
	}
	v.Errors = bad.By()
	switch f.Do {
	case "others":
		v.Seed = v.Seed%maxSeed + 1
	case "before":
		v.Seed = max(1, v.Seed-1)
	}
	return h.compose(w, r, c, instruments, v)
}

// keepSheet keeps a sheet: in place of the one that is changed, or beside it.
func (h Handler) keepSheet(r *http.Request, f composerForm, sh rack.Sheet) (int64, error) {
	owner := ui.UserOf(r).ID
	if f.Do == "another" {
		sh.ID = 0
	}
	if sh.ID == 0 || f.Do == "overwrite" {
		return h.School.Rack.KeepSheet(r.Context(), owner, sh)
	}
	return sh.ID, h.School.Rack.ReplaceSheet(r.Context(), owner, sh, f.Stamp)
}

// maxSeed is the last of the made-up students that a preview shows.
const maxSeed = 999

// sheet reads the form.
func (f composerForm) sheet(kept rack.Sheet, instruments []rack.Racked, bad *ui.Faults) composed {
	c := composed{Sheet: rack.Sheet{ID: kept.ID, Title: ui.OneLine(f.Title)}, open: f.Open, with: f.With}
	slices.Sort(c.with)
	d := &c.Definition
	d.Dealer, d.Effort = exercise.Dealing, min(max(f.Effort, 0), exercise.MaxEffort)
	d.Method, d.HintCost = f.Method.Method(bad), bad.Whole("hint_cost", f.HintCost)
	d.Delivery = f.conduct(instruments, bad)
	for _, b := range f.Blocks[:min(len(f.Blocks), exercise.MaxBlocks)] {
		block, ids := b.block(fmt.Sprintf("blocks.%d", len(d.Blocks)), instruments, bad)
		d.Blocks, c.Racked = append(d.Blocks, block), append(c.Racked, ids)
	}
	return c
}

// conduct reads how the sheet is taken.
func (f composerForm) conduct(instruments []rack.Racked, bad *ui.Faults) exercise.Delivery {
	c := exercise.Delivery{
		Task:     strings.TrimSpace(strings.ReplaceAll(f.Task, "\r\n", "\n")),
		Mode:     exercise.Mode(f.Mode),
		Help:     exercise.Help(f.Help),
		Attempts: bad.Whole("attempts", f.Attempts),
		Counts:   exercise.Counts(f.Counts),
		Shuffled: f.Shuffled,
		Minutes:  bad.Whole("minutes", f.Minutes),
		Late:     f.Late,
		Spoken:   f.Spoken,
		Undo:     f.Undo && f.Mode != string(exercise.Test),
		Release:  exercise.Release(f.Release),
		Aids:     exercise.Aids(f.Aids),
		Figures:  exercise.Figures(f.Figures),
		Words:    words.Base(f.Words),
	}
	if c.Attempts == 1 {
		c.Attempts = 0
	}
	for _, k := range instruments {
		if k.ID == f.Picture {
			c.Picture = k.Instrument
		}
	}
	if f.Picture < 0 && f.OwnShown != "" {
		in, err := instrument.Parse([]byte(f.OwnShown))
		if err == nil {
			c.Picture = in
		}
	}
	return c
}

// block reads one block of the form. Settings of another kind, left from before it was changed, are
// passed over.
func (b blockForm) block(path string, instruments []rack.Racked, bad *ui.Faults) (exercise.Block, []int64) {
	out := exercise.Block{Kind: b.Kind, Cards: bad.Whole(path+".cards", b.Cards), Settings: map[string]string{}}
	var ids []int64
	for _, k := range instruments {
		if k.Instrument != nil && slices.Contains(b.Instruments, k.ID) {
			out.Instruments, ids = append(out.Instruments, k.Instrument), append(ids, k.ID)
		}
	}
	out.Instruments = append(out.Instruments, b.own(path, bad)...)
	kind, known := kinds.All.Find(b.Kind)
	if !known {
		return out, ids
	}
	for _, s := range kind.Settings() {
		if typed, ok := b.Settings[s.Name]; ok {
			out.Settings[s.Name] = ui.Clip(ui.OneLine(strings.Join(typed, " ")), 400)
		}
		for _, c := range s.Choices {
			says := strings.TrimSpace(b.Marks[c.Value])
			if s.Input != exercise.AnyOf || says == "" || says == "1" {
				continue
			}
			if out.Marks == nil {
				out.Marks = map[string]int{}
			}
			out.Marks[c.Value] = bad.Whole(path+".marks."+c.Value, says)
		}
	}
	return out, ids
}

// maxOwn is the most instruments beside those of the Rack that a block holds.
const maxOwn = 12

// own reads the block's instruments that are not on the Rack.
func (b blockForm) own(path string, bad *ui.Faults) (out []*instrument.Instrument) {
	if b.Own == "" {
		return nil
	}
	var docs []json.RawMessage
	if err := json.Unmarshal([]byte(b.Own), &docs); err != nil || len(docs) > maxOwn {
		bad.Add(path+".instruments", "author.composer.own")
		return nil
	}
	for _, doc := range docs {
		in, err := instrument.Parse(doc)
		if err != nil {
			bad.Add(path+".instruments", "author.composer.own")
			return nil
		}
		out = append(out, in)
	}
	return out
}

// do changes the sheet's blocks: "up.2" moves the third up, and so on.
func (c *composed) do(say *text.Printer, what string, instruments []rack.Racked) error {
	verb, of, _ := strings.Cut(what, ".")
	d := &c.Definition
	n, _ := strconv.Atoi(of)
	has := n >= 0 && n < len(d.Blocks) && of != ""
	room := len(d.Blocks) < exercise.MaxBlocks
	switch {
	case verb == "better":
		d.Effort = min(d.Effort+1, exercise.MaxEffort)
	case verb == "add" && room:
		b, ids := newBlock(of, c.with, instruments)
		c.put(len(d.Blocks), b, ids)
		c.open = len(d.Blocks) - 1
	case verb == "ready":
		return c.ready(say, of, instruments)
	case verb == "drop" && has:
		d.Blocks, c.Racked = slices.Delete(d.Blocks, n, n+1), slices.Delete(c.Racked, n, n+1)
		c.open = -1
	case verb == "copy" && has && room:
		c.put(n+1, d.Blocks[n], c.Racked[n])
		c.open = n + 1
	case verb == "up" && has && n > 0:
		c.swap(n, n-1)
	case verb == "down" && has && n+1 < len(d.Blocks):
		c.swap(n, n+1)
	}
	if verb == "up" || verb == "down" {
		c.focus = fmt.Sprintf("%s-%d", verb, c.open+1)
	}
	return nil
}

func (c *composed) put(at int, b exercise.Block, ids []int64) {
	c.Definition.Blocks = slices.Insert(c.Definition.Blocks, at, b)
	c.Racked = slices.Insert(c.Racked, at, slices.Clone(ids))
}

// swap exchanges two blocks; the one that is moved stays in hand.
func (c *composed) swap(n, with int) {
	b := c.Definition.Blocks
	b[n], b[with] = b[with], b[n]
	c.Racked[n], c.Racked[with] = c.Racked[with], c.Racked[n]
	c.open = with
}

// ready adds a ready sheet's blocks; a sheet that is still as it was begun becomes the ready one.
func (c *composed) ready(say *text.Printer, name string, kept []rack.Racked) error {
	at := slices.IndexFunc(kinds.ReadySheets, func(r kinds.Ready) bool { return r.Name == name })
	if at < 0 {
		return ui.Unread(refusal.New("do", "author.composer.ready"))
	}
	ready := kinds.ReadySheets[at]
	first, rest := chosen(c.with, kept)
	from := append(first, rest...)
	instruments := make([]*instrument.Instrument, len(from))
	for i, k := range from {
		instruments[i] = k.Instrument
	}
	sheet, took, err := ready.Compose(instruments)
	if err != nil {
		return err
	}
	for _, b := range sheet.Blocks {
		for i, in := range b.Instruments {
			if slices.Contains(instruments, in) {
				continue
			}
			spec := in.Spec() // a ready one, which gets a name that its composer can read
			spec.Name = say.Print(instrument.PatternTitle(spec.Name))
			if b.Instruments[i], err = instrument.New(spec); err != nil {
				return err
			}
		}
	}
	if c.untouched(kept) {
		c.Definition.Blocks, c.Racked = nil, nil
	}
	if c.Title == "" {
		c.Title = say.Print(ready.Title)
	}
	for i, b := range sheet.Blocks[:min(len(sheet.Blocks), exercise.MaxBlocks-len(c.Definition.Blocks))] {
		var ids []int64
		for _, k := range took[i] {
			ids = append(ids, from[k].ID)
		}
		c.put(len(c.Definition.Blocks), b, ids)
	}
	c.open = -1
	return nil
}
