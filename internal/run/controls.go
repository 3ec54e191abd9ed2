package run

import (
	"sync"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
)

// controls keeps what can be operated on the screens of a version that runs, so
// that a command does not expand its screen anew.
type controls struct {
	mu      sync.Mutex
	version *project.Project
	by      map[string]map[string]screen.Control
}

// mostControls bounds the screens that are kept, each with its arguments.
const mostControls = 256

// of returns what can be operated on a screen with what is given for its
// parameters, by the elements' ids in the scene.
func (c *controls) of(version *project.Project, s *screen.Screen, args screen.Args) map[string]screen.Control {
	key := s.ID + "\x00" + args.With(s.Params).Key(s.Params)
	c.mu.Lock()
	if c.version != version || len(c.by) >= mostControls {
		c.version, c.by = version, map[string]map[string]screen.Control{}
	}
	found, ok := c.by[key]
	c.mu.Unlock()
	if ok {
		return found
	}
	found = screen.Bind(s, version, screen.View{Args: args}).Controls
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.version == version {
		c.by[key] = found
	}
	return found
}

// Controls returns what can be operated on a screen of a version that a program
// runs, by the elements' ids in the scene.
func (r *Runs) Controls(name Program, version *project.Project, s *screen.Screen, args screen.Args) map[string]screen.Control {
	return r.running(name).controls.of(version, s, args)
}
