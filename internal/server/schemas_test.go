package server

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"github.com/danielgtaylor/huma/v2"

	"readyrail/internal/core/project"
	"readyrail/internal/demo"
)

const schemaFolder = "../../docs/schemas"

// TestTheSchemasFitWhatIsWritten: every thing of the demo project, as its archive has it,
// fits the schema of its kind.
func TestTheSchemasFitWhatIsWritten(t *testing.T) {
	s := newServer(t)
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	registries := map[string]huma.Registry{}
	faults := func(kind string, doc []byte) []error {
		t.Helper()
		of := registries[kind]
		if of == nil {
			of = huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
			registries[kind] = of
		}
		var thing any
		if err := json.Unmarshal(doc, &thing); err != nil {
			t.Fatal(err)
		}
		var said huma.ValidateResult
		shape := project.Shapes()[kind]
		huma.Validate(of, of.Schema(shape, true, shape.Name()), huma.NewPathBuffer(nil, 0), huma.ModeReadFromServer, thing, &said)
		return said.Errors
	}
	seen := map[string]int{}
	for _, thing := range p.Draft().Entities() {
		seen[thing.Kind]++
		if wrong := faults(thing.Kind, thing.Doc); len(wrong) > 0 && seen[thing.Kind] < 4 {
			t.Errorf("%s %s: %v\n%.300s", thing.Kind, thing.ID, wrong, thing.Doc)
		}
	}
	for _, doc := range []string{`{"id":"r","name":"R","rights":["view"],"colour":"red"}`, `{"id":"r","name":1,"rights":["view"]}`,
		`{"id":"r","rights":["view"]}`} {
		if len(faults("role", []byte(doc))) == 0 {
			t.Errorf("%s fits the schema of a role", doc)
		}
	}
	if len(seen) < 12 {
		t.Errorf("only %d kinds were tried: %v", len(seen), seen)
	}
}

// The schemas in the repository are those that are served; `make types` renews them.
func TestTheSchemasAreCurrent(t *testing.T) {
	schemas := Schemas()
	files, err := filepath.Glob(schemaFolder + "/*.json")
	if err != nil || len(files) != len(schemas) {
		t.Errorf("%d files for %d kinds, %v: run make types", len(files), len(schemas), err)
	}
	for kind, want := range schemas {
		var a, b any
		stored, err := os.ReadFile(filepath.Join(schemaFolder, kind+".json"))
		if err != nil || json.Unmarshal(stored, &a) != nil || json.Unmarshal(want, &b) != nil || !reflect.DeepEqual(a, b) {
			t.Errorf("docs/schemas/%s.json is not current (%v): run make types", kind, err)
		}
	}
}
