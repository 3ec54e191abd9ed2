package formula

import (
	"math"
	"math/bits"

	"github.com/expr-lang/expr/ast"

	"readyrail/internal/core/value"
)

func (c *compiler) binary(n *ast.BinaryNode) (node, error) {
	a, err := c.compile(n.Left)
	if err != nil {
		return nil, err
	}
	b, err := c.compile(n.Right)
	if err != nil {
		return nil, err
	}
	switch n.Operator {
	case "and", "&&", "or", "||":
		return c.logic(n, a, b)
	case "==", "!=", "<", "<=", ">", ">=":
		return c.compare(n, a, b)
	case "+", "-", "*", "/", "%", "**", "^":
		return c.arithmetic(n, a, b)
	}
	return nil, c.fail(n, "the operator %s is not part of the formula language", n.Operator)
}

// logic is short-circuit: what is not evaluated does not touch the quality.
func (c *compiler) logic(n *ast.BinaryNode, a, b node) (node, error) {
	x, ok := a.(boolNode)
	if !ok {
		return nil, c.fail(n.Left, "%s takes BOOLs, and this is %s", n.Operator, spoken(a.kind()))
	}
	y, ok := b.(boolNode)
	if !ok {
		return nil, c.fail(n.Right, "%s takes BOOLs, and this is %s", n.Operator, spoken(b.kind()))
	}
	if n.Operator == "and" || n.Operator == "&&" {
		return boolNode(func(f *Frame) bool { return x(f) && y(f) }), nil
	}
	return boolNode(func(f *Frame) bool { return x(f) || y(f) }), nil
}

type ordered interface {
	~int64 | ~uint64 | ~float64 | ~string
}

// comparison builds the closure of an operator for one type.
func comparison[T ordered](op string, x, y func(*Frame) T) boolNode {
	switch op {
	case "==":
		return func(f *Frame) bool { return x(f) == y(f) }
	case "!=":
		return func(f *Frame) bool { return x(f) != y(f) }
	case "<":
		return func(f *Frame) bool { return x(f) < y(f) }
	case "<=":
		return func(f *Frame) bool { return x(f) <= y(f) }
	case ">":
		return func(f *Frame) bool { return x(f) > y(f) }
	}
	return func(f *Frame) bool { return x(f) >= y(f) }
}

// compareMixed compares a signed with an unsigned number by their true values.
func compareMixed(op string, x intNode, y uintNode) boolNode {
	order := func(f *Frame) int64 {
		i, u := x(f), y(f)
		switch {
		case i < 0 || uint64(i) < u:
			return -1
		case uint64(i) > u:
			return 1
		}
		return 0
	}
	return comparison(op, order, func(*Frame) int64 { return 0 })
}

var mirrored = map[string]string{"==": "==", "!=": "!=", "<": ">", "<=": ">=", ">": "<", ">=": "<="}

func (c *compiler) compare(n *ast.BinaryNode, a, b node) (node, error) {
	op := n.Operator
	switch x := a.(type) {
	case boolNode:
		if y, ok := b.(boolNode); ok && (op == "==" || op == "!=") {
			return boolNode(func(f *Frame) bool { return (x(f) == y(f)) == (op == "==") }), nil
		}
	case textNode:
		if y, ok := b.(textNode); ok {
			return comparison(op, x, y), nil
		}
	case intNode:
		switch y := b.(type) {
		case intNode:
			return comparison(op, x, y), nil
		case uintNode:
			return compareMixed(op, x, y), nil
		}
	case uintNode:
		switch y := b.(type) {
		case uintNode:
			return comparison(op, x, y), nil
		case intNode:
			return compareMixed(mirrored[op], y, x), nil
		}
	}
	x, okX := asReal(a)
	y, okY := asReal(b)
	if !okX || !okY {
		return nil, c.fail(n, "%s cannot compare %s with %s", op, spoken(a.kind()), spoken(b.kind()))
	}
	return comparison(op, x, y), nil
}

