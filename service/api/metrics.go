package api

import (
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
)

// measured counts requests and their time by route.
func (s *service) measured() func(http.Handler) http.Handler {
	seconds := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "celandine_http_seconds", Help: "Time to answer a request.", Buckets: []float64{.005, .02, .1, .5, 2, 10},
	}, []string{"method", "route", "status"})
	s.Metrics.MustRegister(seconds)
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			began := time.Now()
			seen := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(seen, r)
			route := chi.RouteContext(r.Context()).RoutePattern()
			if route == "" {
				route = "console"
			}
			seconds.WithLabelValues(r.Method, route, strconv.Itoa(max(seen.Status(), 200))).Observe(time.Since(began).Seconds())
		})
	}
}
