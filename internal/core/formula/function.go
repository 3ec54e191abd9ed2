package formula

import (
	"math"
	"sort"

	"github.com/expr-lang/expr/ast"

	"readyrail/internal/core/value"
)

// Function describes one function of the language, for completion and docs.
type Function struct {
	Name  string `json:"name"`
	Usage string `json:"usage"`
	Does  string `json:"does"`
}

type builtin struct {
	Function
	least, most int // arguments
	build       func(c *compiler, n ast.Node, args []node) (node, error)
}

var functions map[string]*builtin

func init() {
	functions = map[string]*builtin{}
	for _, b := range []*builtin{
		{Function{"abs", "abs(x)", "the size of x without its sign"}, 1, 1, buildAbs},
		{Function{"min", "min(a, b, …)", "the smallest"}, 2, 8, extreme(func(a, b float64) bool { return a < b })},
		{Function{"max", "max(a, b, …)", "the largest"}, 2, 8, extreme(func(a, b float64) bool { return a > b })},
		{Function{"clamp", "clamp(x, low, high)", "x cut to low and high"}, 3, 3, buildClamp},
		{Function{"round", "round(x)", "the nearest whole number, halves away from zero"}, 1, 1, toWhole(math.Round)},
		{Function{"floor", "floor(x)", "the whole number at or below x"}, 1, 1, toWhole(math.Floor)},
		{Function{"ceil", "ceil(x)", "the whole number at or above x"}, 1, 1, toWhole(math.Ceil)},
		{Function{"div", "div(a, b)", "whole numbers divided, the rest dropped"}, 2, 2, buildDiv},
		{Function{"sqrt", "sqrt(x)", "the square root"}, 1, 1, buildSqrt},
		{Function{"bit", "bit(x, n)", "bit n of a whole number; 0 is the least significant"}, 2, 2, buildBit},
		{Function{"number", "number(b)", "1 for a BOOL that is true, 0 otherwise"}, 1, 1, buildNumber},
		{Function{"quality", "quality(x)", `"good", "uncertain" or "bad"; never bad itself`}, 1, 1, buildQuality},
		{Function{"orElse", "orElse(x, y)", "x, or y while x is bad"}, 2, 2, buildOrElse},
	} {
		functions[b.Name] = b
	}
}

// Functions lists the functions by name.
func Functions() []Function {
	var out []Function
	for _, b := range functions {
		out = append(out, b.Function)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Name < out[j].Name })
	return out
}

func (c *compiler) call(n ast.Node, callee ast.Node, args []ast.Node) (node, error) {
	id, ok := callee.(*ast.IdentifierNode)
	if !ok {
		return nil, c.fail(n, "only the functions of the formula language can be called")
	}
	return c.callNamed(n, id.Value, args)
}

func (c *compiler) callNamed(n ast.Node, name string, args []ast.Node) (node, error) {
	b := functions[name]
	if b == nil {
		return nil, c.fail(n, "there is no function %s", c.reveal(name))
	}
	if len(args) < b.least || len(args) > b.most {
		return nil, c.fail(n, "%s takes other arguments: write %s", name, b.Usage)
	}
	nodes := make([]node, len(args))
	for i, a := range args {
		var err error
		if nodes[i], err = c.compile(a); err != nil {
			return nil, err
		}
	}
	out, err := b.build(c, n, nodes)
	if err != nil {
		return nil, err
	}
	if out == nil {
		return nil, c.fail(n, "%s takes other types: write %s", name, b.Usage)
	}
	return out, nil
}

func buildAbs(_ *compiler, _ ast.Node, a []node) (node, error) {
	switch x := a[0].(type) {
	case intNode:
		return intNode(func(f *Frame) int64 {
			if v := x(f); v < 0 {
				return f.negate(v)
			} else {
				return v
			}
		}), nil
	case uintNode:
		return x, nil
	case realNode:
		return realNode(func(f *Frame) float64 { return math.Abs(x(f)) }), nil
	}
	return nil, nil
}

