package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"sync"
	"testing"

	"ironcast/core/manifest"
	"ironcast/service/mariadbd"
)

var dsn string

func TestMain(m *testing.M) {
	os.Exit(func() int {
		dir, err := os.MkdirTemp("", "ironcast-store-")
		if err != nil {
			panic(err)
		}
		defer os.RemoveAll(dir)
		server, err := mariadbd.Start(context.Background(), dir)
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		defer server.Stop()
		dsn = server.DSN()
		return m.Run()
	}())
}

func opened(t *testing.T) *Store {
	t.Helper()
	s, err := Open(dsn)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	if err := s.Migrate(context.Background()); err != nil {
		t.Fatal(err)
	}
	return s
}

func TestInstancesThatStartTogetherMigrateOnce(t *testing.T) {
	var group sync.WaitGroup
	for range 4 {
		group.Go(func() {
			s, err := Open(dsn)
			if err != nil {
				t.Error(err)
				return
			}
			defer s.Close()
			if err := s.Migrate(context.Background()); err != nil {
				t.Error(err)
			}
			if err := s.Ping(context.Background()); err != nil {
				t.Error(err)
			}
		})
	}
	group.Wait()
}

// publication is one whose bundle is made of the given chunks.
func publication(name, version, digest string, chunks ...[]byte) Publication {
	p := Publication{
		Manifest: &manifest.Manifest{Team: "kelpwick", Template: name, Version: version, Title: name + " " + version},
		Digest:   digest, Files: 1, Slots: 1, By: "operator",
		Chunks: func(each func(int, []byte) error) error {
			for i, chunk := range chunks {
				if err := each(i, chunk); err != nil {
					return err
				}
			}
			return nil
		},
	}
	for _, chunk := range chunks {
		p.Size += int64(len(chunk))
	}
	return p
}

func digest(n int) string { return fmt.Sprintf("sha256:%064d", n) }

func TestBundlesAreKeptInChunks(t *testing.T) {
	ctx := context.Background()
	s := opened(t)
	random := rand.NewChaCha8([32]byte{})
	var chunks [][]byte
	var want []byte
	for _, size := range []int{ChunkBytes, ChunkBytes, 12345} {
		chunk := make([]byte, size)
		random.Read(chunk)
		chunks = append(chunks, chunk)
		want = append(want, chunk...)
	}
	if _, added, err := s.Publish(ctx, publication("chunked", "1.0.0", digest(1), chunks...)); err != nil || !added {
		t.Fatal(added, err)
	}
	reader, size, err := s.OpenBundle(ctx, digest(1))
	if err != nil || size != int64(len(want)) {
		t.Fatal(size, err)
	}
	if got, err := io.ReadAll(reader); err != nil || !bytes.Equal(got, want) {
		t.Errorf("%d bytes come back of %d, %v", len(got), len(want), err)
	}
	if _, _, err := s.OpenBundle(ctx, digest(99)); !errors.Is(err, ErrNotFound) {
		t.Errorf("a bundle that is not there gives %v", err)
	}
}

func TestAFailedPublicationLeavesNothing(t *testing.T) {
	ctx := context.Background()
	s := opened(t)
	broken := publication("broken", "1.0.0", digest(2))
	broken.Chunks = func(each func(int, []byte) error) error {
		return errors.Join(each(0, []byte("half")), errors.New("the disk is gone"))
	}
	if _, _, err := s.Publish(ctx, broken); err == nil {
		t.Fatal("half a bundle is published")
	}
	if _, err := s.Template(ctx, "kelpwick", "broken"); !errors.Is(err, ErrNotFound) {
		t.Errorf("the template is left: %v", err)
	}
	if _, _, err := s.OpenBundle(ctx, digest(2)); !errors.Is(err, ErrNotFound) {
		t.Errorf("the bundle is left: %v", err)
	}
}