func (c *compiler) arithmetic(n *ast.BinaryNode, a, b node) (node, error) {
	op := n.Operator
	if x, ok := a.(textNode); ok && op == "+" {
		if y, ok := b.(textNode); ok {
			return textNode(func(f *Frame) string { return x(f) + y(f) }), nil
		}
	}
	for _, side := range []struct {
		n    node
		from ast.Node
	}{{a, n.Left}, {b, n.Right}} {
		if !isNumber(side.n) {
			return nil, c.fail(side.from, "%s takes numbers, and this is %s", op, spoken(side.n.kind()))
		}
	}
	if op == "/" || op == "**" || op == "^" {
		x, _ := asReal(a)
		y, _ := asReal(b)
		if op == "/" {
			return realNode(func(f *Frame) float64 { return f.divide(x(f), y(f)) }), nil
		}
		return realNode(func(f *Frame) float64 { return math.Pow(x(f), y(f)) }), nil
	}
	x, okX := asInt(a)
	y, okY := asInt(b)
	if okX && okY {
		if ua, ok := a.(uintNode); ok {
			if ub, ok := b.(uintNode); ok {
				return unsigned(op, ua, ub), nil
			}
		}
		return signed(op, x, y), nil
	}
	if op == "%" {
		return nil, c.fail(n, "%% takes whole numbers")
	}
	r, _ := asReal(a)
	s, _ := asReal(b)
	switch op {
	case "+":
		return realNode(func(f *Frame) float64 { return r(f) + s(f) }), nil
	case "-":
		return realNode(func(f *Frame) float64 { return r(f) - s(f) }), nil
	}
	return realNode(func(f *Frame) float64 { return r(f) * s(f) }), nil
}

func signed(op string, x, y intNode) node {
	switch op {
	case "+":
		return intNode(func(f *Frame) int64 {
			a, b := x(f), y(f)
			s := a + b
			// The sum's sign differs from both: it went round.
			if (a^s)&(b^s) < 0 {
				f.note(value.BadOverflow)
			}
			return s
		})
	case "-":
		return intNode(func(f *Frame) int64 {
			a, b := x(f), y(f)
			s := a - b
			if (a^b)&(a^s) < 0 {
				f.note(value.BadOverflow)
			}
			return s
		})
	case "*":
		return intNode(func(f *Frame) int64 {
			a, b := x(f), y(f)
			p := a * b
			// The product of two that fit 32 bits always fits; the division is
			// for the others only.
			small := int64(int32(a)) == a && int64(int32(b)) == b
			if !small && a != 0 && (p/a != b || a == -1 && b == math.MinInt64) {
				f.note(value.BadOverflow)
			}
			return p
		})
	}
	return intNode(func(f *Frame) int64 {
		a, b := x(f), y(f)
		if b == 0 {
			f.note(value.BadDivision)
			return 0
		}
		if b == -1 {
			return 0
		}
		return a % b
	})
}

func unsigned(op string, x, y uintNode) node {
	switch op {
	case "+":
		return uintNode(func(f *Frame) uint64 {
			s, carry := bits.Add64(x(f), y(f), 0)
			f.overflow(carry != 0)
			return s
		})
	case "-":
		return uintNode(func(f *Frame) uint64 {
			s, borrow := bits.Sub64(x(f), y(f), 0)
			f.overflow(borrow != 0)
			return s
		})
	case "*":
		return uintNode(func(f *Frame) uint64 {
			high, low := bits.Mul64(x(f), y(f))
			f.overflow(high != 0)
			return low
		})
	}
	return uintNode(func(f *Frame) uint64 {
		a, b := x(f), y(f)
		if b == 0 {
			f.note(value.BadDivision)
			return 0
		}
		return a % b
	})
}

func (f *Frame) overflow(yes bool) {
	if yes {
		f.note(value.BadOverflow)
	}
}

func (f *Frame) divide(a, b float64) float64 {
	if b == 0 {
		f.note(value.BadDivision)
		return 0
	}
	return a / b
}
