package server

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"reflect"
	"runtime/debug"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"
	"github.com/danielgtaylor/huma/v2"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// The WebSocket of live values; docs/live-protocol.md is its description.

const (
	beatEvery   = 500 * time.Millisecond
	timesEvery  = time.Second
	askEvery    = 10 * time.Second
	writeWithin = 10 * time.Second
	maxChannels = 64
)

// liveSessions are the open sockets, so that ending a session ends them.
type liveSessions struct {
	mu    sync.Mutex
	open  map[*socket]bool
	pages atomic.Int64 // numbers of sockets
}

func newLiveSessions() *liveSessions { return &liveSessions{open: map[*socket]bool{}} }

func (l *liveSessions) count() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return len(l.open)
}

func (l *liveSessions) endWhere(match func(*socket) bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for s := range l.open {
		if match(s) {
			s.cancel()
		}
	}
}

// has tells whether a session has a socket.
func (l *liveSessions) has(token string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	for s := range l.open {
		if s.token == token {
			return true
		}
	}
	return false
}

// people tells which panels are connected, by name, and who is signed in there;
// empty for nobody.
func (l *liveSessions) people() map[string]string {
	l.mu.Lock()
	defer l.mu.Unlock()
	out := map[string]string{}
	for s := range l.open {
		if s.who.Panel == "" {
			continue
		}
		person := s.who.Name
		if s.who.Watches != "" {
			person = ""
		}
		out[s.who.Panel] = cmp.Or(out[s.who.Panel], person)
	}
	return out
}

func (l *liveSessions) end(token string) {
	l.endWhere(func(s *socket) bool { return s.token == token })
}

// endPerson ends the sockets of a person, but for those of one session where
// that is given.
func (l *liveSessions) endPerson(id, except string) {
	l.endWhere(func(s *socket) bool { return s.who.ID == id && (except == "" || s.token != except) })
}

// clientMessage is what a client sends.
type clientMessage struct {
	Op       string   `json:"op"`
	Channel  int      `json:"ch"`
	Project  string   `json:"project"`
	Program  string   `json:"program"`
	Tags     []string `json:"tags"`
	Language string   `json:"language"`
	Book     string   `json:"book"`
	// Recipe is what is open of the book at this page; none where it is left out.
	Recipe *run.OpenRecipe `json:"recipe"`
	WriteInput
}

// LiveMessage is what the server sends beside frames.
type LiveMessage struct {
	Hello   *Hello     `json:"hello,omitempty"`
	Channel int        `json:"ch,omitempty"`
	Problem string     `json:"problem,omitempty"` // of a channel or a press
	Key     string     `json:"key,omitempty"`     // of the press that this is about
	Held    bool       `json:"held,omitempty"`    // the press has begun
	Over    string     `json:"over,omitempty"`    // why the press has ended
	News    *host.News `json:"news,omitempty"`
}

// Hello is the first message on a socket and the answer to a language: the server's
// time, and what the quality codes of frames mean in that language.
type Hello struct {
	Time      int64         `json:"t"`
	Qualities []QualityInfo `json:"qualities"`
}

// describeLive adds what comes over the socket to the description of the API, so
// that the front end's types of it are made from here too.
func describeLive(api huma.API) {
	schemas := api.OpenAPI().Components.Schemas
	schemas.Schema(reflect.TypeFor[screen.Scene](), true, "")
	schemas.Schema(reflect.TypeFor[LiveMessage](), true, "")
}

// socket is one client.
type socket struct {
	s      *Server
	conn   *websocket.Conn
	who    host.Actor
	panel  host.PanelInfo
	token  string
	ctx    context.Context
	cancel context.CancelFunc

	writing  sync.Mutex
	buffer   []byte // under writing
	mu       sync.Mutex
	channels map[int]context.CancelFunc
	presses  map[string]*host.Project // by key
	page     int64
	language atomic.Value           // string, in which its person is answered
	told     map[*host.Project]bool // those that it told what is open; of read alone
	wg       sync.WaitGroup
}

