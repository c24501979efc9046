package author

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/web/ui"
)

// composerView is printed by the composer.
type composerView struct {
	Action    string
	Kept      int64 // id; 0 for a new sheet
	Saved     bool
	Restored  bool
	Earlier   int    // earlier states that can be brought back
	Stamp     string // of the state that the form was opened with
	Clash     *sheetClash
	With      []instrumentChoice // the instruments that new blocks take
	WithNames string
	WasWith   string
	Title     string
	Sum       text.Text // cards and marks
	Told      text.Text // how it is taken, in a line
	Errors    map[string]text.Text
	Classes   []roster.Class
	Blocks    []blockView
	Kinds     []ui.OptionView
	Ready     []kinds.Ready
	Focus     string // id of what is to have the focus
	Conduct   conductView

	Tells tellsView
	Cards []previewCard
	Seed  int // of the preview
}

// conductView shows the delivery of a sheet.
type conductView struct {
	exercise.Delivery
	Choices  map[string][]ui.OptionView
	HintCost []ui.OptionView
	Method   ui.MethodView
	Pictures []ui.OptionView
	OwnShown string // the document of a picture that is not on the Rack
	Drawing  template.HTML
	Prose    template.HTML
	Attempts string
	Minutes  string
}

// dearestHint is the most that a step of help may cost, in half marks.
const dearestHint = 4

// hintCost says what a step of help costs, given in half marks.
func hintCost(halves int) text.Text { return text.New(fmt.Sprintf("hint-cost.%d", halves)) }

// compose prints the composer with what the sheet can tell, and real cards.
func (h Handler) compose(
	w http.ResponseWriter,
	r *http.Request,
	c composed,
	rack []rack.Racked,
	v composerView,
) error {
	d := c.Definition
	v.Kept, v.Action, v.Title, v.Ready, v.Focus = c.ID, "/sheets/new", c.Title, kinds.ReadySheets, c.focus
	for _, k := range kinds.All {
		v.Kinds = append(v.Kinds, ui.OptionView{Value: k.Name(), Text: k.Title()})
	}
	var err error
	if v.Conduct, err = newConductView(ui.Said(r), d, rack, v.Errors); err != nil {
		return err
	}
	var items []exercise.Item
	if d.Check(kinds.All) == nil {
		dealt, err := h.deals.deal(d, ui.TrySeed(v.Seed))
		if err != nil {
			return err
		}
		items = dealt.items
		if err := v.show(ui.Said(r), d, dealt); err != nil {
			return err
		}
	}
	v.blocks(c, rack, items)
	v.with(c.with, rack)
	if v.Kept != 0 {
		earlier, err := h.School.Rack.EarlierSheets(r.Context(), ui.UserOf(r).ID, v.Kept)
		if err != nil {
			return err
		}
		v.Earlier = len(earlier)
		v.Action = fmt.Sprintf("/sheets/%d", v.Kept)
		if v.Classes, err = h.School.Roster.Classes(r.Context(), ui.UserOf(r).ID); err != nil {
			return err
		}
	}
	title := text.Typed(v.Title)
	if v.Title == "" {
		title = text.New("author.composerview.compose")
	}
	status := ui.Status(v.Errors)
	if v.Clash != nil {
		status = http.StatusConflict
	}
	return h.Render(w, r, status, "sheet", title, v)
}

// sheetClash is a sheet as it is kept where it was changed in another window.
type sheetClash struct {
	Title        string
	Blocks, Mine []text.Text // what each block asks
}

// with lists the instruments to choose from for new blocks.
func (v *composerView) with(ids []int64, rack []rack.Racked) {
	var names []string
	for _, k := range rack {
		if in := k.Instrument; in != nil {
			on := slices.Contains(ids, k.ID)
			if on {
				names = append(names, in.Name())
			}
			v.With = append(v.With, newInstrumentChoice(k, on))
		}
	}
	v.WithNames, v.WasWith = strings.Join(names, ", "), joinIDs(ids)
}

// newConductView fills in how the sheet is taken.
func newConductView(say *text.Printer, d exercise.Sheet, rack []rack.Racked, errs map[string]text.Text) (conductView,
	error) {
	v := conductView{
		Delivery: d.Delivery,
		Method:   ui.MethodOf(d.Method, true, errs),
		Choices:  map[string][]ui.OptionView{},
		Prose:    ui.Markdown(d.Task),
		Attempts: strconv.Itoa(d.Tries()),
	}
	if d.Minutes != 0 {
		v.Minutes = strconv.Itoa(d.Minutes)
	}
	for i := range dearestHint + 1 {
		v.HintCost = append(v.HintCost, ui.OptionView{Value: strconv.Itoa(i), Text: hintCost(i), On: i == d.HintCost})
	}
	now := map[string]string{
		"mode":    string(d.Mode),
		"help":    string(d.Help),
		"counts":  string(d.Counts),
		"release": string(d.Release),
		"aids":    string(d.Aids),
		"figures": string(d.Figures),
		"words":   string(d.Words),
	}
	for field, choices := range exercise.ConductChoices {
		for _, c := range choices {
			v.Choices[field] = append(
				v.Choices[field],
				ui.OptionView{Value: c.Value, Text: c.Words, On: c.Value == now[field]},
			)
		}
	}
	if d.Help == exercise.HelpAsBefore {
		v.Choices["help"] = append(
			[]ui.OptionView{{Value: "", Text: text.New("author.composerview.as-before-every-hint"), On: true}},
			v.Choices["help"]...)
	}
	own := d.Picture != nil
	v.Pictures = []ui.OptionView{{Value: "0", Text: text.New("word.none")}}
	for _, k := range rack {
		if k.Instrument == nil {
			continue
		}
		on := d.Picture != nil && own && d.Picture.Name() == k.Name
		own = own && !on
		v.Pictures = append(v.Pictures, ui.OptionView{Value: strconv.FormatInt(k.ID, 10), Text: text.Typed(k.Name),
			On: on})
	}
	if own {
		doc, err := json.Marshal(d.Picture)
		if err != nil {
			return v, err
		}
		v.OwnShown = string(doc)
		v.Pictures = append(
			v.Pictures,
			ui.OptionView{Value: "-1", Text: text.New("author.composerview.new-conduct-view.not-rack", "picture",
				d.Picture.Name()), On: true},
		)
	}
	var err error
	v.Drawing, err = ui.Picture(d.Picture, say)
	return v, err
}

// toldOf says in a line how a sheet is taken.
func toldOf(d exercise.Sheet) text.Text {
	says := []text.Text{text.New("word.practice"), text.New("author.composerview.told-of")}
	if d.Mode == exercise.Test {
		says = []text.Text{text.New("word.test"), text.New("author.composerview.told-end")}
		if d.Release == exercise.ReleaseHand {
			says[1] = text.New("author.composerview.told-when-release")
		}
	} else if d.Help != exercise.HelpNone && d.HintCost > 0 && d.HintCost <= dearestHint {
		says = append(says, text.New("author.composerview.help-costs", "hint_costs", hintCost(d.HintCost)))
	}
	if d.Undo {
		says = append(says, text.New("author.composerview.check-can-undone-once"))
	}
	if d.Spoken {
		says = append(says, text.New("author.composerview.figures-in-words"))
	}
	if d.Minutes > 0 {
		says = append(says, text.New("count.minutes", "n", d.Minutes))
	}
	if d.Tries() > 1 {
		says = append(says, text.New("count.attempts", "n", d.Tries()))
	}
	return text.Row(says...)
}
