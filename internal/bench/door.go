package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
	_ "modernc.org/sqlite" // for the bare commit

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/modbus"
	"readyrail/internal/run"
)

const (
	operators   = 200 // that write at once, each to a tag of its own
	doorWrites  = 400
	doorRatio   = 2
	oldest      = 1000 // ms: an older command is refused
	silence     = 500  // ms until a press that is not renewed ends
	silenceLate = 20   // ms
)

// bank is a controller with coils and registers; it notes when its first coil
// was taken back.
type bank struct {
	mu   sync.Mutex
	regs [1000]uint16
	coil [1000]bool
	off  time.Time
}

func (b *bank) ReadBits(_, _ byte, start uint16, bits []bool) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	copy(bits, b.coil[start:])
	return nil
}
func (b *bank) ReadRegisters(_, _ byte, start uint16, regs []uint16) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	copy(regs, b.regs[start:])
	return nil
}
func (b *bank) WriteBits(_ byte, start uint16, bits []bool) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	copy(b.coil[start:], bits)
	if start == 0 && !bits[0] {
		b.off = time.Now()
	}
	return nil
}
func (b *bank) WriteRegisters(_ byte, start uint16, regs []uint16) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	copy(b.regs[start:], regs)
	return nil
}

// desk is a project with an entry for each operator and a button to hold.
func desk(addr string) (*project.Project, error) {
	_, port, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, err
	}
	op := func(kind, id, doc string) project.Op {
		return project.Op{Kind: kind, ID: id, Value: json.RawMessage(doc)}
	}
	device := `{"name":"PLC","protocol":"modbus-tcp","host":"127.0.0.1","port":%s,"unit":1,"order":"ABCD","numbering":0,"poll":250,"timeout":500,"maxGap":16,"maxBlock":125}`
	ops := []project.Op{op(project.KindDevice, "d1", fmt.Sprintf(device, port)),
		op(project.KindTag, "jog", `{"name":"Jog","type":"BOOL","source":"device","device":"d1","address":"coil:0","access":"readwrite"}`)}
	elements := map[string]any{"jog": map[string]any{"kind": "button", "w": 100, "h": 50,
		"props": map[string]any{"action": "hold", "tag": "jog"}}}
	for i := range operators {
		ops = append(ops, op(project.KindTag, fmt.Sprintf("t%d", i),
			fmt.Sprintf(`{"name":"T%d","type":"INT","source":"device","device":"d1","address":"holding:%d","access":"readwrite"}`, i, i)))
		elements[fmt.Sprintf("e%d", i)] = map[string]any{"kind": "entry", "w": 100, "h": 50,
			"props": map[string]any{"tag": fmt.Sprintf("t%d", i)}}
	}
	doc, err := json.Marshal(map[string]any{"name": "Desk", "width": 1280, "height": 676, "elements": elements})
	if err != nil {
		return nil, err
	}
	p, _, err := project.New("Bench").Edit(append(ops, op(project.KindScreen, "s", string(doc))))
	return p, err
}

// doors measures a write from its arrival to its answer, with its intent and
// outcome on disk, beside one commit and the bare requests; many at once; and
// how late a press that nobody renews is let go.
func doors() ([]Figure, error) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	plc := &bank{}
	go modbus.Serve(ctx, l, plc)
	h, done, err := openHost()
	if err != nil {
		return nil, err
	}
	defer done()
	who := host.Actor{ID: "bench", Name: "Bench", Owner: true, Server: true}
	p, err := openDesk(ctx, h, who, l.Addr().String())
	if err != nil {
		return nil, err
	}
	write := func(i, n int) (time.Duration, error) {
		from := time.Now()
		out, err := p.Write(ctx, who, host.Command{Screen: "s", Element: fmt.Sprintf("e%d", i), Value: fmt.Sprint(n % 1000),
			Key: fmt.Sprintf("bench-%d-%d", i, n), At: from})
		if err == nil && out.Outcome != audit.Confirmed {
			err = fmt.Errorf("a write was %s: %s", out.Outcome, out.Reason)
		}
		return time.Since(from), err
	}
	ours := make([]time.Duration, doorWrites)
	for n := range ours {
		if ours[n], err = write(n%operators, n); err != nil {
			return nil, err
		}
	}
	bare, err := bareWrites(l.Addr().String())
	if err != nil {
		return nil, err
	}
	crowd, err := atOnce(write)
	if err != nil {
		return nil, err
	}
	late, err := letGo(ctx, p, who, plc)
	if err != nil {
		return nil, err
	}
	return []Figure{
		ratio("door/write p99", "ms", millis(quantile(ours, 0.99)), millis(quantile(bare, 0.99)), doorRatio),
		ratio("door/write p50", "ms", millis(quantile(ours, 0.5)), millis(quantile(bare, 0.5)), doorRatio),
		below(fmt.Sprintf("door/%d at once, p99", operators), "ms", millis(quantile(crowd, 0.99)), oldest),
		below("door/let go after silence", "ms", millis(late), silence+silenceLate),
	}, nil
}

