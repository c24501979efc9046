package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"
	_ "time/tzdata" // time zones on machines that have no list of them

	"github.com/spf13/cobra"

	"cavix/demo"
	"cavix/locale"
	"cavix/ops"
	"cavix/school"
	"cavix/store"
	"cavix/web"
	"cavix/web/account"
)

func serveCommand() *cobra.Command {
	var o serving
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve Cavix from one database file",
		Example: "  cavix serve --data cavix.db --new\n" +
			"  cavix serve --addr 127.0.0.1:8080 --data /var/lib/cavix/school.db --https",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error { return o.run(c) },
	}
	f := c.Flags()
	f.StringVar(&o.addr, "addr", "127.0.0.1:8080", "address to listen on")
	f.StringVar(&o.data, "data", "cavix.db", "database file")
	f.BoolVar(&o.new, "new", false, "create a new database if the file is missing or empty")
	f.StringVar(&o.copies, "copies", "", "folder for the daily copies (default: copies, beside the database file)")
	f.IntVar(&o.keep, "keep-copies", 14, "how many daily copies to keep; 0 makes none")
	f.BoolVar(&o.secure, "https", false,
		"the site is reached over HTTPS through a proxy; browsers are told to use only HTTPS")
	f.StringSliceVar(&o.proxies, "proxy", nil,
		"addresses of proxies on other machines, such as 10.0.0.0/8; sign-ins are then limited by the address that "+
			"they report")
	f.StringVar(&o.metrics, "metrics", "",
		"address for Prometheus metrics, such as 127.0.0.1:9100 (default: no metrics)")
	f.BoolVar(&o.verbose, "verbose", false, "log every request")
	return c
}

// serving holds the options of serving a school.
type serving struct {
	addr, data, copies   string
	metrics              string
	keep                 int
	new, secure, verbose bool
	proxies              []string
	hold                 *ops.Hold
}

