// Package board is the Board, for the projector: an instrument as large as the screen lets it, its equation uncovered
// term by term, a question to a whole class and the answers on a rule; and the Watch over a sheet while it runs. What
// stands on a class's Board is kept, so that it is found again as it was left, on any screen.
package board

import (
	"context"
	"crypto/rand"
	"embed"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves the Board and the Watch.
type Handler struct{ *ui.Site }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	class := r.With(h.InClass(access.ViewClass))
	r.Get("/board", h.Page(h.classes))
	class.Get("/board/{class}", h.Page(h.board))
	class.Post("/board/{class}", ui.Form(h.Site, h.press))
	class.Get("/board/{class}/rounds", h.Page(h.rounds))
	h.watchRoutes(r)
}

// Streams adds the addresses that stay open.
func (h Handler) Streams(r chi.Router) {
	r.With(h.InClass(access.ViewClass)).Get("/board/{class}/events", h.Page(h.events))
	r.With(h.OnSheet(access.ViewClass)).Get("/watch/{assignment}/events", h.Page(h.watchEvents))
}

// classes lists the classes whose Board can be opened.
func (h Handler) classes(w http.ResponseWriter, r *http.Request) error {
	list, err := h.School.Roster.Classes(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "boards", text.New("board.classes"), list)
}

// shown holds the state of a Board, as it is kept.
type shown struct {
	Instrument *instrument.Instrument `json:"instrument,omitempty"`
	Racked     int64                  `json:"racked,omitempty"` // where it came from
	At         length.Number          `json:"at"`               // the indicated value
	// two positions, of which the difference is asked, as a document; nil where one reading is
	Item json.RawMessage `json:"item,omitempty"`
	View int             `json:"view,omitempty"` // which of its figures is in sight
	// which steps are uncovered and asked, of those that can be
	Set     int     `json:"set,omitempty"`
	Uncover int     `json:"uncover,omitempty"`
	Lens    bool    `json:"lens,omitempty"`
	Names   bool    `json:"names,omitempty"`
	Eye     float64 `json:"eye,omitempty"` // off square, in least counts
	// the figure stands on the Board alone, not on students' screens
	Alone   bool          `json:"alone,omitempty"`
	Asking  bool          `json:"asking,omitempty"` // each new value is asked
	Round   int64         `json:"round,omitempty"`  // the round that was asked of what stands here
	Answers bool          `json:"answers,omitempty"`
	Point   int           `json:"point,omitempty"` // the answer that is shown on the figure, from 1
	Joining bool          `json:"joining,omitempty"`
	Held    holding       `json:"held,omitempty"`    // what keeps the faces apart
	Touch   length.Number `json:"touch"`             // the indicated value at which they touch it
	Pressed bool          `json:"pressed,omitempty"` // the last movement ran against it
}

// holding is the way in which something is held between the faces.
type holding int

// The ways to hold.
const (
	nothing holding = iota
	ratchet         // the ratchet turns on: the faces come no closer
	byForce         // without it they can be pressed a little too far
)

// pressing is the number of tenths of a least count faces can be pressed too far.
const pressing = 30

// standing is a Board with all that it is made of.
type standing struct {
	shown
	class  roster.Class
	method exercise.Method
	pair   *kinds.Difference // two positions; nil for one reading
	round  rounds.Round      // of what stands here; the zero round where it was not asked
}

// open finds the Board of a class.
func (h Handler) open(r *http.Request) (b standing, err error) {
	ctx, owner := r.Context(), ui.UserOf(r).ID
	b.class = ui.ClassOf(r)
	set, err := roster.Words(b.class.Words)
	if err != nil {
		return b, err
	}
	ui.SpeakToClass(r, set)
	if b.method, err = h.School.Roster.School(b.class); err != nil {
		return b, err
	}
	says, err := h.School.Rounds.Board(ctx, owner, b.class.ID)
	if err != nil {
		return b, err
	}
	if says != "" {
		if json.Unmarshal([]byte(says), &b.shown) != nil { // what this program cannot read is begun anew
			b.shown = shown{}
		}
	}
	if b.Item != nil {
		it, err := kinds.Open(b.Item)
		pair, is := it.(*kinds.Difference)
		if err != nil || !is {
			b.shown = shown{}
		}
		b.pair = pair
	}
	if b.Instrument == nil {
		return b, h.first(ctx, owner, &b)
	}
	if b.Round != 0 {
		latest, err := h.School.Rounds.LatestRound(ctx, owner, b.class.ID)
		if err != nil {
			return b, err
		}
		if latest.ID == b.Round {
			b.round = latest
		} else {
			b.Round, b.Answers = 0, false // another was asked meanwhile
		}
	}
	return b, nil
}

