package store

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"strconv"
	"testing"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// recorderDir is where this test binary records when it is its own child.
const recorderDir = "READYRAIL_TEST_RECORDS_IN"

func TestMain(m *testing.M) {
	if dir := os.Getenv(recorderDir); dir != "" {
		recordUntilKilled(dir)
	}
	os.Exit(m.Run())
}

// recordUntilKilled counts in the course of a tag, ever quicker in time than the
// clock, turns what is due into blocks beside it, and says what is on disk.
func recordUntilKilled(dir string) {
	ctx := context.Background()
	s, err := OpenSamples(dir, nil)
	if err != nil {
		fmt.Println(err)
		os.Exit(1)
	}
	at := time.Unix(0, max(noon.UnixNano(), s.Alive())).Add(time.Second)
	n, err := counted(s)
	if err != nil {
		fmt.Println(err)
		os.Exit(1)
	}
	go func() {
		for {
			if err := s.Settle(ctx, at); err != nil {
				fmt.Println(err)
			}
		}
	}()
	for {
		var list []TagValue
		for range 40 {
			n++
			at = at.Add(20 * time.Second)
			list = append(list, tagValue("count", at, value.Int(value.LINT, n)))
		}
		if err := s.Keep(ctx, list); err != nil {
			fmt.Println(err)
			os.Exit(1)
		}
		fmt.Println(n)
	}
}

// A server that is killed while it records loses nothing that was kept, and has
// nothing twice or in parts, however often.
func TestRecordingOutlivesKills(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	r := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))
	said := int64(0)
	for kill := range 5 {
		cmd := exec.Command(os.Args[0])
		cmd.Env = append(os.Environ(), recorderDir+"="+dir)
		out, err := cmd.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		lines := make(chan string, 10_000)
		go func() {
			defer close(lines)
			for scan := bufio.NewScanner(out); scan.Scan(); {
				lines <- scan.Text()
			}
		}()
		if line, ok := <-lines; !ok {
			t.Fatal("it said nothing")
		} else if said, err = strconv.ParseInt(line, 10, 64); err != nil {
			t.Fatal(line)
		}
		time.Sleep(time.Duration(20+r.IntN(400)) * time.Millisecond)
		cmd.Process.Kill()
		for line := range lines {
			if n, err := strconv.ParseInt(line, 10, 64); err == nil {
				said = n
			} else {
				t.Fatal(line)
			}
		}
		cmd.Wait()
		countsOn(t, dir, said, kill)
	}
	t.Logf("%d samples over 5 kills", said)
}

// countsOn looks whether the course counts from 1 to what was said at least.
func countsOn(t *testing.T, dir string, said int64, kill int) {
	t.Helper()
	s, err := OpenSamples(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if n, err := counted(s); err != nil || n < said {
		t.Fatalf("kill %d: %v; %d of %d that were kept", kill, err, n, said)
	}
}

// counted is up to what the course counts from 1, in steps of one.
func counted(s *Samples) (n int64, err error) {
	err = s.Each(context.Background(), "count", noon.UnixNano(), s.Alive()+1, func(c *history.Column) error {
		for i := range c.At {
			if c.Qualities[i].IsBad() {
				continue // a start
			}
			if got := c.Value(i).Int(); got != n+1 {
				return fmt.Errorf("after %d comes %d", n, got)
			}
			n++
		}
		return nil
	})
	return n, err
}
