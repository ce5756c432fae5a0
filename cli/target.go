package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"ironcast/client"
	"ironcast/core/bundle"
	"ironcast/core/manifest"
	"ironcast/core/tree"
)

// reference names a template in the catalogue.
type reference struct {
	team, name, version string
}

var referencePattern = regexp.MustCompile(`^([a-z][a-z0-9-]*)/([a-z][a-z0-9-]*)(?:@(.+))?$`)

func parseReference(text string) (reference, bool) {
	m := referencePattern.FindStringSubmatch(text)
	if m == nil {
		return reference{}, false
	}
	r := reference{team: m[1], name: m[2], version: m[3]}
	if r.version == "" {
		r.version = "latest"
	}
	return r, true
}

// loaded is a template with its manifest, from wherever it comes.
type loaded struct {
	template tree.Tree
	manifest *manifest.Manifest
	digest   string
}

// load reads the template in a folder, or that a catalogue reference names.
func (s *session) load(ctx context.Context, target string) (loaded, error) {
	if _, err := os.Stat(filepath.Join(target, manifest.FileName)); err == nil {
		return loadFolder(ctx, target)
	}
	r, isReference := parseReference(target)
	info, err := os.Stat(target)
	switch {
	case err == nil && info.IsDir() && !isReference:
		return loadFolder(ctx, target) // says what is missing
	case isReference:
		return s.loadReference(ctx, r)
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return loaded{}, fmt.Errorf("%s cannot be read: %w", target, err)
	}
	return loaded{}, wrongUsage("%q is neither a folder with a template nor a reference such as kelpwick/crossing-board@1.1.0", target)
}

func loadFolder(ctx context.Context, dir string) (loaded, error) {
	template, m, err := bundle.Folder(ctx, dir, tree.DefaultLimits())
	if err != nil {
		return loaded{}, err
	}
	digest, err := bundle.Digest(ctx, template, m)
	return loaded{template, m, string(digest)}, err
}

func (s *session) loadReference(ctx context.Context, r reference) (loaded, error) {
	c, err := s.client()
	if err != nil {
		return loaded{}, err
	}
	packed, err := c.Bundle(ctx, r.team, r.name, r.version)
	if err != nil {
		return loaded{}, err
	}
	defer packed.Close()
	template, m, err := bundle.Read(ctx, packed, tree.DefaultLimits())
	if err != nil {
		return loaded{}, err
	}
	digest, err := bundle.Digest(ctx, template, m)
	return loaded{template, m, string(digest)}, err
}

// client returns a client of the service that was logged in to, or named.
func (s *session) client() (*client.Client, error) {
	kept, err := readLogin()
	if err != nil {
		return nil, err
	}
	server, token := kept.Server, kept.Token
	if named := strings.TrimSuffix(s.server, "/"); named != "" && named != server {
		server, token = named, ""
	}
	if given := os.Getenv("IRONCAST_TOKEN"); given != "" {
		token = given
	}
	if server == "" {
		server = defaultServer
	}
	return client.New(server, token), nil
}
