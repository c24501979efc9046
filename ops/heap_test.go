package ops

import (
	"math"
	"runtime"
	"runtime/debug"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A small program is always allowed the same, a large one a fifth more than what it uses.
func TestMemoryLimit(t *testing.T) {
	t.Parallel()
	assert.Equal(t, int64(smallestLimit), memoryLimit(0, 0, 0))
	assert.Equal(t, int64(smallestLimit), memoryLimit(20<<20, 5<<20, 8<<20))
	assert.Equal(t, int64(135_600_000), memoryLimit(100_000_000, 8_000_000, 14_000_000))
}

// The limit follows what is in use from one collection to the next: a large heap neither runs into it nor grows beyond.
func TestTheHeapIsPaced(t *testing.T) {
	defer debug.SetMemoryLimit(math.MaxInt64)
	defer debug.SetGCPercent(debug.SetGCPercent(100))
	PaceHeap()
	limit := func() int64 {
		runtime.GC()
		time.Sleep(10 * time.Millisecond)
		return debug.SetMemoryLimit(-1)
	}
	require.Eventually(t, func() bool { return limit() == smallestLimit }, 5*time.Second, time.Millisecond)
	const held = 4 * smallestLimit
	b := make([]byte, held)
	assert.Eventually(t, func() bool { return held*6/5 < limit() && limit() < held*3/2 }, 5*time.Second,
		time.Millisecond)
	runtime.KeepAlive(b)
	b = nil
	assert.Eventually(t, func() bool { return limit() == smallestLimit }, 5*time.Second, time.Millisecond)
}
