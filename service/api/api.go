// Package api is the service's HTTP interface.
//
// [New] returns the handler: the operations under /api (typed input, may this person do it, one call into store
// or core, typed output), the OpenAPI document, health, readiness and metrics, and the console. Errors
// are RFC 9457 problems. No rule of grading or storing lives here.
package api

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/netip"
	"net/url"
	"runtime"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/VictoriaMetrics/metrics"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httplog/v3"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/mistake"
	"celandine/service/auth"
	"celandine/service/jobs"
	"celandine/service/store"
)

// Options is what the handler needs.
type Options struct {
	Store   *store.Store
	Auth    *auth.Keeper
	Graders *jobs.Graders
	Queue   *jobs.Queue
	Queued  bool // every hand-in is graded from the queue
	Hub     *Hub
	Metrics *metrics.Set
	Console http.Handler
	Log     *slog.Logger
	// HandIns is how many programs a learner may hand in within an hour; 0 is any number.
	HandIns int
	// Wait is how long a request waits for the database in all; 0 is 1.7 s.
	Wait time.Duration
	// Proxies are whose word is taken for where a request came from (X-Forwarded-For).
	Proxies []netip.Prefix
	// HTTPS tells browsers to come by nothing else.
	HTTPS bool
	// Draining is closed when the service will stop soon: it is not ready for more.
	Draining <-chan struct{}
	// Lessons are what an exercise can begin with.
	Lessons Lessons
	// Noticed is told of mistakes of Celandine's own; nil where nobody asks.
	Noticed func(*mistake.Mistake)
	// Ending is closed when the service stops: open event streams end, other requests finish.
	Ending <-chan struct{}
}

// Lessons are exercises to begin with.
type Lessons struct {
	List    []client.Lesson
	Folders map[string]exercise.Files // by the lesson's name
}

type service struct {
	Options
	briefs  briefs
	recalls chan struct{} // as many hand-ins are run again at once for somebody who looks
	pushes  chan struct{} // as many folders are read at once
}

// New returns the whole handler.
func New(o Options) http.Handler {
	if o.Noticed == nil {
		o.Noticed = func(*mistake.Mistake) {}
	}
	o.Wait = cmp.Or(o.Wait, soon)
	s := &service{Options: o, recalls: make(chan struct{}, runtime.GOMAXPROCS(0)), pushes: make(chan struct{}, 2)}
	r := chi.NewRouter()
	r.Use(middleware.RequestID, knowsSource(o.Proxies), s.measured(),
		httplog.RequestLogger(o.Log, &httplog.Options{Level: slog.LevelInfo, Skip: quiet}), numbered, s.headers, s.guarded, clean,
		middleware.GetHead)
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") })
	r.Get("/readyz", s.ready)
	r.Get("/api/exercise.schema.json", exerciseSchema)
	r.Get("/api/version", version)
	r.Group(func(r chi.Router) {
		guard := http.NewCrossOriginProtection()
		guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			Problem(w, http.StatusForbidden, "This request came from another site.")
		}))
		r.Use(guard.Handler, etagged)
		s.operations(r)
	})
	r.NotFound(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api" || strings.HasPrefix(r.URL.Path, "/api/") {
			Problem(w, http.StatusNotFound, "The service has nothing at "+r.URL.Path+". /api/openapi.json lists what there is.")
			return
		}
		o.Console.ServeHTTP(w, r)
	})
	r.MethodNotAllowed(notAllowed(r))
	return r
}

// notAllowed says which methods a path does take.
func notAllowed(routes chi.Routes) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		for _, method := range []string{http.MethodGet, http.MethodPost, http.MethodPut, http.MethodDelete} {
			if routes.Match(chi.NewRouteContext(), method, r.URL.Path) {
				w.Header().Add("Allow", method)
			}
		}
		Problem(w, http.StatusMethodNotAllowed, "This address does not take "+r.Method+".")
	}
}

// numbered tells whoever asked the number under which the log has the request.
func numbered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := middleware.GetReqID(r.Context())
		httplog.SetAttrs(r.Context(), slog.String("requestId", id))
		w.Header().Set("X-Request-Id", id)
		next.ServeHTTP(w, r)
	})
}

