package ops

import (
	"runtime"
	"runtime/debug"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A small heap may grow to the same size whatever is in use, a large one by a third.
func TestHeapGrowth(t *testing.T) {
	t.Parallel()
	for live := uint64(1 << 20); live < 1<<33; live = live*9/8 + 1 {
		for _, roots := range []uint64{0, 1 << 20, 7 << 20, 1 << 26} {
			growth := heapGrowth(live, roots)
			goal := live + (live+roots)*uint64(growth)/100
			if growth > tightGrowth {
				require.InDelta(t, roomyHeap, goal, float64(live+roots)/100+1, "%d in use, %d roots", live, roots)
				continue
			}
			require.Equal(t, tightGrowth, growth)
			require.Greater(t, goal+(live+roots)/100+1, uint64(roomyHeap), "%d in use, %d roots", live, roots)
		}
	}
}

// The growth follows what is in use from one collection to the next.
func TestTheHeapIsPaced(t *testing.T) {
	defer debug.SetGCPercent(debug.SetGCPercent(100))
	PaceHeap()
	growth := func() int {
		runtime.GC()
		time.Sleep(10 * time.Millisecond)
		now := debug.SetGCPercent(100)
		debug.SetGCPercent(now)
		return now
	}
	require.Eventually(t, func() bool { return growth() > tightGrowth }, 5*time.Second, time.Millisecond)
	held := make([]byte, 4*roomyHeap)
	assert.Eventually(t, func() bool { return growth() == tightGrowth }, 5*time.Second, time.Millisecond)
	runtime.KeepAlive(held)
}
