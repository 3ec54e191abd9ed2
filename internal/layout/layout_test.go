// Package layout keeps the rules of the folders: who may import whom.
package layout

import (
	"encoding/json"
	"os/exec"
	"strings"
	"testing"
)

type pkg struct {
	ImportPath string
	Imports    []string
}

// layers lists the packages from the lowest to the highest; a package imports
// only from rows above its own.
var layers = [][]string{
	{"core/say", "machine"},
	{"core/value"},
	{"core/tag"},
	{"core/device"},
	{"core/formula"},
	{"core/access", "core/audit", "core/alarm", "core/history", "core/recipe"},
	{"core/equipment"},
	{"core/screen"},
	{"core/project"},
	{"modbus", "broker", "exchange", "engine", "link", "outbox", "directory/standin", "directory"},
	{"door", "link/modbus", "link/opcua", "link/mqtt", "link/apart", "plant", "store"},
	{"record", "backup"},
	{"edit", "run"},
	{"host"},
	{"demo"},
	{"server"},
	{"bench"},
	{"cmd/readyrail"},
}

// aside are packages that stand beside the order.
var aside = map[string]bool{"layout": true, "e2e": true, "web": true}

func packages(t *testing.T) []pkg {
	t.Helper()
	cmd := exec.Command("go", "list", "-json=ImportPath,Imports", "readyrail/...")
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var list []pkg
	d := json.NewDecoder(strings.NewReader(string(out)))
	for d.More() {
		var p pkg
		if err := d.Decode(&p); err != nil {
			t.Fatal(err)
		}
		list = append(list, p)
	}
	return list
}

func name(path string) string {
	return strings.TrimPrefix(strings.TrimPrefix(path, "readyrail/"), "internal/")
}

func TestImportsRunDownwards(t *testing.T) {
	layer := map[string]int{}
	for i, row := range layers {
		for _, p := range row {
			layer[p] = i
		}
	}
	for _, p := range packages(t) {
		me := name(p.ImportPath)
		if aside[me] {
			continue
		}
		mine, known := layer[me]
		if !known {
			t.Errorf("%s has no place in the order of the packages", me)
			continue
		}
		for _, imp := range p.Imports {
			if !strings.HasPrefix(imp, "readyrail/") || imp == "readyrail/web" {
				continue
			}
			if l, ok := layer[name(imp)]; ok && l >= mine {
				t.Errorf("%s imports %s, which does not lie below it", me, name(imp))
			}
		}
	}
}

// The core imports the standard library, the formula library, a JSON decoder
// and itself, and nothing that reaches out of it.
func TestTheCoreReachesNothing(t *testing.T) {
	forbidden := map[string]bool{"net": true, "net/http": true, "os": true, "os/exec": true, "database/sql": true, "log": true,
		"log/slog": true, "io/fs": true, "syscall": true}
	for _, p := range packages(t) {
		if !strings.HasPrefix(name(p.ImportPath), "core/") {
			continue
		}
		for _, imp := range p.Imports {
			outside := strings.Contains(strings.Split(imp, "/")[0], ".")
			switch {
			case forbidden[imp]:
				t.Errorf("%s imports %s", name(p.ImportPath), imp)
			case outside && imp != "github.com/go-json-experiment/json" && !strings.HasPrefix(imp, "github.com/expr-lang/expr"):
				t.Errorf("%s imports %s", name(p.ImportPath), imp)
			case strings.HasPrefix(imp, "readyrail/") && !strings.HasPrefix(name(imp), "core/"):
				t.Errorf("%s imports %s", name(p.ImportPath), name(imp))
			}
		}
	}
}
