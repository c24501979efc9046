package ops

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"cavix/store"
)

// ErrNewerThere is a database in whose place an older copy would come.
var ErrNewerThere = errors.New("the database there is newer than the copy")

// Restored names the file that was restored, and the one it replaced.
type Restored struct {
	Copy
	Before string // where the database that stood there was put; "" where there was none
}

// Restore puts a copy in the place of a database. The copy is looked through first. A database that somebody has open
// is store.ErrInUse; one with later entries than the copy is ErrNewerThere unless older is allowed. What stood there is
// not lost: it is put beside, under another name.
func Restore(ctx context.Context, from, data string, older bool) (done Restored, err error) {
	s, err := inspect(ctx, from)
	if err != nil {
		return done, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if have, err := s.Schema(ctx); err != nil || have > store.NewestSchema() {
		return done, errors.Join(err, store.ErrNewer)
	}
	part := data + ".restoring"
	if err := gone(part); err != nil {
		return done, err
	}
	if done.Copy, err = copied(ctx, s, part); err != nil {
		return done, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, gone(part))
		}
	}()
	like, err := os.Stat(data) // whose the file is that stands there, or the folder
	if errors.Is(err, os.ErrNotExist) {
		like, err = os.Stat(filepath.Dir(data))
	}
	if err != nil {
		return done, err
	}
	if done.Before, err = putBeside(ctx, data, done.Latest, older); err != nil {
		return done, err
	}
	if err := errors.Join(giveLike(part, like), os.Rename(part, data)); err != nil {
		return done, err
	}
	done.Path = data
	return done, syncFolder(filepath.Dir(data))
}

// putBeside puts the database that stands somewhere under another name, with all that is in its log.
func putBeside(ctx context.Context, data string, latest time.Time, older bool) (string, error) {
	beside := fmt.Sprintf("%s.before-%s", data, time.Now().Format(stampFormat))
	info, err := os.Stat(data)
	if errors.Is(err, os.ErrNotExist) {
		return "", logsBeside(data, beside) // of a file that is gone: it must not be taken for the copy's
	}
	if err != nil || info.Size() == 0 && !store.HasLog(data) {
		return "", err
	}
	if err := store.Alone(data); errors.Is(err, store.ErrInUse) {
		return "", fmt.Errorf("%s: %w; stop the server first", data, store.ErrInUse)
	} else if err != nil && !older {
		return "", fmt.Errorf("the file at %s cannot be read (%w)", data, err)
	}
	if there, err := sound(ctx, data); !older {
		if err != nil {
			return "", err
		}
		if there.After(latest) {
			return "", fmt.Errorf("%w: its latest entry is of %s, the copy's of %s", ErrNewerThere, Moment(there),
				Moment(latest))
		}
	}
	if err := logsBeside(data, beside); err != nil { // of one that could not be read; else they are gone
		return "", err
	}
	return beside, os.Rename(data, beside)
}

// logsBeside puts the log of a file under another name, where there is one.
func logsBeside(data, beside string) error {
	for _, end := range []string{"-wal", "-shm"} {
		if err := os.Rename(data+end, beside+end); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}
