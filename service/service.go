// Package service is the long-running service: the API, the console, health and
// metrics, over records in MariaDB.
package service

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"path/filepath"
	"syscall"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"ironcast/core/tree"
	"ironcast/service/api"
	"ironcast/service/mariadbd"
	"ironcast/service/store"
)

// Config is what can be set about a service.
type Config struct {
	Listen   string // address, such as 127.0.0.1:7420
	Database string // data source name; "" for a private server
	Data     string // folder of the private server

	OperatorName     string
	OperatorPassword string // of the first account; "" to make one up

	Limits tree.Limits
	Secure bool // whether it is reached over TLS, through a proxy

	// Ready, when set, is called with the address once requests are taken and
	// the database answers.
	Ready func(address string)
	// Announce, when set, is told the password of an operator's account that
	// was made up.
	Announce func(name, password string)
}

const shutdownTimeout = 30 * time.Second

// Run serves until the context ends, and then lets requests finish.
func Run(ctx context.Context, config Config) error {
	listener, err := listen(config.Listen)
	if err != nil {
		return err
	}
	defer listener.Close()
	dsn := config.Database
	if dsn == "" {
		private, err := mariadbd.Start(ctx, filepath.Join(config.Data, "mariadb"))
		if err != nil {
			return err
		}
		defer private.Stop()
		dsn = private.DSN()
	}
	records, err := store.Open(dsn)
	if err != nil {
		return err
	}
	defer records.Close()

	server := &http.Server{
		Handler:           Handler(records, config),
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
		ErrorLog:          slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug),
	}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()

	ctx, stop := context.WithCancel(ctx)
	defer stop()
	prepared := make(chan struct{})
	go func() {
		defer close(prepared)
		if prepare(ctx, records, config) && config.Ready != nil {
			config.Ready("http://" + listener.Addr().String())
		}
	}()
	select {
	case err = <-failed:
	case <-ctx.Done():
		slog.Info("stopping; requests may finish")
		finish, cancel := context.WithTimeout(context.Background(), shutdownTimeout)
		err = server.Shutdown(finish)
		cancel()
	}
	stop()
	<-prepared
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}

func listen(address string) (net.Listener, error) {
	listener, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("the address %s is taken by another program; name another one with --listen", address)
	}
	if err != nil {
		return nil, fmt.Errorf("the address %s cannot be listened on: %w", address, err)
	}
	return listener, nil
}

// prepare waits for the database, brings its schema up to date and makes the
// operator's account. It tells whether it got that far.
func prepare(ctx context.Context, records *store.Store, config Config) bool {
	pause := 200 * time.Millisecond
	for {
		err := setUp(ctx, records, config)
		if err == nil {
			return true
		}
		slog.Warn("the database is not ready; trying again", "error", err, "in", pause.String())
		select {
		case <-ctx.Done():
			return false
		case <-time.After(pause):
			pause = min(2*pause, 5*time.Second)
		}
	}
}

func setUp(ctx context.Context, records *store.Store, config Config) error {
	if err := records.Migrate(ctx); err != nil {
		return err
	}
	password, madeUp := config.OperatorPassword, false
	if password == "" {
		password, madeUp = newPassword(), true
	}
	made, err := records.CreateOperator(ctx, config.OperatorName, password)
	if err == nil && made && madeUp && config.Announce != nil {
		config.Announce(config.OperatorName, password)
	}
	return err
}

// Handler returns everything that the service answers.
func Handler(records *store.Store, config Config) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.Use(observe, recoverFrom)
	router.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"status": "ok"}) })
	router.GET("/readyz", func(c *gin.Context) {
		if err := records.Ping(c); err != nil {
			c.JSON(http.StatusServiceUnavailable, gin.H{"status": "waiting for the database"})
			return
		}
		c.JSON(http.StatusOK, gin.H{"status": "ready"})
	})
	router.GET("/metrics", gin.WrapH(promhttp.Handler()))
	api.Register(router, api.Options{Store: records, Limits: config.Limits, Secure: config.Secure})
	router.NoRoute(serveConsole())
	return router
}
