package project

import (
	"runtime"
	"sync"
)

// enough is how many things are worth a second processor.
const enough = 500

// InShares does something with every number below n, in shares that run beside
// each other; it returns when all are done.
func InShares(n int, do func(from, to int)) {
	share := max(enough, (n+runtime.NumCPU()-1)/runtime.NumCPU())
	var g sync.WaitGroup
	for from := share; from < n; from += share {
		g.Go(func() { do(from, min(from+share, n)) })
	}
	do(0, min(share, n))
	g.Wait()
}