func openDesk(ctx context.Context, h *host.Host, who host.Actor, addr string) (*host.Project, error) {
	first, err := desk(addr)
	if err != nil {
		return nil, err
	}
	p, err := h.CreateProject(ctx, who, "bench", first)
	if err != nil {
		return nil, err
	}
	if _, err := p.Publish(ctx, who, host.ReleaseOrder{}); err != nil {
		return nil, err
	}
	for end := time.Now().Add(5 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		if !p.ReadTags(run.Release, []string{"jog"})[0].Value.Quality.IsBad() {
			return p, nil
		}
		if time.Now().After(end) {
			return nil, fmt.Errorf("no value came")
		}
	}
}

// bareWrites commits one row with FULL and sends the two requests of a write
// with its read-back, and nothing else.
func bareWrites(addr string) ([]time.Duration, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	db, err := sqlx.Open("sqlite", "file:"+filepath.Join(dir, "bare.db")+"?_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)")
	if err != nil {
		return nil, err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	if _, err := db.Exec("CREATE TABLE record (seq INTEGER PRIMARY KEY, at INTEGER, name TEXT, path TEXT, old TEXT, new TEXT, key TEXT, hash BLOB)"); err != nil {
		return nil, err
	}
	conn, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, err
	}
	defer conn.Close()
	answer := make([]byte, 300)
	ask := func(pdu []byte, want int) error {
		if _, err := conn.Write(modbus.AppendFrame(nil, modbus.Header{Unit: 1}, pdu)); err != nil {
			return err
		}
		_, err := io.ReadFull(conn, answer[:want])
		return err
	}
	out := make([]time.Duration, doorWrites)
	for n := range out {
		from := time.Now()
		if _, err := db.Exec("INSERT INTO record (at, name, path, old, new, key, hash) VALUES (?, 'Bench', 'T1', '1', '2', ?, ?)", n,
			fmt.Sprint("bench-", n), make([]byte, 32)); err != nil {
			return nil, err
		}
		if err := ask(modbus.AppendWriteRegister(nil, 900, uint16(n)), 12); err != nil {
			return nil, err
		}
		if err := ask(modbus.AppendRead(nil, modbus.ReadHolding, 900, 1), 11); err != nil {
			return nil, err
		}
		out[n] = time.Since(from)
	}
	return out, nil
}

// atOnce has every operator write at the same moment, some times over.
func atOnce(write func(i, n int) (time.Duration, error)) ([]time.Duration, error) {
	var all []time.Duration
	for round := range 3 {
		took := make([]time.Duration, operators)
		errs := make([]error, operators)
		var wg sync.WaitGroup
		for i := range operators {
			wg.Add(1)
			go func() {
				defer wg.Done()
				took[i], errs[i] = write(i, 100_000+round)
			}()
		}
		wg.Wait()
		for _, err := range errs {
			if err != nil {
				return nil, err
			}
		}
		all = append(all, took...)
	}
	return all, nil
}

// letGo is the worst of some presses that are not renewed: from the press to
// the coil taken back.
func letGo(ctx context.Context, p *host.Project, who host.Actor, plc *bank) (worst time.Duration, err error) {
	for n := range 10 {
		h, err := p.Press(who, fmt.Sprintf("bench-hold-%d", n))
		if err != nil {
			return 0, err
		}
		from := time.Now()
		if err := p.Begin(ctx, h, who, host.Command{Screen: "s", Element: "jog", Key: fmt.Sprintf("bench-hold-%d", n), At: from}); err != nil {
			return 0, err
		}
		<-h.Over()
		for {
			plc.mu.Lock()
			off := plc.off
			plc.mu.Unlock()
			if off.After(from) {
				worst = max(worst, off.Sub(from))
				break
			}
			time.Sleep(time.Millisecond)
		}
		time.Sleep(100 * time.Millisecond)
	}
	return worst, nil
}

func quantile(list []time.Duration, q float64) time.Duration {
	s := slices.Sorted(slices.Values(list))
	return s[min(len(s)-1, int(float64(len(s))*q))]
}

func millis(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
