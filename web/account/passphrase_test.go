package account

import (
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Memory is freed once, after nobody has signed in for a while, and not while a class does.
func TestMemoryIsFreedWhenIdle(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		freed := 0
		h := newHashing(func() { freed++ })
		for range 30 {
			require.NoError(t, h.do(t.Context(), "192.0.2.1", false, func() {}))
			time.Sleep(quiet / 2)
			synctest.Wait()
		}
		assert.Zero(t, freed)
		time.Sleep(10 * quiet)
		assert.Equal(t, 1, freed)
	})
}
