package apart

import (
	"bufio"
	"context"
	"encoding/gob"
	"io"
	"os/exec"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/link"
)

// process is a far side that runs. Its calls are made one after the other.
type process struct {
	cmd     *exec.Cmd
	in      io.WriteCloser
	mu      sync.Mutex // of encoder: a cancel comes from another goroutine
	encoder *gob.Encoder
	calls   int
	replies chan *reply
	ended   chan struct{} // closed once it has ended, with
	last    string        // what it said last
}

func begin(command []string) (*process, error) {
	cmd := exec.Command(command[0], command[1:]...)
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	errs, err := cmd.StderrPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	p := &process{cmd: cmd, in: in, encoder: gob.NewEncoder(in), replies: make(chan *reply, 1), ended: make(chan struct{})}
	said := make(chan string, 1)
	go func() { said <- lastWords(errs) }()
	go p.receive(out, said)
	return p, nil
}

// receive takes replies until the process ends.
func (p *process) receive(out io.Reader, said <-chan string) {
	d := gob.NewDecoder(bufio.NewReader(out))
	for {
		r := &reply{}
		if err := d.Decode(r); err != nil {
			break
		}
		p.replies <- r
	}
	p.kill() // what does not answer in this form is of no more use
	p.last = <-said
	_ = p.cmd.Wait() // how it ended is in its last words
	close(p.ended)
}

// call sends a request and waits for its reply. When the caller's time is up
// the far side is told, and ended where that does not help.
func (p *process) call(ctx context.Context, r *request) (*reply, error) {
	if deadline, ok := ctx.Deadline(); ok {
		r.Within = time.Until(deadline)
	}
	p.calls++
	r.Number = p.calls
	done := make(chan struct{})
	defer close(done)
	defer context.AfterFunc(ctx, func() {
		go func() { _ = p.send(&request{Verb: cancel, Number: r.Number}) }() // one that has ended needs none
		p.killUnless(done, grace)
	})()
	if err := p.send(r); err != nil {
		p.kill()
	}
	select {
	case out := <-p.replies:
		return out, nil
	case <-p.ended:
	}
	if ctx.Err() != nil {
		return nil, say.Errorf("%w: %w", link.ErrNoAnswer, ctx.Err())
	}
	return nil, say.Errorf("%w: %s", link.ErrFailed, p.last)
}

// grace is how long a far side may take to give up what it was told to.
const grace = time.Second

func (p *process) send(r *request) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.encoder.Encode(r)
}

func (p *process) kill() {
	_ = p.in.Close()
	_ = p.cmd.Process.Kill() // one that has ended already is what is wanted
}

// killUnless kills the process after some time, unless something was done or it
// has ended before.
func (p *process) killUnless(done <-chan struct{}, after time.Duration) {
	select {
	case <-done:
	case <-p.ended:
	case <-time.After(after):
		p.kill()
	}
}

// end lets the process end its session and waits until it has, or has had time
// enough.
func (p *process) end() {
	_ = p.in.Close()
	p.killUnless(nil, farewell+grace)
	<-p.ended
}

// lastWords reads what a process says beside its replies to its end, and keeps
// why it ended: the line of a panic, or the last line there was.
func lastWords(r io.Reader) string {
	words, scan := "", bufio.NewScanner(r)
	for scan.Scan() {
		line := strings.TrimSpace(scan.Text())
		if why, ok := strings.CutPrefix(line, "panic: "); ok && words == "" {
			words = why
		}
		if why, ok := strings.CutPrefix(line, "fatal error: "); ok && words == "" {
			words = why
		}
	}
	_, _ = io.Copy(io.Discard, r) // a line too long to be scanned must not hold the process up
	if words == "" {
		return "its process ended"
	}
	return words
}
