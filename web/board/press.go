package board

import (
	"cmp"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/school/rounds"
	"cavix/web/ui"
)

// pressed is the Board's form.
type pressed struct {
	Do         string `form:"do"`
	Moved      string `form:"moved"` // by how many tenths of a least count
	Instrument int64  `form:"instrument"`
	Value      string `form:"value"`
	Asked      string `form:"asked"` // which steps
	Eye        string `form:"eye"`
	Point      string `form:"point"`
	View       string `form:"view"` // a figure of two positions
}

// steps are those that stand on the Board and are asked.
func (b *standing) steps() []string {
	if b.pair != nil {
		return b.pair.Ask
	}
	all := kinds.RoundSteps(b.Instrument)
	return all[max(0, min(b.Set, len(all)-1))]
}

// lines are the steps of the equation, all of them: those that are asked and those that lead to them.
func (b *standing) lines() []string {
	if b.pair != nil {
		return b.pair.Ask
	}
	all := kinds.RoundSteps(b.Instrument)
	return all[len(all)-1]
}

// item returns the item on the Board, as the class is asked it.
func (b *standing) item(steps []string) exercise.Item {
	if b.pair != nil {
		return b.pair
	}
	return b.reading(steps)
}

// reading returns the reading on the Board, of these steps.
func (b *standing) reading(steps []string) *kinds.Reading {
	return kinds.NewRound(b.Instrument, b.At, steps, b.method)
}

// differs reports whether the difference between two positions is what is to be asked.
func (b *standing) differs() bool {
	return b.Set >= len(kinds.RoundSteps(b.Instrument)) && kinds.CanDiffer(b.Instrument)
}

// put puts two positions on the Board.
func (b *standing) put(it *kinds.Difference) error {
	doc, err := exercise.Document(it)
	if err != nil {
		return err
	}
	b.at(it.Figures()[0].At)
	b.Item, b.pair, b.Set = doc, it, len(kinds.RoundSteps(b.Instrument))
	return nil
}

// follow brings the figure in sight that the next covered step is read from.
func (b *standing) follow() {
	if b.pair == nil || b.Uncover >= len(b.lines()) {
		return
	}
	next := b.pair.Fields()[b.Uncover].Figure
	if i := slices.IndexFunc(b.pair.Figures(), func(f exercise.Figure) bool { return f.Name == next }); i >= 0 {
		b.View = i
	}
}

// deal puts another value on the Board, or two other positions.
func (b *standing) deal() error {
	if b.differs() {
		it, err := kinds.RoundDifference(b.Instrument, b.method, seed())
		if err != nil {
			return err
		}
		return b.put(it)
	}
	y, err := kinds.RoundValue(b.Instrument, b.method, seed())
	if err == nil {
		b.at(y)
	}
	return err
}

// at brings the instrument to a value; what was uncovered is covered.
func (b *standing) at(y length.Number) {
	b.At, b.Uncover, b.Point = y, 0, 0
	b.Item, b.pair, b.View = nil, nil, 0
	b.Set = min(b.Set, len(kinds.RoundSteps(b.Instrument))-1)
	b.Held, b.Pressed = nothing, false
	b.Round, b.Answers, b.round = 0, false, rounds.Round{}
}

// do carries out what was pressed. bad tells that a typed value cannot be shown.
func (h Handler) do(r *http.Request, b *standing, f pressed, now time.Time) (bad bool, err error) {
	switch f.Do {
	case "next":
		return false, h.next(r, b, now)
	case "back":
		// nothing to take back: a clicker has no other key to ask with
		if b.Point == 0 && b.Uncover == 0 && b.Round == 0 {
			b.Asking = true
			return false, h.ask(r, b, now)
		}
		b.back()
	case "all":
		b.Uncover = len(b.lines())
	case "cover":
		b.Uncover, b.Point, b.View = 0, 0, 0
	case "ask":
		b.Asking = true
		return false, h.ask(r, b, now)
	case "tell":
		return false, h.tell(r, b, now)
	case "close":
		return false, h.School.Rounds.Close(r.Context(), ui.UserOf(r).ID, b.class.ID, now)
	case "quiet":
		b.Asking = false
	case "new":
		return false, h.another(r, b, now, b.deal())
	case "apart":
		return false, h.apart(r, b, now)
	case "lens":
		b.Lens = !b.Lens
	case "hold":
		if b.pair == nil {
			b.hold()
		}
	case "names":
		b.Names = !b.Names
	case "alone":
		b.Alone = !b.Alone
	case "join":
		b.Joining = !b.Joining
	case "home":
		b.at(b.Instrument.Closed())
	case "value":
		y, ok := b.typed(f.Value)
		if !ok {
			return true, nil
		}
		b.at(y)
	case "":
		return false, h.change(r, b, f)
	}
	return false, nil
}

// change takes in what is no button: the hand that moved the instrument, another instrument, steps, the eye, an answer
// to be shown on the figure.
func (h Handler) change(r *http.Request, b *standing, f pressed) error {
	if by, err := strconv.Atoi(f.Moved); err == nil && by != 0 && b.pair == nil {
		fig := exercise.Figure{Instrument: b.Instrument, At: b.At}
		if at, moved := fig.Moved(max(-1_000_000, min(by, 1_000_000))); moved != 0 {
			b.turn(at)
		}
	}
	if f.Instrument != 0 && f.Instrument != b.Racked {
		k, err := h.School.Rack.Racked(r.Context(), ui.UserOf(r).ID, f.Instrument)
		if err != nil {
			return err
		}
		if k.Err == nil && k.Instrument.Check() == nil {
			if err := h.School.Rack.UseInstrument(r.Context(), ui.UserOf(r).ID, k.ID); err != nil {
				return err
			}
			return b.take(k)
		}
	}
	if n, err := strconv.Atoi(f.Asked); err == nil {
		b.Set = max(0, min(n, len(kinds.RoundSteps(b.Instrument))))
		if b.differs() || b.pair != nil {
			return b.deal()
		}
		b.Set = min(b.Set, len(kinds.RoundSteps(b.Instrument))-1)
	}
	if n, err := strconv.Atoi(f.View); err == nil && b.pair != nil {
		b.View = max(0, min(n, len(b.pair.Figures())-1))
	}
	if x, ok := ui.Slider(f.Eye, 2); ok {
		b.Eye = x
	}
	if n, err := strconv.Atoi(f.Point); err == nil {
		if n == b.Point {
			n = 0 // the same once more takes it away
		}
		b.Point = max(0, min(n, 50))
	}
	return nil
}

