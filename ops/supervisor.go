package ops

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"cavix/core/text"
	"cavix/locale"
	"cavix/school"
	"cavix/store"
)

// Supervisor looks after a database file while it is served: it notes that it is, looks through it, copies it every
// day, and sees whether it is still there.
type Supervisor struct {
	Path   string
	Copies string // the folder of the daily copies; "" makes none
	Keep   int    // how many daily copies are kept
	Store  *store.DB
	Log    *slog.Logger
	Jobs   *Jobs // runs its checks

	copying sync.Mutex // one copy, and one check, at a time
	began   os.FileInfo
	mu      sync.Mutex
	looking *Job // the last check of everything; nil before the first
}

// Times of an attendant.
const (
	copyEvery  = 24 * time.Hour
	lookEvery  = time.Second // at whether the file is there
	dueEvery   = time.Minute // at whether a copy is due
	rescueTime = time.Minute
	lookTime   = time.Hour
)

// ErrVanished is a database file that was moved, removed or replaced under the running server.
var ErrVanished = errors.New("the database file is not there any more")

// Begin notes in the file itself that it is being served, and brings its log into it.
func (s *Supervisor) Begin(ctx context.Context) (err error) {
	if s.began, err = os.Stat(s.Path); err != nil {
		return err
	}
	if err := s.note(ctx, store.Served, "running"); err != nil {
		return err
	}
	return s.Store.Checkpoint(ctx)
}

// End notes that the file is served no longer.
func (s *Supervisor) End(ctx context.Context) error { return s.note(ctx, store.Served, "") }

func (s *Supervisor) note(ctx context.Context, name, value string) error {
	return s.Store.Write(ctx, func(tx *store.Tx) error { return store.Note(ctx, tx, name, value, time.Now()) })
}

// Attend looks after the file until the context ends. It returns ErrVanished when the file is gone; what the server
// still held is then written beside where it was.
func (s *Supervisor) Attend(ctx context.Context) error {
	for _, job := range []*Job{
		s.Jobs.Start(Task{Name: "check at the start",
			Work: func(ctx context.Context, _ *Job) error { s.lookThrough(ctx); return nil }}),
		s.Jobs.Every("daily copy", dueEvery, s.copyWhenDue),
	} {
		defer job.Stop()
	}
	look := time.NewTicker(lookEvery)
	defer look.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-look.C:
			now, err := os.Stat(s.Path)
			if err == nil && os.SameFile(s.began, now) {
				continue
			}
			if err != nil && !errors.Is(err, os.ErrNotExist) {
				s.Log.Warn("the database file cannot be looked at", "err", err)
				continue
			}
			return s.rescue(ctx)
		}
	}
}

// rescue writes what the server still holds of a file that has vanished.
func (s *Supervisor) rescue(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), rescueTime)
	defer cancel()
	to := fmt.Sprintf("%s.rescued-%s", s.Path, time.Now().Format(stampFormat))
	c, err := copied(ctx, s.Store, to)
	if err != nil {
		return fmt.Errorf("%s: %w; it was moved, removed or replaced while it was served, and what the server still "+
			"held cannot be written: %w",
			s.Path, ErrVanished, err)
	}
	if _, err := os.Stat(s.Path); errors.Is(err, os.ErrNotExist) {
		// A log without its file would be taken for that of the next file of this name; all that is in it was copied.
		for _, end := range []string{"-wal", "-shm"} {
			if err := gone(s.Path + end); err != nil {
				s.Log.Error("the log of the file that is gone stays behind", "err", err)
			}
		}
	}
	return fmt.Errorf("%s: %w; it was moved, removed or replaced while it was served. All that was kept until now "+
		"is in %s", s.Path,
		ErrVanished, c.Path)
}

// lookThrough looks through the file once, in the background, and says what it found.
func (s *Supervisor) lookThrough(ctx context.Context) {
	began := time.Now()
	faults, err := s.Store.Intact(ctx)
	switch {
	case ctx.Err() != nil:
	case err != nil:
		s.Log.Error("the database file cannot be checked", "err", advised(s.Path, err))
	case len(faults) > 0:
		s.Log.Error("the database file is damaged: stop the server, keep the file, and put the newest copy in its "+
			"place",
			"file", s.Path, "do", "cavix restore --from COPY --data "+s.Path+" --older", "faults",
			strings.Join(faults, "; "))
	default:
		s.Log.Info("the database file is intact", "file", s.Path, "took", time.Since(began).Round(time.Millisecond))
	}
}

// copyWhenDue makes a copy where the newest is a day old.
func (s *Supervisor) copyWhenDue(ctx context.Context) error {
	if s.Copies == "" || s.Keep < 1 {
		return nil
	}
	if list, err := s.List(); err == nil && len(list) > 0 && time.Since(list[0].At) < copyEvery {
		return nil
	}
	c, err := s.CopyNow(ctx)
	if err != nil {
		return fmt.Errorf("the daily copy could not be made: %w", err)
	}
	s.Log.Info("copied", "copy", c.Path, "size", c.Size, "took", c.Took.Round(time.Millisecond))
	return nil
}

