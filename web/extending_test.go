package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/figure"
	"cavix/school"
	"cavix/school/rack"
)

// staff is a chain of scales that the program does not know: a staff at the mill pond with marks 5 mm apart, read by a
// ring of lines that goes round once from mark to mark.
type staff struct{}

func (staff) Traits() instrument.Traits {
	return instrument.Traits{HasMarks: true, HasLines: true, AtIndex: true, GoesRound: true}
}
func (staff) Complete(s *instrument.Spec) { s.Fine.NumberEvery, s.Fine.NumberStep = 1, 1 }

func (staff) Divide(s *instrument.Spec, divided bool, bad *refusal.Refusal) (instrument.Division, bool) {
	n := s.Fine.Divisions
	if n < 2 || n > 50 {
		bad.Put("fine.divisions", text.Typed(fmt.Sprintf("a ring has 2 to 50 lines; it is %d", n)))
		return instrument.Division{Interval: s.Main.Division, Lines: 1, Finer: 1}, false
	}
	return instrument.Division{Interval: s.Main.Division, Lines: n, Finer: 1}, divided
}

func (staff) Describe(i *instrument.Instrument) text.Text {
	return text.Typed(fmt.Sprintf("staff of %s %s · ring of %d", i.FormatMain(i.Spec().Main.Division), i.Unit(),
		i.Lines()))
}

func (staff) Derivation(i *instrument.Instrument) []text.Text {
	return []text.Text{text.Typed(fmt.Sprintf("the ring goes round once from mark to mark: %s ÷ %d",
		i.FormatMain(i.ScaleInterval()), i.Lines()))}
}

func (staff) Finding(*instrument.Instrument) instrument.Finding { return instrument.Finding{} }

func (staff) LeastCountWorking(i *instrument.Instrument) text.Text {
	return text.Typed(fmt.Sprintf("%s ÷ %d", i.FormatMain(i.ScaleInterval()), i.Lines()))
}

func (staff) ZeroStory(*instrument.Instrument, instrument.Reading) text.Text {
	return text.Typed("The ring's notch stands at 0.")
}
func (staff) MarkStands(v instrument.View) text.Text {
	return text.Typed("The float has passed " + string(v.Mark))
}
func (staff) LineStands(v instrument.View) text.Text {
	return text.Typed("The ring's notch stands at line " + string(v.Line))
}
func (staff) Where(instrument.View) text.Text {
	return text.Typed("The last mark that the float has passed counts.")
}
func (staff) FindLine() text.Text { return text.Typed("Then the line at the notch.") }
func (staff) NumbersRun(*instrument.Instrument) text.Text {
	return text.Typed("round the ring")
}
func (staff) Parts() []instrument.Part { return nil }
func (staff) Index() text.Term         { return "index" }
func (staff) Term() string             { return "face" }
func (staff) MarksAt() text.Text       { return text.Typed("the float") }
func (staff) LinesAt() text.Text       { return text.Typed("the notch") }
func (staff) Usuals(length.Unit) []instrument.Usual {
	return []instrument.Usual{{Division: length.Int(5), Lines: []int{10}}}
}
func (staff) Limits() instrument.Limits {
	return instrument.Limits{Lines: 50, Text: text.Typed("a ring has 2 to 50 lines")}
}

func (staff) Propose(w *instrument.Wanted, u instrument.Usual) {
	if n, whole := u.Division.Quo(w.LeastCount).Int64(); whole {
		w.Offer(instrument.Main{Division: u.Division}, instrument.Fine{Divisions: int(n)}, instrument.ThimbleVernier{},
			text.Text{}, instrument.Rank{})
	}
}

// staffDrawing is how it is drawn: what is read, as two numbers beside a stroke, on a board without a lens.
type staffDrawing struct {
	in *instrument.Instrument
	y  length.Number
}