func (s *Server) serveLive(w http.ResponseWriter, r *http.Request) {
	who, err := s.actor(r.Context(), cookie(r, panelCookie))
	if err != nil {
		http.Error(w, said(r.Context(), errSignIn), http.StatusUnauthorized)
		return
	}
	conn, err := websocket.Accept(w, r, &websocket.AcceptOptions{CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return
	}
	ctx, cancel := context.WithCancel(context.WithoutCancel(r.Context()))
	panel := s.host.Panel(ctx, cookie(r, panelCookie))
	k := &socket{s: s, conn: conn, who: who, panel: panel, token: s.sessions.Token(r.Context()), ctx: ctx, cancel: cancel,
		channels: map[int]context.CancelFunc{}, presses: map[string]*host.Project{}, page: s.live.pages.Add(1), told: map[*host.Project]bool{}}
	s.live.mu.Lock()
	s.live.open[k] = true
	s.live.mu.Unlock()
	defer func() {
		cancel()
		s.live.mu.Lock()
		delete(s.live.open, k)
		s.live.mu.Unlock()
		k.letGoAll(errConnectionEnded)
		for p := range k.told {
			p.ForgetPage(k.page)
		}
		k.wg.Wait()
		conn.CloseNow()
	}()
	k.wg.Go(k.stays)
	k.hello(heard(ctx))
	k.read()
}

// stays ends the connection once its person's account or secret is over: a page
// that only listens asks for nothing.
func (k *socket) stays() {
	tick := time.NewTicker(askEvery)
	defer tick.Stop()
	for {
		select {
		case <-k.ctx.Done():
			return
		case <-tick.C:
		}
		if k.who.Watches != "" {
			continue
		}
		now, err := k.s.host.Actor(k.ctx, k.who.ID)
		if errors.Is(err, host.ErrNotFound) || err == nil && now.Epoch != k.who.Epoch {
			k.cancel()
			continue
		}
		if over, err := k.s.rested(k.ctx, k.who, k.panel); over || err != nil {
			k.cancel()
		}
	}
}

// hello has everything that follows said in a language.
func (k *socket) hello(language string) {
	k.language.Store(language)
	k.tell(LiveMessage{Hello: &Hello{time.Now().UnixMilli(), qualities(language)}})
}

// read takes messages until the connection ends.
func (k *socket) read() {
	k.conn.SetReadLimit(256 << 10)
	for {
		_, data, err := k.conn.Read(k.ctx)
		if err != nil {
			return
		}
		var m clientMessage
		if err := json.Unmarshal(data, &m); err != nil {
			k.tell(LiveMessage{Problem: k.says(say.New("this message is not in the protocol"))})
			continue
		}
		switch m.Op {
		case "close":
			k.closeChannel(m.Channel)
			continue
		case "language":
			k.hello(languageOf(m.Language))
			continue
		}
		p, err := k.s.host.Project(m.Project)
		if err != nil {
			k.tell(LiveMessage{Channel: m.Channel, Key: m.Key, Problem: k.says(say.New("there is no such project"))})
			continue
		}
		k.handle(p, m)
	}
}

func (k *socket) handle(p *host.Project, m clientMessage) {
	switch m.Op {
	case "scene":
		k.openChannel(m.Channel, func(ctx context.Context) error { return k.scene(ctx, p, m) })
	case "tags":
		k.openChannel(m.Channel, func(ctx context.Context) error { return k.tags(ctx, p, m) })
	case "news":
		k.openChannel(m.Channel, func(ctx context.Context) error { return k.news(ctx, p, m.Channel) })
	case "recipe":
		k.recipe(p, m)
	case "hold":
		k.hold(p, m)
	case "renew":
		if err := p.Renew(k.who, m.Key); err != nil {
			k.tell(LiveMessage{Key: m.Key, Over: k.says(err)})
		}
	case "let-go":
		p.LetGo(k.who, m.Key, letGo(m.Reason))
	default:
		k.tell(LiveMessage{Channel: m.Channel, Problem: k.says(say.Errorf("%q is not in the protocol", m.Op))})
	}
}

// recipe notes what is open at this page: nobody else sees it.
func (k *socket) recipe(p *host.Project, m clientMessage) {
	program, err := m.program()
	if err != nil {
		k.tell(LiveMessage{Problem: k.says(err)})
		return
	}
	k.told[p] = true
	p.TellOpen(k.page, program, m.Book, m.Recipe)
}

var errConnectionEnded = say.New("the panel's connection ended")

// letGo is why a press ends that its page lets go.
func letGo(why string) error {
	if why == "" || why == "let go" || len(why) > 100 {
		return say.New("let go")
	}
	return say.Errorf("let go: %s", say.Term(why))
}

// says puts an error into the language of this page.
func (k *socket) says(err error) string { return say.In(k.language.Load().(string), err) }

// mostPresses is how many buttons one page may hold at once.
const mostPresses = 8

// hold registers a press at once, so that its renewals and its end count from
// now, and begins it without holding up what else the client says.
func (k *socket) hold(p *host.Project, m clientMessage) {
	if k.who.As != nil {
		k.tell(LiveMessage{Key: m.Key, Over: k.says(errLooksOnly)})
		return
	}
	k.mu.Lock()
	full := len(k.presses) >= mostPresses
	k.mu.Unlock()
	if full {
		k.tell(LiveMessage{Key: m.Key, Over: k.says(say.New("too many buttons are held at this page"))})
		return
	}
	h, err := p.Press(k.who, m.Key)
	if err != nil {
		k.tell(LiveMessage{Key: m.Key, Over: k.says(err)})
		return
	}
	k.mu.Lock()
	k.presses[m.Key] = p
	k.mu.Unlock()
	k.wg.Add(1)
	go func() {
		defer k.wg.Done()
		defer func() {
			k.mu.Lock()
			delete(k.presses, m.Key)
			k.mu.Unlock()
		}()
		if err := bounded(func() error { return p.Begin(k.ctx, h, k.who, m.command(run.Program(m.Program))) }); err != nil {
			p.LetGo(k.who, m.Key, err)
			k.tell(LiveMessage{Key: m.Key, Over: k.says(err)})
			return
		}
		if k.ctx.Err() != nil {
			p.LetGo(k.who, m.Key, errConnectionEnded)
		}
		k.tell(LiveMessage{Key: m.Key, Held: true})
		<-h.Over()
		k.tell(LiveMessage{Key: m.Key, Over: k.says(h.Why())})
	}()
}

func (k *socket) letGoAll(why error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	for key, p := range k.presses {
		p.LetGo(k.who, key, why)
	}
}

func (k *socket) openChannel(ch int, run func(context.Context) error) {
	k.closeChannel(ch)
	k.mu.Lock()
	if len(k.channels) >= maxChannels {
		k.mu.Unlock()
		k.tell(LiveMessage{Channel: ch, Problem: k.says(say.New("too many channels are open"))})
		return
	}
	ctx, cancel := context.WithCancel(k.ctx)
	k.channels[ch] = cancel
	k.mu.Unlock()
	k.wg.Add(1)
	go func() {
		defer k.wg.Done()
		if err := bounded(func() error { return run(ctx) }); err != nil && ctx.Err() == nil {
			k.tell(LiveMessage{Channel: ch, Problem: k.says(err)})
		}
	}()
}

// bounded turns a panic into an error of one channel.
func bounded(f func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a channel failed", "problem", p, "stack", string(debug.Stack()))
			err = say.New("this failed at the server: open it again")
		}
	}()
	return f()
}