func (o serving) run(c *cobra.Command) (err error) {
	for _, p := range o.proxies {
		if _, err := netip.ParsePrefix(p); err != nil {
			return usageError{fmt.Errorf("--proxy must be a range of addresses, as 10.0.0.0/8; it is %q", p)}
		}
	}
	if o.keep < 0 {
		return usageError{fmt.Errorf("--keep-copies must be 0 or more; it is %d", o.keep)}
	}
	if o.copies == "" {
		o.copies = filepath.Join(filepath.Dir(o.data), "copies")
	}
	if os.Getenv("GOGC") == "" && os.Getenv("GOMEMLIMIT") == "" {
		ops.PaceHeap()
	}
	ctx, log := c.Context(), logger(c.ErrOrStderr(), o.verbose)
	if _, err := os.Stat(o.data); err == nil || o.new {
		if o.hold, err = ops.TakeHold(o.data); err != nil {
			return fmt.Errorf("%s: %w", o.data, err)
		}
		defer func() { err = errors.Join(err, o.hold.Release()) }()
	}
	s, err := ops.Open(ctx, ops.Opening{Path: o.data, New: o.new, Copies: o.copies, Log: log})
	switch {
	case errors.Is(err, ops.ErrNoFile):
		return usageError{fmt.Errorf("--data: there is no file %s; to begin a new school there, add --new", o.data)}
	case errors.Is(err, ops.ErrEmpty):
		return usageError{fmt.Errorf(
			"--data: %s is empty; put a copy back (cavix restore), or add --new to begin a new school", o.data)}
	case err != nil:
		return fmt.Errorf("%s: %w", o.data, err)
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	jobs := ops.NewJobs(log)
	defer jobs.Close()
	attendant := &ops.Supervisor{Path: o.data, Copies: o.copies, Keep: o.keep, Store: s, Log: log, Jobs: jobs}
	if err := attendant.Begin(ctx); err != nil {
		return err
	}
	cfg := web.Config{School: school.New(s), Log: log, Secure: o.secure, Proxies: o.proxies, Supervisor: attendant,
		Version: version, Jobs: jobs}
	cfg.Metrics = ops.NewMetrics(attendant)
	if o.metrics != "" {
		jobs.Start(ops.Task{Name: "metrics",
			Work: func(ctx context.Context, _ *ops.Job) error { return cfg.Metrics.Serve(ctx, o.metrics) }})
	}
	has, err := school.New(s).Roster.HasInstructors(ctx)
	if err != nil {
		return err
	}
	if !has {
		cfg.SetupKey = rand.Text()
	}
	err = serve(ctx, o.addr, cfg, func(listening net.Addr, reach []string) {
		at := localAddr(listening)
		if err := o.hold.Say("at http://" + at); err != nil {
			log.Warn("the lock cannot say where this server is", "err", err)
		}
		fmt.Fprintf(c.OutOrStdout(), "Cavix is at http://%s (data: %s)\n", at, o.data)
		if !has {
			fmt.Fprintf(c.OutOrStdout(), "Set up the first instructor at http://%s/setup?key=%s\n", at, cfg.SetupKey)
		}
		if !o.secure { // else a proxy lets others in
			printReachable(c.OutOrStdout(), listening, reach)
		}
	})
	if errors.Is(err, ops.ErrVanished) {
		return err // there is no file to note anything in
	}
	return errors.Join(err, attendant.End(context.WithoutCancel(ctx)))
}

// mostYears is the largest number of years of a made-up school: each takes a quarter of a gigabyte.
const mostYears = 20

func demoCommand() *cobra.Command {
	var addr, keep string
	var years bool
	size := demo.TenYears
	c := &cobra.Command{
		Use:   "demo",
		Short: "Serve a fresh copy of the demo, the tide-mill course at Skerry Point",
		Example: "  cavix demo\n  cavix demo --addr 127.0.0.1:9000 --keep demo.db\n" +
			"  cavix demo --school --keep school.db",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			file := keep
			if file == "" {
				dir, err := os.MkdirTemp("", "cavix-demo-")
				if err != nil {
					return err
				}
				defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
				file = filepath.Join(dir, "demo.db")
			} else if _, err := os.Stat(file); err == nil {
				return usageError{fmt.Errorf("--keep: %s is there already; name a new file", file)}
			}
			switch {
			case !years && c.Flags().Changed("years"):
				return usageError{errors.New("--years is of a school; add --school")}
			case !years:
				size = demo.Years{}
			case size.Years < 1 || size.Years > mostYears:
				return usageError{fmt.Errorf("--years must be from 1 to %d; it is %d", mostYears, size.Years)}
			}
			return serveDemo(c, addr, file, keep != "", size)
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to listen on")
	c.Flags().StringVar(&keep, "keep", "", "keep the demo in this file")
	c.Flags().BoolVar(&years, "school", false, fmt.Sprintf("add a school that has used Cavix for years: %d million "+
		"cards, some minutes and gigabytes", size.AllCards()/1e6))
	c.Flags().IntVar(&size.Years, "years", size.Years, "how many years, with --school")
	return c
}

// serveDemo fills a new file with the demo and serves it.
func serveDemo(c *cobra.Command, addr, file string, stays bool, size demo.Years) (err error) {
	ctx, log := c.Context(), logger(c.ErrOrStderr(), false)
	if err := ops.Fill(ctx, file, func(s *store.DB) error {
		err := demo.Fill(ctx, s, time.Now())
		if err == nil && size.Years > 0 {
			err = demo.FillYears(ctx, s, size, time.Now(), tenths(c.ErrOrStderr(), "classes"))
		}
		return err
	}); err != nil {
		return fmt.Errorf("filling the demo: %w", err)
	}
	s, err := ops.Open(ctx, ops.Opening{Path: file, Log: log})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	jobs := ops.NewJobs(log)
	defer jobs.Close()
	attendant := &ops.Supervisor{Path: file, Copies: filepath.Join(filepath.Dir(file), "copies"), Keep: 3, Store: s,
		Log: log, Jobs: jobs}
	if err := attendant.Begin(ctx); err != nil {
		return err
	}
	cfg := web.Config{School: school.New(s), Log: log, Supervisor: attendant, Version: version, Jobs: jobs}
	for _, d := range demo.SignIns() {
		cfg.Demo = append(cfg.Demo, account.SignIn(d))
	}
	err = serve(ctx, addr, cfg, func(listening net.Addr, reach []string) {
		at, out := localAddr(listening), c.OutOrStdout()
		fate := "it is gone"
		if stays {
			fate = "it stays in " + file
		}
		fmt.Fprintf(out, "The demo is at http://%s; stop it with Ctrl C, and %s.\n", at, fate)
		printReachable(out, listening, reach)
		for _, d := range cfg.Demo {
			as := "at /signin"
			if d.Code != "" {
				as = "at /join with code " + d.Code
			}
			fmt.Fprintf(out, "  %-10s passphrase %s, %s (%s)\n", d.Name, d.Passphrase, as,
				locale.Documents().Print(d.Who))
		}
	})
	if errors.Is(err, ops.ErrVanished) {
		return err
	}
	return errors.Join(err, attendant.End(context.WithoutCancel(ctx)))
}

// tenths returns a function that is told how much of some work is done, and writes it each time that another tenth is.
// Of work that is done at once it writes nothing.
func tenths(w io.Writer, what string) func(done, of int) {
	said, began := 0, time.Now()
	return func(done, of int) {
		if tenth := 10 * done / max(of, 1); tenth > said && time.Since(began) > 2*time.Second {
			said = tenth
			fmt.Fprintf(w, "%s: %d of %d\n", what, done, of)
		}
	}
}

// tend begins the work that a server does again and again: what is over by the clock is handed in, guests go whose
// lesson is over, and bins are emptied of what has lain there for long enough.
func tend(cfg web.Config) {
	for _, task := range []struct {
		name string
		each time.Duration
		do   func(context.Context, time.Time) error
	}{
		{"closing what is over", 3 * time.Second, cfg.School.Sitting.CloseOver},
		{"guests", time.Minute, cfg.School.Roster.DropGuests},
		{"bins", time.Hour, cfg.School.Bin.EmptyBins},
	} {
		cfg.Jobs.Every(task.name, task.each, func(ctx context.Context) error { return task.do(ctx, time.Now()) })
	}
}

func logger(w io.Writer, verbose bool) *slog.Logger {
	level := slog.LevelInfo
	if verbose {
		level = slog.LevelDebug
	}
	return slog.New(slog.NewTextHandler(w, &slog.HandlerOptions{Level: level}))
}

// serve answers requests until the program is told to stop; requests under way are finished first.
func serve(ctx context.Context, addr string, cfg web.Config, announce func(at net.Addr, reach []string)) error {
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return err
	}
	cfg.Reach = reachable(l.Addr())
	cfg.FreeMemory = debug.FreeOSMemory
	h, err := web.New(cfg)
	if err != nil {
		return errors.Join(err, l.Close())
	}
	srv := &http.Server{
		Handler:           h,
		ReadHeaderTimeout: 5 * time.Second,
		ReadTimeout:       15 * time.Second,
		WriteTimeout:      30 * time.Second,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    32 << 10,
		ErrorLog:          slog.NewLogLogger(cfg.Log.Handler(), slog.LevelWarn),
	}
	srv.RegisterOnShutdown(cfg.School.Hub.Close) // streams end when the server does
	tend(cfg)
	failed := make(chan error, 2)
	go func() { failed <- srv.Serve(l) }()
	attended := make(chan struct{})
	go func() {
		defer close(attended)
		if err := cfg.Supervisor.Attend(ctx); err != nil {
			failed <- err
		}
	}()
	announce(l.Addr(), cfg.Reach)
	select {
	case err = <-failed:
	case <-ctx.Done():
	}
	cfg.Log.Info("stopping; requests under way are finished first")
	stop()
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), 15*time.Second)
	defer cancel()
	err = errors.Join(err, srv.Shutdown(ending))
	cfg.Jobs.Close()
	<-attended
	return err
}
