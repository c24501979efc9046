package ops

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net"
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"cavix/store"
)

// Metrics are numbers about a running server, for who watches it. They name no person and hold nothing of what is kept.
type Metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
	flying   prometheus.Gauge
	batches  prometheus.Histogram
	commits  prometheus.Histogram
	unkept   prometheus.Counter
	slow     *prometheus.CounterVec

	attendant *Supervisor
}

// NewMetrics begins to count, for the file that an attendant looks after.
func NewMetrics(a *Supervisor) *Metrics {
	m := &Metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "cavix_request_seconds",
			Help:    "How long requests took, by method, place and status.",
			Buckets: []float64{.001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10}},
			[]string{"method", "place", "status"}),
		flying: prometheus.NewGauge(prometheus.GaugeOpts{Name: "cavix_requests_under_way",
			Help: "Requests under way, streams too."}),
		batches: prometheus.NewHistogram(prometheus.HistogramOpts{Name: "cavix_commit_pieces",
			Help: "How many pieces of work went into a commit.", Buckets: []float64{1, 2, 4, 8, 16, 32, 64, 128, 256}}),
		commits: prometheus.NewHistogram(prometheus.HistogramOpts{Name: "cavix_commit_seconds",
			Help: "How long a commit took until it was on the disk.", Buckets: prometheus.ExponentialBuckets(.0005, 2,
				14)}),
		unkept: prometheus.NewCounter(prometheus.CounterOpts{Name: "cavix_commits_failed_total",
			Help: "Commits that could not be kept."}),
		slow: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "cavix_slow_queries_total",
			Help: "Queries that took long, by name."}, []string{"query"}),
	}
	m.registry.MustRegister(collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), m.requests, m.flying, m.batches, m.commits,
		m.unkept, m.slow,
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "cavix_file_bytes",
			Help: "Size of the database with its log."}, func() float64 { return float64(a.Size()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "cavix_disk_left_bytes",
			Help: "What is left of the disk; -1 where that is not known."}, func() float64 {
			if left, err := a.DiskLeft(); err == nil {
				return float64(left)
			}
			return -1
		}),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "cavix_newest_copy_seconds",
			Help: "Age of the newest daily copy; +Inf where there is none."}, func() float64 {
			if list, err := a.List(); err == nil && len(list) > 0 {
				return time.Since(list[0].At).Seconds()
			}
			return math.Inf(1)
		}))
	m.attendant = a
	a.Store.Watch(store.Watcher{
		Commit: func(pieces int, took time.Duration, err error) {
			m.batches.Observe(float64(pieces))
			m.commits.Observe(took.Seconds())
			if err != nil {
				m.unkept.Inc()
			}
		},
		Slow: func(query string, took time.Duration) {
			m.slow.WithLabelValues(query).Inc()
			a.Log.Warn("slow query", "query", query, "took", took.Round(time.Millisecond))
		},
	})
	return m
}

// Count counts the requests of a router, by the pattern that they met: an address with a number in it is one place.
func (m *Metrics) Count(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := time.Now()
		m.flying.Inc()
		defer m.flying.Dec()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		place := "none"
		if c := chi.RouteContext(r.Context()); c != nil && c.RoutePattern() != "" {
			place = c.RoutePattern()
		}
		m.requests.WithLabelValues(method(r.Method), place,
			strconv.Itoa(max(ww.Status(), http.StatusOK))).Observe(time.Since(began).Seconds())
	})
}

// method is one of the known methods, so that nobody makes up endless ones.
func method(m string) string {
	switch m {
	case http.MethodGet, http.MethodPost, http.MethodHead:
		return m
	}
	return "other"
}

// Handler tells the numbers in the form that Prometheus reads at /metrics, and at /readyz what keeps the server from
// its work.
func (m *Metrics) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{}))
	mux.HandleFunc("GET /readyz", m.ready)
	return mux
}

// ready says whether the server can do its work, and what speaks against it.
func (m *Metrics) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), time.Second)
	defer cancel()
	writable, room := m.attendant.Store.Writable(ctx), m.attendant.HasRoom()
	if writable != nil || room != nil {
		w.WriteHeader(http.StatusServiceUnavailable)
	}
	said := func(err error) string {
		if err != nil {
			return err.Error()
		}
		return "ok"
	}
	fmt.Fprintf(w, "writing: %s\nroom on the disk: %s\n", said(writable), said(room))
	if left, err := m.attendant.DiskLeft(); err == nil {
		fmt.Fprintf(w, "disk left: %s\n", SizeText(int64(min(left, 1<<62))))
	}
}

// Serve tells the numbers at an address of their own until the context ends. It should not be reached from outside.
func (m *Metrics) Serve(ctx context.Context, addr string) error {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return err
	}
	srv := &http.Server{Handler: m.Handler(), ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 10 * time.Second,
		WriteTimeout: 30 * time.Second}
	go func() {
		<-ctx.Done()
		_ = srv.Close()
	}()
	if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
