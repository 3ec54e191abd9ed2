package layout

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// speaking are the packages whose errors people read.
var speaking = []string{"backup", "core", "door", "edit", "exchange", "host", "link", "outbox", "record", "run", "server", "store"}

// sayings are the calls whose argument is a rule: its place among the arguments, by
// the name of what is called.
var sayings = map[string]int{"say.Errorf": 0, "say.New": 0, "say.Term": 0, "refused": 0, "Refusing": 0, "door.Refusing": 0, "s.refuse": 0,
	"c.fail": 1}

// TestEveryRefusalHasItsWords walks the rules of all refusals: each is said in every
// language, with the same arguments, and no language has words that nobody says.
func TestEveryRefusalHasItsWords(t *testing.T) {
	rules := map[string]string{"validation failed": "the library of the API"}
	for q := value.Quality(0); int(q) < value.Count; q++ {
		rules[string(q.Reason())] = "the qualities"
	}
	for _, r := range access.Rights {
		rules[string(r.Does)] = "the rights"
	}
	for _, dir := range speaking {
		for path := range sources(t, filepath.Join("..", dir), ".go") {
			if !strings.HasSuffix(path, "_test.go") && !strings.Contains(filepath.ToSlash(path), "core/say/") {
				for rule, at := range rulesOf(t, path) {
					rules[rule] = at
				}
			}
		}
	}
	if len(rules) < 800 {
		t.Fatalf("only %d rules were found", len(rules))
	}
	verb := regexp.MustCompile(`%(\[\d+\])?[-+# 0]*\d*(\.\d+)?[a-zA-Z%]`)
	letter := regexp.MustCompile(`\pL`)
	for language, list := range say.Lists() {
		for rule, at := range rules {
			words, ok := list[rule]
			switch {
			case !letter.MatchString(verb.ReplaceAllString(rule, "")):
			case !ok || words == "":
				t.Errorf("%s: %q (%s) has no words", language, rule, at)
			case !reflect.DeepEqual(verb.FindAllString(rule, -1), verb.FindAllString(words, -1)):
				t.Errorf("%s: %q (%s) has other arguments in %q", language, rule, at, words)
			}
		}
		for rule := range list {
			if rules[rule] == "" {
				t.Errorf("%s: nobody says %q", language, rule)
			}
		}
	}
}

// rulesOf are the rules that a file says, with where. An error that is made by the
// packages fmt or errors there would be English alone.
func rulesOf(t *testing.T, path string) map[string]string {
	t.Helper()
	set := token.NewFileSet()
	file, err := parser.ParseFile(set, path, nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	ast.Inspect(file, func(n ast.Node) bool {
		call, ok := n.(*ast.CallExpr)
		if !ok {
			return true
		}
		name := called(call.Fun)
		if name == "fmt.Errorf" || name == "errors.New" {
			t.Errorf("%s: %s is English alone: use package say", set.Position(call.Pos()), name)
		}
		if i, ok := sayings[name]; ok && i < len(call.Args) {
			if rule, ok := literal(call.Args[i]); ok {
				out[rule] = set.Position(call.Pos()).String()
			}
		}
		return true
	})
	return out
}

func called(f ast.Expr) string {
	switch f := f.(type) {
	case *ast.Ident:
		return f.Name
	case *ast.SelectorExpr:
		if of, ok := f.X.(*ast.Ident); ok {
			return of.Name + "." + f.Sel.Name
		}
	}
	return ""
}

// literal is a text that stands in the source, also over several lines.
func literal(e ast.Expr) (string, bool) {
	switch e := e.(type) {
	case *ast.BasicLit:
		s, err := strconv.Unquote(e.Value)
		return s, err == nil && e.Kind == token.STRING
	case *ast.BinaryExpr:
		a, left := literal(e.X)
		b, right := literal(e.Y)
		return a + b, left && right
	}
	return "", false
}
