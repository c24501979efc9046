package ops

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
)

const (
	smallestLimit = 42 << 20 // bytes of the runtime's memory that are always allowed
	growthPercent = 20       // per cent by which what is in use may grow between two collections, if that is more
)

// heapPace sets the memory limit of the runtime after each collection.
type heapPace struct {
	sizes [len(memorySizes)]metrics.Sample
	limit int64
}

// memorySizes are the metrics that heapPace reads.
var memorySizes = [...]string{"/gc/heap/live:bytes", "/gc/scan/stack:bytes", "/gc/scan/globals:bytes",
	"/memory/classes/total:bytes", "/memory/classes/heap/released:bytes", "/memory/classes/heap/objects:bytes",
	"/memory/classes/heap/free:bytes"}

// PaceHeap bounds the memory of a server under load without frequent collections of a small heap. A memory limit counts
// from the moment a collection ends; with GOGC alone the heap outgrows its bound before a new value is set, since the
// runtime goes by the old one where suddenly more is in use. It works until the program ends.
func PaceHeap() {
	p := &heapPace{}
	for i, name := range memorySizes {
		p.sizes[i].Name = name
	}
	debug.SetGCPercent(-1)
	p.set()
	p.next()
}

// next arranges for the limit to be set after the next collection.
func (p *heapPace) next() {
	type mark struct{ _ *heapPace }
	runtime.AddCleanup(&mark{}, func(p *heapPace) {
		p.set()
		p.next()
	}, p)
}

func (p *heapPace) set() {
	metrics.Read(p.sizes[:])
	size := func(i int) int64 { return int64(p.sizes[i].Value.Uint64()) } //nolint:gosec // no program has that much
	live, roots, besides := size(0), size(1)+size(2), size(3)-size(4)-size(5)-size(6)
	if limit := memoryLimit(live, roots, besides); limit != p.limit {
		p.limit = limit
		debug.SetMemoryLimit(limit)
	}
}

// memoryLimit returns the limit for a live heap, its roots (stacks and globals) and what the runtime holds besides the
// heap's objects, in bytes. Growth is of the sum of the first two, as GOGC has it.
func memoryLimit(live, roots, besides int64) int64 {
	return max(smallestLimit, live+(live+roots)*growthPercent/100+besides)
}
