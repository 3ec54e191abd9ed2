package server

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/demo"
	"readyrail/internal/plant"
)

// pageWords are the texts of the page in a language, by their keys.
func pageWords(t *testing.T, language string) map[string]string {
	t.Helper()
	files, err := filepath.Glob("../../web/src/i18n/" + language + "/*.json")
	if err != nil || len(files) == 0 {
		t.Fatal("no texts", err)
	}
	out := map[string]string{}
	var walk func(at string, node map[string]any)
	walk = func(at string, node map[string]any) {
		for key, v := range node {
			if deeper, ok := v.(map[string]any); ok {
				walk(at+key+".", deeper)
			} else {
				out[at+key], _ = v.(string)
			}
		}
	}
	for _, file := range files {
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		var doc map[string]any
		if err := json.Unmarshal(data, &doc); err != nil {
			t.Fatal(file, err)
		}
		walk("", doc)
	}
	return out
}

// constants are the texts of the block of constants that one is in.
func constants(t *testing.T, file, one string) []string {
	t.Helper()
	parsed, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range parsed.Decls {
		block, ok := d.(*ast.GenDecl)
		if !ok || block.Tok != token.CONST {
			continue
		}
		var list []string
		mine := false
		for _, s := range block.Specs {
			spec := s.(*ast.ValueSpec)
			for i, name := range spec.Names {
				mine = mine || name.Name == one
				if i < len(spec.Values) {
					if lit, ok := spec.Values[i].(*ast.BasicLit); ok && lit.Kind == token.STRING {
						text, _ := strconv.Unquote(lit.Value)
						list = append(list, text)
					}
				}
			}
		}
		if mine {
			return list
		}
	}
	t.Fatalf("%s has no constant %s", file, one)
	return nil
}

// TestWhatTheServerSaysHasWords: what the page puts into words by a name that comes
// from the server has some in both languages.
func TestWhatTheServerSaysHasWords(t *testing.T) {
	p, err := demo.Project(plant.Addresses{Modbus: "127.0.0.1:1", OPCUA: "127.0.0.1:1", MQTT: "127.0.0.1:1"})
	if err != nil {
		t.Fatal(err)
	}
	said := map[string][]string{
		"what.":         constants(t, "../core/audit/audit.go", "Intent"),
		"outcome.":      constants(t, "../core/audit/audit.go", "Confirmed"),
		"behaviour.":    tag.Behaviours,
		"recipe.part.":  constants(t, "../door/delivery.go", "PartSent"),
		"recipe.ended.": constants(t, "../door/delivery.go", "Untouched"),
		"link.":         constants(t, "../link/link.go", "Connecting"),
		"severity.":     constants(t, "../core/project/check.go", "Warning"),
		"kind.":         {"recipe", "span", "stop"},
	}
	// How an intent ended stands in its own line.
	said["what."] = slices.DeleteFunc(said["what."], func(what string) bool { return what == audit.Outcome })
	for _, r := range access.Rights {
		said["right."] = append(said["right."], string(r.Right))
	}
	for _, h := range p.Find(func(string) bool { return true }, 2000) {
		said["kind."] = append(said["kind."], h.Kind)
	}
	for _, language := range []string{"en", "de"} {
		words := pageWords(t, language)
		for prefix, names := range said {
			if len(names) < 2 {
				t.Errorf("%s has %d names", prefix, len(names))
			}
			for _, name := range names {
				if text, ok := words[prefix+name]; !ok || strings.TrimSpace(text) == "" && name != "running" {
					t.Errorf("%s: nothing says %s", language, prefix+name)
				}
			}
		}
	}
}

// TestKindsOfAnswersAreTold: what the page chooses a text by is told with all that it
// can be, so that the page's types know of one that has no text.
func TestKindsOfAnswersAreTold(t *testing.T) {
	var doc struct {
		Components struct {
			Schemas map[string]struct {
				Properties map[string]struct{ Enum []string }
			}
		}
	}
	data, err := os.ReadFile("../../web/src/api/openapi.json")
	if err == nil {
		err = json.Unmarshal(data, &doc)
	}
	if err != nil {
		t.Fatal(err)
	}
	texts := func(list any) (out []string) {
		data, _ := json.Marshal(list)
		_ = json.Unmarshal(data, &out)
		return out
	}
	for place, all := range map[string][]string{
		"AlarmRow.priority":    texts(alarm.Priorities),
		"AlarmRow.kind":        texts(alarm.Kinds),
		"StandingAlarm.state":  texts(alarm.Standings),
		"TrailRecord.outcome":  constants(t, "../core/audit/audit.go", "Confirmed"),
		"LinkStatus.state":     constants(t, "../link/link.go", "Connecting"),
		"FindingInfo.severity": constants(t, "../core/project/check.go", "Warning"),
		"Tag.source":           constants(t, "../core/tag/tag.go", "Computed"),
		"Tag.access":           constants(t, "../core/tag/tag.go", "ReadWrite"),
		"Device.order":         constants(t, "../core/device/device.go", "CDAB"),
		"Device.protocol":      device.Protocols,
		"Code.level":           constants(t, "../core/device/condition.go", "LevelFault"),
		"Screen.role":          constants(t, "../core/screen/document.go", "PopUp"),
		"Param.kind":           constants(t, "../core/screen/param.go", "ParamTag"),
		"Line.status":          constants(t, "../exchange/preview.go", "Gone"),
		"LoopCheck.result":     constants(t, "../host/loopcheck.go", "Untested"),
		"Outcome.outcome":      constants(t, "../core/audit/audit.go", "Confirmed"),
		"QualityInfo.level":    {value.LevelGood.String(), value.LevelUncertain.String(), value.LevelBad.String(), "held"},
	} {
		schema, property, _ := strings.Cut(place, ".")
		told := doc.Components.Schemas[schema].Properties[property].Enum
		if len(told) < 2 {
			t.Errorf("%s is not told with what it can be", place)
		}
		for _, one := range all {
			if !slices.Contains(told, one) {
				t.Errorf("%s does not tell %q", place, one)
			}
		}
	}
}
