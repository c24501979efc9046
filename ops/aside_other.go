//go:build !unix

package ops

// StepAside does nothing where priorities are another matter.
func StepAside() {}
