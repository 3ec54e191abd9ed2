package formula

import (
	"math"

	"readyrail/internal/core/value"
)

// Frame is what a program runs on: the table of slots, and the quality
// gathered from the operands that were evaluated.
type Frame struct {
	Slots   []value.Value
	quality value.Quality
}

// Eval runs the program on the frame's slots. The result's quality is that of
// the operands evaluated: bad with BadInput where one was bad, so that a
// reader sees that the fault lies further up.
func (p *Program) Eval(f *Frame) (v value.Value) {
	p.EvalTo(&v, f)
	return v
}

// EvalTo is Eval into a place of the caller's, whose time it leaves alone.
func (p *Program) EvalTo(out *value.Value, f *Frame) {
	f.quality = value.Good
	switch n := p.node.(type) {
	case boolNode:
		var bits uint64
		if n(f) {
			bits = 1
		}
		out.Put(value.BOOL, f.outcome(), bits)
	case intNode:
		v := n(f)
		out.Put(value.LINT, f.outcome(), uint64(v))
	case uintNode:
		v := n(f)
		out.Put(value.ULINT, f.outcome(), v)
	case realNode:
		v := f.finite(n(f))
		out.Put(value.LREAL, f.outcome(), math.Float64bits(v))
	case textNode:
		v := n(f)
		out.PutText(f.outcome(), v)
	}
}

// outcome is the quality of a result by the operands that were evaluated.
func (f *Frame) outcome() value.Quality {
	switch q := f.quality; {
	case q == value.Good, q == value.BadDivision, q == value.BadOverflow:
		return q
	case q.IsBad():
		return value.BadInput
	}
	return value.UncertainInput
}

// finite notes a result that is no number.
func (f *Frame) finite(v float64) float64 {
	if v-v != 0 {
		f.note(value.BadOverflow)
		return 0
	}
	return v
}

// note records the quality of an operand.
func (f *Frame) note(q value.Quality) {
	if q < f.quality {
		f.quality = f.quality.Worse(q)
	}
}

// A node is a compiled expression: a closure of one of five result types.
type node interface {
	kind() value.Kind
	run(*Frame) // for the quality alone
}

type (
	boolNode func(*Frame) bool
	intNode  func(*Frame) int64
	uintNode func(*Frame) uint64
	realNode func(*Frame) float64
	textNode func(*Frame) string
)

func (boolNode) kind() value.Kind { return value.BOOL }
func (intNode) kind() value.Kind  { return value.LINT }
func (uintNode) kind() value.Kind { return value.ULINT }
func (realNode) kind() value.Kind { return value.LREAL }
func (textNode) kind() value.Kind { return value.STRING }

func (n boolNode) run(f *Frame) { n(f) }
func (n intNode) run(f *Frame)  { n(f) }
func (n uintNode) run(f *Frame) { n(f) }
func (n realNode) run(f *Frame) { f.finite(n(f)) }
func (n textNode) run(f *Frame) { n(f) }

func constInt(v int64) node    { return intNode(func(*Frame) int64 { return v }) }
func constReal(v float64) node { return realNode(func(*Frame) float64 { return v }) }
func constBool(v bool) node    { return boolNode(func(*Frame) bool { return v }) }
func constText(v string) node  { return textNode(func(*Frame) string { return v }) }

// load reads a slot.
func load(slot int32, k value.Kind) node {
	switch {
	case k == value.BOOL:
		return boolNode(func(f *Frame) bool { v := &f.Slots[slot]; f.note(v.Quality); return v.Bits() != 0 })
	case k == value.STRING:
		return textNode(func(f *Frame) string { v := &f.Slots[slot]; f.note(v.Quality); return v.Str() })
	case k == value.ULINT:
		return uintNode(func(f *Frame) uint64 { v := &f.Slots[slot]; f.note(v.Quality); return v.Bits() })
	case k.IsReal():
		return realNode(func(f *Frame) float64 {
			v := &f.Slots[slot]
			f.note(v.Quality)
			return math.Float64frombits(v.Bits())
		})
	}
	return intNode(func(f *Frame) int64 { v := &f.Slots[slot]; f.note(v.Quality); return int64(v.Bits()) })
}

func isNumber(n node) bool {
	switch n.(type) {
	case intNode, uintNode, realNode:
		return true
	}
	return false
}

// asReal converts any number to LREAL.
func asReal(n node) (realNode, bool) {
	switch n := n.(type) {
	case realNode:
		return n, true
	case intNode:
		return func(f *Frame) float64 { return float64(n(f)) }, true
	case uintNode:
		return func(f *Frame) float64 { return float64(n(f)) }, true
	}
	return nil, false
}

// asInt converts a whole number to LINT; a ULINT that is too large overflows.
func asInt(n node) (intNode, bool) {
	switch n := n.(type) {
	case intNode:
		return n, true
	case uintNode:
		return func(f *Frame) int64 { return f.toInt(n(f)) }, true
	}
	return nil, false
}

// unify brings two nodes to one type: equal types stay; whole numbers of two
// signs become LINT; a whole number beside a real becomes LREAL.
func unify(a, b node) (node, node, bool) {
	if a.kind() == b.kind() {
		return a, b, true
	}
	if !isNumber(a) || !isNumber(b) {
		return a, b, false
	}
	if x, ok := asInt(a); ok {
		if y, ok := asInt(b); ok {
			return x, y, true
		}
	}
	x, _ := asReal(a)
	y, _ := asReal(b)
	return x, y, true
}

func choose(test boolNode, a, b node) node {
	switch a := a.(type) {
	case boolNode:
		b := b.(boolNode)
		return boolNode(func(f *Frame) bool {
			if test(f) {
				return a(f)
			}
			return b(f)
		})
	case intNode:
		b := b.(intNode)
		return intNode(func(f *Frame) int64 {
			if test(f) {
				return a(f)
			}
			return b(f)
		})
	case uintNode:
		b := b.(uintNode)
		return uintNode(func(f *Frame) uint64 {
			if test(f) {
				return a(f)
			}
			return b(f)
		})
	case realNode:
		b := b.(realNode)
		return realNode(func(f *Frame) float64 {
			if test(f) {
				return a(f)
			}
			return b(f)
		})
	}
	x, y := a.(textNode), b.(textNode)
	return textNode(func(f *Frame) string {
		if test(f) {
			return x(f)
		}
		return y(f)
	})
}

// toInt brings a ULINT to LINT, or notes the overflow.
func (f *Frame) toInt(u uint64) int64 {
	if u > math.MaxInt64 {
		f.note(value.BadOverflow)
		return 0
	}
	return int64(u)
}

// negate is -x, with the overflow of the smallest LINT noted.
func (f *Frame) negate(x int64) int64 {
	if x == math.MinInt64 {
		f.note(value.BadOverflow)
		return 0
	}
	return -x
}