// CopyNow makes a copy as the daily ones are made, and lets go of those that are too many.
func (s *Supervisor) CopyNow(ctx context.Context) (Copy, error) {
	if s.Copies == "" {
		return Copy{}, errors.New("the server was started without a folder for copies")
	}
	s.copying.Lock()
	defer s.copying.Unlock()
	if err := s.removeUnfinished(); err != nil {
		return Copy{}, err
	}
	to := filepath.Join(s.Copies, s.prefix()+time.Now().Format(stampFormat)+".db")
	c, err := copied(ctx, s.Store, to)
	what := ""
	if err != nil {
		what = err.Error()
	}
	if noted := s.note(context.WithoutCancel(ctx), store.LastCopy, what); err == nil {
		err = noted
	}
	if err != nil {
		return c, err
	}
	list, err := s.List()
	if err != nil || len(list) <= s.Keep {
		return c, err
	}
	for _, old := range list[s.Keep:] {
		err = errors.Join(err, os.Remove(old.Path))
	}
	return c, err
}

// removeUnfinished removes what a server that was killed had written of its daily copies.
func (s *Supervisor) removeUnfinished() error {
	entries, err := os.ReadDir(s.Copies)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	for _, e := range entries {
		name, daily := strings.CutPrefix(e.Name(), s.prefix())
		stamp, _, unfinished := strings.Cut(name, ".db.part") // and its journal
		_, wrong := time.Parse(stampFormat, stamp)
		if daily && unfinished && wrong == nil && e.Type().IsRegular() {
			err = errors.Join(err, os.Remove(filepath.Join(s.Copies, e.Name())))
		}
	}
	return err
}

func (s *Supervisor) prefix() string { return stem(s.Path) + "-daily-" }

// Kept is a daily copy that is kept.
type Kept struct {
	Path string
	Size int64
	At   time.Time
}

// Name is the copy's file, without its folder.
func (k Kept) Name() string { return filepath.Base(k.Path) }

// List lists the daily copies that are kept, the newest first.
func (s *Supervisor) List() ([]Kept, error) {
	if s.Copies == "" {
		return nil, nil
	}
	entries, err := os.ReadDir(s.Copies)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	var out []Kept
	for _, e := range entries {
		name, daily := strings.CutPrefix(e.Name(), s.prefix())
		at, wrong := time.ParseInLocation(stampFormat, strings.TrimSuffix(name, ".db"), time.Local)
		if !daily || wrong != nil || !e.Type().IsRegular() {
			continue // somebody else's file
		}
		if info, err := e.Info(); err == nil {
			out = append(out, Kept{filepath.Join(s.Copies, e.Name()), info.Size(), at})
		}
	}
	slices.SortFunc(out, func(x, y Kept) int { return y.At.Compare(x.At) })
	return out, err
}

// Look has everything looked through in the background, unless it is already. What it found is noted.
func (s *Supervisor) Look() *Job {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.looking == nil || s.looking.HasEnded() {
		s.looking = s.Jobs.Start(Task{Name: "check", Longest: lookTime,
			Work: func(ctx context.Context, job *Job) error {
				r, err := s.CheckNow(ctx)
				if err == nil && !r.Sound() {
					err = fmt.Errorf("the check of the database found faults: %s", r.String())
				}
				return err
			}})
	}
	return s.looking
}

// Looking reports whether everything is being looked through just now.
func (s *Supervisor) Looking() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.looking != nil && !s.looking.HasEnded()
}

// CheckNow looks through everything while it is served, and notes what it found.
func (s *Supervisor) CheckNow(ctx context.Context) (Report, error) {
	s.copying.Lock()
	defer s.copying.Unlock()
	r, err := CheckServed(ctx, s.Store)
	if err != nil {
		return r, err
	}
	kept := context.WithoutCancel(ctx)
	if err := school.New(s.Store).Marking.NoteEarlier(kept, r.Earlier, time.Now()); err != nil {
		return r, err
	}
	return r, s.note(kept, store.LastCheck, text.Stored(r.Text()))
}

// SaidSound reports whether what was noted of a check says that nothing was wrong. Checks before texts were values
// noted a line.
func SaidSound(report text.Text) bool {
	return report.Key() == "log.checked" || strings.HasPrefix(locale.Documents().Print(report), "sound: ")
}

// Text says in a line what a check of the file found.
func (r Report) Text() text.Text {
	of := text.New("log.checked-of", "documents", r.Documents, "numbers", r.Numbers, "cards", r.Cards, "answers",
		r.Answers)
	if len(r.Earlier) > 0 {
		of = text.Steps(of, text.New("log.checked-earlier", "n", len(r.Earlier)))
	}
	if r.Sound() {
		return text.New("log.checked", "of", of)
	}
	return text.New("log.checked-faults", "n", len(r.Faults)+r.More, "of", of, "faults", strings.Join(r.Faults, "; "))
}

// String is Text in English.
func (r Report) String() string { return locale.Documents().Print(r.Text()) }

// DiskLeft returns the free bytes on the disk of the database file.
func (s *Supervisor) DiskLeft() (uint64, error) { return diskLeft(filepath.Dir(s.Path)) }

// leastDisk is the free space that a server needs on its disk, in bytes.
const leastDisk = 20 << 20

// HasRoom is an error where next to nothing is left of the disk.
func (s *Supervisor) HasRoom() error {
	left, err := s.DiskLeft()
	if err == nil && left < leastDisk {
		return fmt.Errorf("only %s are left on the disk", SizeText(int64(left)))
	}
	return nil // a system that does not tell is taken for one with room
}

// Size returns the size of the database in bytes, with its log.
func (s *Supervisor) Size() (n int64) {
	for _, end := range []string{"", "-wal"} {
		if info, err := os.Stat(s.Path + end); err == nil {
			n += info.Size()
		}
	}
	return n
}
