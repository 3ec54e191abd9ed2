package layout

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"readyrail/internal/core/screen"
)

// TestNobodyAsksForAKindOfElementByName: what a kind of element does stands in
// its own file, in Go and in TypeScript; everybody else asks for facts. The yard
// and the bench draw screens as people do, and name kinds.
func TestNobodyAsksForAKindOfElementByName(t *testing.T) {
	kinds := map[string]bool{"cell": true}
	for _, k := range screen.Catalogue() {
		kinds[k.Name] = true
	}
	root := filepath.Join("..", "..")
	files := 0
	for path := range sources(t, filepath.Join(root, "internal"), ".go") {
		in := filepath.ToSlash(path)
		if strings.HasSuffix(in, "_test.go") || strings.Contains(in, "/demo/") || strings.Contains(in, "/bench/") ||
			strings.Contains(in, "/core/screen/kind_") || strings.HasSuffix(in, "/core/screen/stock.go") {
			continue
		}
		files++
		for _, said := range askedInGo(t, path, kinds) {
			t.Errorf("%s: %s", path, said)
		}
	}
	asked := regexp.MustCompile(`(?:\.kind|\bkind(?:Name)?) (?:===|!==) '(\w+)'|\bkind: '(\w+)'|kindOf\('(\w+)'\)`)
	for _, ext := range []string{".ts", ".vue"} {
		for path := range sources(t, filepath.Join(root, "web", "src"), ext) {
			in := filepath.ToSlash(path)
			if strings.Contains(in, "/canvas/kinds/") || strings.HasSuffix(in, ".gen.ts") || !drawsElements.MatchString(in) {
				continue
			}
			files++
			text, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			for _, m := range asked.FindAllStringSubmatch(string(text), -1) {
				if kinds[m[1]+m[2]+m[3]] {
					t.Errorf("%s asks for a kind of element by its name: %s", path, m[0])
				}
			}
		}
	}
	if files < 150 {
		t.Fatalf("only %d files were read", files)
	}
}

// drawsElements are the folders whose kinds are those of elements; elsewhere a
// kind is one of something else.
var drawsElements = regexp.MustCompile(`/(canvas|desk|stops/screens)/`)

func sources(t *testing.T, dir, ext string) map[string]bool {
	t.Helper()
	out := map[string]bool{}
	err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() && strings.HasSuffix(path, ext) {
			out[path] = true
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// askedInGo lists where a file compares a Kind with the name of a kind of
// element, chooses by it, makes one by it or looks it up.
func askedInGo(t *testing.T, path string, kinds map[string]bool) (said []string) {
	t.Helper()
	set := token.NewFileSet()
	file, err := parser.ParseFile(set, path, nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	name := func(e ast.Expr) string {
		if lit, ok := e.(*ast.BasicLit); ok && lit.Kind == token.STRING {
			if s, err := strconv.Unquote(lit.Value); err == nil && kinds[s] {
				return s
			}
		}
		return ""
	}
	isKind := func(e ast.Expr) bool {
		s, ok := e.(*ast.SelectorExpr)
		return ok && s.Sel.Name == "Kind"
	}
	note := func(at ast.Node, what string) { said = append(said, set.Position(at.Pos()).String()+" names "+what) }
	ast.Inspect(file, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.BinaryExpr:
			if isKind(n.X) && name(n.Y) != "" {
				note(n, name(n.Y))
			}
		case *ast.SwitchStmt:
			if n.Tag == nil || !isKind(n.Tag) {
				return true
			}
			for _, c := range n.Body.List {
				for _, e := range c.(*ast.CaseClause).List {
					if name(e) != "" {
						note(e, name(e))
					}
				}
			}
		case *ast.CallExpr:
			if f, ok := n.Fun.(*ast.SelectorExpr); ok && f.Sel.Name == "KindOf" && len(n.Args) == 1 && name(n.Args[0]) != "" {
				note(n, name(n.Args[0]))
			}
		case *ast.CompositeLit:
			if of, ok := n.Type.(*ast.SelectorExpr); ok && of.Sel.Name == "Element" {
				for _, e := range n.Elts {
					if kv, ok := e.(*ast.KeyValueExpr); ok && name(kv.Value) != "" {
						if key, ok := kv.Key.(*ast.Ident); ok && key.Name == "Kind" {
							note(kv, name(kv.Value))
						}
					}
				}
			}
		}
		return true
	})
	return said
}