func (d staffDrawing) Scene(figure.Options) *figure.Scene {
	r, _ := d.in.Read(d.y) // it was read before it was laid out
	return &figure.Scene{Width: figure.Narrow, Height: 300, Label: "A staff at the mill pond.", Items: []figure.Item{
		figure.Line{Class: "staff", X1: 400, Y1: 20, X2: 400, Y2: 280, Stroke: "#172026", Width: 2},
		figure.Text{X: 380, Y: 150, Size: 16, Anchor: "end", Fill: "#172026", S: d.in.FormatMain(r.Main)},
		figure.Text{X: 420, Y: 150, Size: 16, Fill: "#172026", S: fmt.Sprint(r.Line)},
	}}
}
func (staffDrawing) Strengths() [3]int              { return [3]int{} }
func (staffDrawing) LensOn(zoom, _ int) figure.Lens { return figure.Lens{Zoom: zoom} }
func (staffDrawing) Strip(figure.Lens, figure.Options) *figure.Scene {
	return &figure.Scene{Width: figure.Narrow}
}
func (d staffDrawing) Whole(figure.Options) *figure.Scene {
	return &figure.Scene{Width: 300, Height: 86}
}
func (staffDrawing) Track() figure.Track         { return figure.Track{Kind: "x"} }
func (staffDrawing) Band() (top, bottom float64) { return 100, 200 }
func (staffDrawing) Motion() figure.Motion       { return figure.Still() }

// addStaff makes the program know a family of staffs until the end of the test, which must not run beside others.
func addStaff(t *testing.T) {
	t.Helper()
	const family = instrument.Family("pond-staff")
	before := instrument.Families
	spec := instrument.Spec{Name: "Pond staff", Family: family, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(5), To: length.Int(300), NumberEvery: 10},
		Fine: instrument.Fine{Kind: instrument.Dial, Divisions: 10}}
	instrument.Families = append(before[:len(before):len(before)], instrument.Definition{Family: family,
		Name: text.Typed("Pond staff"), Fine: instrument.Dial, Scale: staff{},
		Patterns: func() []instrument.Spec { return []instrument.Spec{spec} }, Usual: spec.Name,
		Measures: []instrument.Feature{instrument.Depth}, Reach: 300})
	figure.Layouts[family] = func(in *instrument.Instrument, y length.Number,
		_ float64) figure.Drawing {
		return staffDrawing{in, y}
	}
	t.Cleanup(func() {
		instrument.Families = before
		delete(figure.Layouts, family)
	})
}

// A family that no other file knows is built in the Workshop, dealt on a card, marked, spoken of in its own words,
// printed and practised.
func TestANewFamilyIsKnownEverywhere(t *testing.T) {
	addStaff(t)
	base, s := demoStore(t)
	maren, wren, room := as(t, base, "maren"), as(t, base, "Wren A."), school.New(s)

	// In the Workshop: chosen, proposed for a least count, refused in its own words, kept.
	_, _, page := maren.get("/workshop?family=pond-staff")
	holdAll(t, page, "staff of 5 mm · ring of 10", "the ring goes round once from mark to mark: 5 ÷ 10",
		`class="staff"`, "notch stands at 0")
	fields := url.Values{"family": {"pond-staff"}, "was_family": {"pond-staff"}, "unit": {"mm"}, "name": {"Pond staff"},
		"main.division": {"5"}, "main.from": {"0"}, "main.to": {"300"}, "main.number_every": {"10"},
		"fine.divisions": {"10"},
		"zero_error":     {"0"}, "base": {"0"}, "want": {"0.2"}, "do": {"ways"}}
	_, _, page = maren.post("/workshop", fields.Encode())
	holds(t, page, "ring of 25")
	fields.Set("fine.divisions", "70")
	_, _, page = maren.post("/workshop", fields.Encode())
	holds(t, page, "a ring has 2 to 50 lines; it is 70")
	fields.Set("fine.divisions", "10")
	fields.Set("do", "keep")
	_, at, _ := maren.post("/workshop", fields.Encode())
	require.Regexp(t, `^/workshop/\d+$`, at)

	// On a card of a sheet: drawn, marked, and what went wrong told in its words.
	spec, _ := instrument.Family("pond-staff").Usual()
	in, err := instrument.New(spec)
	require.NoError(t, err)
	id, err := room.Rack.KeepSheet(t.Context(), 1,
		rack.Sheet{Title: "Pond", Definition: exercise.Sheet{Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 4, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{"ask": "main fine_line observed", "zero": "none"}}}}})
	require.NoError(t, err)
	given, err := room.Sitting.Give(t.Context(), 1, 1, id, 7, time.Now())
	require.NoError(t, err)
	card := fmt.Sprintf("/my/%d/1", given)
	_, _, page = wren.get(card)
	holdAll(t, page, `class="staff"`, "Pond staff")
	c, err := room.Sitting.CardOf(t.Context(), 1, given, 1, 0, 1)
	require.NoError(t, err)
	it := c.Item.(*kinds.Reading)
	r, err := in.Read(*it.Indicated)
	require.NoError(t, err)
	_, _, page = wren.post(card, url.Values{"main": {in.FormatMain(r.Main.Add(in.ScaleInterval()))},
		"fine_line": {fmt.Sprint((r.Line + 1) % 10)}, "observed": {in.Format(r.Observed)}}.Encode())
	holds(t, page, "The float has passed "+in.FormatMain(r.Main))

	// On paper and in practice.
	paper := fmt.Sprintf("/ledger/%d/paper", given)
	_, _, page = maren.get(paper + "/one")
	holds(t, page, `class="staff"`)
	_, _, _ = maren.post(paper, "per=all")
	assert.True(t, bytes.HasPrefix(maren.file(paper+"/1"), []byte("%PDF")), "a version is printed")
	_, _, _ = wren.post("/practice/families", "families=pond-staff")
	_, _, page = wren.get("/practice/next")
	holdAll(t, page, `class="staff"`, "Pond staff")
}

