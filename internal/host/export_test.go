package host

import (
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/run"

	"github.com/alexedwards/argon2id"
)

// Hashing as advised is a third of what these tests would take; one of them
// looks at what is hashed without them.
func init() {
	hashing = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	decoy, _ = argon2id.CreateHash("decoy", hashing)
}

// TestSecretsAreHashedAsAdvised looks at the parameters that the server uses:
// those of the OWASP cheat sheet on storing passwords.
func TestSecretsAreHashedAsAdvised(t *testing.T) {
	if advised.Memory < 19*1024 || advised.Iterations < 2 || advised.SaltLength < 16 || advised.KeyLength < 32 {
		t.Errorf("%+v is less than is advised", advised)
	}
	hash, err := argon2id.CreateHash("larch-and-spruce", &advised)
	if err != nil || !strings.HasPrefix(hash, "$argon2id$v=19$m=19456,t=2,p=1$") {
		t.Errorf("%s %v", hash, err)
	}
	if same, err := argon2id.ComparePasswordAndHash("larch-and-spruce", hash); err != nil || !same {
		t.Errorf("it is not recognised: %v", err)
	}
}

// newYard opens an empty project on a server of its own.
func newYard(t *testing.T) *Project {
	t.Helper()
	h, err := Open(t.TempDir(), slog.New(slog.DiscardHandler), Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(h.Close)
	p, err := h.CreateProject(context.Background(), Actor{ID: "o", Name: "O", Owner: true}, "yard", nil)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// SetForTest sets an internal tag past the door.
func (p *Project) SetForTest(program run.Program, id string, v value.Value) {
	p.runs.Runner(program).Do(func(e *engine.Engine) { e.SetInternal(id, v, time.Now()) })
}
