package ops

import (
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/sync/semaphore"
)

// Jobs is the work of a server in the background. An error or a panic in it is logged and ends nothing else; all of it
// is told to end when the server does, and is awaited.
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

// Task is work for the background.
type Task struct {
	Name    string        // stands in the log
	Longest time.Duration // that it may take, its turn included; 0 is without an end
	Queue   Queue         // in which it waits for its turn; the zero Queue has room for any number
	Work    func(ctx context.Context, job *Job) error
	Then    func() // called when the job has ended, however that was
}

// Queue bounds how many jobs run at a time.
type Queue struct{ room *semaphore.Weighted }

// NewQueue returns a queue in which n jobs run at a time.
func NewQueue(n int64) Queue { return Queue{semaphore.NewWeighted(n)} }

// Job is work that was begun.
type Job struct {
	stop     context.CancelFunc
	ended    chan struct{}
	err      error // once it has ended
	done, of atomic.Int64
}

// Start begins a task. The context of its work ends when the job is stopped, when its time is over, or when the server
// ends.
func (j *Jobs) Start(t Task) *Job {
	ctx, stop := context.WithCancel(j.ctx)
	if t.Longest > 0 {
		ctx, stop = context.WithTimeout(j.ctx, t.Longest)
	}
	job := &Job{stop: stop, ended: make(chan struct{})}
	j.wait.Go(func() {
		defer stop()
		if job.err = t.Queue.run(ctx, func() error { return t.Work(ctx, job) }); job.err != nil && ctx.Err() == nil {
			j.log.Error("work in the background failed", "job", t.Name, "err", job.err)
		}
		close(job.ended)
		if t.Then != nil {
			t.Then()
		}
	})
	return job
}

// Every begins work that is done at once, and again and again after a while. What fails is logged and tried the next
// time.
func (j *Jobs) Every(name string, pause time.Duration, work func(ctx context.Context) error) *Job {
	return j.Start(Task{Name: name, Work: func(ctx context.Context, _ *Job) error {
		due := time.NewTicker(pause)
		defer due.Stop()
		for {
			if err := guarded(func() error { return work(ctx) }); err != nil && ctx.Err() == nil {
				j.log.Error("work in the background failed", "job", name, "err", err)
			}
			select {
			case <-ctx.Done():
				return nil
			case <-due.C:
			}
		}
	}})
}

// Close tells all work to end, and waits until it has.
func (j *Jobs) Close() {
	j.end()
	j.wait.Wait()
}

// run does work when it is its turn.
func (q Queue) run(ctx context.Context, work func() error) error {
	if q.room != nil {
		if err := q.room.Acquire(ctx, 1); err != nil {
			return err
		}
		defer q.room.Release(1)
	}
	return guarded(work)
}

// guarded does work and makes an error of a panic in it.
func guarded(work func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("panic: %v\n%s", p, debug.Stack())
		}
	}()
	return work()
}

// Progress notes how much of the work is done.
func (j *Job) Progress(done, of int) {
	j.done.Store(int64(done))
	j.of.Store(int64(of))
}

// Done returns how much of the work is done, of how much.
func (j *Job) Done() (done, of int) { return int(j.done.Load()), int(j.of.Load()) }

// Ended is closed when the job has ended.
func (j *Job) Ended() <-chan struct{} { return j.ended }

// Err returns why the job failed; nil for one that has not ended or has done its work.
func (j *Job) Err() error {
	if !j.HasEnded() {
		return nil
	}
	return j.err
}

// HasEnded reports whether the job has ended.
func (j *Job) HasEnded() bool {
	select {
	case <-j.ended:
		return true
	default:
		return false
	}
}

// Stop tells the job to end, and waits until it has.
func (j *Job) Stop() {
	j.stop()
	<-j.ended
}
