package cli

import (
	"fmt"
	"log/slog"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"ironcast/core/tree"
	"ironcast/service"
)

func (s *session) serveCommand() *cobra.Command {
	config := service.Config{Limits: tree.DefaultLimits()}
	var logFormat string
	command := &cobra.Command{
		Use:   "serve",
		Short: "Run the service and its console",
		Long: `Runs the service until it is interrupted, and then lets requests finish.

Records are kept in MariaDB. Name a database with --database or
IRONCAST_DATABASE, such as user:password@tcp(127.0.0.1:3306)/ironcast; without
one, a private mariadbd is started on loopback with its data in the --data
folder.

At the first start an operator's account is made. Its password is
IRONCAST_OPERATOR_PASSWORD, or is made up and printed once.`,
		Args: between(0, 0, "no arguments"),
		RunE: func(command *cobra.Command, _ []string) error {
			if err := s.setUpLog(logFormat); err != nil {
				return err
			}
			if config.Database == "" {
				config.Database = os.Getenv("IRONCAST_DATABASE")
			}
			config.OperatorPassword = os.Getenv("IRONCAST_OPERATOR_PASSWORD")
			config.Ready = func(address string) { fmt.Fprintf(s.out, "Iron Cast is at %s\n", address) }
			config.Announce = func(name, password string) {
				fmt.Fprintf(s.out, "The operator's account is %s with the password %s; it is shown this once.\n", name, password)
			}
			return service.Run(command.Context(), config)
		},
	}
	flags := command.Flags()
	flags.StringVar(&config.Listen, "listen", "127.0.0.1:7420", "address to listen on")
	flags.StringVar(&config.Database, "database", "", "data source name of a MariaDB database (IRONCAST_DATABASE)")
	flags.StringVar(&config.Data, "data", dataFolder(), "folder of the private database")
	flags.StringVar(&config.OperatorName, "operator", "operator", "name of the operator's account, at the first start")
	flags.BoolVar(&config.Secure, "tls", false, "send cookies over TLS alone, for a service behind a TLS proxy")
	flags.StringVar(&logFormat, "log", "text", "how to log: text or json")
	flags.IntVar(&config.Limits.Files, "max-files", config.Limits.Files, "files in a template")
	flags.Int64Var(&config.Limits.Bytes, "max-bytes", config.Limits.Bytes, "bytes in a template")
	flags.Int64Var(&config.Limits.FileBytes, "max-file-bytes", config.Limits.FileBytes, "bytes in one file")
	return command
}

func (s *session) setUpLog(format string) error {
	var handler slog.Handler
	switch format {
	case "text":
		handler = slog.NewTextHandler(s.notes, nil)
	case "json":
		handler = slog.NewJSONHandler(s.notes, nil)
	default:
		return wrongUsage("--log is %q; use text or json", format)
	}
	slog.SetDefault(slog.New(handler))
	return nil
}

// dataFolder is where a service keeps its own data, as the XDG base directory
// specification says.
func dataFolder() string {
	if dir := os.Getenv("XDG_DATA_HOME"); dir != "" {
		return filepath.Join(dir, "ironcast")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "ironcast-data"
	}
	return filepath.Join(home, ".local", "share", "ironcast")
}
