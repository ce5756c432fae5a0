// Command crossing-board serves the crossing board of one pier.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"kelpwick.example/crossing-board/internal/config"
	"kelpwick.example/crossing-board/internal/crossingboard"
	"kelpwick.example/crossing-board/internal/sailings"
	"kelpwick.example/crossing-board/internal/web"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "crossing-board:", err)
		os.Exit(1)
	}
}

func run() error {
	settings, err := config.FromEnvironment(os.Getenv)
	if err != nil {
		return err
	}
	file, err := os.Open(settings.Timetable)
	if err != nil {
		return err
	}
	defer file.Close()
	timetable, err := sailings.ReadTimetable(file)
	if err != nil {
		return err
	}
	display := &crossingboard.CrossingBoard{Pier: settings.Pier, Timetable: timetable, Now: time.Now}
	server := &http.Server{Addr: fmt.Sprintf(":%d", settings.Port), Handler: web.NewHandler(display)}

	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	go func() {
		<-ctx.Done()
		server.Shutdown(context.Background())
	}()
	slog.Info("crossing board is up", "pier", settings.Pier, "port", settings.Port)
	if err := server.ListenAndServe(); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
