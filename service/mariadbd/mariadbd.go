// Package mariadbd runs a private MariaDB server on loopback, for a service
// that no database was configured for, and for tests.
//
// Its data, its password and its log lie in one folder. The server listens on
// 127.0.0.1 alone, has one account with a random password, and is started again
// when it ends by itself.
package mariadbd

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Database is the name of the one database and of the account that owns it.
const Database = "ironcast"

const (
	startTimeout = 60 * time.Second
	stopTimeout  = 20 * time.Second
)

// Server is a running private server.
type Server struct {
	dir      string
	program  string
	port     int
	password string
	held     *os.File // the lock on the folder

	mu      sync.Mutex
	process *exec.Cmd
	exited  chan struct{} // closed when process has ended
	stopped bool
	done    chan struct{} // closed when the supervisor has ended
}

// Start makes the data folder where there is none, starts the server, and
// returns when it answers.
func Start(ctx context.Context, dir string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	program, err := find("mariadbd")
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the database's folder %s cannot be made: %w", dir, err)
	}
	s := &Server{dir: dir, program: program, done: make(chan struct{})}
	if err := s.lock(); err != nil {
		return nil, err
	}
	if err := s.install(ctx); err != nil {
		s.held.Close()
		return nil, err
	}
	if s.password, err = s.readPassword(); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	launched := make(chan error)
	go s.supervise(launched)
	if err := <-launched; err != nil {
		return nil, err
	}
	if err := s.waitUntilUp(ctx); err != nil {
		s.Stop()
		return nil, err
	}
	return s, nil
}

// find looks for a program in the path and where Debian puts servers.
func find(name string) (string, error) {
	for _, candidate := range []string{name, "/usr/sbin/" + name, "/usr/local/sbin/" + name} {
		if path, err := exec.LookPath(candidate); err == nil {
			return path, nil
		}
	}
	return "", fmt.Errorf("%s is not installed; install MariaDB's server (on Debian: apt-get install mariadb-server), or name a database with --database", name)
}

func (s *Server) data() string { return filepath.Join(s.dir, "data") }

// install fills a new data folder. It is filled beside its place and moved in,
// so that an interrupted start does not leave half of it.
func (s *Server) install(ctx context.Context) error {
	if _, err := os.Stat(s.data()); err == nil {
		return nil
	}
	program, err := find("mariadb-install-db")
	if err != nil {
		return err
	}
	fresh := s.data() + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	install := exec.CommandContext(ctx, program, "--no-defaults", "--datadir="+fresh, "--auth-root-authentication-method=normal",
		"--skip-test-db", "--skip-name-resolve", "--user="+userName())
	if output, err := install.CombinedOutput(); err != nil {
		return fmt.Errorf("the database's data folder cannot be filled: %w\n%s", err, bytes.TrimSpace(output))
	}
	return os.Rename(fresh, s.data())
}

func userName() string {
	current, err := user.Current()
	if err != nil {
		return strconv.Itoa(os.Getuid())
	}
	return current.Username
}

func (s *Server) readPassword() (string, error) {
	path := filepath.Join(s.dir, "password")
	kept, err := os.ReadFile(path)
	if err == nil {
		return strings.TrimSpace(string(kept)), nil
	}
	if !errors.Is(err, os.ErrNotExist) {
		return "", err
	}
	password := rand.Text()
	return password, os.WriteFile(path, []byte(password+"\n"), 0o600)
}

func freePort() (int, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer listener.Close()
	return listener.Addr().(*net.TCPAddr).Port, nil
}

// accounts gives the one account its password, and leaves no other that can be
// reached over the network: a new data folder has root without a password.
const accounts = `DELETE FROM mysql.global_priv WHERE User IN ('', 'root') AND Host <> 'localhost';
FLUSH PRIVILEGES;
CREATE DATABASE IF NOT EXISTS %[1]s CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE OR REPLACE USER '%[1]s'@'127.0.0.1' IDENTIFIED BY '%[2]s';
GRANT ALL ON %[1]s.* TO '%[1]s'@'127.0.0.1';
ALTER USER 'root'@'localhost' IDENTIFIED BY '%[2]s';
`

