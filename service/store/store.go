// Package store keeps the service's records in MariaDB, through GORM.
//
// The schema is made by the numbered SQL files in migrations/, applied in order
// by whichever instance of the service comes first. A Store can be made before
// the database answers: every call then fails with ErrUnavailable until it does.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// The reasons for which a call fails. Errors wrap one of them, or are faults.
var (
	ErrUnavailable = errors.New("the database does not answer")
	ErrNotFound    = errors.New("is not there")
	ErrConflict    = errors.New("is there already")
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the service's records.
type Store struct {
	gorm  *gorm.DB
	pool  *sql.DB
	ready atomic.Bool // whether the schema is known to be up to date
}

// Open returns a Store for a data source name as the Go MySQL driver reads it,
// such as user:password@tcp(127.0.0.1:3306)/ironcast.
func Open(dsn string) (*Store, error) {
	config, err := mysql.ParseDSN(dsn)
	if err != nil || config.DBName == "" {
		return nil, fmt.Errorf("%q does not name a database; an example is user:password@tcp(127.0.0.1:3306)/ironcast", redacted(dsn))
	}
	config.ParseTime = true
	config.Loc = time.UTC
	config.Timeout = 3 * time.Second
	config.Logger = &mysql.NopLogger{}
	config.Params = map[string]string{"time_zone": "'+00:00'"}
	config.Collation = "utf8mb4_bin"
	connector, err := mysql.NewConnector(config)
	if err != nil {
		return nil, err
	}
	pool := sql.OpenDB(connector)
	pool.SetMaxOpenConns(32)
	pool.SetMaxIdleConns(8)
	pool.SetConnMaxLifetime(5 * time.Minute)
	db, err := gorm.Open(gormmysql.New(gormmysql.Config{Conn: pool, SkipInitializeWithVersion: true}), &gorm.Config{
		Logger:               logger.Discard,
		TranslateError:       true,
		DisableAutomaticPing: true,
		NowFunc:              func() time.Time { return time.Now().UTC().Truncate(time.Millisecond) },
	})
	if err != nil {
		return nil, err
	}
	return &Store{gorm: db, pool: pool}, nil
}

// redacted hides what may be a password in a data source name.
func redacted(dsn string) string {
	config, err := mysql.ParseDSN(dsn)
	if err != nil {
		return "the data source name"
	}
	config.Passwd = ""
	return config.FormatDSN()
}

// Close ends all connections.
func (s *Store) Close() error { return s.pool.Close() }

// Ping tells whether the database answers and its schema is up to date.
func (s *Store) Ping(ctx context.Context) error {
	if !s.ready.Load() {
		return ErrUnavailable
	}
	return available(s.pool.PingContext(ctx))
}

// Migrate brings the schema up to date. Instances that start together take
// turns.
func (s *Store) Migrate(ctx context.Context) error {
	connection, err := s.pool.Conn(ctx)
	if err != nil {
		return available(err)
	}
	defer connection.Close()
	var locked sql.NullInt64
	if err := connection.QueryRowContext(ctx, "SELECT GET_LOCK('ironcast migrations', 60)").Scan(&locked); err != nil {
		return available(err)
	}
	if locked.Int64 != 1 {
		return fmt.Errorf("another instance has been migrating the database for a minute")
	}
	defer connection.ExecContext(context.WithoutCancel(ctx), "DO RELEASE_LOCK('ironcast migrations')")
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectMySQL, s.pool, files)
	if err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return available(err)
	}
	s.ready.Store(true)
	return nil
}

// available marks the errors that say that the database does not answer.
func available(err error) error {
	var network net.Error
	var server *mysql.MySQLError
	switch {
	case err == nil || errors.Is(err, ErrUnavailable):
		return err
	case errors.Is(err, context.Canceled):
		return err
	case errors.Is(err, driver.ErrBadConn), errors.Is(err, mysql.ErrInvalidConn), errors.Is(err, io.EOF), errors.As(err, &network):
		return fmt.Errorf("%w: %v", ErrUnavailable, err)
	case errors.As(err, &server) && (server.Number == 1053 || server.Number == 1040 || server.Number == 1205):
		return fmt.Errorf("%w: %v", ErrUnavailable, err) // shutting down, too many connections, lock wait
	}
	return err
}

// db returns a handle for one call, or ErrUnavailable before the first
// migration.
func (s *Store) db(ctx context.Context) (*gorm.DB, error) {
	if !s.ready.Load() {
		return nil, ErrUnavailable
	}
	return s.gorm.WithContext(ctx), nil
}

// hashed is how a secret with enough entropy of its own is kept.
func hashed(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}
