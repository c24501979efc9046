package survey

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/comparator"
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/ops"
	"cavix/plot"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/studies"
	"cavix/transfer"
	"cavix/web/ui"
)

// comparatorRoutes adds the pages on which parts are compared with a size.
func (h Handler) comparatorRoutes(r chi.Router) {
	r.Get("/comparators", h.Page(h.comparisons))
	r.Post("/comparators", ui.Form(h.Site, h.addComparison))
	r.Get("/comparators/{comparison}", h.Page(h.comparison))
	r.Post("/comparators/{comparison}", h.Page(h.doComparison))
	r.Post("/comparators/{comparison}/drop", h.Page(h.dropComparison))
	r.Get("/comparators/{comparison}/table", h.Page(h.comparisonTable))
}

// Streams adds the addresses that stay open.
func (h Handler) Streams(r chi.Router) {
	r.With(h.OnStudy(access.ViewClass)).Get("/surveys/{survey}/events", h.Page(h.surveyEvents))
	r.Get("/comparators/{comparison}/events", h.Page(h.comparisonEvents))
}

// Device adds the address to which a gauge sends. It is no page: who knows the token may send, and nothing else.
func (h Handler) Device(r chi.Router) { r.Post("/gauge/{token}", h.send) }

// comparisonForm is a plan as it is typed.
type comparisonForm struct {
	Title   string `form:"title"`
	Nominal string `form:"nominal"`
	Lower   string `form:"lower"`
	Upper   string `form:"upper"`
	Unit    string `form:"unit"`
	Places  string `form:"places"`
	Feature string `form:"feature"`
}

type comparisonsView struct {
	List   []studies.Comparison
	Form   comparisonForm
	Errors map[string]text.Text
}

func (h Handler) comparisons(w http.ResponseWriter, r *http.Request) error {
	return h.showComparisons(w, r, comparisonForm{Unit: "mm", Places: "2"}, nil)
}

