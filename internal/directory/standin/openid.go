package standin

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"html/template"
	"net"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-jose/go-jose/v4"
)

// OpenID is the directory's OpenID Connect side: discovery, keys, a page that asks for
// name and password, codes with PKCE, tokens and their renewal.
type OpenID struct {
	Address string // the issuer

	people *People
	l      net.Listener
	web    *http.Server
	key    *ecdsa.PrivateKey
	done   sync.WaitGroup

	mu      sync.Mutex
	codes   map[string]grant
	renew   map[string]string // id of the person by refresh token
	session map[string]login  // by cookie
}

// login is somebody who is known to the provider already.
type login struct {
	person string
	at     time.Time
}

// grant is a code that was given.
type grant struct {
	login
	nonce, challenge, back string
}

// Client is what the server is known as to the provider; its secret is ServerPassword.
const Client = "readyrail"

// ServeOpenID starts one at an address of this machine, in the clear.
func ServeOpenID(address string, people *People) (*OpenID, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, err
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, err
	}
	s := &OpenID{Address: "http://" + l.Addr().String(), people: people, l: l, key: key,
		codes: map[string]grant{}, renew: map[string]string{}, session: map[string]login{}}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /.well-known/openid-configuration", s.describe)
	mux.HandleFunc("GET /keys", s.keys)
	mux.HandleFunc("GET /authorize", s.ask)
	mux.HandleFunc("POST /authorize", s.enter)
	mux.HandleFunc("POST /token", s.token)
	s.web = &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	s.done.Go(func() { _ = s.web.Serve(l) }) // ends with Close
	return s, nil
}

// Close ends it.
func (s *OpenID) Close() {
	s.web.Close()
	s.done.Wait()
}

func answer(w http.ResponseWriter, code int, what any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(code)
	_ = json.NewEncoder(w).Encode(what) // who is gone reads nothing
}

func (s *OpenID) describe(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, map[string]any{"issuer": s.Address, "authorization_endpoint": s.Address + "/authorize",
		"token_endpoint": s.Address + "/token", "jwks_uri": s.Address + "/keys", "response_types_supported": []string{"code"},
		"subject_types_supported": []string{"public"}, "id_token_signing_alg_values_supported": []string{"ES256"},
		"scopes_supported": []string{"openid", "profile", "groups", "offline_access"}})
}

func (s *OpenID) keys(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: &s.key.PublicKey, KeyID: "1", Algorithm: "ES256", Use: "sig"}}})
}

var page = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Larchmoor directory</title>
<style>body{font:16px sans-serif;max-width:22em;margin:4em auto}label,input,button{display:block;width:100%;margin:.4em 0;font:inherit}</style>
<h1>Larchmoor directory</h1><p>A stand-in with made-up people.</p>{{if .}}<p role="alert">{{.}}</p>{{end}}
<form method="post"><label>Directory name <input name="name" autofocus></label>
<label>Directory password <input name="password" type="password"></label><button>Go on</button></form></html>`))

const cookieName = "standin"

func (s *OpenID) ask(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	if q.Get("client_id") != Client {
		http.Error(w, "no such client", http.StatusBadRequest)
		return
	}
	if c, err := r.Cookie(cookieName); err == nil && q.Get("prompt") != "login" {
		s.mu.Lock()
		known, is := s.session[c.Value]
		s.mu.Unlock()
		if is {
			s.back(w, r, known)
			return
		}
	}
	_ = page.Execute(w, "")
}

func (s *OpenID) enter(w http.ResponseWriter, r *http.Request) {
	p, known := s.people.find(func(x Person) bool {
		return x.Name == r.FormValue("name") && x.Password == r.FormValue("password") && !x.Off
	})
	if !known {
		w.WriteHeader(http.StatusForbidden)
		_ = page.Execute(w, "Name and password do not match.")
		return
	}
	as, token := login{p.ID, time.Now()}, rand.Text()
	s.mu.Lock()
	s.session[token] = as
	s.mu.Unlock()
	http.SetCookie(w, &http.Cookie{Name: cookieName, Value: token, HttpOnly: true, SameSite: http.SameSiteLaxMode})
	s.back(w, r, as)
}

// back sends the person back with a code.
func (s *OpenID) back(w http.ResponseWriter, r *http.Request, as login) {
	q, code := r.URL.Query(), rand.Text()
	to, err := url.Parse(q.Get("redirect_uri"))
	if err != nil {
		http.Error(w, "no address to go back to", http.StatusBadRequest)
		return
	}
	s.mu.Lock()
	s.codes[code] = grant{as, q.Get("nonce"), q.Get("code_challenge"), q.Get("redirect_uri")}
	s.mu.Unlock()
	to.RawQuery = url.Values{"code": {code}, "state": {q.Get("state")}}.Encode()
	http.Redirect(w, r, to.String(), http.StatusSeeOther)
}

func (s *OpenID) token(w http.ResponseWriter, r *http.Request) {
	id, secret, ok := r.BasicAuth()
	if !ok {
		id, secret = r.FormValue("client_id"), r.FormValue("client_secret")
	}
	if id != Client || secret != ServerPassword {
		answer(w, http.StatusUnauthorized, map[string]string{"error": "invalid_client"})
		return
	}
	g, ok := s.granted(r)
	p, known := s.people.find(func(x Person) bool { return x.ID == g.person && !x.Off })
	if !ok || !known {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_grant"})
		return
	}
	now := time.Now()
	claims := map[string]any{"iss": s.Address, "aud": Client, "sub": p.ID, "iat": now.Unix(), "exp": now.Add(time.Minute).Unix(),
		"auth_time": g.at.Unix(), "preferred_username": p.Name, "name": p.FullName, "groups": p.Groups}
	if g.nonce != "" {
		claims["nonce"] = g.nonce
	}
	signed, err := s.sign(claims)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	next := rand.Text()
	s.mu.Lock()
	s.renew[next] = p.ID
	s.mu.Unlock()
	answer(w, http.StatusOK, map[string]any{"access_token": rand.Text(), "token_type": "Bearer", "expires_in": 60, "id_token": signed,
		"refresh_token": next})
}

// granted takes a code or a refresh token; each counts once.
func (s *OpenID) granted(r *http.Request) (grant, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if r.FormValue("grant_type") == "refresh_token" {
		old := r.FormValue("refresh_token")
		person, ok := s.renew[old]
		delete(s.renew, old)
		return grant{login: login{person, time.Now()}}, ok
	}
	g, ok := s.codes[r.FormValue("code")]
	delete(s.codes, r.FormValue("code"))
	sum := sha256.Sum256([]byte(r.FormValue("code_verifier")))
	return g, ok && g.back == r.FormValue("redirect_uri") && g.challenge == base64.RawURLEncoding.EncodeToString(sum[:])
}

func (s *OpenID) sign(claims any) (string, error) {
	signer, err := jose.NewSigner(jose.SigningKey{Algorithm: jose.ES256, Key: jose.JSONWebKey{Key: s.key, KeyID: "1"}}, nil)
	if err != nil {
		return "", err
	}
	doc, err := json.Marshal(claims)
	if err != nil {
		return "", err
	}
	signed, err := signer.Sign(doc)
	if err != nil {
		return "", err
	}
	return signed.CompactSerialize()
}
