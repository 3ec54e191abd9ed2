package store

import (
	"context"
	"fmt"
	"testing"

	"readyrail/internal/core/audit"
)

// BenchmarkVerify is how long a record of a trail takes to be verified from outside.
func BenchmarkVerify(b *testing.B) {
	const many = 100_000
	ctx, dir, key := context.Background(), b.TempDir(), []byte("a key for benchmarks")
	a, err := OpenAudit(dir, audit.Ring{key}, nil)
	if err != nil {
		b.Fatal(err)
	}
	list := make([]audit.Record, 5000)
	for n := 0; n < many; n += len(list) {
		for i := range list {
			list[i] = audit.Record{At: int64(n + i), What: audit.Event, Name: "Bench", Path: "Kiln1.DryBulbSP", Old: "71", New: "72",
				Key: fmt.Sprint("old-", n+i)}
		}
		if _, err := a.AppendAll(ctx, list); err != nil {
			b.Fatal(err)
		}
	}
	if err := a.SealEnd(ctx); err != nil {
		b.Fatal(err)
	}
	a.Close()
	for b.Loop() {
		n, _, err := VerifyTrail(ctx, dir, audit.Ring{key}, &audit.Verifier{})
		if err != nil || n < many {
			b.Fatal(n, err)
		}
	}
	b.ReportMetric(float64(many)*float64(b.N)/b.Elapsed().Seconds(), "records/s")
}
