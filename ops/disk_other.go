//go:build !unix

package ops

import "errors"

// diskLeft is not known on this system.
func diskLeft(string) (uint64, error) {
	return 0, errors.New("this system does not tell how much of the disk is left")
}
