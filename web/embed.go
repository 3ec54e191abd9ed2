// Package web holds the built front end.
package web

import "embed"

// Files is the built front end below dist/app; only its README is there until
// it has been built.
//
//go:embed all:dist
var Files embed.FS
