package ops

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"
)

// ErrServed is a database file that another server has.
var ErrServed = errors.New("another server serves this file")

// errTaken is a lock that another program has.
var errTaken = errors.New("the lock is taken")

// Hold is a database file that this program serves, and no other one may.
type Hold struct{ f *os.File }

// TakeHold takes a database file to be served. It is ErrServed, with who has it, where another server does.
func TakeHold(path string) (*Hold, error) {
	if err := reach(path); err != nil {
		return nil, err
	}
	f, err := os.OpenFile(path+".lock", os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if info, err := os.Stat(path); err == nil { // root may begin what a service goes on with
		if err := giveLike(f.Name(), info); err != nil {
			return nil, errors.Join(err, f.Close())
		}
	}
	if err := lock(f); err != nil {
		who, _ := io.ReadAll(io.LimitReader(f, 1<<10)) // what cannot be read is not told
		if errors.Is(err, errTaken) {
			err = fmt.Errorf("%w: %s; stop that one first", ErrServed, strings.TrimSpace(string(who)))
		}
		return nil, errors.Join(err, f.Close())
	}
	h := &Hold{f}
	return h, h.Say("not listening yet")
}

// Say notes who has the file, and where it is reached, for whoever tries to serve it too.
func (h *Hold) Say(where string) error {
	host, err := os.Hostname()
	if err != nil {
		host = "this machine"
	}
	who := fmt.Sprintf("process %d on %s, %s, since %s\n", os.Getpid(), host, where,
		time.Now().Format("2 Jan 2006, 15:04"))
	if err := h.f.Truncate(0); err != nil {
		return err
	}
	_, err = h.f.WriteAt([]byte(who), 0)
	return err
}

// Release lets others serve the file.
func (h *Hold) Release() error { return h.f.Close() }
