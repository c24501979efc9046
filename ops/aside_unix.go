//go:build unix

package ops

import (
	"os"
	"strconv"
	"syscall"
)

// aside is how far a command steps back, from 0 to 19.
const aside = 15

// StepAside has this program take the processor only when others leave it: a server on the same machine goes first.
// Where the system does not let it, it goes on as it is.
func StepAside() {
	threads, err := os.ReadDir("/proc/self/task") // Linux has a priority for each thread
	if err != nil {
		_ = syscall.Setpriority(syscall.PRIO_PROCESS, 0, aside)
		return
	}
	for _, t := range threads {
		if id, err := strconv.Atoi(t.Name()); err == nil {
			_ = syscall.Setpriority(syscall.PRIO_PROCESS, id, aside)
		}
	}
}