func (h Handler) showComparisons(w http.ResponseWriter, r *http.Request, f comparisonForm,
	errs map[string]text.Text) error {
	list, err := h.Site.School.Studies.Comparisons(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	return h.Render(w, r, ui.Status(errs), "comparators", text.New("survey.comparator.show-comparisons"),
		comparisonsView{list, f, errs})
}

func (h Handler) addComparison(w http.ResponseWriter, r *http.Request, f comparisonForm) error {
	var bad ui.Faults
	title := ui.OneLine(f.Title)
	bad.Name("title", title)
	unit := length.Unit(f.Unit)
	p := comparator.Plan{Nominal: bad.Number("nominal", f.Nominal, unit).Value, Unit: unit,
		Places: bad.Whole("places", f.Places), Hole: f.Feature == "hole"}
	for field, into := range map[string]struct {
		text string
		to   **length.Number
	}{"lower": {f.Lower, &p.Lower}, "upper": {f.Upper, &p.Upper}} {
		if !exercise.Blank(into.text) {
			x := bad.Number(field, into.text, unit).Value
			*into.to = &x
		}
	}
	if len(bad.Refusal) == 0 {
		id, err := h.Site.School.Studies.AddComparison(r.Context(), ui.UserOf(r).ID, title, p, time.Now())
		if errors.Is(err, studies.ErrFull) {
			bad.Add("title", "survey.comparator.add-comparison")
			err = nil
		}
		if err := bad.Take("", err); err != nil {
			return err
		}
		if len(bad.Refusal) == 0 {
			http.Redirect(w, r, fmt.Sprintf("/comparators/%d", id), http.StatusSeeOther)
			return nil
		}
	}
	return h.showComparisons(w, r, f, bad.By())
}

// comparisonView is a comparison with what was sent.
type comparisonView struct {
	ID      int64
	Title   string
	Nominal text.Math
	Unit    string
	Limits  text.Text
	Rows    []comparedRow // the latest first
	Apart   []comparedLine
	Damaged []comparedLine // lines that were read once, and cannot be read now
	Plot    template.HTML
	Sends   string // the address to which a device sends
	Playing bool
	Counts  map[string]int
	Pasted  string
	Note    text.Text
}

type comparedRow struct {
	N         int
	Deviation text.Math
	Size      text.Math
	Verdict   string
	Out       bool
}

type comparedLine struct {
	ID        int64
	Line, Why string
}

// ofComparison finds the comparison that an address names.
func (h Handler) ofComparison(r *http.Request) (studies.Comparison, []studies.Compared, error) {
	id, err := ui.ID(r, "comparison")
	if err != nil {
		return studies.Comparison{}, nil, err
	}
	return h.Site.School.Studies.Comparison(r.Context(), ui.UserOf(r).ID, id)
}

func (h Handler) comparison(w http.ResponseWriter, r *http.Request) error {
	return h.showComparison(w, r, text.Text{}, "")
}

// shownRows is the number of the latest readings in the table; its export has all of them.
const shownRows = 100

func (h Handler) showComparison(w http.ResponseWriter, r *http.Request, note text.Text, pasted string) error {
	c, list, err := h.ofComparison(r)
	if err != nil {
		return err
	}
	p := c.Plan
	v := comparisonView{ID: c.ID, Title: c.Title, Nominal: written(p.Nominal, p.Places), Unit: string(p.Unit),
		Sends: h.Address(r, "/gauge/"+c.Token), Playing: h.devices.on(c.ID), Counts: map[string]int{}, Note: note,
		Pasted: pasted}
	switch {
	case p.Lower != nil && p.Upper != nil:
		v.Limits = text.New("survey.limits", "lower", written(*p.Lower, p.Places), "upper", written(*p.Upper, p.Places))
	case p.Lower != nil:
		v.Limits = text.New("survey.from", "lower", written(*p.Lower, p.Places))
	case p.Upper != nil:
		v.Limits = text.New("survey.up-to", "upper", written(*p.Upper, p.Places))
	}
	var sizes []float64
	n := 0
	for _, k := range list {
		if k.Deviation == nil {
			line := comparedLine{k.ID, k.Line, k.Why}
			if k.Damaged {
				v.Damaged = append(v.Damaged, line)
			} else {
				v.Apart = append(v.Apart, line)
			}
			continue
		}
		n++
		row := newRow(p, n, *k.Deviation)
		v.Rows = append([]comparedRow{row}, v.Rows...)
		v.Counts[row.Verdict]++
		sizes = append(sizes, p.Size(*k.Deviation).Float())
	}
	v.Rows = v.Rows[:min(len(v.Rows), shownRows)]
	if len(sizes) > 0 {
		var l plot.Limits
		for into, x := range map[**float64]*length.Number{&l.Lower: p.Lower, &l.Upper: p.Upper} {
			if x != nil {
				f := x.Float()
				*into = &f
			}
		}
		if p.Lower != nil {
			l.LowerText = string(written(*p.Lower, p.Places))
		}
		if p.Upper != nil {
			l.UpperText = string(written(*p.Upper, p.Places))
		}
		grain := length.Frac(1, 1)
		for range p.Places {
			grain = grain.Mul(length.Frac(1, 10))
		}
		v.Plot = ui.Readings(plot.Sequence(ui.Said(r), sizes[max(0, len(sizes)-60):], l, grain.Float()), "compared")
	}
	status := http.StatusOK
	if pasted != "" {
		status = http.StatusUnprocessableEntity
	}
	return h.Render(w, r, status, "comparator", text.Typed(c.Title), v)
}

func newRow(p comparator.Plan, n int, deviation length.Number) comparedRow {
	size := p.Size(deviation)
	row := comparedRow{N: n, Deviation: written(deviation, p.Places), Size: written(size, p.Places),
		Verdict: p.Verdict(size)}
	if deviation.Sign() > 0 {
		row.Deviation = "+" + row.Deviation
	}
	row.Out = row.Verdict != "" && row.Verdict != "accept"
	return row
}

// dropComparison puts a comparison into the bin, one too whose plan cannot be read.
func (h Handler) dropComparison(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.ID(r, "comparison")
	if err != nil {
		return err
	}
	if err := h.Site.School.Studies.DropComparison(r.Context(), ui.ActorOf(r), id); err != nil {
		return err
	}
	h.devices.stop(id)
	return h.Redirect(w, r, "/bin", text.New("author.bin.bin-notes"), nil)
}

// doComparison takes what was pasted, lets a made-up device send, or removes a line.
func (h Handler) doComparison(w http.ResponseWriter, r *http.Request) error {
	c, _, err := h.ofComparison(r)
	if err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	switch r.PostFormValue("do") {
	case "paste":
		says := ui.Clip(r.PostFormValue("lines"), 60_000)
		_, err := h.Site.School.Studies.Paste(r.Context(), me, c.ID, says, time.Now())
		if errors.Is(err, studies.ErrComparisonFull) {
			return h.showComparison(w, r, text.New("survey.comparator.do-comparison", "max_reading",
				comparator.MaxReading), says)
		}
		if err != nil {
			return err
		}
	case "play":
		h.devices.play(h.Site.School, c)
	case "stop":
		h.devices.stop(c.ID)
	case "line":
		line, err := ui.FormID(r, "line")
		if err == nil {
			err = h.Site.School.Studies.RemoveCompared(r.Context(), me, c.ID, line)
		}
		if err != nil {
			return err
		}
	}
	http.Redirect(w, r, fmt.Sprintf("/comparators/%d", c.ID), http.StatusSeeOther)
	return nil
}

// comparisonEvents tells that something was sent.
func (h Handler) comparisonEvents(w http.ResponseWriter, r *http.Request) error {
	c, _, err := h.ofComparison(r)
	if err != nil {
		return err
	}
	return h.Stream(w, r, hub.Topic{Class: c.ID, What: hub.GaugeNews}, func(ctx context.Context) (ui.Snapshot, error) {
		_, list, err := h.Site.School.Studies.Comparison(ctx, c.Owner, c.ID)
		return ui.Snapshot{ID: fmt.Sprintf("%d-%t", len(list), h.devices.on(c.ID)), Data: "sent"}, err
	})
}

// comparisonTable sends the readings as a table.
func (h Handler) comparisonTable(w http.ResponseWriter, r *http.Request) error {
	c, list, err := h.ofComparison(r)
	if err != nil {
		return err
	}
	f := ui.FormatOf(r)
	ui.Download(w, c.Title+"."+string(f), f.Type())
	t, err := transfer.NewTable(f, w, ui.Said(r).Say("survey.comparator.comparison-table"), "part", "deviation", "size",
		"verdict", "line", "sent_at")
	if err != nil {
		return err
	}
	n := 0
	for _, k := range list {
		if k.Deviation == nil {
			continue
		}
		n++
		row := newRow(c.Plan, n, *k.Deviation)
		if err := t.Row(row.N, k.Deviation.Text(c.Plan.Places), c.Plan.Size(*k.Deviation).Text(c.Plan.Places),
			row.Verdict, k.Line, k.At); err != nil {
			return err
		}
	}
	return t.Close()
}

// mostSent is the largest request of a device, in bytes.
const mostSent = 16 << 10

// send takes the lines that a device sends.
func (h Handler) send(w http.ResponseWriter, r *http.Request) {
	says, err := io.ReadAll(http.MaxBytesReader(w, r.Body, mostSent))
	if err != nil {
		http.Error(w, fmt.Sprintf("at most %d KB at once", mostSent>>10), http.StatusRequestEntityTooLarge)
		return
	}
	taken, err := h.Site.School.Studies.Send(r.Context(), chi.URLParam(r, "token"), string(says), time.Now())
	switch {
	case errors.Is(err, school.ErrNotFound):
		http.Error(w, "there is no comparison with this token", http.StatusNotFound)
	case errors.Is(err, studies.ErrComparisonFull):
		http.Error(w, fmt.Sprintf("the comparison is full: it holds %d readings", comparator.MaxReading),
			http.StatusConflict)
	case err != nil:
		h.Log.Error("what a gauge sent could not be kept", "err", err)
		http.Error(w, "it could not be kept; send it again", http.StatusInternalServerError)
	default:
		fmt.Fprintf(w, "%d read, %d again, %d apart\n", taken.Read, taken.Again, taken.Apart)
	}
}

// devices are the made-up devices that send just now, by the comparison to which they do.
type devices struct {
	mu   sync.Mutex
	send map[int64]*ops.Job
	work *ops.Jobs
}

func newDevices(work *ops.Jobs) *devices { return &devices{send: map[int64]*ops.Job{}, work: work} }

// How a made-up device plays.
const (
	playedReadings = 20
	playedPace     = 700 * time.Millisecond
	mostDevices    = 20
)

func (p *devices) on(id int64) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	job := p.send[id]
	return job != nil && !job.HasEnded()
}

func (p *devices) stop(id int64) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if job := p.send[id]; job != nil {
		job.Stop()
	}
}

// play has a made-up device send some readings to a comparison; one at a time.
func (p *devices) play(sc *school.School, c studies.Comparison) {
	p.mu.Lock()
	defer p.mu.Unlock()
	maps.DeleteFunc(p.send, func(_ int64, job *ops.Job) bool { return job.HasEnded() })
	if p.send[c.ID] != nil || len(p.send) >= mostDevices {
		return
	}
	told := func() { sc.Hub.Tell(hub.Topic{Class: c.ID, What: hub.GaugeNews}) }
	p.send[c.ID] = p.work.Start(ops.Task{Name: "made-up device", Then: told,
		Work: func(ctx context.Context, _ *ops.Job) error {
			pace := time.NewTicker(playedPace)
			defer pace.Stop()
			for range playedReadings {
				line := c.Plan.MadeUp(rand.IntN(1_000_000))
				if _, err := sc.Studies.Send(ctx, c.Token, line, time.Now()); err != nil {
					return nil //nolint:nilerr // the comparison is full, or is there no longer
				}
				select {
				case <-ctx.Done():
					return nil
				case <-pace.C:
				}
			}
			return nil
		}})
}