// first puts on a Board that shows nothing what the class was asked last, or else the first instrument of the Rack.
func (h Handler) first(ctx context.Context, owner int64, b *standing) error {
	last, err := h.School.Rounds.LatestRound(ctx, owner, b.class.ID)
	if err != nil {
		return err
	}
	if r, ok := last.Item.(*kinds.Reading); ok && r.Indicated != nil {
		b.shown = shown{Instrument: r.Instrument, At: *r.Indicated, Round: last.ID,
			Answers: last.Stage() == rounds.Revealed}
		b.Set = max(0, slices.IndexFunc(kinds.RoundSteps(r.Instrument),
			func(s []string) bool { return slices.Equal(s, r.Ask) }))
		b.round = last
		return nil
	}
	if it, ok := last.Item.(*kinds.Difference); ok {
		b.shown = shown{Instrument: it.Instrument}
		if err := b.put(it); err != nil {
			return err
		}
		b.Round, b.Answers, b.round = last.ID, last.Stage() == rounds.Revealed, last
		return nil
	}
	rack, err := h.School.Rack.Rack(ctx, owner)
	if err != nil {
		return err
	}
	for _, k := range rack {
		if k.Err == nil && k.Instrument.Check() == nil {
			return b.take(k)
		}
	}
	return nil
}

// take puts an instrument on the Board, with a value.
func (b *standing) take(k rack.Racked) error {
	b.shown = shown{Instrument: k.Instrument, Racked: k.ID, Lens: b.Lens, Alone: b.Alone, Asking: b.Asking}
	b.round = rounds.Round{}
	return b.deal()
}

// seed is another every time.
func seed() uint64 {
	var b [8]byte
	rand.Read(b[:])
	return binary.NativeEndian.Uint64(b[:])
}

// keep keeps the Board, and has other screens that show it follow.
func (h Handler) keep(r *http.Request, b *standing) error {
	says, err := json.Marshal(b.shown)
	if err != nil {
		return err
	}
	if err := h.School.Rounds.SetBoard(r.Context(), ui.UserOf(r).ID, b.class.ID, string(says)); err != nil {
		return err
	}
	h.School.Hub.Tell(hub.Topic{Class: b.class.ID, What: hub.AnswerNews})
	return nil
}

// version tells one state of a Board from another.
func (b *standing) version() string {
	h := fnv.New64a()
	_ = json.NewEncoder(h).Encode(b.shown)
	fmt.Fprint(h, b.round.Stamp())
	return fmt.Sprintf("%x", h.Sum64())
}

func (h Handler) board(w http.ResponseWriter, r *http.Request) error {
	b, err := h.open(r)
	if err != nil {
		return err
	}
	return h.show(w, r, http.StatusOK, &b, "")
}

// show prints the Board.
func (h Handler) show(w http.ResponseWriter, r *http.Request, status int, b *standing, typed string) error {
	v, err := h.newView(r, b)
	if err != nil {
		return err
	}
	if typed != "" {
		v.Typed, v.Fault = typed, text.New("board.show")
	}
	return h.Project(w, r, status, "board", text.Row(text.Typed(b.class.Name), text.New("title.board")), v)
}

// press does what a key or button of the Board does.
func (h Handler) press(w http.ResponseWriter, r *http.Request, f pressed) error {
	b, err := h.open(r)
	if err != nil {
		return err
	}
	if b.Instrument == nil {
		http.Redirect(w, r, "/board", http.StatusSeeOther)
		return nil
	}
	bad, err := h.do(r, &b, f, time.Now())
	if err != nil {
		return err
	}
	if err := h.keep(r, &b); err != nil {
		return err
	}
	if bad {
		return h.show(w, r, http.StatusUnprocessableEntity, &b, f.Value)
	}
	if r.Header.Get("X-Alpine-Request") == "" { // a page without script
		http.Redirect(w, r, r.URL.Path, http.StatusSeeOther)
		return nil
	}
	return h.show(w, r, http.StatusOK, &b, "")
}

// snapshot returns the state that other screens follow: the version, and how many have answered of how many.
func (h Handler) snapshot(ctx context.Context, r *http.Request) (ui.Snapshot, error) {
	b, err := h.open(r.WithContext(ctx))
	if err != nil {
		return ui.Snapshot{}, err
	}
	answered, of := 0, 0
	if b.round.ID != 0 {
		if answered, of, err = h.School.Rounds.CountReplies(ctx, ui.UserOf(r).ID, b.round.ID); err != nil {
			return ui.Snapshot{}, err
		}
	}
	says := fmt.Sprintf("%s %d %d", b.version(), answered, of)
	return ui.Snapshot{ID: says, Data: says}, nil
}

func (h Handler) events(w http.ResponseWriter, r *http.Request) error {
	return h.Stream(w, r, hub.Topic{Class: ui.ClassOf(r).ID, What: hub.AnswerNews},
		func(ctx context.Context) (ui.Snapshot, error) {
			return h.snapshot(ctx, r)
		})
}
