//go:build unix

package ops

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// lock takes a file for this program alone, until it is closed or the program ends. It is errTaken where another
// program has it.
func lock(f *os.File) error {
	err := unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return errTaken
	}
	return err
}
