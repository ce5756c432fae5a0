// Command ironcast turns working projects into templates, shares them, and
// casts projects from them.
package main

import (
	"context"
	"os"
	"os/signal"
	"syscall"

	"ironcast/cli"
	"ironcast/core/hooks"
)

func main() {
	hooks.RunSandbox()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(cli.Run(ctx, os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
