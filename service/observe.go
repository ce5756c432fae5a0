package service

import (
	"crypto/rand"
	"errors"
	"log/slog"
	"net/http"
	"regexp"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"
)

var requestSeconds = promauto.NewHistogramVec(prometheus.HistogramOpts{
	Name:    "ironcast_request_seconds",
	Help:    "How long requests take.",
	Buckets: prometheus.ExponentialBuckets(0.001, 4, 8),
}, []string{"method", "route", "status"})

const requestID = "X-Request-Id"

var soundID = regexp.MustCompile(`^[A-Za-z0-9._-]{1,64}$`)

// observe gives every request an id, or keeps the one that it came with, counts
// it, and logs it without its query, which may hold values.
func observe(c *gin.Context) {
	id := c.GetHeader(requestID)
	if !soundID.MatchString(id) {
		id = rand.Text()
	}
	c.Header(requestID, id)
	began := time.Now()
	// Deferred, so that an answer that is broken off is counted as well.
	defer func() { record(c, id, time.Since(began)) }()
	c.Next()
}

func record(c *gin.Context, id string, took time.Duration) {
	route := c.FullPath()
	if route == "" {
		route = "console"
	}
	requestSeconds.WithLabelValues(c.Request.Method, route, strconv.Itoa(c.Writer.Status())).Observe(took.Seconds())
	level := slog.LevelInfo
	if route == "/healthz" || route == "/readyz" || route == "/metrics" || route == "console" {
		level = slog.LevelDebug
	}
	slog.Log(c, level, "request", "id", id, "method", c.Request.Method, "path", c.Request.URL.Path,
		"status", c.Writer.Status(), "bytes", c.Writer.Size(), "took", took.Round(time.Microsecond).String())
}

// recoverFrom turns a panic into a problem, and lets a broken-off answer be one.
func recoverFrom(c *gin.Context) {
	defer func() {
		fault := recover()
		if fault == nil {
			return
		}
		if err, is := fault.(error); is && errors.Is(err, http.ErrAbortHandler) {
			panic(fault)
		}
		slog.Error("a request panicked", "path", c.Request.URL.Path, "fault", fault)
		c.Data(http.StatusInternalServerError, "application/problem+json",
			[]byte(`{"title":"Internal Server Error","status":500,"detail":"Something went wrong in the service; its log says more."}`))
		c.Abort()
	}()
	c.Next()
}

func newPassword() string { return rand.Text() }