func TestVersionsFollowSemVer(t *testing.T) {
	ctx := context.Background()
	s := opened(t)
	for i, version := range []string{"0.9.0-beta.2", "0.9.0-beta.10", "1.9.0", "1.10.0", "1.2.0", "2.0.0-rc.1"} {
		if _, _, err := s.Publish(ctx, publication("versions", version, digest(10+i), []byte(version))); err != nil {
			t.Fatal(err)
		}
		template, err := s.Template(ctx, "kelpwick", "versions")
		if err != nil || template.Versions != i+1 {
			t.Errorf("after %s there are %d versions, %v", version, template.Versions, err)
		}
		want := []string{"0.9.0-beta.2", "0.9.0-beta.10", "1.9.0", "1.10.0", "1.10.0", "1.10.0"}[i]
		if template.Version != want || template.Title != "versions "+want {
			t.Errorf("after %s the catalogue shows %s as %q, want %s", version, template.Version, template.Title, want)
		}
	}
	for wanted, want := range map[string]string{"": "1.10.0", Latest: "1.10.0", "^1": "1.10.0", "<1.10": "1.9.0", "1.2": "1.2.0", "2.0.0-rc.1": "2.0.0-rc.1", "~0.9.0-0": "0.9.0-beta.10"} {
		if got, err := s.Version(ctx, "kelpwick", "versions", wanted); err != nil || got.Version != want {
			t.Errorf("%q is %s, want %s (%v)", wanted, got.Version, want, err)
		}
	}
	for _, wanted := range []string{"3", "one", "^9"} {
		if _, err := s.Version(ctx, "kelpwick", "versions", wanted); !errors.Is(err, ErrNotFound) {
			t.Errorf("%q gives %v", wanted, err)
		}
	}
}

func TestPasswordsAndSessions(t *testing.T) {
	ctx := context.Background()
	s := opened(t)
	hash := hashPassword("quay")
	if again := hashPassword("quay"); again == hash || !passwordMatches("quay", again) || !passwordMatches("quay", hash) {
		t.Error("hashes are salted, and match")
	}
	for _, wrong := range []string{"", "Quay", "quay "} {
		if passwordMatches(wrong, hash) {
			t.Errorf("%q matches", wrong)
		}
	}
	for _, broken := range []string{"", "quay", "$argon2id$v=19$m=1,t=1,p=1$!$!"} {
		if passwordMatches("quay", broken) {
			t.Errorf("a broken hash %q matches", broken)
		}
	}
	if made, err := s.CreateOperator(ctx, "operator", "quay"); err != nil || !made {
		t.Fatal(made, err)
	}
	if made, err := s.CreateOperator(ctx, "second", "quay"); err != nil || made {
		t.Errorf("a second operator is made: %v, %v", made, err)
	}
	account, err := s.Authenticate(ctx, "operator", "quay")
	if err != nil || !account.Operator {
		t.Fatal(account, err)
	}
	secret, err := s.CreateSession(ctx, account)
	if err != nil {
		t.Fatal(err)
	}
	if found, err := s.SessionAccount(ctx, secret); err != nil || found.Name != "operator" {
		t.Errorf("the session is of %+v, %v", found, err)
	}
	if err := s.gorm.Exec("UPDATE sessions SET expires_at = '2020-01-01'").Error; err != nil {
		t.Fatal(err)
	}
	if _, err := s.SessionAccount(ctx, secret); !errors.Is(err, ErrNotFound) {
		t.Errorf("a session that has ended gives %v", err)
	}
	token, secret, err := s.CreateToken(ctx, account, "pipeline")
	if err != nil {
		t.Fatal(err)
	}
	if found, err := s.TokenAccount(ctx, secret); err != nil || found.ID != account.ID {
		t.Errorf("the token is of %+v, %v", found, err)
	}
	var kept Token
	if err := s.gorm.Take(&kept, token.ID).Error; err != nil || bytes.Contains(kept.SecretHash, []byte(secret)) || kept.LastUsedAt == nil {
		t.Errorf("kept is %+v, %v", kept, err)
	}
	if err := s.DeleteToken(ctx, Account{ID: account.ID + 1}, token.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("another account's token is taken back: %v", err)
	}
}
