package api

import (
	"context"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"ironcast/core/bundle"
	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
	"ironcast/service/store"
)

// maxMoulds is how many compiled templates are kept. Their larger contents lie
// in temporary files.
const maxMoulds = 64

// mouldCache compiles each bundle once. It is keyed by digest, so what is in it
// never becomes wrong.
type mouldCache struct {
	store   *store.Store
	limits  tree.Limits
	kept    *lru.Cache[string, *compiled]
	loading singleflight.Group
}

// compiled is a version, ready to cast.
type compiled struct {
	template tree.Tree
	manifest *manifest.Manifest
	mould    *mould.Mould
	digest   string
}

// request asks for a cast of the version.
func (c *compiled) request(given values.Input, o values.Occasion, limits tree.Limits) hooks.Request {
	return hooks.Request{Mould: c.mould, Template: c.template, Given: given, Occasion: o, Limits: limits}
}

func newMouldCache(s *store.Store, limits tree.Limits) *mouldCache {
	kept, err := lru.New[string, *compiled](maxMoulds)
	if err != nil {
		panic(err) // only for a size that is not positive
	}
	return &mouldCache{store: s, limits: limits, kept: kept}
}

func (c *mouldCache) get(ctx context.Context, digest string) (*compiled, error) {
	if found, ok := c.kept.Get(digest); ok {
		return found, nil
	}
	// Whoever asks first loads it for all, even if they go away.
	loaded, err, _ := c.loading.Do(digest, func() (any, error) {
		return c.load(context.WithoutCancel(ctx), digest)
	})
	if err != nil {
		return nil, err
	}
	return loaded.(*compiled), nil
}

func (c *mouldCache) load(ctx context.Context, digest string) (*compiled, error) {
	packed, _, err := c.store.OpenBundle(ctx, digest)
	if err != nil {
		return nil, err
	}
	template, m, err := bundle.Read(ctx, packed, c.limits)
	if err != nil {
		return nil, err
	}
	made, err := mould.Compile(ctx, mould.Source(template, m), m, mould.Options{Limits: c.limits, Template: template})
	if err != nil {
		return nil, err
	}
	ready := &compiled{template: template, manifest: m, mould: made, digest: digest}
	c.kept.Add(digest, ready)
	return ready, nil
}