func (k *socket) closeChannel(ch int) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if cancel := k.channels[ch]; cancel != nil {
		cancel()
		delete(k.channels, ch)
	}
}

// program is the one that a message names; none is the release.
func (m *clientMessage) program() (run.Program, error) {
	switch p := run.Program(m.Program); p {
	case "":
		return run.Release, nil
	case run.Release, run.Draft, run.Try:
		return p, nil
	}
	return "", say.Errorf("there is no program %.20q: release, draft or try", m.Program)
}

// allowed asks for the right to look at a program's screen or tags. It is asked
// again as long as somebody looks.
func (k *socket) allowed(ctx context.Context, p *host.Project, program run.Program, id string, args screen.Args) error {
	if program == run.Draft || program == run.Try {
		return p.MayLookAtDraft(ctx, k.who)
	}
	if r := p.Released(); r != nil && r.Screens[id] != nil {
		return p.MayOpen(ctx, k.who, r.Screens[id], args)
	}
	if id == "" && p.MayLookAtDraft(ctx, k.who) == nil {
		return nil // whoever sees the tags of the draft sees them as they are in what runs
	}
	return p.Require(ctx, k.who, access.View, "")
}

// scene sends a screen and its frames.
func (k *socket) scene(ctx context.Context, p *host.Project, m clientMessage) error {
	program, err := m.program()
	if err == nil {
		err = k.allowed(ctx, p, program, m.Screen, m.Args)
	}
	if err != nil {
		return err
	}
	f, err := p.OpenFeed(program, m.Screen, screen.View{Args: m.Args, Language: m.Language}, k.who, k.page)
	if err != nil {
		return err
	}
	defer p.CloseFeed(f)
	v := f.View()
	defer v.Close()
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-beat.C:
			if err := k.allowed(ctx, p, program, m.Screen, m.Args); err != nil {
				return err
			}
			if b := v.Beat(); b != nil {
				if err := k.send(m.Channel, b); err != nil {
					return err
				}
			}
		case <-v.Changed():
			scene, frame, gone := v.Next()
			if gone {
				return say.Errorf("this screen is no longer there")
			}
			for _, b := range [][]byte{scene, frame} {
				if b == nil {
					continue
				}
				if err := k.send(m.Channel, b); err != nil {
					return err
				}
			}
		}
	}
}

