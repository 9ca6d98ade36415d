package api

import (
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
)

// answered are the bounds of the times to answer, in seconds.
var answered = []float64{.005, .02, .1, .5, 2, 10}

// methods are those that are counted by their names; whoever makes others up makes no series of them.
var methods = []string{http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete,
	http.MethodOptions}

// measured counts requests and their time by route.
func (s *service) measured() func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			began := time.Now()
			seen := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(seen, r)
			route := chi.RouteContext(r.Context()).RoutePattern()
			if route == "" {
				route = "console"
			}
			method := r.Method
			if !slices.Contains(methods, method) {
				method = "other"
			}
			series := fmt.Sprintf("celandine_http_seconds{method=%q,route=%q,status=\"%d\"}", method, route, max(seen.Status(), 200))
			s.Metrics.GetOrCreatePrometheusHistogramExt(series, answered).Update(time.Since(began).Seconds())
		})
	}
}
