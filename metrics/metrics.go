// Package metrics counts what the application does, for Prometheus to collect.
package metrics

import (
	"context"
	"log/slog"
	"net/http"
	"strconv"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"lazo/store"
)

// Metrics are those of one copy of the application.
type Metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
	faults   prometheus.Counter
	runs     prometheus.Histogram
	went     *prometheus.CounterVec
}

// New begins to count, and looks into a store when it is asked.
func New(s *store.Store, version string) *Metrics {
	f := &Metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "lazo_request_seconds",
			Help:    "How long requests took, by route, method and status.",
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10}},
			[]string{"method", "route", "status"}),
		runs: prometheus.NewHistogram(prometheus.HistogramOpts{Name: "lazo_run_seconds",
			Help:    "How long one run of a form took.",
			Buckets: []float64{.00001, .00005, .0001, .0005, .001, .005, .01, .05, .25, 1}}),
	}
	f.faults = prometheus.NewCounter(prometheus.CounterOpts{Name: "lazo_faults_total",
		Help: "Requests that failed (status 500)."})
	f.went = prometheus.NewCounterVec(prometheus.CounterOpts{Name: "lazo_attempts_total",
		Help: "Attempts at sending e-mails and at telling hooks, by how they ended; what is deferred is tried again."},
		[]string{"kind", "ended"})
	for _, kind := range kinds {
		for _, ended := range ends {
			f.went.WithLabelValues(kind, ended)
		}
	}
	built := prometheus.NewGaugeVec(prometheus.GaugeOpts{Name: "lazo_build", Help: "The version that runs; always 1."},
		[]string{"version"})
	built.WithLabelValues(version).Set(1)
	f.registry.MustRegister(f.requests, f.faults, f.runs, f.went, built, &stored{store: s}, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return f
}

// Request counts a request.
func (f *Metrics) Request(method, route string, status int, took time.Duration) {
	if f != nil {
		f.requests.WithLabelValues(known(method), route, strconv.Itoa(status)).Observe(took.Seconds())
		if status == http.StatusInternalServerError {
			f.faults.Inc()
		}
	}
}

// What is counted of what goes out, there from the beginning so that a first one is seen
// to come: kinds as the outbox has them but for e-mails, which it calls letters.
var (
	kinds = map[store.LetterKind]string{store.Mail: "email", store.Hook: "hook"}
	ends  = map[store.LetterState]string{store.Sent: "sent", store.Waiting: "deferred", store.Failed: "failed"}
	open  = []store.LetterState{store.Waiting, store.Held, store.Sending, store.Failed}
)

// Went counts how an attempt at sending something ended.
func (f *Metrics) Went(kind store.LetterKind, became store.LetterState) {
	if ended := ends[became]; f != nil && ended != "" {
		f.went.WithLabelValues(kinds[kind], ended).Inc()
	}
}

// known keeps the methods that are counted few, whatever is sent.
func known(method string) string {
	switch method {
	case http.MethodGet, http.MethodPost, http.MethodHead, http.MethodOptions:
		return method
	}
	return "other"
}

// Run counts one run of a form.
func (f *Metrics) Run(took time.Duration) {
	if f != nil {
		f.runs.Observe(took.Seconds())
	}
}

// Handler hands the figures out. They name no person, form or workspace, but are for
// whoever runs the application alone.
func (f *Metrics) Handler() http.Handler {
	return promhttp.HandlerFor(f.registry, promhttp.HandlerOpts{})
}

// stored are the figures of the database, looked up when they are asked for.
type stored struct {
	store *store.Store

	mu    sync.Mutex
	last  store.Figures
	since time.Time
	known bool
}

// askedEvery is how often the database is asked at most; askedFor how long.
const (
	askedEvery = 10 * time.Second
	askedFor   = 3 * time.Second
)

func gauge(name, help string, labels ...string) *prometheus.Desc {
	return prometheus.NewDesc("lazo_"+name, help, labels, nil)
}

var (
	connections = gauge("connections",
		"Connections to the database, of public pages and of the desk: in use, idle, and at most.", "of", "state")
	waits     = gauge("connection_waits_total", "How often a request had to wait for a connection.", "of")
	up        = gauge("database_up", "1 if the database answers and can be written to.")
	letters   = gauge("outbox", "E-mails and hooks that are not done, by state.", "kind", "state")
	oldest    = gauge("outbox_oldest_seconds", "How long the oldest e-mail or hook that was not tried yet has been due.")
	jobs      = gauge("jobs", "Jobs of the queue, by state.", "state")
	sizes     = gauge("bytes", "How much room is taken: by the database, and by files in it.", "of")
	responses = gauge("responses", "Responses that are stored.")
	forms     = gauge("forms", "Forms, live and in all.", "state")
)

// Describe is prometheus.Collector's.
func (c *stored) Describe(out chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{connections, waits, up, letters, oldest, jobs, sizes, responses, forms} {
		out <- d
	}
}

// Collect is prometheus.Collector's.
func (c *stored) Collect(out chan<- prometheus.Metric) {
	value := func(d *prometheus.Desc, v float64, labels ...string) {
		out <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, v, labels...)
	}
	public, desk := c.store.Connections()
	for of, stat := range map[string]*pgxpool.Stat{"public": public, "desk": desk} {
		value(connections, float64(stat.AcquiredConns()), of, "used")
		value(connections, float64(stat.IdleConns()), of, "idle")
		value(connections, float64(stat.MaxConns()), of, "most")
		value(waits, float64(stat.EmptyAcquireCount()), of)
	}
	now, ok := c.look()
	if !ok {
		value(up, 0)
		return
	}
	value(up, 1)
	counts := map[store.OutboxFigure]int64{}
	for _, l := range now.Outbox {
		counts[store.OutboxFigure{Kind: l.Kind, State: l.State}] = l.N
	}
	for kind, name := range kinds {
		for _, state := range open {
			value(letters, float64(counts[store.OutboxFigure{Kind: kind, State: state}]), name, string(state))
		}
	}
	value(oldest, now.OldestDue.Seconds())
	for state, n := range now.Jobs {
		value(jobs, float64(n), state)
	}
	value(sizes, float64(now.DatabaseBytes), "database")
	value(sizes, float64(now.FileBytes), "files")
	value(responses, float64(now.Responses))
	value(forms, float64(now.FormsLive), "live")
	value(forms, float64(now.Forms), "all")
}

func (c *stored) look() (store.Figures, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if time.Since(c.since) < askedEvery {
		return c.last, c.known
	}
	ctx, cancel := context.WithTimeout(context.Background(), askedFor)
	defer cancel()
	now, err := store.Figures{}, c.store.Ready(ctx)
	if err == nil {
		now, err = c.store.Figures(ctx)
	}
	if err != nil {
		slog.Warn("the figures of the database could not be had", "err", err)
	}
	c.last, c.since, c.known = now, time.Now(), err == nil
	return c.last, c.known
}
