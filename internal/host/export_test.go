package host

import (
	"time"

	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// SetForTest sets an internal tag past the door.
func (p *Project) SetForTest(program Program, id string, v value.Value) {
	p.running(program).runner.Load().Do(func(e *engine.Engine) { e.SetInternal(id, v, time.Now()) })
}
