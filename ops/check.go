package ops

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/school"
	"cavix/school/server"
	"cavix/store"
)

// Report holds the findings of a check of a database file.
type Report struct {
	server.Audit
	Schema int64 // the form of the file
	Took   time.Duration
}

// Sound reports whether nothing is wrong.
func (r Report) Sound() bool { return len(r.Faults) == 0 }

// Checking says how a file is checked.
type Checking struct {
	server.Auditing
	Replica bool // it was restored from a replica, which ends in the middle of things
}

// Check looks through a database file, whether it is being served or not, and changes nothing: pages and indexes, the
// ties between rows, every document, item and answer, and that the marks that stand are those that the core gives. A
// file that was copied from under a running server without its write-ahead log is a fault; of a replica it is only
// said.
func Check(ctx context.Context, path string, by Checking) (r Report, note string, err error) {
	began := time.Now()
	logged := store.HasLog(path)
	s, err := inspect(ctx, path)
	if err != nil {
		return r, "", err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if r.Schema, err = s.Schema(ctx); err != nil {
		return r, "", err
	}
	if r.Schema > store.NewestSchema() {
		return r, "", fmt.Errorf("%s: %w", path, store.ErrNewer)
	}
	left, err := leftBehind(ctx, s, logged)
	if err != nil {
		return r, "", err
	}
	var faults []string
	var audited error
	var g errgroup.Group
	g.Go(func() error { return readThrough(ctx, path) })
	g.Go(func() error {
		var err error
		faults, err = s.Integrity(ctx)
		return advised(path, err)
	})
	if r.Schema == store.NewestSchema() {
		r.Audit, audited = school.New(s).Server.Audit(ctx, by.Auditing)
	} else {
		r.Audit, audited = auditOlder(ctx, s, by.Auditing)
	}
	if err := g.Wait(); err != nil {
		return r, "", err
	}
	if len(faults) > 0 { // rows of a damaged file say little
		r.Audit, audited = server.Audit{}, nil
		note = fmt.Sprintf("%s is damaged. Keep it as it is, and put the newest copy in its place: cavix restore "+
			"--from COPY --data %s --older",
			path, path)
	}
	if left != "" && !by.Replica {
		faults, left = append(faults, left), ""
	}
	r.Faults = append(faults, r.Faults...)
	r.Took = time.Since(began)
	if note == "" {
		note = left
	}
	return r, note, audited
}

// readThrough reads a whole file once, so that it is in the system's page cache: the check reads its pages in no
// particular order, and a disk is many times as fast when it reads in sequence.
func readThrough(ctx context.Context, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	part := make([]byte, 1<<20)
	for err == nil && ctx.Err() == nil {
		_, err = f.Read(part)
	}
	return f.Close() // the check itself reports what cannot be read
}

// auditOlder looks through a file of an older form: in a copy that is brought to the newest.
func auditOlder(ctx context.Context, s *store.DB, by server.Auditing) (a server.Audit, err error) {
	dir, err := os.MkdirTemp("", "cavix-check-")
	if err != nil {
		return a, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	path := filepath.Join(dir, "copy.db")
	if err := s.CopyTo(ctx, path); err != nil {
		return a, err
	}
	newer, err := store.Open(ctx, path)
	if err != nil {
		return a, err
	}
	a, err = school.New(newer).Server.Audit(ctx, by)
	return a, errors.Join(err, newer.Close())
}

// CheckServed looks through the database that is being served, without holding anybody up.
func CheckServed(ctx context.Context, s *store.DB) (r Report, err error) {
	began := time.Now()
	if r.Schema, err = s.Schema(ctx); err != nil {
		return r, err
	}
	faults, err := s.Integrity(ctx)
	if err != nil {
		return r, err
	}
	r.Audit, err = school.New(s).Server.Audit(ctx, server.Auditing{Gently: true})
	r.Faults, r.Took = append(faults, r.Faults...), time.Since(began)
	return r, err
}
