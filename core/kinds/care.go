package kinds

import (
	_ "embed" // the bank
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// care asks what to do before, during and after measuring: steps to bring in order, a wrong statement to spot,
// what comes next.
type care struct{}

func (care) Name() string           { return "care" }
func (care) Title() text.Text       { return text.New("care.title") }
func (care) Slips() []exercise.Slip { return nil }

// Bare says that its cards show no instrument.
func (care) Bare() {}

const (
	fieldOrder = "order"
	careOrder  = "order"
	careSpot   = "spot"
	careNext   = "next"
)

// bankText holds the items that come with the program.
//
//go:embed care.json
var bankText []byte

// Bank lists the items of care that come with the program.
var Bank = sync.OnceValue(func() []Care {
	var out []Care
	if err := json.Unmarshal(bankText, &out); err != nil {
		panic("the bank of care cannot be read: " + err.Error()) // it is part of the program, and a test reads it
	}
	return out
})

// Settings of a block.
func (care) Settings() []exercise.Setting {
	return []exercise.Setting{{Name: "which", Title: text.New("care.settings.title"), Input: exercise.OneOf,
		Default: "any", Choices: []exercise.Choice{{Value: "any", Words: text.New("care.settings.words")},
			{Value: careOrder, Words: text.New("care.settings.steps-order")},
			{Value: careSpot, Words: text.New("care.settings.spot-what-wrong")},
			{Value: careNext, Words: text.New("care.settings.what-comes-next")}}}}
}

// Check refuses a sort of which there are no items.
func (k care) Check(b exercise.Block) error {
	bank, err := k.bank(b)
	if err != nil {
		return err
	}
	if len(k.of(bank, b.Setting(k.Settings(), "which"))) == 0 {
		return refusal.New("which", "care.check")
	}
	return nil
}

// of are the items of a sort.
func (care) of(bank []Care, which string) []Care {
	var out []Care
	for _, it := range bank {
		if which == "any" || it.Care == which {
			out = append(out, it)
		}
	}
	return out
}

// careBefore is the number of items that came with the program before version 5 of dealing.
const careBefore = 42

// Deal takes an item that the student has not had, its steps or statements in another order.
func (k care) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	which := b.Setting(k.Settings(), "which")
	bank, err := k.bank(b)
	if err != nil {
		return nil, err
	}
	if b.Bank == nil && d.Version() < 5 {
		bank = bank[:careBefore]
	}
	of := k.of(bank, which)
	it := of[d.Other("care/"+which, len(of))]
	it.Method, it.Marks = b.Method, b.Marks
	list := it.list()
	order := make([]int, len(list)) // of the shuffled list, where each stood
	for i := range order {
		order[i] = i
	}
	exercise.Shuffle(d, order)
	shuffled, now := make([]string, len(list)), make([]int, len(list))
	for i, was := range order {
		shuffled[i], now[was] = list[was], i+1
	}
	if it.Care != careOrder {
		it.Statements, it.Right = shuffled, now[it.Right-1]
		return &it, nil
	}
	it.Steps = shuffled
	it.Before = slices.Clone(it.Before)
	for i, p := range it.Before {
		it.Before[i] = [2]int{now[p[0]-1], now[p[1]-1]}
	}
	return &it, nil
}

// Decode reads a body.
func (care) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Care{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	n := len(it.list())
	if n < 2 {
		return nil, refusal.New("statements", "care.decode")
	}
	if it.Care != careOrder && (it.Right < 1 || it.Right > n) {
		return nil, refusal.New("right", "care.from-1", "n", n)
	}
	for i, p := range it.Before {
		if p[0] < 1 || p[0] > n || p[1] < 1 || p[1] > n || p[0] == p[1] {
			return nil, refusal.New(fmt.Sprintf("before.%d", i), "care.name-two-steps-1", "n", n)
		}
	}
	return it, nil
}

