package api

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ironcast/client"
	"ironcast/service/store"
)

const sessionCookie = "ironcast_session"

type accountKey struct{}

// accountOf returns who makes the request. Operations that change something
// always have one.
func accountOf(ctx context.Context) (store.Account, bool) {
	account, known := ctx.Value(accountKey{}).(store.Account)
	return account, known
}

// authenticate finds the account behind a token or a session, and refuses
// operations that need one without.
func (a *API) authenticate(described huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		account, known, err := a.accountBehind(ctx)
		switch {
		case err != nil && !errors.Is(err, store.ErrNotFound):
			writeProblem(described, ctx, problem(ctx.Context(), err))
			return
		case err != nil && len(ctx.Operation().Security) > 0:
			huma.WriteErr(described, ctx, http.StatusUnauthorized, "This token or session is not known, or has ended. Log in again.")
			return
		case !known && len(ctx.Operation().Security) > 0:
			huma.WriteErr(described, ctx, http.StatusUnauthorized, "This needs an account. Log in, or send a token.")
			return
		case known:
			ctx = huma.WithValue(ctx, accountKey{}, account)
		}
		next(ctx)
	}
}

func writeProblem(described huma.API, ctx huma.Context, err error) {
	var status huma.StatusError
	errors.As(err, &status)
	huma.WriteErr(described, ctx, status.GetStatus(), status.Error())
}

func (a *API) accountBehind(ctx huma.Context) (store.Account, bool, error) {
	if secret, found := strings.CutPrefix(ctx.Header("Authorization"), "Bearer "); found {
		account, err := a.store.TokenAccount(ctx.Context(), secret)
		return account, err == nil, err
	}
	cookie, err := huma.ReadCookie(ctx, sessionCookie)
	if err != nil || cookie.Value == "" {
		return store.Account{}, false, nil
	}
	account, err := a.store.SessionAccount(ctx.Context(), cookie.Value)
	return account, err == nil, err
}

// refuseForeignSites refuses changes that a page of another site makes in the
// name of someone who is logged in.
func refuseForeignSites() gin.HandlerFunc {
	protection := http.NewCrossOriginProtection()
	return func(c *gin.Context) {
		if err := protection.Check(c.Request); err != nil {
			c.Data(http.StatusForbidden, "application/problem+json",
				[]byte(`{"title":"Forbidden","status":403,"detail":"This request comes from a page of another site."}`))
			c.Abort()
		}
	}
}

type accountOutput struct{ Body client.Account }

type loginOutput struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      client.Account
}

func (a *API) registerAccounts(described huma.API) {
	huma.Register(described, huma.Operation{
		OperationID: "log-in", Method: http.MethodPost, Path: "/sessions", Tags: []string{"accounts"},
		Summary: "Log a browser in", DefaultStatus: http.StatusCreated,
	}, func(ctx context.Context, in *struct{ Body client.Credentials }) (*loginOutput, error) {
		account, err := a.logIn(ctx, in.Body)
		if err != nil {
			return nil, err
		}
		secret, err := a.store.CreateSession(ctx, account)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &loginOutput{SetCookie: a.cookie(secret, int(store.SessionLife.Seconds())), Body: accountBody(account)}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "log-out", Method: http.MethodDelete, Path: "/sessions/current", Tags: []string{"accounts"},
		Summary: "Log this browser out", DefaultStatus: http.StatusNoContent,
	}, func(ctx context.Context, in *struct {
		Session string `cookie:"ironcast_session"`
	}) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}, error) {
		if err := a.store.DeleteSession(ctx, in.Session); err != nil {
			return nil, problem(ctx, err)
		}
		return &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}{a.cookie("", -1)}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "account", Method: http.MethodGet, Path: "/account", Tags: []string{"accounts"},
		Summary: "Who is logged in", Security: changes,
	}, func(ctx context.Context, _ *struct{}) (*accountOutput, error) {
		account, _ := accountOf(ctx)
		return &accountOutput{accountBody(account)}, nil
	})

	a.registerTokens(described)
}

func (a *API) logIn(ctx context.Context, given client.Credentials) (store.Account, error) {
	account, err := a.store.Authenticate(ctx, given.Name, given.Password)
	if errors.Is(err, store.ErrNotFound) {
		return account, huma.Error401Unauthorized("There is no account with that name and password.")
	}
	return account, problem(ctx, err)
}

func (a *API) cookie(secret string, life int) http.Cookie {
	return http.Cookie{Name: sessionCookie, Value: secret, Path: "/", MaxAge: life, HttpOnly: true, Secure: a.secure, SameSite: http.SameSiteStrictMode}
}

func accountBody(account store.Account) client.Account {
	return client.Account{Name: account.Name, Operator: account.Operator}
}

type tokenOutput struct{ Body client.Token }

func tokenBody(token store.Token, secret string) client.Token {
	return client.Token{ID: token.ID, Label: token.Label, Created: token.CreatedAt, LastUsed: token.LastUsedAt, Secret: secret}
}

func (a *API) registerTokens(described huma.API) {
	huma.Register(described, huma.Operation{
		OperationID: "log-in-for-token", Method: http.MethodPost, Path: "/tokens/login", Tags: []string{"accounts"},
		Summary: "Exchange a name and a password for a token", DefaultStatus: http.StatusCreated,
	}, func(ctx context.Context, in *struct {
		Body struct {
			client.Credentials
			client.NewToken
		}
	}) (*tokenOutput, error) {
		account, err := a.logIn(ctx, in.Body.Credentials)
		if err != nil {
			return nil, err
		}
		token, secret, err := a.store.CreateToken(ctx, account, in.Body.Label)
		return &tokenOutput{tokenBody(token, secret)}, problem(ctx, err)
	})

	huma.Register(described, huma.Operation{
		OperationID: "create-token", Method: http.MethodPost, Path: "/tokens", Tags: []string{"accounts"},
		Summary: "Make a token", DefaultStatus: http.StatusCreated, Security: changes,
	}, func(ctx context.Context, in *struct{ Body client.NewToken }) (*tokenOutput, error) {
		account, _ := accountOf(ctx)
		token, secret, err := a.store.CreateToken(ctx, account, in.Body.Label)
		return &tokenOutput{tokenBody(token, secret)}, problem(ctx, err)
	})

	huma.Register(described, huma.Operation{
		OperationID: "tokens", Method: http.MethodGet, Path: "/tokens", Tags: []string{"accounts"},
		Summary: "List your tokens", Security: changes,
	}, func(ctx context.Context, _ *struct{}) (*struct{ Body []client.Token }, error) {
		account, _ := accountOf(ctx)
		tokens, err := a.store.Tokens(ctx, account)
		listed := make([]client.Token, len(tokens))
		for i, token := range tokens {
			listed[i] = tokenBody(token, "")
		}
		return &struct{ Body []client.Token }{listed}, problem(ctx, err)
	})

	huma.Register(described, huma.Operation{
		OperationID: "delete-token", Method: http.MethodDelete, Path: "/tokens/{id}", Tags: []string{"accounts"},
		Summary: "Take a token back", DefaultStatus: http.StatusNoContent, Security: changes,
	}, func(ctx context.Context, in *struct {
		ID uint64 `path:"id"`
	}) (*struct{}, error) {
		account, _ := accountOf(ctx)
		return nil, problem(ctx, a.store.DeleteToken(ctx, account, in.ID))
	})
}
