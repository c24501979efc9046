//go:build unix

package ops

import "golang.org/x/sys/unix"

// diskLeft returns the free bytes for this user on the disk of a folder.
func diskLeft(dir string) (uint64, error) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, err
	}
	return uint64(s.Bavail) * uint64(s.Bsize), nil
}