// clean refuses an address that no record could have: with a zero byte, or letters that are none.
func clean(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		query, err := url.QueryUnescape(r.URL.RawQuery)
		if text := r.URL.Path + query + r.Header.Get("Idempotency-Key"); err != nil || !legible(text) {
			Problem(w, http.StatusBadRequest, "The address holds bytes that are no letters.")
			return
		}
		next.ServeHTTP(w, r)
	})
}

// legible reports text that PostgreSQL can keep.
func legible(text string) bool { return utf8.ValidString(text) && !strings.Contains(text, "\x00") }

// exerciseSchema is for editors of exercise.yaml.
func exerciseSchema(w http.ResponseWriter, _ *http.Request) {
	schema, err := exercise.Schema()
	if err != nil {
		Problem(w, http.StatusInternalServerError, "The schema could not be written.")
		return
	}
	w.Header().Set("Content-Type", "application/schema+json")
	_, _ = w.Write(schema) // whoever asked has gone
}

// guarded answers a panic as an internal error of that one request.
func (s *service) guarded(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		err := mistake.Guard("answering "+r.Method+" "+r.URL.Path, func() error { next.ServeHTTP(w, r); return nil })
		var wrong *mistake.Mistake
		switch {
		case !errors.As(err, &wrong):
		case wrong.Value == http.ErrAbortHandler: // not a mistake: the connection is to be cut
			panic(wrong.Value)
		default:
			s.Noticed(wrong)
			Problem(w, http.StatusInternalServerError, "Celandine made a mistake in answering this. It has been noted; nothing else is wrong.")
		}
	})
}

// quiet leaves what machines ask all day out of the log.
func quiet(r *http.Request, status int) bool {
	return status < 400 && (r.URL.Path == "/healthz" || r.URL.Path == "/readyz" || r.URL.Path == "/metrics")
}

// headers keeps the console from running or showing what is not its own.
func (s *service) headers(next http.Handler) http.Handler {
	const policy = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; " +
		"font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		if s.HTTPS {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		next.ServeHTTP(w, r)
	})
}

func (s *service) ready(w http.ResponseWriter, r *http.Request) {
	select {
	case <-s.Draining:
		Problem(w, http.StatusServiceUnavailable, "This process is about to stop.")
		return
	default:
	}
	if err := s.Store.Ping(store.Within(r.Context(), soon)); err != nil {
		down(w, r, err)
		return
	}
	fmt.Fprintln(w, "ready")
}

func (s *service) operations(r chi.Router) {
	config := huma.DefaultConfig("Celandine", "1")
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil
	huma.NewError = newProblem
	huma.DefaultArrayNullable = false // an empty list is an empty list
	describe(&config)
	api := humachi.New(r, config)
	api.UseMiddleware(s.admitted)
	s.signIn(api)
	s.exercises(api)
	s.keys(api)
	s.drafts(api)
	s.handins(api)
	s.marks(api)
	s.classes(api)
	s.people(api)
	s.assignments(api)
	s.review(api)
	s.insight(api)
	s.looks(api)
	s.library(api)
	s.workshop(api)
	s.courses(api)
	s.stuck(api)
	s.exchange(api)
	typed(api)
}

// beforehand asks, before a stream begins, whether it may and whether there are too many: a stream that runs has no status any more.
func (s *service) beforehand(may func(context.Context, int64) error, parameter string) huma.Middlewares {
	return huma.Middlewares{func(ctx huma.Context, next func(huma.Context)) {
		id, err := strconv.ParseInt(ctx.Param(parameter), 10, 64)
		if err == nil {
			err = may(ctx.Context(), id)
		}
		if err != nil && ctx.Param(parameter) != "" {
			_, w := humachi.Unwrap(ctx)
			if answerWith(w, err) {
				return
			}
		}
		p, _ := auth.Person(ctx.Context())
		leave, ok := s.Hub.enter(p.ID)
		if !ok {
			_, w := humachi.Unwrap(ctx)
			w.Header().Set("Retry-After", "10")
			Problem(w, http.StatusTooManyRequests, "Too many pages are open that wait for news. Close some, then load this one again.")
			return
		}
		defer leave()
		next(ctx)
	}}
}

