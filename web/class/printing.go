package class

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/text"
	"cavix/ops"
	"cavix/school/hub"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// Bounds of printing.
const (
	presses   = 2                // sheets that are set at once on the whole server
	keptFor   = 15 * time.Minute // what was printed waits so long to be taken
	mostTaken = 40               // printed sheets that wait
	longest   = 5 * time.Minute  // that printing may take
)

// printing is a sheet that is being set as PDF for an instructor, and what came of it.
type printing struct {
	Assignment int64
	Of, Done   int // versions, of sheets and key together
	Sheets     []byte
	Key        []byte
	Failed     bool
	began      time.Time
	stop       context.CancelFunc
}

// Ready reports whether the sheets can be taken.
func (p printing) Ready() bool { return p.Sheets != nil && p.Key != nil }

// Versions says how many are printed.
func (p printing) Versions() text.Text {
	if p.Of == 2 {
		return text.New("class.printing.versions")
	}
	return text.New("class.printing.versions-b", "of", p.Of/2)
}

// press sets sheets as PDF in the background, one for an instructor at a time.
type press struct {
	mu    sync.Mutex
	jobs  map[int64]*printing // by instructor
	slots chan struct{}
	tell  func(instructor int64)
	log   func(error)
	work  *ops.Jobs
}

func newPress(site *ui.Site) *press {
	return &press{jobs: map[int64]*printing{}, slots: make(chan struct{}, presses),
		tell: func(instructor int64) {
			site.School.Hub.Tell(hub.Topic{Class: instructor, What: hub.PrintNews})
		},
		log:  func(err error) { site.Log.Error("a sheet could not be printed", "err", err) },
		work: site.Jobs}
}

// errBusy is for a server with too many sheets waiting.
var errBusy = errors.New("too many PDFs are being made now")

// start begins to set a sheet; what the instructor had printed before is let go.
func (p *press) start(instructor, assignment int64, sheet paper.Sheet) error {
	stopped, stop := context.WithCancel(context.Background())
	job := &printing{Assignment: assignment, Of: 2 * len(sheet.Versions), began: time.Now(), stop: stop}
	p.mu.Lock()
	defer p.mu.Unlock()
	for who, old := range p.jobs {
		if who == instructor || time.Since(old.began) > keptFor {
			old.stop()
			delete(p.jobs, who)
		}
	}
	if len(p.jobs) >= mostTaken {
		stop()
		return errBusy
	}
	p.jobs[instructor] = job
	p.work.Go("printing", func(ctx context.Context) {
		ctx, cancel := context.WithTimeout(ctx, longest)
		defer cancel()
		defer context.AfterFunc(stopped, cancel)()
		p.run(ctx, instructor, job, sheet)
	})
	return nil
}

// run sets the sheets, then the key.
func (p *press) run(ctx context.Context, instructor int64, job *printing, sheet paper.Sheet) {
	defer job.stop()
	err := errors.New("printing was not finished") // where it panics
	defer func() {
		if err != nil {
			p.set(instructor, func() { job.Failed = true })
		}
	}()
	select {
	case p.slots <- struct{}{}:
		defer func() { <-p.slots }()
	case <-ctx.Done():
		err = ctx.Err()
		return
	}
	before := 0
	progress := func(done int) error {
		p.set(instructor, func() { job.Done = before + done })
		return ctx.Err()
	}
	var sheets, key bytes.Buffer
	set := sheet.Write(&sheets, progress)
	if before = len(sheet.Versions); set == nil {
		set = sheet.WriteKey(&key, progress)
	}
	if err = set; err != nil {
		if ctx.Err() == nil {
			p.log(err)
		}
		return
	}
	p.set(instructor, func() { job.Sheets, job.Key = sheets.Bytes(), key.Bytes() })
}

func (p *press) set(instructor int64, change func()) {
	p.mu.Lock()
	change()
	p.mu.Unlock()
	p.tell(instructor)
}

// of is what an instructor has printed of a sheet, or is having printed; ok is false where there is nothing.
func (p *press) of(instructor, assignment int64) (job printing, ok bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	found, ok := p.jobs[instructor]
	if !ok || found.Assignment != assignment || time.Since(found.began) > keptFor {
		return printing{}, false
	}
	return *found, true
}

// Streams adds what stays open.
func (o Office) Streams(r chi.Router) {
	r.Get("/ledger/{assignment}/paper/events", o.Page(o.printEvents))
}

// printEvents tells how far printing is.
func (o Office) printEvents(w http.ResponseWriter, r *http.Request) error {
	a, err := o.ofSheet(r)
	if err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	return o.Stream(w, r, hub.Topic{Class: me, What: hub.PrintNews}, func(context.Context) (ui.Snapshot, error) {
		job, _ := o.press.of(me, a.ID)
		return ui.Snapshot{ID: fmt.Sprintf("%d-%d-%t", job.Done, job.Of, job.Ready() || job.Failed), Data: "printed"}, nil
	})
}
