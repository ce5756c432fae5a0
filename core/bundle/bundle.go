// Package bundle packs one version of a template into a single archive, and
// reads it back.
//
// A bundle is a tar archive with sorted entries and no times or owners, so the
// same template always gives the same bytes; its digest is the SHA-256 of those
// bytes, uncompressed, in the notation of the OCI image specification. It holds
// the manifest, the manifest's folder, and what a cast copies: nothing that the
// manifest leaves out.
package bundle

import (
	"context"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"
	"github.com/opencontainers/go-digest"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/origin"
	"ironcast/core/tree"
)

// Contents returns the part of a template's tree that belongs in its bundle.
func Contents(template tree.Tree, m *manifest.Manifest) tree.Tree {
	prefix := ""
	if m.Source != "." {
		prefix = m.Source + "/"
	}
	cast := map[string]bool{}
	for _, e := range mould.Source(template, m).Entries() {
		cast[prefix+e.Path] = true
	}
	return template.Select(func(e tree.Entry) bool {
		return cast[e.Path] || mould.Own(e.Path) && e.Path != origin.Path
	})
}

// Write packs a template into w and returns the bundle's digest and its size in
// bytes.
func Write(ctx context.Context, w io.Writer, template tree.Tree, m *manifest.Manifest) (digest.Digest, int64, error) {
	hash := digest.Canonical.Digester()
	count := &counter{}
	if err := tree.WriteTar(ctx, io.MultiWriter(w, hash.Hash(), count), Contents(template, m), ""); err != nil {
		return "", 0, err
	}
	return hash.Digest(), count.bytes, nil
}

// Digest returns the digest of the bundle that Write would give.
func Digest(ctx context.Context, template tree.Tree, m *manifest.Manifest) (digest.Digest, error) {
	sum, _, err := Write(ctx, io.Discard, template, m)
	return sum, err
}

// Read unpacks a bundle, compressed with gzip or not, and reads its manifest.
// The archive may come from anyone: see tree.ReadTar.
func Read(ctx context.Context, r io.Reader, limits tree.Limits) (tree.Tree, *manifest.Manifest, error) {
	template, err := tree.ReadTar(ctx, r, limits)
	if err != nil {
		return tree.Tree{}, nil, err
	}
	m, err := manifest.Of(template)
	if err != nil {
		return tree.Tree{}, nil, err
	}
	return template, m, nil
}

// Folder reads the template in a folder. What the manifest leaves out is not
// entered, so a large build folder costs nothing.
func Folder(ctx context.Context, dir string, limits tree.Limits) (tree.Tree, *manifest.Manifest, error) {
	top, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: limits, Skip: func(path string, _ bool) bool {
		return path != manifest.FileName
	}})
	if err != nil {
		return tree.Tree{}, nil, err
	}
	m, err := manifest.Of(top)
	if err != nil {
		return tree.Tree{}, nil, err
	}
	skip := func(path string, _ bool) bool {
		if mould.Own(path) {
			return false
		}
		if m.Source == "." {
			return mould.LeftOut(m, path)
		}
		if below, is := strings.CutPrefix(path, m.Source+"/"); is {
			return mould.LeftOut(m, below)
		}
		return !strings.HasPrefix(m.Source+"/", path+"/")
	}
	template, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: limits, Skip: skip})
	return template, m, err
}

// IdleLeaveOut returns the globs of leave_out that match nothing in the folder of
// a template. Folder does not enter what is left out, so only a walk can tell.
func IdleLeaveOut(ctx context.Context, dir string, m *manifest.Manifest) ([]string, error) {
	idle := slices.Clone(m.Files.LeaveOut)
	_, err := tree.ReadFolder(ctx, filepath.Join(dir, m.Source), tree.ReadOptions{Limits: tree.DefaultLimits(), Skip: func(path string, isFolder bool) bool {
		idle = slices.DeleteFunc(idle, func(glob string) bool { return doublestar.MatchUnvalidated(glob, path) })
		return !isFolder || mould.Own(path) || mould.LeftOut(m, path)
	}})
	return idle, err
}

type counter struct{ bytes int64 }

func (c *counter) Write(p []byte) (int, error) {
	c.bytes += int64(len(p))
	return len(p), nil
}
