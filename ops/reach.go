package ops

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/user"
	"path/filepath"

	"cavix/store"
)

// reach says what keeps this program from using a database file: whose it is, and how to hand it over. A file that is
// not there needs a folder in which it can be made.
func reach(path string) error {
	dir := filepath.Dir(path)
	if info, err := os.Stat(path); err == nil && info.Mode().IsRegular() {
		f, err := os.OpenFile(path, os.O_RDWR, 0)
		if errors.Is(err, fs.ErrPermission) {
			return handOver("the file "+path, info, path)
		}
		if err == nil {
			err = f.Close()
		}
		if err != nil {
			return err
		}
	}
	probe, err := os.CreateTemp(dir, ".cavix-*")
	if errors.Is(err, fs.ErrPermission) {
		if info, err := os.Stat(dir); err == nil {
			return handOver("the folder "+dir+", where the log of the database stands beside it,", info, dir)
		}
	}
	if err != nil {
		return fmt.Errorf("nothing can be written beside %s: %w", path, err)
	}
	return errors.Join(probe.Close(), os.Remove(probe.Name()))
}

// handOver says that something belongs to somebody else, and how that is changed.
func handOver(what string, info fs.FileInfo, path string) error {
	me := "this user"
	if u, err := user.Current(); err == nil {
		me = u.Username
	}
	owner := "somebody else"
	if _, _, name, ok := ownerOf(info); ok {
		owner = name
	}
	return fmt.Errorf("%s belongs to %s (%s), and Cavix runs as %s, who may not write it; hand it over as root: "+
		"chown %s %s", what, owner,
		info.Mode().Perm(), me, me, path)
}

// advised adds to the error of a damaged file what to do about it.
func advised(path string, err error) error {
	if !store.Damaged(err) {
		return err
	}
	return fmt.Errorf("%s is damaged (%w). Keep it as it is, and put the newest copy in its place: cavix restore "+
		"--from COPY --data %s --older",
		path, err, path)
}