func (s *Server) launch() error {
	init := filepath.Join(s.dir, "accounts.sql")
	if err := os.WriteFile(init, fmt.Appendf(nil, accounts, Database, s.password), 0o600); err != nil {
		return err
	}
	log, err := os.OpenFile(filepath.Join(s.dir, "mariadbd.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer log.Close()
	process := exec.Command(s.program, "--no-defaults", "--datadir="+s.data(), "--bind-address=127.0.0.1",
		"--port="+strconv.Itoa(s.port), "--socket="+filepath.Join(s.dir, "socket"), "--pid-file="+filepath.Join(s.dir, "pid"),
		"--init-file="+init, "--user="+userName(), "--skip-name-resolve", "--max-allowed-packet=64M",
		"--innodb-buffer-pool-size=128M", "--character-set-server=utf8mb4")
	process.Stdout, process.Stderr = log, log
	// An interrupt at the terminal is for the service, which stops the server
	// when its requests have finished.
	process.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
	if err := process.Start(); err != nil {
		return fmt.Errorf("the database cannot be started: %w", err)
	}
	exited := make(chan struct{})
	go func() { process.Wait(); close(exited) }()
	s.mu.Lock()
	s.process, s.exited = process, exited
	s.mu.Unlock()
	return nil
}

// lock refuses a data folder that another service uses. The lock goes with the
// process that holds it.
func (s *Server) lock() error {
	file, err := os.OpenFile(filepath.Join(s.dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	if err := syscall.Flock(int(file.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		file.Close()
		return fmt.Errorf("the database's folder %s is in use by another service; stop that one, or name another folder with --data", s.dir)
	}
	s.held = file
	return nil
}

// supervise starts the server, says on launched whether that went well, and
// starts it again when it ends without being told to.
func (s *Server) supervise(launched chan<- error) {
	defer close(s.done)
	defer s.held.Close()
	// Linux ends the server when the thread that started it ends.
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	err := s.launch()
	launched <- err
	if err != nil {
		return
	}
	for {
		s.mu.Lock()
		exited := s.exited
		s.mu.Unlock()
		<-exited
		s.mu.Lock()
		stopped := s.stopped
		s.mu.Unlock()
		if stopped {
			return
		}
		slog.Warn("the database ended by itself and is started again")
		time.Sleep(time.Second)
		if err := s.launch(); err != nil {
			slog.Error("the database cannot be started again", "error", err)
			return
		}
	}
}

func (s *Server) waitUntilUp(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, startTimeout)
	defer cancel()
	quiet := s.config()
	quiet.Logger = &mysql.NopLogger{}
	connector, err := mysql.NewConnector(quiet)
	if err != nil {
		return err
	}
	db := sql.OpenDB(connector)
	defer db.Close()
	for {
		err := db.PingContext(ctx)
		if err == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("the database does not answer; see %s: %w", filepath.Join(s.dir, "mariadbd.log"), err)
		case <-time.After(100 * time.Millisecond):
		}
	}
}

func (s *Server) config() *mysql.Config {
	config := mysql.NewConfig()
	config.User, config.Passwd = Database, s.password
	config.Net, config.Addr = "tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port))
	config.DBName = Database
	return config
}

// DSN returns the data source name with which the server is reached.
func (s *Server) DSN() string { return s.config().FormatDSN() }

// Kill ends the process at once, as a crash would; the server then comes back
// by itself.
func (s *Server) Kill() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.process.Process.Kill()
}

// Stop ends the server and waits until it has ended.
func (s *Server) Stop() error {
	s.mu.Lock()
	s.stopped = true
	process, exited := s.process, s.exited
	s.mu.Unlock()
	process.Process.Signal(syscall.SIGTERM)
	select {
	case <-exited:
	case <-time.After(stopTimeout):
		process.Process.Kill()
		<-exited
	}
	<-s.done
	return nil
}
