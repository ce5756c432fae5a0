// Package api is the service's HTTP interface: it translates between requests
// and the core, the store and the cache of compiled templates. Operations live
// below /api/v1, errors are problems (RFC 9457), and the OpenAPI 3.1 document is
// served at /api/v1/openapi.json.
package api

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"ironcast/core/hooks"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
	"ironcast/service/store"
)

// Prefix is the path below which all operations live.
const Prefix = "/api/v1"

// API answers requests.
type API struct {
	store  *store.Store
	moulds *mouldCache
	limits tree.Limits
	secure bool // whether cookies are sent over TLS alone
}

// Options configure the API.
type Options struct {
	Store  *store.Store
	Limits tree.Limits
	Secure bool // whether the service is reached over TLS
}

// Register adds all operations to the router and returns their description.
func Register(router *gin.Engine, options Options) huma.API {
	a := &API{store: options.Store, limits: options.Limits, secure: options.Secure}
	a.moulds = newMouldCache(options.Store, options.Limits)

	config := huma.DefaultConfig("Iron Cast", "1")
	config.Info.Description = "Templates made from working projects, and projects cast from them."
	config.OpenAPIPath = "/openapi"
	config.DocsPath = ""
	config.SchemasPath = "/schemas"
	config.CreateHooks = nil // no $schema links in bodies
	config.Servers = []*huma.Server{{URL: Prefix}}
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"token":   {Type: "http", Scheme: "bearer", Description: "A token, as ironcast login makes one."},
		"session": {Type: "apiKey", In: "cookie", Name: sessionCookie, Description: "A session, as the console's login makes one."},
	}
	group := router.Group(Prefix, refuseForeignSites(), limitBodies)
	described := humagin.NewWithGroup(router, group, config)
	described.UseMiddleware(a.authenticate(described))

	a.registerAccounts(described)
	a.registerCatalogue(described)
	a.registerFiles(described)
	a.registerCasts(described)
	return described
}

// changes marks an operation that needs an account.
var changes = []map[string][]string{{"token": {}}, {"session": {}}}

// maxRequest bounds the bodies of all requests but published bundles, in bytes.
const maxRequest = 4 << 20

func limitBodies(c *gin.Context) {
	if c.Request.Method != http.MethodPut {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxRequest)
	}
}

// problem translates an error of the store or the core into a problem.
func problem(ctx context.Context, err error) error {
	var wrong values.Problems
	var cannotCast *mould.CastError
	var failed *hooks.ScriptError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &wrong):
		details := make([]error, len(wrong))
		for i, p := range wrong {
			details[i] = &huma.ErrorDetail{Location: strings.TrimSuffix("values."+p.Variable, "."), Message: p.Message}
		}
		return huma.Error422UnprocessableEntity("These values cannot be cast.", details...)
	case errors.As(err, &cannotCast), errors.As(err, &failed):
		return huma.Error422UnprocessableEntity(sentence(err))
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(sentence(err))
	case errors.Is(err, store.ErrConflict):
		return huma.Error409Conflict(sentence(err))
	case errors.Is(err, store.ErrUnavailable):
		slog.WarnContext(ctx, "the database does not answer", "error", err)
		return huma.Error503ServiceUnavailable("The database does not answer. The service tries again by itself; so should you, in a moment.")
	case errors.Is(err, tree.ErrPath), errors.Is(err, tree.ErrTwice), errors.Is(err, tree.ErrBelow), errors.Is(err, tree.ErrLink), errors.Is(err, tree.ErrTooLarge):
		return huma.Error422UnprocessableEntity(sentence(err))
	case ctx.Err() != nil:
		return huma.NewError(499, "The request was given up.")
	}
	slog.ErrorContext(ctx, "a request failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong in the service; its log says more.")
}
