// Package client speaks to the service's API, and holds the types of what is
// said on either side.
package client

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"
)

// Client speaks to one service.
type Client struct {
	Server string // such as http://127.0.0.1:7420
	Token  string // "" to read only
	HTTP   *http.Client
}

// New returns a client of the service at that address.
func New(server, token string) *Client {
	return &Client{Server: strings.TrimSuffix(server, "/"), Token: token, HTTP: &http.Client{
		Transport: &http.Transport{Proxy: http.ProxyFromEnvironment, ResponseHeaderTimeout: 5 * time.Minute},
	}}
}

// send makes a request and returns its answer's body, which the caller closes.
func (c *Client) send(ctx context.Context, method, path, contentType string, body io.Reader) (io.ReadCloser, error) {
	request, err := http.NewRequestWithContext(ctx, method, c.Server+"/api/v1"+path, body)
	if err != nil {
		return nil, fmt.Errorf("%q is no address of a service; an example is http://127.0.0.1:7420", c.Server)
	}
	if contentType != "" {
		request.Header.Set("Content-Type", contentType)
	}
	if c.Token != "" {
		request.Header.Set("Authorization", "Bearer "+c.Token)
	}
	response, err := c.HTTP.Do(request)
	if err != nil {
		var failed *url.Error
		if errors.As(err, &failed) && ctx.Err() == nil {
			return nil, fmt.Errorf("the service at %s does not answer (%v); start it with: ironcast serve", c.Server, failed.Err)
		}
		return nil, err
	}
	if response.StatusCode < 300 {
		return response.Body, nil
	}
	defer response.Body.Close()
	problem := &Problem{Status: response.StatusCode}
	text, _ := io.ReadAll(io.LimitReader(response.Body, 1<<20))
	if json.Unmarshal(text, problem) != nil || problem.Title == "" {
		return nil, fmt.Errorf("the service at %s answers %s", c.Server, response.Status)
	}
	return nil, problem
}

// call sends in as JSON, unless it is nil, and decodes the answer into out,
// unless that is nil.
func (c *Client) call(ctx context.Context, method, path string, in, out any) error {
	var body io.Reader
	contentType := ""
	if in != nil {
		encoded, err := json.Marshal(in)
		if err != nil {
			return err
		}
		body, contentType = bytes.NewReader(encoded), "application/json"
	}
	answer, err := c.send(ctx, method, path, contentType, body)
	if err != nil {
		return err
	}
	return c.decode(answer, out)
}

// decode reads an answer into out, unless that is nil, and closes it.
func (c *Client) decode(answer io.ReadCloser, out any) error {
	defer answer.Close()
	if out == nil {
		return nil
	}
	if err := json.NewDecoder(answer).Decode(out); err != nil {
		return fmt.Errorf("the answer of %s cannot be read: %w", c.Server, err)
	}
	return nil
}

// Find searches the catalogue.
func (c *Client) Find(ctx context.Context, words, label string, offset, limit int) (TemplatePage, error) {
	query := url.Values{"words": {words}, "label": {label}, "offset": {strconv.Itoa(offset)}, "limit": {strconv.Itoa(limit)}}
	var page TemplatePage
	err := c.call(ctx, http.MethodGet, "/templates?"+query.Encode(), nil, &page)
	return page, err
}

func versionPath(team, name, version string) string {
	return "/templates/" + url.PathEscape(team) + "/" + url.PathEscape(name) + "/versions/" + url.PathEscape(version)
}

// Versions lists a template's versions, the highest first.
func (c *Client) Versions(ctx context.Context, team, name string) ([]Version, error) {
	var versions []Version
	err := c.call(ctx, http.MethodGet, strings.TrimSuffix(versionPath(team, name, ""), "/"), nil, &versions)
	return versions, err
}

// Version returns one version: an exact one, the highest in a SemVer range, or
// "latest".
func (c *Client) Version(ctx context.Context, team, name, version string) (VersionDetail, error) {
	var detail VersionDetail
	err := c.call(ctx, http.MethodGet, versionPath(team, name, version), nil, &detail)
	return detail, err
}

// Bundle returns a version's bundle, compressed with gzip.
func (c *Client) Bundle(ctx context.Context, team, name, version string) (io.ReadCloser, error) {
	return c.send(ctx, http.MethodGet, versionPath(team, name, version)+"/bundle", "", nil)
}

// Publish sends a bundle, compressed with gzip, to be proven and added.
func (c *Client) Publish(ctx context.Context, team, name, version string, bundle io.Reader) (Publication, error) {
	var done Publication
	answer, err := c.send(ctx, http.MethodPut, versionPath(team, name, version), "application/gzip", bundle)
	if err != nil {
		return done, err
	}
	err = c.decode(answer, &done)
	return done, err
}

// Preview asks what a cast would give.
func (c *Client) Preview(ctx context.Context, team, name, version string, request PreviewRequest) (Preview, error) {
	var preview Preview
	err := c.call(ctx, http.MethodPost, versionPath(team, name, version)+"/preview", request, &preview)
	return preview, err
}

// Cast returns a project as an archive; format is "tar.gz" or "zip".
func (c *Client) Cast(ctx context.Context, team, name, version, format string, request CastRequest) (io.ReadCloser, error) {
	encoded, err := json.Marshal(request)
	if err != nil {
		return nil, err
	}
	return c.send(ctx, http.MethodPost, versionPath(team, name, version)+"/cast?format="+url.QueryEscape(format), "application/json", bytes.NewReader(encoded))
}

// LogIn exchanges a name and a password for a token of that label, which the
// client then uses.
func (c *Client) LogIn(ctx context.Context, credentials Credentials, label string) (Token, error) {
	var token Token
	err := c.call(ctx, http.MethodPost, "/tokens/login", struct {
		Credentials
		NewToken
	}{credentials, NewToken{Label: label}}, &token)
	if err == nil {
		c.Token = token.Secret
	}
	return token, err
}

// Account returns whom the client's token acts for.
func (c *Client) Account(ctx context.Context) (Account, error) {
	var account Account
	err := c.call(ctx, http.MethodGet, "/account", nil, &account)
	return account, err
}
