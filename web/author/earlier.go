package author

import (
	"fmt"
	"net/http"
	"strconv"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/rack"
	"cavix/web/ui"
)

// earlierView lists the earlier states of an instrument or a sheet.
type earlierView struct {
	Name, Href string // of what it is now
	Action     string
	States     []earlierState
}

// earlierState is one of them.
type earlierState struct {
	ID             int64
	Name           string
	Made           []text.Text
	Kept, Replaced time.Time
	Unread         bool
}

// earlierInstruments lists the earlier states of an instrument.
func (h Handler) earlierInstruments(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	list, err := h.School.Rack.EarlierInstruments(r.Context(), ui.UserOf(r).ID, k.ID)
	if err != nil {
		return err
	}
	v := earlierView{Name: k.Name, Href: fmt.Sprintf("/workshop/%d", k.ID), Action: fmt.Sprintf("/rack/%d/earlier",
		k.ID)}
	for _, e := range list {
		state := earlierState{ID: e.ID, Name: e.Name, Kept: e.Changed, Replaced: e.Replaced, Unread: e.Err != nil}
		if e.Err == nil {
			row := newRacked(e.Racked)
			state.Made = []text.Text{text.New("author.earlier.earlier-instruments", "least_count", row.LeastCount),
				row.Made, text.Numbers(row.Range), row.Zero}
		}
		v.States = append(v.States, state)
	}
	return h.Render(w, r, http.StatusOK, "earlier", text.New("author.earlier.earlier-states", "name", k.Name), v)
}

// restoreInstrument brings one of them back.
func (h Handler) restoreInstrument(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	state, _ := strconv.ParseInt(r.PostFormValue("state"), 10, 64)
	return h.Redirect(w, r, fmt.Sprintf("/workshop/%d?restored", k.ID), text.Text{},
		h.School.Rack.RestoreInstrument(r.Context(), ui.UserOf(r).ID, k.ID, state))
}

// makeAlikeForm is the form of makeAlike.
type makeAlikeForm struct {
	Count string `form:"count"`
	Zeros string `form:"zeros"`
}

// makeAlike adds several instruments like one to the Rack.
func (h Handler) makeAlike(w http.ResponseWriter, r *http.Request, f makeAlikeForm) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	var bad ui.Faults
	count := bad.Whole("count", f.Count)
	if count < 1 || count > rack.MostAlike {
		return h.Render(w, r, http.StatusUnprocessableEntity, "error", text.New("author.earlier.make-alike"),
			ui.ErrorView{Title: text.New("author.earlier.make-alike.title"),
				Text: text.New("author.earlier.number-instruments-from-1", "most_alike", rack.MostAlike)})
	}
	return h.Redirect(w, r, "/rack?order=newest", text.Text{}, h.School.Rack.MakeAlike(r.Context(), ui.UserOf(r).ID,
		k.ID, count, f.Zeros != ""))
}

// earlierSheets lists the earlier states of a sheet.
func (h Handler) earlierSheets(w http.ResponseWriter, r *http.Request) error {
	sh, err := h.named(r)
	if err != nil {
		return err
	}
	list, err := h.School.Rack.EarlierSheets(r.Context(), ui.UserOf(r).ID, sh.ID)
	if err != nil {
		return err
	}
	v := earlierView{Name: sh.Title, Href: fmt.Sprintf("/sheets/%d", sh.ID), Action: fmt.Sprintf("/sheets/%d/earlier",
		sh.ID)}
	for _, e := range list {
		v.States = append(v.States, earlierState{ID: e.ID, Name: e.Title, Kept: e.Changed, Replaced: e.Replaced,
			Unread: e.Err != nil, Made: blocksOf(e.Definition)})
	}
	return h.Render(w, r, http.StatusOK, "earlier", text.New("author.earlier.earlier-sheets", "title", sh.Title), v)
}

// restoreSheet brings one of them back.
func (h Handler) restoreSheet(w http.ResponseWriter, r *http.Request) error {
	sh, err := h.named(r)
	if err != nil {
		return err
	}
	state, _ := strconv.ParseInt(r.PostFormValue("state"), 10, 64)
	return h.Redirect(w, r, fmt.Sprintf("/sheets/%d?restored", sh.ID), text.Text{},
		h.School.Rack.RestoreSheet(r.Context(), ui.UserOf(r).ID, sh.ID, state))
}

// titleOf returns the title of a kind of exercise.
func titleOf(kind string) text.Text {
	if k, known := kinds.All.Find(kind); known {
		return k.Title()
	}
	return text.Typed(kind)
}

// blocksOf says what each block of a sheet asks, a line each.
func blocksOf(d exercise.Sheet) (out []text.Text) {
	for i := range d.Blocks {
		b := &d.Blocks[i]
		var names []text.Text
		for _, in := range b.Instruments {
			names = append(names, text.Typed(in.Name()))
		}
		line := text.List(titleOf(b.Kind), text.New("count.cards", "n", b.Cards))
		if names != nil {
			line = text.New("author.earlier.block", "asks", line, "instruments", text.List(names...))
		}
		out = append(out, line)
	}
	return out
}
