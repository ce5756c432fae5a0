package client

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
)

// answering returns a client of a service that gives the same answer always.
func answering(t *testing.T, status int, body string) *Client {
	t.Helper()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.WriteHeader(status)
		w.Write([]byte(body))
	}))
	t.Cleanup(server.Close)
	return New(server.URL+"/", "ironcast_TOKEN")
}

func TestErrorsAreSentences(t *testing.T) {
	ctx := context.Background()
	for _, c := range []struct {
		status     int
		body, want string
	}{
		{422, `{"title":"Unprocessable Entity","status":422,"detail":"These values cannot be cast.","errors":[{"location":"values.port","message":"too low"},{"message":"and more"}]}`,
			"These values cannot be cast.\n  values.port: too low\n  and more"},
		{404, `{"title":"Not Found","status":404}`, "Not Found"},
		{502, `<html>Bad gateway</html>`, "answers 502 Bad Gateway"},
		{500, `{}`, "answers 500 Internal Server Error"},
		{200, `<html>another server</html>`, "cannot be read"},
	} {
		_, err := answering(t, c.status, c.body).Find(ctx, "", "", 0, 1)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%d %s gives %v, want %q", c.status, c.body, err, c.want)
		}
	}
	for server, want := range map[string]string{"http://127.0.0.1:1": "does not answer", "::": "is no address of a service", "ftp://x": "does not answer"} {
		if _, err := New(server, "").Find(ctx, "", "", 0, 1); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s gives %v, want %q", server, err, want)
		}
	}
	cancelled, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := answering(t, 200, "{}").Find(cancelled, "", "", 0, 1); !errors.Is(err, context.Canceled) {
		t.Errorf("a request that is given up gives %v", err)
	}
}

func TestNamesInPathsAreEscaped(t *testing.T) {
	var asked string
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked = r.RequestURI + " " + r.Header.Get("Authorization")
		w.Write([]byte("{}"))
	}))
	defer server.Close()
	if _, err := New(server.URL, "secret").Version(context.Background(), "a/b", "c?d", "^1.0 || 2"); err != nil {
		t.Fatal(err)
	}
	if want := "/api/v1/templates/a%2Fb/c%3Fd/versions/%5E1.0%20%7C%7C%202 Bearer secret"; asked != want {
		t.Errorf("asked for %s, want %s", asked, want)
	}
}
