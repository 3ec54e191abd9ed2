package directory

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
)

// OpenID is a provider of OpenID Connect Core 1.0, visited by the authorization code
// flow with PKCE (RFC 7636).
type OpenID struct {
	of  access.Directory
	by  Credential
	web *http.Client

	mu    sync.Mutex
	known *oidc.Provider // by discovery; nil until it answered
}

// NewOpenID returns a provider by its settings.
func NewOpenID(of access.Directory, by Credential) (*OpenID, error) {
	trusted, err := trust(of)
	if err != nil {
		return nil, err
	}
	trusted = trusted.Clone()
	trusted.ServerName = "" // the provider may have its keys and tokens at other names
	return &OpenID{of: of, by: by, web: &http.Client{Timeout: patience, Transport: httpOver(trusted)}}, nil
}

func httpOver(trusted *tls.Config) http.RoundTripper {
	t := http.DefaultTransport.(*http.Transport).Clone()
	t.TLSClientConfig = trusted
	return t
}

// Visit is one visit to the provider.
type Visit struct {
	Back     string // the address to which the provider sends back
	State    string
	Nonce    string
	Verifier string // of PKCE
	// Fresh asks the person for their secret even where the provider knows them already;
	// for a signature.
	Fresh bool
}

// Begin is the address at which a visit begins.
func (o *OpenID) Begin(ctx context.Context, v Visit) (string, error) {
	_, c, err := o.client(ctx, v.Back)
	if err != nil {
		return "", err
	}
	options := []oauth2.AuthCodeOption{oidc.Nonce(v.Nonce), oauth2.S256ChallengeOption(v.Verifier)}
	if v.Fresh {
		options = append(options, oauth2.SetAuthURLParam("prompt", "login"), oauth2.SetAuthURLParam("max_age", "0"))
	}
	return c.AuthCodeURL(v.State, options...), nil
}

// Finish takes what the provider sent back, and tells who signed in there and when they
// gave their secret; that is zero where the provider doesn't say.
func (o *OpenID) Finish(ctx context.Context, v Visit, code string) (Member, time.Time, error) {
	p, c, err := o.client(ctx, v.Back)
	if err != nil {
		return Member{}, time.Time{}, err
	}
	token, err := c.Exchange(o.on(ctx), code, oauth2.VerifierOption(v.Verifier))
	if err != nil {
		return Member{}, time.Time{}, asked(err, ErrWrong)
	}
	m, id, err := o.member(ctx, p, token)
	if err != nil {
		return Member{}, time.Time{}, err
	}
	if id.Nonce != v.Nonce {
		return Member{}, time.Time{}, say.New("the directory answered for another visit")
	}
	if m.Renewal == "" {
		return Member{}, time.Time{}, say.New("the directory gives no leave to ask it again: who manages it allows offline_access for this server")
	}
	var at struct {
		AuthTime int64 `json:"auth_time"`
	}
	if err := id.Claims(&at); err != nil || at.AuthTime == 0 {
		return m, time.Time{}, nil
	}
	return m, time.Unix(at.AuthTime, 0), nil
}

// Again asks with the leave that the provider gave at the last time.
func (o *OpenID) Again(ctx context.Context, known Member) (Member, error) {
	if !strings.HasPrefix(known.Subject, subjectOf("")) || known.Renewal == "" {
		return Member{}, ErrGone // known to another directory
	}
	p, c, err := o.client(ctx, "")
	if err != nil {
		return Member{}, err
	}
	token, err := c.TokenSource(o.on(ctx), &oauth2.Token{RefreshToken: known.Renewal}).Token()
	if err != nil {
		return Member{}, asked(err, ErrGone)
	}
	m, _, err := o.member(ctx, p, token)
	if err == nil && m.Subject != known.Subject {
		return m, say.New("the directory answered for another person")
	}
	m.Renewal = cmp.Or(m.Renewal, known.Renewal)
	return m, err
}

// Reach asks the provider to describe itself.
func (o *OpenID) Reach(ctx context.Context) error {
	o.mu.Lock()
	o.known = nil
	o.mu.Unlock()
	_, _, err := o.client(ctx, "")
	return err
}

func subjectOf(sub string) string { return "sub:" + sub }

// on has the libraries use our client.
func (o *OpenID) on(ctx context.Context) context.Context { return oidc.ClientContext(ctx, o.web) }

// asked tells a refusal by the provider from a provider that doesn't answer.
func asked(err, refusal error) error {
	var said *oauth2.RetrieveError
	if errors.As(err, &said) && said.ErrorCode == "invalid_grant" {
		return refusal
	}
	return &Down{err}
}

// client is how the provider is talked to; discovered once.
func (o *OpenID) client(ctx context.Context, back string) (*oidc.Provider, *oauth2.Config, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.known == nil {
		// What the library keeps of this context outlives the question.
		p, err := oidc.NewProvider(o.on(context.WithoutCancel(ctx)), o.of.Address)
		if err != nil {
			return nil, nil, &Down{err}
		}
		o.known = p
	}
	var says struct {
		Scopes []string `json:"scopes_supported"`
	}
	if err := o.known.Claims(&says); err != nil {
		return nil, nil, &Down{err}
	}
	scopes := []string{oidc.ScopeOpenID, "profile", oidc.ScopeOfflineAccess}
	for _, s := range says.Scopes {
		if s == "groups" {
			scopes = append(scopes, s)
		}
	}
	return o.known, &oauth2.Config{ClientID: o.by.User, ClientSecret: o.by.Password, Endpoint: o.known.Endpoint(), RedirectURL: back,
		Scopes: scopes}, nil
}

// member is who a token is about: by the token, and by what the provider says beside it.
func (o *OpenID) member(ctx context.Context, p *oidc.Provider, token *oauth2.Token) (Member, *oidc.IDToken, error) {
	raw, _ := token.Extra("id_token").(string)
	if raw == "" {
		return Member{}, nil, &Down{say.New("the directory sent no token that says who it is")}
	}
	id, err := p.VerifierContext(o.on(ctx), &oidc.Config{ClientID: o.by.User}).Verify(o.on(ctx), raw)
	if err != nil {
		return Member{}, nil, &Down{say.Errorf("the directory's token does not hold: %w", err)}
	}
	claims := map[string]any{}
	if err := id.Claims(&claims); err != nil {
		return Member{}, nil, &Down{err}
	}
	if p.UserInfoEndpoint() != "" {
		info, err := p.UserInfo(o.on(ctx), oauth2.StaticTokenSource(token))
		if err != nil {
			return Member{}, nil, &Down{err}
		}
		if info.Subject != id.Subject {
			return Member{}, nil, say.New("the directory answered for another person")
		}
		if err := info.Claims(&claims); err != nil {
			return Member{}, nil, &Down{err}
		}
	}
	text := func(name string) string { s, _ := claims[name].(string); return s }
	m := Member{Subject: subjectOf(id.Subject), Name: text(o.of.Name), FullName: text(o.of.FullName), Renewal: token.RefreshToken}
	m.FullName = cmp.Or(m.FullName, m.Name)
	if m.Name == "" {
		return m, nil, say.Errorf("the directory's token has no %s", o.of.Name)
	}
	list, _ := claims[o.of.Groups].([]any)
	for _, g := range list {
		if s, is := g.(string); is {
			m.Groups = append(m.Groups, s)
		}
	}
	return m, id, nil
}