// turn brings the instrument to a value by hand: as far as what is held between the faces lets it.
func (b *standing) turn(y length.Number) {
	low := b.Touch
	if b.Held == byForce {
		low = low.Sub(b.Instrument.LeastCount().MulInt(pressing).Mul(length.Frac(1, 10)))
	}
	against := b.Held != nothing && y.Less(b.Touch)
	if b.Held != nothing && y.Less(low) {
		y = low
	}
	held, touch := b.Held, b.Touch
	if !y.Equal(b.At) {
		b.at(y)
	}
	b.Held, b.Touch, b.Pressed = held, touch, against
}

// hold holds something of the size that stands on the Board, with the ratchet; once more without it; and no more.
func (b *standing) hold() {
	if b.Held == nothing {
		b.Touch = b.At
	}
	b.Held, b.Pressed = (b.Held+1)%(byForce+1), false
}

// typed reads a value to be shown.
func (b *standing) typed(says string) (length.Number, bool) {
	t, err := b.Instrument.Unit().Read(says)
	if err != nil || strings.TrimSpace(says) == "" {
		return length.Number{}, false
	}
	y, err := t.In(b.Instrument.Unit())
	if err != nil {
		return length.Number{}, false
	}
	_, err = b.Instrument.ReadBy(y, b.method.Between)
	return y, err == nil
}

// next returns what one key goes on to: an open question's answers, then the steps, then another value, which is asked
// where the one before was.
func (h Handler) next(r *http.Request, b *standing, now time.Time) error {
	switch {
	case b.round.Stage() == rounds.Open, b.round.Stage() == rounds.Closed:
		return h.tell(r, b, now)
	case b.Uncover < len(b.lines()):
		b.Uncover, b.Point = b.Uncover+1, 0
		b.follow()
		return nil
	}
	return h.another(r, b, now, b.deal())
}

// back takes the last of it back, on the Board: what was told stays told.
func (b *standing) back() {
	switch {
	case b.Point > 0:
		b.Point = 0
	case b.Uncover > 0:
		b.Uncover--
	default:
		b.Answers = false
	}
}

// another goes on with another value, and asks it where questions are being asked.
func (h Handler) another(r *http.Request, b *standing, now time.Time, err error) error {
	if err != nil || !b.Asking {
		return err
	}
	return h.ask(r, b, now)
}

// ask asks the class what stands on the Board.
func (h Handler) ask(r *http.Request, b *standing, now time.Time) error {
	b.Uncover, b.Point, b.Answers = 0, 0, false
	id, err := h.School.Rounds.Open(r.Context(), ui.UserOf(r).ID, b.class.ID, b.item(b.steps()), !b.Alone, now)
	if err != nil {
		return err
	}
	b.Round = id
	b.round, err = h.School.Rounds.LatestRound(r.Context(), ui.UserOf(r).ID, b.class.ID)
	return err
}

// tell uncovers the answers.
func (h Handler) tell(r *http.Request, b *standing, now time.Time) error {
	if b.round.ID == 0 {
		return nil
	}
	b.Answers = true
	if err := h.School.Rounds.Reveal(r.Context(), ui.UserOf(r).ID, b.class.ID, now); err != nil {
		return err
	}
	var err error
	b.round, err = h.School.Rounds.LatestRound(r.Context(), ui.UserOf(r).ID, b.class.ID)
	return err
}

// apart goes on with a value that tells the two commonest slips of the answers apart; where there is none, with
// another.
func (h Handler) apart(r *http.Request, b *standing, now time.Time) error {
	pair, err := h.commonest(r, b)
	if err != nil {
		return err
	}
	if len(pair) == 2 && b.pair == nil {
		y, found, err := kinds.ApartValue(b.Instrument, b.steps(), b.method, pair[0], pair[1], seed())
		if err != nil {
			return err
		}
		if found {
			b.at(y)
			return h.another(r, b, now, nil)
		}
	}
	return h.another(r, b, now, b.deal())
}

// commonest are the two slips that most answers to the round on the Board show; fewer where there are fewer.
func (h Handler) commonest(r *http.Request, b *standing) ([]exercise.Code, error) {
	if b.round.Stage() != rounds.Revealed {
		return nil, nil
	}
	answers, err := h.School.Rounds.Answers(r.Context(), ui.UserOf(r).ID, b.round)
	if err != nil {
		return nil, err
	}
	count := map[exercise.Code]int{}
	for _, a := range answers {
		if a.Slip != "" && !a.Slip.IsPair() && a.Slip != slips.SumSlip {
			count[a.Slip] += a.Count
		}
	}
	codes := make([]exercise.Code, 0, len(count))
	for code := range count {
		codes = append(codes, code)
	}
	slices.SortFunc(codes, func(x, y exercise.Code) int {
		return cmp.Or(cmp.Compare(count[y], count[x]),
			cmp.Compare(x, y))
	})
	return codes[:min(2, len(codes))], nil
}