// Care is a card of care: steps to bring in order, or statements of which one is right to choose.
type Care struct {
	Care       string          `json:"care"`               // order, spot or next
	Question   string          `json:"question,omitempty"` // of what comes next
	Steps      []string        `json:"steps,omitempty"`
	Before     [][2]int        `json:"before,omitempty"` // pairs of steps, from 1: the first before the second
	Statements []string        `json:"statements,omitempty"`
	Right      int             `json:"right,omitempty"` // the statement to be chosen, from 1
	Reason     string          `json:"reason"`
	Ask        []string        `json:"ask,omitempty"`
	Method     exercise.Method `json:"method,omitzero"`
	Marks      map[string]int  `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Care) Kind() string { return care{}.Name() }

// list are the steps or the statements.
func (it *Care) list() []string {
	if it.Care == careOrder {
		return it.Steps
	}
	return it.Statements
}

// Check refuses steps that cannot be brought in order.
func (it *Care) Check() error {
	if it.Care == careOrder && it.inOrder() == nil {
		return refusal.New("before", "care.goes-round-circle-no")
	}
	return nil
}

// keeps reports whether an order of the steps keeps all that matters.
func (it *Care) keeps(order []int) bool {
	for _, p := range it.Before {
		if slices.Index(order, p[0]) > slices.Index(order, p[1]) {
			return false
		}
	}
	return true
}

// mends reports whether one exchange of neighbours makes an order right.
func (it *Care) mends(order []int) bool {
	for i := range len(order) - 1 {
		other := slices.Clone(order)
		other[i], other[i+1] = other[i+1], other[i]
		if it.keeps(other) {
			return true
		}
	}
	return false
}

// inOrder is an order that keeps all that matters: always the first step that nothing open must come before. It is
// nil where there is none.
func (it *Care) inOrder() []int {
	var out []int
	for len(out) < len(it.Steps) {
		next := 0
		for step := 1; step <= len(it.Steps) && next == 0; step++ {
			waits := slices.Contains(out, step) || slices.ContainsFunc(it.Before, func(p [2]int) bool {
				return p[1] == step && !slices.Contains(out, p[0])
			})
			if !waits {
				next = step
			}
		}
		if next == 0 {
			return nil
		}
		out = append(out, next)
	}
	return out
}

// numbered writes an order as it is typed.
func numbered(order []int) string {
	texts := make([]string, len(order))
	for i, n := range order {
		texts[i] = strconv.Itoa(n)
	}
	return strings.Join(texts, " ")
}

// orderOf reads an order that exercise.Read has let pass.
func orderOf(text string) []int {
	var out []int
	for _, word := range strings.Fields(text) {
		n, _ := strconv.Atoi(word)
		out = append(out, n)
	}
	return out
}

// Fields is the order, or the choice.
func (it *Care) Fields() []exercise.Field {
	f := exercise.Field{
		Name:  fieldChoice,
		Term:  text.New("care.answer"),
		Label: text.New("care.answer"),
		Input: exercise.Options,
		Words: said(it.Statements), Worded: true,
		Form: exercise.Form{Places: -1},
	}
	if it.Care == careOrder {
		f = exercise.Field{
			Name:  fieldOrder,
			Term:  text.New("care.order"),
			Label: text.New("care.order-label"),
			Input: exercise.Order,
			Words: said(it.Steps),
			Form:  exercise.Form{Places: -1},
		}
	}
	for i := range it.list() {
		f.Options = append(f.Options, strconv.Itoa(i+1))
	}
	return []exercise.Field{f}
}

// Facts are the question, and the steps by number.
func (it *Care) Facts() exercise.Facts {
	switch it.Care {
	case careOrder:
		return exercise.Facts{Task: text.New("care.facts.task")}
	case careNext:
		return exercise.Facts{Task: shipped(it.Question)}
	}
	return exercise.Facts{Task: text.New("care.facts.which-these-wrong")}
}

// Lines is the box alone.
func (it *Care) Lines() []exercise.Line { return []exercise.Line{lineOf(box(it.Fields()[0].Name))} }

// Figures are none.
func (it *Care) Figures() []exercise.Figure { return nil }

// ordered is met by every order that keeps all that matters, and in form by one that an exchange of two neighbours
// mends.
type ordered struct {
	exercise.Option
	*Care
}

func (t ordered) Meets(e *exercise.Entry) (x length.Number, ok bool) {
	order := orderOf(e.Choice)
	return x, e.Given && (t.keeps(order) || t.mends(order))
}

// Faults of form: two neighbours that have changed places.
func (t ordered) Faults(e *exercise.Entry) []exercise.FormFault {
	if !t.keeps(orderOf(e.Choice)) {
		return []exercise.FormFault{exercise.Exchanged}
	}
	return nil
}

// Mark marks an answer.
func (it *Care) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	var want exercise.Target = exercise.Option{Written: strconv.Itoa(it.Right)}
	if it.Care == careOrder {
		want = ordered{exercise.Option{Written: numbered(it.inOrder())}, it}
	}
	w.Judge(fields[0].Name, want, want, nil)
	return w.Result(), nil
}

// Predictions are none: what is forgotten here has no number.
func (it *Care) Predictions() ([]exercise.Prediction, error) { return nil, nil }

// Hints tell the first step, or the reason.
func (it *Care) Hints() ([]exercise.Hint, error) {
	if it.Care == careOrder {
		first := it.inOrder()[0]
		return []exercise.Hint{{Text: text.New("care.hints.begin", "steps", shipped(it.Steps[first-1]))},
			{Text: shipped(it.Reason), Worked: true}}, nil
	}
	return []exercise.Hint{{Text: shipped(it.Reason), Worked: true}}, nil
}

// Explain puts an answer in words. Reasons are said in full, since some can save a finger.
func (it *Care) Explain(a exercise.Answer, _ exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	var e exercise.Explanation
	var right text.Text
	if it.Care == careOrder {
		for i, n := range it.inOrder() {
			e.Work = append(e.Work, exercise.Equation{Left: numbers(strconv.Itoa(i + 1)),
				Right: shipped(it.Steps[n-1])})
		}
	} else {
		right = shipped(it.Statements[it.Right-1])
		e.Work = []exercise.Equation{{Left: text.New("care.answer"), Right: right}}
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		if it.Care != careOrder {
			n, _ := strconv.Atoi(m.Given)
			return text.New("care.wrong", "given", shipped(it.Statements[n-1]), "right", right), nil
		}
		order := orderOf(m.Given)
		for _, p := range it.Before {
			if slices.Index(order, p[0]) > slices.Index(order, p[1]) {
				return text.New("care.before", "first", shipped(it.Steps[p[0]-1]), "then", shipped(it.Steps[p[1]-1])),
					nil
			}
		}
		return text.New("care.wrong-order"), nil
	}, right: text.New("care.right")}.tell(&e)
	if r.Fields[0].Outcome == exercise.InForm {
		e.Headline, e.Body = text.New("care.half-right"), nil
	}
	e.Body = append(e.Body, shipped(it.Reason))
	return e, nil
}

// said are sentences of an item as texts.
func said(list []string) []text.Text {
	out := make([]text.Text, len(list))
	for i, s := range list {
		out[i] = shipped(s)
	}
	return out
}

// shipped is a sentence of an item as a text: one that comes with the program by its key, with the number of the item
// in the bank, others as they were typed.
func shipped(sentence string) text.Text {
	if key, ok := bankKeys()[sentence]; ok {
		return text.New(key)
	}
	return text.Typed(sentence)
}

var bankKeys = sync.OnceValue(func() map[string]string {
	keys := map[string]string{}
	for i, it := range Bank() {
		for j, s := range it.list() {
			keys[s] = fmt.Sprintf("care-bank.%d-%d", i+1, j+1)
		}
		keys[it.Question], keys[it.Reason] = fmt.Sprintf("care-bank.%d-question", i+1),
			fmt.Sprintf("care-bank.%d-reason", i+1)
	}
	delete(keys, "")
	return keys
})
