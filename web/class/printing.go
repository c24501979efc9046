package class

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/text"
	"cavix/ops"
	"cavix/school/access"
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
	Assignment  int64
	began       time.Time
	job         *ops.Job
	kept        *ops.Job // keeps the files, and removes them when it ends
	sheets, key string   // names of files, once the job has ended
}

// drop ends the work and removes what came of it.
func (p *printing) drop() {
	p.job.Stop()
	p.kept.Stop()
}

// Ready reports whether the sheets can be taken.
func (p *printing) Ready() bool { return p.job.HasEnded() && p.job.Err() == nil }

// Failed reports whether they never will be.
func (p *printing) Failed() bool { return p.job.Err() != nil }

// Done returns how many versions are set, of sheets and key together.
func (p *printing) Done() int {
	done, _ := p.job.Done()
	return done
}

// Of returns how many versions are to be set, of sheets and key together.
func (p *printing) Of() int {
	_, of := p.job.Done()
	return of
}

// Versions says how many are printed.
func (p *printing) Versions() text.Text {
	if p.Of() == 2 {
		return text.New("class.printing.versions")
	}
	return text.New("class.printing.versions-b", "of", p.Of()/2)
}

// press sets sheets as PDF in the background, one for an instructor at a time.
type press struct {
	mu    sync.Mutex
	sheet map[int64]*printing // by instructor
	queue ops.Queue
	tell  func(instructor int64)
	work  *ops.Jobs
}

func newPress(site *ui.Site) *press {
	removeLeft(time.Now())
	return &press{sheet: map[int64]*printing{}, queue: ops.NewQueue(presses), work: site.Jobs,
		tell: func(instructor int64) { site.School.Hub.Tell(hub.Topic{Class: instructor, What: hub.PrintNews}) }}
}

// folders is how the folders begin in which printed sheets wait, among the system's temporary files.
const folders = "cavix-print-"

// removeLeft removes what a server left that was killed: sheets that no server can be keeping any more.
func removeLeft(now time.Time) {
	left, _ := filepath.Glob(filepath.Join(os.TempDir(), folders+"*"))
	for _, folder := range left {
		if made, err := os.Lstat(folder); err == nil && now.Sub(made.ModTime()) > 2*(longest+keptFor) {
			_ = os.RemoveAll(folder) // what is somebody else's stays
		}
	}
}

// errBusy is for a server with too many sheets waiting.
var errBusy = errors.New("too many PDFs are being made now")

// start begins to set a sheet; what the instructor had printed before is let go.
func (p *press) start(instructor, assignment int64, sheet paper.Sheet) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	for who, old := range p.sheet {
		if who == instructor || time.Since(old.began) > keptFor {
			go old.drop()
			delete(p.sheet, who)
		}
	}
	if len(p.sheet) >= mostTaken {
		return errBusy
	}
	folder, err := os.MkdirTemp("", folders)
	if err != nil {
		return err
	}
	printed := &printing{Assignment: assignment, began: time.Now(),
		sheets: filepath.Join(folder, "sheets.pdf"), key: filepath.Join(folder, "key.pdf")}
	p.sheet[instructor] = printed
	printed.job = p.work.Start(ops.Task{Name: "printing", Longest: longest, Queue: p.queue,
		Then: func() { p.tell(instructor) }, Work: func(ctx context.Context, job *ops.Job) error {
			return printed.set(sheet, func(done int) error {
				job.Progress(done, 2*len(sheet.Versions))
				p.tell(instructor)
				return ctx.Err()
			})
		}})
	printed.job.Progress(0, 2*len(sheet.Versions))
	printed.kept = p.work.Start(ops.Task{Name: "keeping what was printed", Work: func(ctx context.Context,
		_ *ops.Job) error {
		select {
		case <-ctx.Done():
		case <-time.After(keptFor):
		}
		return os.RemoveAll(folder)
	}})
	return nil
}

// set sets the sheets, then the key.
func (p *printing) set(sheet paper.Sheet, progress func(done int) error) error {
	if err := into(p.sheets, sheet.Write, progress); err != nil {
		return err
	}
	return into(p.key, sheet.WriteKey, func(done int) error { return progress(len(sheet.Versions) + done) })
}

// into has a document written into a new file that only the server reads.
func into(path string, write func(io.Writer, func(int) error) error, progress func(done int) error) (err error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	w := bufio.NewWriter(f)
	if err := write(w, progress); err != nil {
		return err
	}
	return w.Flush()
}

// of returns what an instructor has printed of a sheet, or is having printed; ok is false where there is nothing.
func (p *press) of(instructor, assignment int64) (job *printing, ok bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	found, ok := p.sheet[instructor]
	if !ok || found.Assignment != assignment || time.Since(found.began) > keptFor {
		return nil, false
	}
	return found, true
}

// Streams adds what stays open.
func (h Handler) Streams(r chi.Router) {
	r.With(h.OnSheet(access.ViewClass)).Get("/ledger/{assignment}/paper/events", h.Page(h.printEvents))
}

// printEvents tells how far printing is.
func (h Handler) printEvents(w http.ResponseWriter, r *http.Request) error {
	a := ui.SheetOf(r)
	me := ui.UserOf(r).ID
	return h.Stream(w, r, hub.Topic{Class: me, What: hub.PrintNews}, func(context.Context) (ui.Snapshot, error) {
		id := "none"
		if printed, ok := h.press.of(me, a.ID); ok {
			id = fmt.Sprintf("%d-%d-%t", printed.Done(), printed.Of(), printed.job.HasEnded())
		}
		return ui.Snapshot{ID: id, Data: "printed"}, nil
	})
}
