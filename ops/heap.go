package ops

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
)

// Memory of a server, in bytes: garbage is not collected before the heap has grown to roomyHeap. Beyond that it grows
// by tightGrowth per cent from one collection to the next.
const (
	roomyHeap   = 32 << 20
	tightGrowth = 50
)

// smallestGoal is the size at which the runtime first collects garbage, for each 100 per cent of growth.
const smallestGoal = 4 << 20

// heapPace sets the growth of the heap anew after each collection.
type heapPace struct {
	sizes   [3]metrics.Sample // of the heap in use, and of the stacks and globals that count with it
	percent int
}

// PaceHeap keeps the memory of a server small when a school is at work, and collects garbage seldom when it is not: by
// a percentage alone, what is cheap for a small heap is too much for a large one. It goes on until the program ends.
func PaceHeap() {
	p := &heapPace{}
	for i, name := range []string{"/gc/heap/live:bytes", "/gc/scan/stack:bytes", "/gc/scan/globals:bytes"} {
		p.sizes[i].Name = name
	}
	p.set(roomyHeap * 100 / smallestGoal)
	p.next()
}

// next has the growth set after the next collection.
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

// heapGrowth returns the percentage by which the heap may grow, with so many bytes in use and as many roots. The
// runtime lets it grow by that part of both.
func heapGrowth(live, roots uint64) int {
	if live >= roomyHeap || live == 0 {
		return tightGrowth
	}
	return max(tightGrowth, int((roomyHeap-live)*100/(live+roots)))
}
