package ops

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
)

const (
	roomyHeap   = 24 << 20 // bytes: a smaller heap is not collected
	tightGrowth = 35       // per cent by which a larger heap may grow between two collections

	// smallestGoal is the heap size of the runtime's first collection at GOGC=100, in bytes.
	smallestGoal = 4 << 20
)

// heapPace sets the growth of the heap after each collection.
type heapPace struct {
	sizes   [3]metrics.Sample // live heap, stacks and globals
	percent int
}

// PaceHeap bounds the memory of a server under load without frequent collections of a small heap: a fixed GOGC gives
// only one of the two. It works until the program ends.
func PaceHeap() {
	p := &heapPace{}
	for i, name := range []string{"/gc/heap/live:bytes", "/gc/scan/stack:bytes", "/gc/scan/globals:bytes"} {
		p.sizes[i].Name = name
	}
	p.set(roomyHeap * 100 / smallestGoal)
	p.next()
}

// next arranges for the growth to be set after the next collection.
func (p *heapPace) next() {
	type mark struct{ _ *heapPace }
	runtime.AddCleanup(&mark{}, func(p *heapPace) {
		metrics.Read(p.sizes[:])
		p.set(heapGrowth(p.sizes[0].Value.Uint64(), p.sizes[1].Value.Uint64()+p.sizes[2].Value.Uint64()))
		p.next()
	}, p)
}

func (p *heapPace) set(percent int) {
	if percent != p.percent {
		p.percent = percent
		debug.SetGCPercent(percent)
	}
}

// heapGrowth returns the GOGC value for a live heap and its roots (stacks and globals), in bytes. The runtime applies
// the percentage to the sum of the two.
func heapGrowth(live, roots uint64) int {
	if live >= roomyHeap || live == 0 {
		return tightGrowth
	}
	return max(tightGrowth, int((roomyHeap-live)*100/(live+roots)))
}
