package ops

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"cavix/store"
)

// Copy is a copy that was made and looked through.
type Copy struct {
	Path   string
	Size   int64 // in bytes
	Took   time.Duration
	Latest time.Time // of what stands in it
}

// Backup copies a database file, whether it is being served or not, into a file that is not there yet. The copy is of
// one moment, has no log beside it, and was looked through before it got its name.
func Backup(ctx context.Context, from, to string) (Copy, error) {
	s, err := inspect(ctx, from)
	if err != nil {
		return Copy{}, err
	}
	c, err := copied(ctx, s, to)
	return c, errors.Join(err, s.Close())
}

// inspect opens a file that must be there to look at it.
func inspect(ctx context.Context, path string) (*store.DB, error) {
	info, err := os.Stat(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil, fmt.Errorf("%s: %w", path, ErrNoFile)
	case err == nil && info.Size() == 0 && !store.HasLog(path):
		return nil, fmt.Errorf("%s: %w", path, ErrEmpty)
	}
	s, err := store.Inspect(ctx, path)
	switch {
	case store.Damaged(err):
		return nil, advised(path, err)
	case err != nil:
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return s, nil
}

// copied writes a copy under another name, looks through it, and only then gives it its own.
func copied(ctx context.Context, s *store.DB, to string) (c Copy, err error) {
	began := time.Now()
	if _, err := os.Stat(to); err == nil {
		return c, fmt.Errorf("%s is there already; a copy never takes the place of another file", to)
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return c, err
	}
	part := to + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) {
		return c, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, gone(part))
		}
	}()
	if err := s.CopyTo(ctx, part); err != nil {
		return c, err
	}
	if c.Latest, err = sound(ctx, part); store.Damaged(err) {
		return c, errors.New("the database is damaged, so no copy was made; keep the existing copies, and run cavix " +
			"check")
	} else if err != nil {
		return c, err
	}
	info, err := os.Stat(part)
	if err != nil {
		return c, err
	}
	if err := os.Rename(part, to); err != nil {
		return c, err
	}
	c.Path, c.Size, c.Took = to, info.Size(), time.Since(began)
	return c, syncFolder(filepath.Dir(to))
}

// sound looks through a file and tells when something was last kept in it; what is wrong with it is an error.
func sound(ctx context.Context, path string) (latest time.Time, err error) {
	s, err := inspect(ctx, path)
	if err != nil {
		return latest, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if have, err := s.Schema(ctx); err != nil || have > store.NewestSchema() {
		return latest, cmp.Or(err, fmt.Errorf("%s: %w", path, store.ErrNewer))
	}
	faults, err := s.Intact(ctx)
	if err != nil {
		return latest, advised(path, err)
	}
	if len(faults) > 0 {
		return latest, fmt.Errorf("%s is damaged: %s", path, strings.Join(faults, "; "))
	}
	return s.Latest(ctx)
}

// SizeText writes a number of bytes for people.
func SizeText(n int64) string {
	switch {
	case n < 1<<20:
		return fmt.Sprintf("%d KB", (n+1023)>>10)
	case n < 10<<30:
		return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
	}
	return fmt.Sprintf("%d GB", n>>30)
}

// gone removes a file that may not be there.
func gone(path string) error {
	if err := os.Remove(path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// syncFolder has the names in a folder on the disk.
func syncFolder(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}
