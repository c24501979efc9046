package ops

import (
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"sync"
)

// Jobs is the work of a server in the background. A panic in it is logged and ends nothing else; all of it is told to end
// when the server does, and is awaited.
type Jobs struct {
	log  *slog.Logger
	ctx  context.Context //nolint:containedctx // the life of the jobs, which outlives any request
	end  context.CancelFunc
	wait sync.WaitGroup
}

// NewJobs returns a group without any work.
func NewJobs(log *slog.Logger) *Jobs {
	ctx, end := context.WithCancel(context.Background())
	return &Jobs{log: log, ctx: ctx, end: end}
}

// Go begins work under a name that stands in the log. Its context ends when the server does.
func (j *Jobs) Go(name string, work func(ctx context.Context)) {
	j.wait.Go(func() { guard(j.log, name, func() { work(j.ctx) }) })
}

// Close tells all work to end, and waits until it has.
func (j *Jobs) Close() {
	j.end()
	j.wait.Wait()
}

// guard does work and logs a panic in it.
func guard(log *slog.Logger, name string, work func()) {
	defer func() {
		if p := recover(); p != nil {
			log.Error("work in the background failed", "job", name, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
		}
	}()
	work()
}

// Guard does work on the goroutine that calls it, and logs a panic in it.
func (j *Jobs) Guard(name string, work func()) { guard(j.log, name, work) }
