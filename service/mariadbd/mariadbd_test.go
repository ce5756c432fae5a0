package mariadbd

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

func open(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

func TestAServerKeepsItsDataAndItsFolder(t *testing.T) {
	ctx := context.Background()
	dir := filepath.Join(t.TempDir(), "mariadb")
	first, err := Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := open(t, first.DSN()).Exec("CREATE TABLE tides (height INT) SELECT 3 AS height"); err != nil {
		t.Fatal(err)
	}
	if _, err := Start(ctx, dir); err == nil || !strings.Contains(err.Error(), "in use by another service") {
		t.Errorf("a second server in the folder gives %v", err)
	}
	if err := open(t, strings.Replace(first.DSN(), ":"+first.password+"@", ":wrong@", 1)).Ping(); err == nil {
		t.Error("a wrong password is let in")
	}
	if err := open(t, strings.Replace(first.DSN(), "ironcast:"+first.password, "root", 1)).Ping(); err == nil {
		t.Error("root is let in without a password")
	}
	if info, err := os.Stat(filepath.Join(dir, "password")); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the password is kept as %v, %v", info.Mode(), err)
	}
	if err := first.Stop(); err != nil {
		t.Fatal(err)
	}

	second, err := Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	defer second.Stop()
	var height int
	if err := open(t, second.DSN()).QueryRow("SELECT height FROM tides").Scan(&height); err != nil || height != 3 {
		t.Errorf("height is %d, %v", height, err)
	}

	if err := second.Kill(); err != nil {
		t.Fatal(err)
	}
	db := open(t, second.DSN())
	for deadline := time.Now().Add(60 * time.Second); db.Ping() != nil; time.Sleep(100 * time.Millisecond) {
		if time.Now().After(deadline) {
			t.Fatal("a server that was killed does not come back")
		}
	}
}

func TestStartSaysWhatIsMissing(t *testing.T) {
	if _, err := find("no-such-program"); err == nil || !strings.Contains(err.Error(), "apt-get install mariadb-server") {
		t.Errorf("error is %v", err)
	}
	file := filepath.Join(t.TempDir(), "file")
	os.WriteFile(file, nil, 0o666)
	if _, err := Start(context.Background(), file); err == nil || !strings.Contains(err.Error(), "cannot be made") {
		t.Errorf("a file in place of the folder gives %v", err)
	}
}
