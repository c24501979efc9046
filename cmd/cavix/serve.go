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
	"syscall"
	"time"
	_ "time/tzdata" // time zones on machines that have no list of them

	"github.com/spf13/cobra"

	"cavix/classroom"
	"cavix/demo"
	"cavix/store"
	"cavix/web"
	"cavix/web/account"
)

func serveCommand() *cobra.Command {
	var addr, data string
	var secure, verbose bool
	var proxies []string
	c := &cobra.Command{
		Use:     "serve",
		Short:   "Serve Cavix from one database file",
		Example: "  cavix serve --addr 127.0.0.1:8080 --data cavix.db\n  cavix serve --addr 127.0.0.1:8080 --data /var/lib/cavix/school.db --https",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			for _, p := range proxies {
				if _, err := netip.ParsePrefix(p); err != nil {
					return usageError{fmt.Errorf("--proxy must be a range of addresses, as 10.0.0.0/8; it is %q", p)}
				}
			}
			ctx := c.Context()
			s, err := store.Open(ctx, data)
			if err != nil {
				return err
			}
			cfg := web.Config{Store: s, Log: logger(c.ErrOrStderr(), verbose), Secure: secure, Proxies: proxies}
			has, err := s.Read(ctx).HasInstructors()
			if err != nil {
				return errors.Join(err, s.Close())
			}
			announce := func(at string) {
				fmt.Fprintf(c.OutOrStdout(), "Cavix is at http://%s (data: %s)\n", at, data)
				if !has {
					fmt.Fprintf(c.OutOrStdout(), "Set up the first instructor at http://%s/setup?key=%s\n", at,
						cfg.SetupKey)
				}
			}
			if !has {
				cfg.SetupKey = rand.Text()
			}
			return errors.Join(serve(ctx, addr, cfg, announce), s.Close())
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to listen on")
	c.Flags().StringVar(&data, "data", "cavix.db", "database file; it is made when it is not there")
	c.Flags().BoolVar(&secure, "https", false,
		"the site is reached over HTTPS, through a proxy: mark cookies as secure")
	c.Flags().StringSliceVar(&proxies, "proxy", nil,
		"addresses of proxies on other machines, as 10.0.0.0/8: sign-ins are then limited by the address they report")
	c.Flags().BoolVar(&verbose, "verbose", false, "log every request")
	return c
}

func demoCommand() *cobra.Command {
	var addr string
	c := &cobra.Command{
		Use:     "demo",
		Short:   "Serve a fresh copy of the demo, the tide-mill course at Skerry Point",
		Example: "  cavix demo\n  cavix demo --addr 127.0.0.1:9000",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			dir, err := os.MkdirTemp("", "cavix-demo-")
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
			s, err := store.Open(c.Context(), filepath.Join(dir, "demo.db"))
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.Close()) }()
			if err := demo.Fill(c.Context(), s, time.Now()); err != nil {
				return fmt.Errorf("filling the demo: %w", err)
			}
			cfg := web.Config{Store: s, Log: logger(c.ErrOrStderr(), false)}
			for _, d := range demo.SignIns() {
				cfg.Demo = append(cfg.Demo, account.SignIn(d))
			}
			return serve(c.Context(), addr, cfg, func(at string) {
				out := c.OutOrStdout()
				fmt.Fprintf(out, "The demo is at http://%s; stop it with Ctrl C, and it is gone.\n", at)
				for _, d := range cfg.Demo {
					as := "at /signin"
					if d.Code != "" {
						as = "at /join with code " + d.Code
					}
					fmt.Fprintf(out, "  %-10s passphrase %s, %s (%s)\n", d.Name, d.Passphrase, as, d.Who)
				}
			})
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to listen on")
	return c
}

// closeOver hands in, every few seconds, what is over by the clock, and lets guests go whose lesson is.
func closeOver(ctx context.Context, cfg web.Config) {
	room, every := cfg.Room, time.NewTicker(3*time.Second)
	defer every.Stop()
	for {
		if err := room.CloseOver(ctx, time.Now()); err != nil && ctx.Err() == nil {
			cfg.Log.Error("an attempt that is over cannot be handed in", "err", err)
		}
		if err := room.DropGuests(ctx, time.Now()); err != nil && ctx.Err() == nil {
			cfg.Log.Error("guests whose lesson is over cannot be let go", "err", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-every.C:
		}
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
func serve(ctx context.Context, addr string, cfg web.Config, announce func(at string)) error {
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	cfg.Room = classroom.New(cfg.Store)
	h, err := web.New(cfg)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return err
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
	srv.RegisterOnShutdown(cfg.Room.Hub.Close) // streams end when the server does
	go closeOver(ctx, cfg)
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	announce(l.Addr().String())
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	cfg.Log.Info("stopping; requests under way are finished first")
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 15*time.Second)
	defer cancel()
	return srv.Shutdown(ctx)
}