func extreme(better func(a, b float64) bool) func(*compiler, ast.Node, []node) (node, error) {
	return func(_ *compiler, _ ast.Node, args []node) (node, error) {
		whole := true
		reals := make([]realNode, len(args))
		ints := make([]intNode, len(args))
		for i, a := range args {
			var ok bool
			if reals[i], ok = asReal(a); !ok {
				return nil, nil
			}
			if ints[i], ok = asInt(a); !ok {
				whole = false
			}
		}
		if whole {
			return intNode(func(f *Frame) int64 {
				v := ints[0](f)
				for _, n := range ints[1:] {
					// Whole numbers compare exactly: by their difference in sign.
					if w := n(f); w != v && better(0, 1) == (w < v) {
						v = w
					}
				}
				return v
			}), nil
		}
		return realNode(func(f *Frame) float64 {
			v := reals[0](f)
			for _, n := range reals[1:] {
				if w := n(f); better(w, v) {
					v = w
				}
			}
			return v
		}), nil
	}
}

func buildClamp(_ *compiler, _ ast.Node, a []node) (node, error) {
	x, ok := asReal(a[0])
	low, ok2 := asReal(a[1])
	high, ok3 := asReal(a[2])
	if !ok || !ok2 || !ok3 {
		return nil, nil
	}
	return realNode(func(f *Frame) float64 { return math.Max(low(f), math.Min(high(f), x(f))) }), nil
}

func toWhole(round func(float64) float64) func(*compiler, ast.Node, []node) (node, error) {
	return func(_ *compiler, _ ast.Node, a []node) (node, error) {
		if x, ok := asInt(a[0]); ok {
			return x, nil
		}
		x, ok := asReal(a[0])
		if !ok {
			return nil, nil
		}
		return intNode(func(f *Frame) int64 {
			v := round(x(f))
			if math.IsNaN(v) || v < math.MinInt64 || v >= math.MaxInt64 {
				f.note(value.BadOverflow)
				return 0
			}
			return int64(v)
		}), nil
	}
}

func buildDiv(_ *compiler, _ ast.Node, a []node) (node, error) {
	x, ok := asInt(a[0])
	y, ok2 := asInt(a[1])
	if !ok || !ok2 {
		return nil, nil
	}
	return intNode(func(f *Frame) int64 {
		p, q := x(f), y(f)
		switch {
		case q == 0:
			f.note(value.BadDivision)
			return 0
		case q == -1:
			return f.negate(p)
		}
		return p / q
	}), nil
}

func buildSqrt(_ *compiler, _ ast.Node, a []node) (node, error) {
	x, ok := asReal(a[0])
	if !ok {
		return nil, nil
	}
	return realNode(func(f *Frame) float64 { return math.Sqrt(x(f)) }), nil
}

func buildBit(_ *compiler, _ ast.Node, a []node) (node, error) {
	n, ok := asInt(a[1])
	if !ok {
		return nil, nil
	}
	pick := func(f *Frame, word uint64) bool {
		i := n(f)
		if i < 0 || i > 63 {
			f.note(value.BadOverflow)
			return false
		}
		return word>>i&1 == 1
	}
	switch x := a[0].(type) {
	case intNode:
		return boolNode(func(f *Frame) bool { return pick(f, uint64(x(f))) }), nil
	case uintNode:
		return boolNode(func(f *Frame) bool { return pick(f, x(f)) }), nil
	}
	return nil, nil
}

func buildNumber(_ *compiler, _ ast.Node, a []node) (node, error) {
	b, ok := a[0].(boolNode)
	if !ok {
		return nil, nil
	}
	return intNode(func(f *Frame) int64 {
		if b(f) {
			return 1
		}
		return 0
	}), nil
}

// probe evaluates a node for its quality alone and keeps the frame's own.
func (f *Frame) probe(n node) value.Level {
	outer := f.quality
	f.quality = value.Good
	n.run(f)
	level := f.quality.Level()
	f.quality = outer
	return level
}

func buildQuality(_ *compiler, _ ast.Node, a []node) (node, error) {
	return textNode(func(f *Frame) string { return f.probe(a[0]).String() }), nil
}

func buildOrElse(c *compiler, n ast.Node, args []node) (node, error) {
	a, b, ok := unify(args[0], args[1])
	if !ok {
		return nil, c.fail(n, "orElse takes two of one type; these are %s and %s", spoken(a.kind()), spoken(b.kind()))
	}
	return choose(func(f *Frame) bool { return f.probe(a) != value.LevelBad }, a, b), nil
}
