package formula

import (
	"math"

	"github.com/expr-lang/expr/ast"

	"readyrail/internal/core/value"
)

// Range is what a number may be within a time, Low and High included; a BOOL is 0
// or 1.
type Range struct{ Low, High float64 }

// Anything is the range of what nothing is known of.
var Anything = Range{math.Inf(-1), math.Inf(1)}

// Bounds tells of a formula that gives a BOOL where it holds nowhere, by the ranges
// of what it reads.
type Bounds struct{ rule rule }

// rule gives the range of a part of a formula by those of its slots. What it gives
// holds for every moment at which that part is not bad; it may be wider.
type rule func(slots []Range) Range

// May tells whether the formula may hold while the values in its slots lie in their
// ranges; where it says no it holds at no moment.
func (b *Bounds) May(slots []Range) bool { return !(b.rule(slots).High < 1) }

// BoundsOf makes the bounds of a stored formula that compiles.
func BoundsOf(stored string, scope Scope) (*Bounds, error) {
	c := &compiler{scope: scope, refs: map[string]reference{}}
	tree, err := c.parse(stored)
	if err != nil {
		return nil, err
	}
	return &Bounds{c.rule(tree)}, nil
}

func always(r Range) rule { return func([]Range) Range { return r } }

// exact is the largest whole number below which LREAL tells all whole ones apart.
const exact = 1 << 53

// rule is that of a node; of what it does not know it gives anything.
func (c *compiler) rule(n ast.Node) rule {
	switch n := n.(type) {
	case *ast.IdentifierNode:
		return c.slotRule(n.Value)
	case *ast.IntegerNode:
		return always(point(float64(n.Value)))
	case *ast.FloatNode:
		return always(point(n.Value))
	case *ast.BoolNode:
		if n.Value {
			return always(point(1))
		}
		return always(point(0))
	case *ast.UnaryNode:
		x := c.rule(n.Node)
		switch n.Operator {
		case "!", "not":
			return func(s []Range) Range { r := x(s); return Range{1 - r.High, 1 - r.Low} }
		case "-":
			return func(s []Range) Range { r := x(s); return Range{-r.High, -r.Low} }
		}
		return x
	case *ast.BinaryNode:
		if do := pairRules[n.Operator]; do != nil {
			x, y := c.rule(n.Left), c.rule(n.Right)
			return func(s []Range) Range { return do(x(s), y(s)) }
		}
	case *ast.ConditionalNode:
		test, a, b := c.rule(n.Cond), c.rule(n.Exp1), c.rule(n.Exp2)
		return func(s []Range) Range {
			switch t := test(s); {
			case t.High < 1:
				return b(s)
			case t.Low > 0:
				return a(s)
			}
			return hull(a(s), b(s))
		}
	case *ast.CallNode:
		if id, ok := n.Callee.(*ast.IdentifierNode); ok {
			return c.callRule(id.Value, n.Arguments)
		}
	case *ast.BuiltinNode:
		return c.callRule(n.Name, n.Arguments)
	}
	return always(Anything)
}

func (c *compiler) slotRule(name string) rule {
	ref, ok := c.refs[name]
	if !ok || ref.kind == value.STRING {
		return always(Anything)
	}
	slot := ref.slot
	return func(s []Range) Range { return known(s[slot]) }
}

func (c *compiler) callRule(name string, args []ast.Node) rule {
	list := make([]rule, len(args))
	for i, a := range args {
		list[i] = c.rule(a)
	}
	switch name {
	case "abs":
		return func(s []Range) Range {
			r := list[0](s)
			most := max(math.Abs(r.Low), math.Abs(r.High))
			if r.Low <= 0 && r.High >= 0 {
				return Range{0, most}
			}
			return Range{min(math.Abs(r.Low), math.Abs(r.High)), most}
		}
	case "min":
		return joined(list, func(a, b Range) Range { return Range{min(a.Low, b.Low), min(a.High, b.High)} })
	case "max":
		return joined(list, func(a, b Range) Range { return Range{max(a.Low, b.Low), max(a.High, b.High)} })
	case "orElse":
		return joined(list, hull)
	case "number":
		return list[0]
	}
	return always(Anything)
}

func joined(list []rule, join func(a, b Range) Range) rule {
	return func(s []Range) Range {
		out := list[0](s)
		for _, x := range list[1:] {
			out = join(out, x(s))
		}
		return out
	}
}

func point(v float64) Range { return known(Range{v, v}) }

// known is a range that may be reckoned with: anything where an end is no number,
// or so large that whole numbers beside it are not told apart.
func known(r Range) Range {
	if !(r.Low > -exact && r.High < exact) {
		return Anything
	}
	return r
}

func hull(a, b Range) Range { return Range{min(a.Low, b.Low), max(a.High, b.High)} }

// told is the range of a BOOL that is surely true, surely false, or either.
func told(yes, no bool) Range {
	switch {
	case yes:
		return Range{1, 1}
	case no:
		return Range{0, 0}
	}
	return Range{0, 1}
}

// pairRules are those of the operators. The ends of sums and products are rounded
// as the values between them are, so that none of these lies outside.
var pairRules = map[string]func(x, y Range) Range{
	"and": both, "&&": both, "or": either, "||": either,
	"<":  func(x, y Range) Range { return told(x.High < y.Low, x.Low >= y.High) },
	"<=": func(x, y Range) Range { return told(x.High <= y.Low, x.Low > y.High) },
	">":  func(x, y Range) Range { return told(x.Low > y.High, x.High <= y.Low) },
	">=": func(x, y Range) Range { return told(x.Low >= y.High, x.High < y.Low) },
	"==": same,
	"!=": func(x, y Range) Range { r := same(x, y); return Range{1 - r.High, 1 - r.Low} },
	"+":  func(x, y Range) Range { return known(Range{x.Low + y.Low, x.High + y.High}) },
	"-":  func(x, y Range) Range { return known(Range{x.Low - y.High, x.High - y.Low}) },
	"*":  func(x, y Range) Range { return corners(x, y, func(a, b float64) float64 { return a * b }) },
	"/": func(x, y Range) Range {
		if y.Low <= 0 && y.High >= 0 {
			return Anything
		}
		return corners(x, y, func(a, b float64) float64 { return a / b })
	},
}

func both(x, y Range) Range   { return Range{min(x.Low, y.Low), min(x.High, y.High)} }
func either(x, y Range) Range { return Range{max(x.Low, y.Low), max(x.High, y.High)} }

func same(x, y Range) Range {
	return told(x.Low == x.High && y.Low == y.High && x.Low == y.Low, x.High < y.Low || x.Low > y.High)
}

func corners(x, y Range, do func(a, b float64) float64) Range {
	out := point(do(x.Low, y.Low))
	for _, v := range []float64{do(x.Low, y.High), do(x.High, y.Low), do(x.High, y.High)} {
		if v != v {
			return Anything
		}
		out = Range{min(out.Low, v), max(out.High, v)}
	}
	return known(out)
}