// answerWith answers with an error that an operation would have returned; false tells that it is none of those.
func answerWith(w http.ResponseWriter, err error) bool {
	var no *problem
	if !errors.As(err, &no) {
		return false
	}
	var headed huma.HeadersError
	if errors.As(err, &headed) {
		for name, values := range headed.GetHeaders() {
			w.Header()[name] = values
		}
	}
	no.send(w)
	return true
}

// problem is an error as RFC 9457 has it.
type problem struct {
	Title  string              `json:"title" example:"Not Found"`
	Status int                 `json:"status" example:"404"`
	Code   string              `json:"code" example:"not-found" doc:"Stable, for programs."`
	Detail string              `json:"detail" example:"There is no exercise named mist."`
	Errors []*huma.ErrorDetail `json:"errors,omitempty"`
}

func (p *problem) Error() string             { return p.Detail }
func (p *problem) GetStatus() int            { return p.Status }
func (p *problem) ContentType(string) string { return "application/problem+json" }

// codeOf names a status where nothing more can be said.
func codeOf(status int) string {
	return strings.ToLower(strings.ReplaceAll(http.StatusText(status), " ", "-"))
}

// coded is a problem with a code of its own.
func coded(status int, code, detail string) error {
	return &problem{Title: http.StatusText(status), Status: status, Code: code, Detail: detail}
}

// mostErrors is how many errors of one request are told.
const mostErrors = 100

// newProblem leaves out what was sent, which may be a password.
func newProblem(status int, message string, errs ...error) huma.StatusError {
	p := &problem{Title: http.StatusText(status), Status: status, Code: codeOf(status), Detail: message}
	for i, err := range errs {
		var d *huma.ErrorDetail
		if i == mostErrors {
			p.Errors = append(p.Errors, &huma.ErrorDetail{Message: fmt.Sprintf("and %d more", len(errs)-i)})
			break
		}
		switch {
		case errors.As(err, &d):
			p.Errors = append(p.Errors, &huma.ErrorDetail{Message: d.Message, Location: d.Location})
		case err != nil && status < 500:
			p.Errors = append(p.Errors, &huma.ErrorDetail{Message: err.Error()})
		}
	}
	return p
}

// Problem writes an error outside an operation.
func Problem(w http.ResponseWriter, status int, detail string) {
	newProblem(status, detail).(*problem).send(w)
}

func (p *problem) send(w http.ResponseWriter) {
	w.Header().Set("Content-Type", p.ContentType(""))
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the reader has gone if this fails
}

const downText = "The database does not answer just now. Nothing was lost; try again in a moment."

// down answers while the database cannot be asked.
func down(w http.ResponseWriter, r *http.Request, err error) {
	if r.Context().Err() != nil {
		return // whoever asked has gone
	}
	slog.Warn("the database does not answer", "error", err)
	w.Header().Set("Retry-After", "2")
	Problem(w, http.StatusServiceUnavailable, downText)
}

// told turns an error of the store into an answer; missing says what was not found.
func (s *service) told(err error, missing string, args ...any) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(fmt.Sprintf(missing, args...))
	case errors.Is(err, store.ErrDown):
		s.Log.Warn("the database does not answer", "error", err)
		return huma.ErrorWithHeaders(huma.Error503ServiceUnavailable(downText), http.Header{"Retry-After": {"2"}})
	case errors.Is(err, store.ErrValue):
		return coded(http.StatusUnprocessableEntity, "value",
			"A value that was sent cannot be kept: a number is too large, or a text holds bytes that are no letters. Nothing was changed.")
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "The request was given up.")
	}
	s.Log.Error("an operation failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong here. It has been noted; try again, and tell whoever runs the service if " +
		"it stays.")
}

func number(m exercise.Marks) float64 { return float64(m) / 100 }