// sighting is a kind that the program does not know: it asks what the last kind of the list asks that needs one
// instrument, under a name of its own.
type sighting struct{ exercise.Kind }

func (sighting) Name() string           { return "sighting" }
func (sighting) Title() text.Text       { return text.Typed("Sight the float") }
func (sighting) Slips() []exercise.Slip { return nil }

func (k sighting) Decode(body json.RawMessage) (exercise.Item, error) {
	it, err := k.Kind.Decode(body)
	return sighted{it}, err
}

func (k sighting) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	it, err := k.Kind.Deal(b, d)
	return sighted{it}, err
}

type sighted struct{ exercise.Item }

func (sighted) Kind() string                   { return "sighting" }
func (s sighted) MarshalJSON() ([]byte, error) { return json.Marshal(s.Item) }

// A kind that no other file knows is composed, dealt, marked, explained, printed and counted.
func TestANewKindIsKnownEverywhere(t *testing.T) {
	before := kinds.All
	i := slices.IndexFunc(before, func(k exercise.Kind) bool { return k.Name() == "choose" })
	kinds.All = append(before[:len(before):len(before)], sighting{before[i]})
	t.Cleanup(func() { kinds.All = before })
	base, s := demoStore(t)
	maren, wren, room := as(t, base, "maren"), as(t, base, "Wren A."), school.New(s)

	_, _, page := maren.get("/sheets/new")
	holds(t, page, "Sight the float")
	_, _, page = maren.post("/sheets/new", "do=add.sighting&title=Float")
	holds(t, page, `value="sighting"`)

	spec, _ := instrument.PatternNamed("Caliper 0.05 mm, 20 over 39")
	in, err := instrument.New(spec)
	require.NoError(t, err)
	id, err := room.Rack.KeepSheet(t.Context(), 1,
		rack.Sheet{Title: "Float", Definition: exercise.Sheet{Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "sighting", Cards: 2, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{}}}}})
	require.NoError(t, err)
	given, err := room.Sitting.Give(t.Context(), 1, 1, id, 7, time.Now())
	require.NoError(t, err)
	card := fmt.Sprintf("/my/%d/1", given)
	_, _, page = wren.get(card)
	holds(t, page, "<svg")
	c, err := room.Sitting.CardOf(t.Context(), 1, given, 1, 0, 1)
	require.NoError(t, err)
	require.Equal(t, "sighting", c.Item.Kind())
	told, err := c.Item.Predictions()
	require.NoError(t, err)
	require.NotEmpty(t, told)
	_, _, page = wren.post(card, url.Values{told[0].Field: {in.Format(told[0].Value)}}.Encode())
	holdAll(t, page, "wrong", in.Format(told[0].Value))
	_, _, page = maren.get(fmt.Sprintf("/ledger/%d", given))
	holds(t, page, "Wren A.")
	_, _, page = maren.get(fmt.Sprintf("/ledger/%d/paper/one", given))
	holds(t, page, "<svg")
}