// tags sends the values of tags.
func (k *socket) tags(ctx context.Context, p *host.Project, m clientMessage) error {
	program, err := m.program()
	if err == nil {
		err = k.allowed(ctx, p, program, "", nil)
	}
	if err != nil {
		return err
	}
	w := p.WatchTags(program, m.Tags)
	if w == nil {
		return say.Errorf("a watch names at most %d tags of a program that runs", run.MaxWatched)
	}
	defer w.Close()
	times := time.NewTicker(timesEvery)
	defer times.Stop()
	var buf []byte
	for {
		buf = append(buf[:0], `{"t":`...)
		buf = append(buf, itoa(time.Now().UnixMilli())...)
		buf = append(buf, `,"v":`...)
		select {
		case <-ctx.Done():
			return nil
		case <-times.C:
			if err := k.allowed(ctx, p, program, "", nil); err != nil {
				return err
			}
			buf = w.Refresh(buf)
		case <-w.Changed():
			buf = w.Next(buf)
		}
		if err := k.send(m.Channel, append(buf, '}')); err != nil {
			return err
		}
	}
}

func (k *socket) news(ctx context.Context, p *host.Project, channel int) error {
	allowed := func() error {
		if p.MayLookAtDraft(ctx, k.who) == nil {
			return nil
		}
		return p.Somewhere(ctx, k.who, access.View)
	}
	if err := allowed(); err != nil {
		return err
	}
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	var buf []byte
	ch, end := p.Listen()
	defer end()
	defer p.Attend(k.who)()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-beat.C:
			if err := allowed(); err != nil {
				return err
			}
			if buf = p.NewsBeat(buf[:0]); buf != nil {
				if err := k.send(channel, buf); err != nil {
					return err
				}
			}
		case n := <-ch:
			k.tell(LiveMessage{News: &n})
		}
	}
}

// send writes a frame as [channel, frame].
func (k *socket) send(ch int, frame []byte) error {
	k.writing.Lock()
	defer k.writing.Unlock()
	ctx, cancel := context.WithTimeout(k.ctx, writeWithin)
	defer cancel()
	k.buffer = append(k.buffer[:0], '[')
	k.buffer = strconv.AppendInt(k.buffer, int64(ch), 10)
	k.buffer = append(append(append(k.buffer, ','), frame...), ']')
	return k.conn.Write(ctx, websocket.MessageText, k.buffer)
}

func (k *socket) tell(m LiveMessage) {
	b, err := json.Marshal(m)
	if err != nil {
		return
	}
	k.writing.Lock()
	defer k.writing.Unlock()
	ctx, cancel := context.WithTimeout(k.ctx, writeWithin)
	defer cancel()
	k.conn.Write(ctx, websocket.MessageText, b)
}
