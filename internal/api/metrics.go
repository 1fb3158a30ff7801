package api

import (
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Metrics count what the server does, for whoever runs it. They name no person, no
// vehicle and no inspection.
type Metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
	open     prometheus.Gauge
	entries  *prometheus.CounterVec
	refused  *prometheus.CounterVec
	backup   *prometheus.GaugeVec
}

// NewMetrics makes counters that stand at zero.
func NewMetrics() *Metrics {
	m := &Metrics{registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "jadegate_request_seconds", Help: "Time that requests took, streams left out.",
			Buckets: []float64{.001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 10}}, []string{"method", "route", "status"}),
		open: prometheus.NewGauge(prometheus.GaugeOpts{Name: "jadegate_streams_open", Help: "Live streams that are open."}),
		entries: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "jadegate_entries_total", Help: "Entries that were taken into logs, by kind."},
			[]string{"kind"}),
		refused: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "jadegate_sign_in_refused_total",
			Help: "Tries to sign in, or to sign, that were refused."}, []string{"why"}),
		backup: prometheus.NewGaugeVec(prometheus.GaugeOpts{Name: "jadegate_backup_last_seconds",
			Help: "When the last scheduled backup ended, Unix time, by how it ended."}, []string{"result"}),
	}
	m.registry.MustRegister(m.requests, m.open, m.entries, m.refused, m.backup, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// Handler serves the counters in Prometheus' text format.
func (m *Metrics) Handler() http.Handler {
	return promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
}

// BackedUp counts a scheduled backup.
func (m *Metrics) BackedUp(err error) {
	result := "ok"
	if err != nil {
		result = "failed"
	}
	m.backup.WithLabelValues(result).SetToCurrentTime()
}

// measured times requests by their route; what has no route is one.
func (m *Metrics) measured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		start := time.Now()
		stream := strings.HasPrefix(r.Header.Get("Accept"), "text/event-stream")
		if stream {
			m.open.Inc()
			defer m.open.Dec()
		}
		next.ServeHTTP(ww, r)
		if stream {
			return
		}
		route := chi.RouteContext(r.Context()).RoutePattern()
		if route == "" {
			route = "other"
		}
		m.requests.WithLabelValues(r.Method, route, strconv.Itoa(ww.Status())).Observe(time.Since(start).Seconds())
	})
}
