package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
)

// private is the mode of a file with people or marks in it.
const private os.FileMode = 0o600

// writeWhole writes a file beside its name and renames it when it is whole, so that half of it never stands there and
// what stood there stays until then. A new file gets the mode, one that was there keeps its own. What is no regular
// file, as /dev/stdout, is written as it is.
func writeWhole(to string, mode os.FileMode, write func(io.Writer) error) error {
	info, err := os.Stat(to)
	if err == nil {
		mode = info.Mode().Perm()
	}
	if err == nil && !info.Mode().IsRegular() {
		f, err := os.OpenFile(to, os.O_WRONLY, 0)
		if err != nil {
			return err
		}
		return errors.Join(write(f), f.Close())
	}
	f, err := os.CreateTemp(filepath.Dir(to), ".cavix-*")
	if err != nil {
		return err
	}
	if err = errors.Join(write(f), f.Chmod(mode), f.Close()); err == nil {
		err = os.Rename(f.Name(), to)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}

// apart refuses a file to write that is one of those to read.
func apart(out string, in ...string) error {
	to, err := os.Stat(out)
	if err != nil {
		return nil // it is not there yet, and writing it says what is wrong
	}
	for _, name := range in {
		if from, err := os.Stat(name); err == nil && os.SameFile(to, from) {
			return usageError{fmt.Errorf("--out names the file %s, which is read; name another one", name)}
		}
	}
	return nil
}
