package bench

import (
	"io"
	"log/slog"
	"os"

	"readyrail/internal/host"
)

// openHost opens a host on a folder of its own; done ends it and takes the
// folder away.
func openHost() (h *host.Host, done func(), err error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, nil, err
	}
	if h, err = host.Open(dir, slog.New(slog.NewTextHandler(io.Discard, nil)), host.Options{}); err != nil {
		os.RemoveAll(dir)
		return nil, nil, err
	}
	return h, func() { h.Close(); os.RemoveAll(dir) }, nil
}
