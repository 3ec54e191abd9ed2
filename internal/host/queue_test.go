package host

import (
	"context"
	"errors"
	"testing"
	"time"
)

func TestOfThreeWritesToATagTheSecondIsSuperseded(t *testing.T) {
	q := &writeQueue{}
	ctx := context.Background()
	first, err := q.wait(ctx, "t1")
	if err != nil {
		t.Fatal(err)
	}
	type turn struct {
		done func()
		err  error
	}
	ask := func() chan turn {
		out := make(chan turn, 1)
		go func() { d, err := q.wait(ctx, "t1"); out <- turn{d, err} }()
		time.Sleep(20 * time.Millisecond)
		return out
	}
	second, third := ask(), ask()
	if r := <-second; !errors.Is(r.err, errSuperseded) {
		t.Errorf("the second: %v", r.err)
	}
	select {
	case <-third:
		t.Error("the third went while the first was still under way")
	default:
	}
	first()
	r := <-third
	if r.err != nil {
		t.Fatalf("the third: %v", r.err)
	}
	// Another tag does not wait.
	if other, err := q.wait(ctx, "t2"); err != nil {
		t.Error(err)
	} else {
		other()
	}
	r.done()
	if again, err := q.wait(ctx, "t1"); err != nil {
		t.Error(err)
	} else {
		again()
	}
}

func TestAWaitThatIsGivenUpLeavesTheQueueWhole(t *testing.T) {
	q := &writeQueue{}
	first, _ := q.wait(context.Background(), "t1")
	ctx, cancel := context.WithCancel(context.Background())
	out := make(chan error, 1)
	go func() { _, err := q.wait(ctx, "t1"); out <- err }()
	time.Sleep(20 * time.Millisecond)
	cancel()
	if err := <-out; !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
	first()
	next, err := q.wait(context.Background(), "t1")
	if err != nil {
		t.Fatal(err)
	}
	next()
}
